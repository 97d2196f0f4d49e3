"""Studios: their members, groups, instruments and shared devices."""
