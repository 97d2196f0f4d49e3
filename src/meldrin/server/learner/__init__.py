"""The learner over HTTP, and whether the server is well."""
