"""The names that screens show."""
