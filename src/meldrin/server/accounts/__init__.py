"""Accounts: a name, what brings its holder back, and where it is signed in."""
