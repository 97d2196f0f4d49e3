"""The catalogue and instruments of one's own over HTTP."""
