"""The rules of the job and all computation: pure, typed, without clock, files in use or globals."""
