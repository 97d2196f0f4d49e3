"""Listen: ear drills."""
