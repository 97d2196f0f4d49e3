"""Checks before a concert."""
