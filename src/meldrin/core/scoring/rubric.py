"""The weights and limits of the score, read from a data file."""

import tomllib
from dataclasses import dataclass, fields
from functools import cache
from importlib import resources

from meldrin.core.bench.limits import Exactness, limits
from meldrin.core.errors import within


@dataclass(frozen=True, slots=True)
class Points:
    """The most points each part can earn; together 100."""

    match: float
    pitch: float
    closing: float
    judgement: float
    bias: float
    reference: float
    technique: float
    economy: float
    safety: float
    holding: float

    def __post_init__(self) -> None:
        total = sum(getattr(self, column.name) for column in fields(self))
        within(total, name="sum of the points", low=100.0, high=100.0)


@dataclass(frozen=True, slots=True)
class Limits:
    """The limits of technique, judgement and economy; the data file says what each is for."""

    in_tune_slack_cents: float
    overshoot_cents: float
    wrong_way_cents: float
    stroke_swing: float
    attack_s: float
    longest_wait_s: float
    far_above_cents: float
    holds_cents: float
    wrong_note_cents: float
    economy_full: float
    economy_nothing: float


@dataclass(frozen=True, slots=True)
class Most:
    """What the total is at most, and what is taken off the best one for help that shows."""

    ripples: float
    knowing: float
    wrong_note: float
    not_turned: float


@dataclass(frozen=True, slots=True)
class Rubric:
    """Points, tolerances and limits together."""

    points: Points
    tolerances: dict[str, Exactness]
    limits: Limits
    most: Most


@cache
def rubric() -> Rubric:
    """Return the rubric in force."""
    text = (resources.files("meldrin.core.scoring") / "rubric.toml").read_text(encoding="utf-8")
    table = tomllib.loads(text)
    return Rubric(
        points=Points(**table["points"]),
        tolerances=limits().tolerances,
        limits=Limits(**table["limits"]),
        most=Most(**table["most"]),
    )
