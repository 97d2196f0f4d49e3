"""Preparing over HTTP."""
