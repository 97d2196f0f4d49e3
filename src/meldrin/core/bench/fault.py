"""What is wrong with an instrument whose fault is to be found; drawn by the seed.

The nut and the saddle are off on all strings, as they are on an instrument; a string is false, or a
peg slips, on one. How large each is lies within what players and repairers know.
"""

import random
from dataclasses import dataclass
from typing import Final, Literal, get_args

from meldrin.core.catalogue import Instrument

FaultKind = Literal["nut", "saddle", "finger", "old", "false", "slip"]
FAULTS: Final[tuple[FaultKind, ...]] = get_args(FaultKind)
Remedy = Literal["lighter", "string", "strings", "peg", "repairer"]
ON_FRETS: Final[tuple[FaultKind, ...]] = ("nut", "saddle", "finger")
OF_ONE_STRING: Final[tuple[FaultKind, ...]] = ("false", "slip")

SIZES: Final[dict[FaultKind, tuple[float, float]]] = {
    "nut": (10.0, 18.0),  # cents at fret 1
    "saddle": (10.0, 18.0),  # cents at fret 12, against the harmonic
    "finger": (10.0, 20.0),  # cents at every fret, pulled aside and pressed down
    "old": (3.0, 7.0),  # of split, every string its own
    "false": (4.0, 8.0),  # of split
    "slip": (3.0, 7.0),  # cents at each stroke
}


@dataclass(frozen=True, slots=True)
class Fault:
    """What is wrong: on which string (0: on all of them), and how much."""

    kind: FaultKind
    string: int
    size: float

    @property
    def words(self) -> str:
        """What is wrong, as a half sentence."""
        return WORDS[self.kind]


WORDS: Final[dict[FaultKind, str]] = {
    "nut": "the nut is too high",
    "saddle": "the saddle is off",
    "finger": "the finger presses too hard and to the side",
    "old": "the strings are old",
    "false": "one string is false",
    "slip": "one peg slips",
}


def possible(instrument: Instrument) -> tuple[FaultKind, ...]:
    """Return what can be wrong with an instrument of this kind and be heard."""
    fixed = instrument.fretting == "fixed"
    return tuple(kind for kind in FAULTS if fixed or kind not in ON_FRETS)


def drawn_fault(instrument: Instrument, *, seed: int) -> Fault:
    """Return what is wrong with an instrument, by the seed of its exercise."""
    draw = random.Random(f"fault {seed}")
    kinds = possible(instrument)
    kind = kinds[int(draw.random() * len(kinds))]
    playing = [one.number for one in instrument.strings if one.role == "playing"]
    string = playing[int(draw.random() * len(playing))]
    low, high = SIZES[kind]
    size = low + (high - low) * draw.random()
    return Fault(kind, string if kind in OF_ONE_STRING else 0, size)


def remedy_of(fault: Fault, instrument: Instrument) -> Remedy:
    """Return what is done about it."""
    match fault.kind:
        case "nut" | "saddle":
            return "repairer"
        case "finger":
            return "lighter"
        case "old":
            return "strings"
        case "false":
            return "string"
        case "slip":
            friction = instrument.string(fault.string).peg.kind.startswith("friction")
            return "peg" if friction else "repairer"
