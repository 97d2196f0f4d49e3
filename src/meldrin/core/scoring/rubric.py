"""The weights and limits of the score, read from a data file."""

import tomllib
from dataclasses import dataclass, fields
from functools import cache
from importlib import resources

from meldrin.core.bench.setup import TOLERANCES
from meldrin.core.errors import MeldrinError, within


@dataclass(frozen=True, slots=True)
class Points:
    """The most points each part can bring; together 100."""

    matched: float
    placed: float
    closed: float
    judged: float
    leaning: float
    reference: float
    technique: float
    economy: float
    safety: float

    def __post_init__(self) -> None:
        total = sum(getattr(self, column.name) for column in fields(self))
        within(total, name="sum of the points", low=100.0, high=100.0)


@dataclass(frozen=True, slots=True)
class Tolerance:
    """A level of exactness, in cents: full points, none from here on, and what passes for still."""

    name: str
    full_cents: float
    nothing_cents: float
    still_cents: float

    def __post_init__(self) -> None:
        within(self.full_cents, name="full points within", low=0.1, high=self.nothing_cents - 0.1)

    def share(self, error_cents: float) -> float:
        """Return the share of the points an error leaves: 1 while small, then down evenly to 0."""
        full, nothing = self.full_cents, self.nothing_cents
        return min(1.0, max(0.0, (nothing - abs(error_cents)) / (nothing - full)))

    def worth(self, share: float) -> str:
        """Return the sentence that says why so many points."""
        if share == 1.0:
            return f"Within {self.full_cents:g} cents: full points."
        if share == 0.0:
            return f"From {self.nothing_cents:g} cents on there are no points."
        return "The further out, the fewer points."


@dataclass(frozen=True, slots=True)
class Limits:
    """The limits of technique, judgement and economy; what each is for stands in the data file."""

    judged_slack_cents: float
    overshoot_cents: float
    wrong_way_cents: float
    far_cents: float
    stroke_swing: float
    attack_s: float
    lock_s: float
    far_above_cents: float
    economy_full: float
    economy_nothing: float


@dataclass(frozen=True, slots=True)
class Rubric:
    """Points, levels of tolerance and limits together."""

    points: Points
    tolerances: dict[str, Tolerance]
    limits: Limits


@cache
def rubric() -> Rubric:
    """Return the rubric in force."""
    text = (resources.files("meldrin.core.scoring") / "rubric.toml").read_text(encoding="utf-8")
    table = tomllib.loads(text)
    if set(table["tolerance"]) != set(TOLERANCES):
        raise MeldrinError("rubric", f"The rubric needs the tolerances {', '.join(TOLERANCES)}.")
    return Rubric(
        points=Points(**table["points"]),
        tolerances={name: Tolerance(**values) for name, values in table["tolerance"].items()},
        limits=Limits(**table["limits"]),
    )
