"""Meldrin: learn to tune a string instrument by ear and by tuner."""

__version__ = "0.1.0"
