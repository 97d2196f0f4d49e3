"""The weights and limits of the score, read from a data file."""

import tomllib
from dataclasses import dataclass, fields
from functools import cache
from importlib import resources

from meldrin.core.errors import within


@dataclass(frozen=True, slots=True)
class Points:
    """The most points each part can bring; together 100."""

    matched: float
    placed: float
    closed: float
    judged: float
    from_below: float
    overshoot: float

    def __post_init__(self) -> None:
        total = sum(getattr(self, column.name) for column in fields(self))
        within(total, name="sum of the points", low=100.0, high=100.0)


@dataclass(frozen=True, slots=True)
class Limits:
    """The tolerances of the score, in cents; what each is for stands in the data file."""

    full_within_cents: float
    nothing_from_cents: float
    still_within_cents: float
    judged_slack_cents: float
    overshoot_cents: float


@dataclass(frozen=True, slots=True)
class Rubric:
    """Points and limits together."""

    points: Points
    limits: Limits

    def share(self, error_cents: float) -> float:
        """Return the share of the points an error leaves: 1 while small, then down evenly to 0."""
        full, nothing = self.limits.full_within_cents, self.limits.nothing_from_cents
        return min(1.0, max(0.0, (nothing - abs(error_cents)) / (nothing - full)))


@cache
def rubric() -> Rubric:
    """Return the rubric in force."""
    text = (resources.files("meldrin.core.scoring") / "rubric.toml").read_text(encoding="utf-8")
    table = tomllib.loads(text)
    return Rubric(points=Points(**table["points"]), limits=Limits(**table["limits"]))
