"""What to do today, over HTTP."""
