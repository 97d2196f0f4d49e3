"""HTTP and sockets over the services."""
