"""Exercises that teachers set: made, given, done and read."""
