"""What goes out and comes in as files: JSON, CSV, PDF."""
