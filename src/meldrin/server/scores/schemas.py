"""The score of an attempt over HTTP, and the rubric it goes by."""

import math
from typing import Annotated

from pydantic import BeforeValidator

from meldrin.core.bench.actions import Aid, Verdict
from meldrin.core.bench.limits import Tolerance
from meldrin.core.scoring.findings import Basis, CapKind
from meldrin.core.scoring.line import ScorePart
from meldrin.server.exercises import ExerciseSettings
from meldrin.wire import Wire


def finite(cents: float | None) -> float | None:
    """Return an offset, or None for one that is infinite."""
    return cents if cents is not None and math.isfinite(cents) else None


Cents = Annotated[float | None, BeforeValidator(finite)]


class ScoreLine(Wire):
    """Points given, points possible, and the sentence why; `at_s` a moment that shows it."""

    part: ScorePart
    rule: str
    string: int | None
    points: float
    out_of: float
    sentence: str
    at_s: float | None


class Believed(Wire):
    """What was said of a string, the truth at that moment (cents; null: too slack to tell), and
    the aid that gave most away before.
    """

    verdict: Verdict
    cents: float
    was_cents: Cents
    aid: Aid


class ScoreString(Wire):
    """One string at the end, in the order of the plan; offsets in cents, null where it is slack or
    broken. `basis`: what the last word on it rested on.
    """

    number: int
    label: str
    heard: bool
    brought: bool
    basis: Basis
    began_cents: Cents
    pitch_cents: Cents
    matched_cents: Cents
    believed: Believed | None
    moves: int
    overshoots: int
    from_below: bool


class MarkedMoment(Wire):
    """A moment to go back to, with its name and a sentence."""

    at_s: float
    name: str
    sentence: str
    string: int | None


class ScoreAdvice(Wire):
    """The one thing to change next, and the exercise for it."""

    sentence: str
    button: str
    exercise: ExerciseSettings


class ScoreCap(Wire):
    """What the total is at most, and why."""

    kind: CapKind
    most: float
    sentence: str
    string: int | None


class ScoreAccuracy(Wire):
    """How far the strings are from their targets, in cents, at the end and at the start; null where
    strings are slack.
    """

    median_cents: Cents
    worst_cents: Cents
    worst: str
    began_median_cents: Cents
    began_worst_cents: Cents


class ScoreSides(Wire):
    """How often low or high was named rightly before the first turn, and what to do about it."""

    right: int
    of: int
    advice: str


class ScorePage(Wire):
    """The score with its reasons; `points` null in free play. `headline`: how the strings stand.
    `chord`: what was said after the chord, and whether it was so; empty without. `practice`: why
    no string is called “by ear”; empty where it may be. `finer_cents`: what to ask of an ear that
    has got everything right, or null.
    """

    headline: str
    points: float | None
    lines: list[ScoreLine]
    caps: list[ScoreCap]
    accuracy: ScoreAccuracy
    by_ear: int
    by_ear_of: int
    strings: list[ScoreString]
    moments: list[MarkedMoment]
    closing_cents: Cents
    bias_cents: float | None
    well: str
    chord: str
    practice: str
    sides: ScoreSides
    finer_cents: float | None
    advice: ScoreAdvice


class RubricTolerance(Wire):
    """A level of exactness."""

    id: Tolerance
    name: str
    full_cents: float
    nothing_cents: float
    in_tune_cents: float


class RubricPart(Wire):
    """A part of the score and the most points it brings."""

    part: ScorePart
    points: float


class RubricPage(Wire):
    """How the score works, as data."""

    parts: list[RubricPart]
    tolerances: list[RubricTolerance]
    rules: list[str]
    limits: dict[str, float]
    most: dict[str, float]
