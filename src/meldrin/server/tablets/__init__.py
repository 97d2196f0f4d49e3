"""Shared devices: pupils sign in by four pictures and hand them on."""
