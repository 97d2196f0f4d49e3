"""What developers run and nobody ships: checks, benchmark, screenshots, generated files."""
