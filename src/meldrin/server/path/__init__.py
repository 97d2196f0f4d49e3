"""What one can do, step by step, over HTTP."""
