"""The daily core: one string is put out, brought back by ear, and then checked with the tuner."""

import random
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final, Literal

from meldrin.core.bench import Aid
from meldrin.core.catalogue import Instrument, tuning_said
from meldrin.core.methods.naming import string_label
from meldrin.core.practice.figures import Tuned
from meldrin.core.words import whole_cents

Side = Literal["low", "high"]
LADDER: Final[tuple[Aid, ...]] = ("level", "ripple", "ear")  # help fades from left to right
BEGINS_AT: Final = 1
TWICE: Final = 2
LOOKED_AT: Final = 12  # of the newest attempts on an instrument
FADES: Final = 0.8  # by how much an attempt counts less than the one after it
MOST_CENTS: Final = 35.0  # as far as one string counts
ON_ITS_SIDE: Final = 0.7  # how often it begins on the side that is missed, and not on the other
SAYS_SOMETHING: Final = 2  # attempts with a string, before its errors are spoken of


def next_aid(tuned: Sequence[Tuned]) -> Aid:
    """Return the help to tune with: it fades after two attempts that went well with it, and comes
    back after two that did not. Attempts with more help than that say nothing.

    Args:
        tuned: on one instrument, the oldest first.
    """
    at, well, badly = BEGINS_AT, 0, 0
    for one in tuned:
        if one.aid not in LADDER or LADDER.index(one.aid) < at:
            continue
        well, badly = (well + 1, 0) if one.well else (0, badly + 1)
        moved = (well >= TWICE) - (badly >= TWICE)
        if moved:
            at = max(0, min(len(LADDER) - 1, at + moved))
            well = badly = 0
    return LADDER[at]


@dataclass(frozen=True, slots=True)
class Missed:
    """The string that is missed most, the side it then began on, and a sentence about how it ends.
    The sentence does not tell the side it begins on: that is for the ear.
    """

    string: int
    began: Side
    reason: str


def most_missed(made: Instrument, tuning: str, tuned: Sequence[Tuned]) -> Missed | None:
    """Return what is missed most on an instrument, or None where nothing tells yet.

    Args:
        tuned: on this instrument, the oldest first; the newest counts most.
    """
    weights: dict[tuple[int, Side], list[tuple[float, float]]] = {}
    weight = 1.0
    for attempt in reversed(tuned[-LOOKED_AT:]):
        for one in attempt.strings:
            began: Side = "low" if one.began_cents < 0.0 else "high"
            found = weights.setdefault((one.string, began), [])
            found.append((weight, max(-MOST_CENTS, min(MOST_CENTS, one.ended_cents))))
        weight *= FADES
    known = {key: found for key, found in weights.items() if len(found) >= SAYS_SOMETHING}
    if not known:
        return None
    (string, began), found = max(known.items(), key=lambda item: _mean_size(item[1]))
    label = string_label(made, string, tuning_said(made, tuning))
    ended = sum(w * cents for w, cents in found)
    size = _mean_size(found)
    side = "low" if ended < 0.0 else "high"
    reason = (
        f"Your {label} string ends {whole_cents(round(size))} {side} most often."
        if size >= 1.0
        else f"Your {label} string ends well. Keep it so."
    )
    return Missed(string, began, reason)


def side_to_begin(missed: Side, draw: random.Random) -> Side:
    """Return the side that a string is put out on: mostly the one that is missed, so that nobody
    knows it before it sounds.
    """
    other: Side = "high" if missed == "low" else "low"
    return missed if draw.random() < ON_ITS_SIDE else other


def _mean_size(found: Sequence[tuple[float, float]]) -> float:
    return sum(weight * abs(cents) for weight, cents in found) / sum(weight for weight, _ in found)
