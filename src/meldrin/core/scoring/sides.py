"""Which way a string is out: how often it was named rightly before the first turn."""

from dataclasses import dataclass
from typing import Final

from meldrin.core.bench.limits import Exactness
from meldrin.core.scoring.watch import Watched

SHOWING: Final = ("level", "tuner")
FEWEST: Final = 3  # sides asked for, before there is a word about them
SHAKY: Final = 0.75  # of them right: below it, sides are what to train


@dataclass(frozen=True, slots=True)
class Sides:
    """How many sides were named rightly, of how many strings that were out and asked about; and
    what to do about it, in a sentence, empty where nothing is to be done.

    “Cannot tell” is no answer that was wrong, but it names no side.
    """

    right: int
    of: int
    advice: str = ""


NO_SIDES: Final = Sides(0, 0)


def sides_of(seen: Watched, exactness: Exactness) -> Sides:
    """Return how often low or high was right, of the strings whose side nothing had shown."""
    asked = [
        one
        for one in seen.state.decisions
        if one.aid not in SHOWING and abs(one.was_cents) > exactness.in_tune_cents
    ]
    right = sum(one.verdict == ("low" if one.was_cents < 0.0 else "high") for one in asked)
    advice = ""
    if len(asked) >= FEWEST and right < SHAKY * len(asked):
        advice = "Hum the note you want, then the string: which of the two is higher?"
    return Sides(right, len(asked), advice)
