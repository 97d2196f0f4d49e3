"""A string of an instrument as it is sounded: where it is struck or bowed, and with what."""

import math
from collections.abc import Sequence
from typing import Final

from meldrin.core.catalogue import Instrument, Played
from meldrin.core.sound.partials import PLUCKED_AT, PartialTable, Series, stroked

MEDIUM: Final = 0.7  # the strength of a usual stroke


def stroke(
    instrument: Instrument,
    number: int,
    series: Series,
    *,
    by_bow: bool,
    pressed: int = 0,
    touched_at: float | None = None,
    strength: float = MEDIUM,
    place: float = PLUCKED_AT,
    splits_cents: Sequence[float] = (),
    glide_cents: float = 0.0,
) -> PartialTable:
    """Return what is heard of a string as it is played on this instrument.

    Args:
        series: where its partials lie.
        pressed: the fret it is pressed at; 0 for none.
        place: where it is struck, against the usual place, which is `PLUCKED_AT`.
    """
    string, body, losses = instrument.string(number), instrument.body, instrument.losses
    # the hand keeps its place over the string while the finger shortens it
    shortened = 2.0 ** ((pressed - string.nut_fret if pressed else 0) / 12.0)
    first_hz = series.partial_hz(1)
    return stroked(
        series,
        body,
        losses,
        played=_played(instrument, by_bow),
        strength=strength,
        place=min(0.99, body.place * place / PLUCKED_AT * shortened),
        length_m=string.scale_m / shortened,
        touched_at=touched_at,
        splits_cents=splits_cents,
        glide_cents=min(100.0, glide_cents),
        glide_s=_glide_s(first_hz, losses.decay_s(first_hz, body)),
    )


def _played(made: Instrument, by_bow: bool) -> Played:
    """Return with what a string is sounded: plucked, a bowed instrument is played by a finger."""
    if by_bow:
        return "bow"
    return "fingertip" if made.body.played == "bow" else made.body.played


def _glide_s(first_hz: float, decay_s: float) -> float:
    """Return how fast a sharp start falls: half a second for a low string, less for a high one and
    for what dies away fast; a judgement within what guitars, basses and banjos do.
    """
    return max(0.02, 0.5 * math.sqrt(100.0 / first_hz) * min(1.0, decay_s / 1.2))
