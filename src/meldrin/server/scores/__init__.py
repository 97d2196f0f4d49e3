"""Scores as shapes, and the rubric."""
