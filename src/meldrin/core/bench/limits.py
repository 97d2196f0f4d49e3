"""What counts as heard, as in tune and as still, read from a data file."""

import tomllib
from dataclasses import dataclass
from functools import cache
from importlib import resources
from typing import Literal

from meldrin.core.errors import Code, MeldrinError, within

Tolerance = Literal["first", "settled", "together", "fine"]
Ripple = Literal["still", "very_slow", "slow", "fast"]


@dataclass(frozen=True, slots=True)
class Exactness:
    """A tolerance, in cents: full points, none from here on, and what counts as in tune."""

    name: str
    full_cents: float
    nothing_cents: float
    in_tune_cents: float

    def __post_init__(self) -> None:
        within(self.full_cents, name="full points within", low=0.1, high=self.nothing_cents - 0.1)

    def share(self, error_cents: float) -> float:
        """Return the share of the points an error leaves: 1 within the tolerance, then down evenly
        to 0.
        """
        full, nothing = self.full_cents, self.nothing_cents
        return min(1.0, max(0.0, (nothing - abs(error_cents)) / (nothing - full)))

    def agreement(self, difference_cents: float) -> float:
        """Return how much a judgement is worth by how far it is from the truth: 1 where they are
        equal, and falling smoothly to 0 at `nothing_cents`.
        """
        return max(0.0, 1.0 - (difference_cents / self.nothing_cents) ** 2)


@dataclass(frozen=True, slots=True)
class Limits:
    """All of the file.

    tolerances: by name.
    shortest_s: how long a pair sounds before it counts as heard.
    memory_s: how long a note is held in mind.
    still_hz, very_slow_hz, slow_hz: the fastest beats that are called so.
    """

    tolerances: dict[str, Exactness]
    shortest_s: float
    memory_s: float
    still_hz: float
    very_slow_hz: float
    slow_hz: float

    def ripple(self, beat_hz: float) -> Ripple:
        """Return how fast a beat is, in a word."""
        if beat_hz <= self.still_hz:
            return "still"
        if beat_hz <= self.very_slow_hz:
            return "very_slow"
        return "slow" if beat_hz <= self.slow_hz else "fast"


@cache
def limits() -> Limits:
    """Return the limits in force.

    Raises:
        MeldrinError: code ``limits``, for a file without one of the four tolerances.
    """
    text = (resources.files("meldrin.core.bench") / "limits.toml").read_text(encoding="utf-8")
    table = tomllib.loads(text)
    names = set(table["tolerance"])
    if names != {"first", "settled", "together", "fine"}:
        raise MeldrinError(Code.LIMITS, f"The four tolerances are needed; the file has {names}.")
    return Limits(
        tolerances={name: Exactness(**values) for name, values in table["tolerance"].items()},
        **table["heard"],
        **table["ripple"],
    )
