"""How the server is, for those who look after it."""
