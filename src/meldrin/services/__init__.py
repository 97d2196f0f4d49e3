"""Use cases, one function each, from session, who asks and when to a result. Only they commit."""
