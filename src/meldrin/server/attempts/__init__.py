"""Attempts over HTTP."""
