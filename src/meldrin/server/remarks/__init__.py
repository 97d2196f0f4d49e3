"""Remarks of teachers on attempts, and their answers."""
