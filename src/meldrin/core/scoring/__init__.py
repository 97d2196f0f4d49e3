"""Scoring an attempt: every point is given or withheld in a sentence of its own."""

from meldrin.core.scoring.advice import Advice
from meldrin.core.scoring.line import Line, ScorePart
from meldrin.core.scoring.result import StringResult
from meldrin.core.scoring.rubric import Rubric, rubric
from meldrin.core.scoring.rules import RULE_IDS, RULE_TITLES, Moment, Rule
from meldrin.core.scoring.score import Score, score
