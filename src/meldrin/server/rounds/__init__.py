"""Rounds with a class: how each stands, told to every screen."""
