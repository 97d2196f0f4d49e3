"""What goes over the wire. Not tables, and not the core's own state."""
