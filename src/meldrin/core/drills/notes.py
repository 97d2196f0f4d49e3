"""The notes of drills: a string of the learner’s own instrument, at a pitch near its own."""

import random
from typing import Final

from meldrin.core.catalogue import Instrument
from meldrin.core.sound.partials import PartialTable, string_series
from meldrin.core.sound.stroke import stroke
from meldrin.core.strings import stopped_cents, strain_sounding
from meldrin.core.units import ratio_of_cents

ROVES_CENTS: Final = 50.0  # from trial to trial, so that no pitch can be learned by heart


def roved(hz: float, draw: random.Random) -> float:
    """Return a pitch a little beside, another for every trial."""
    return hz * ratio_of_cents(draw.uniform(-ROVES_CENTS, ROVES_CENTS))


def note(made: Instrument, number: int, *, hz: float, fret: int = 0) -> PartialTable:
    """Return a string as it is usually played, so tuned that it sounds `hz` stopped at a fret.

    Raises:
        MeldrinError: code ``no_such_string`` or ``unreachable``.
    """
    string, bow = made.string(number), made.kind == "bowed"
    strain = strain_sounding(string, frequency_hz=hz, fret=fret, number=1)
    series = string_series(string, strain=strain, fret=fret, harmonic=bow)
    return stroke(made, number, series, by_bow=bow, pressed=fret)


def stopped_at(made: Instrument, number: int, *, hz: float, open_hz: float) -> int:
    """Return the fret, or its place on a bare board, where the string sounds nearest to `hz`."""
    string = made.string(number)
    frets = range(string.nut_fret + 25)
    return min(
        (fret for fret in frets if fret == 0 or fret > string.nut_fret),
        key=lambda fret: abs(ratio_of_cents(stopped_cents(string, fret)) * open_hz / hz - 1.0),
    )
