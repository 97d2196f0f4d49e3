"""Scoring an attempt: every point is given or withheld in a sentence of its own."""

from meldrin.core.scoring.rubric import Rubric, rubric
from meldrin.core.scoring.score import Line, Score, StringResult, score

__all__ = ["Line", "Rubric", "Score", "StringResult", "rubric", "score"]
