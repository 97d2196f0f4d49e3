"""The bench over its line."""
