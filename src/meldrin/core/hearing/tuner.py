"""A tuner: from a pitch to the name of a note and an offset, by its mode and its calibration."""

import math
import random
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final, Literal

import numpy as np
from numpy.typing import NDArray

from meldrin.core.pitch import checked_a4_hz, checked_hz, note_name

Mode = Literal["chromatic", "instrument", "lowered"]
NOISE_RMS: Final = 0.006  # of a room with people in it, at the microphone


@dataclass(frozen=True, slots=True)
class Reading:
    """What the tuner shows: the note (MIDI number, name) and how far above it, to a tenth of a
    cent.
    """

    midi: int
    name: str
    cents: float
    clarity: float


def reading(
    hz: float,
    *,
    a4_hz: float,
    mode: Mode = "chromatic",
    strings_midi: Sequence[int] = (),
    flats: bool = False,
    clarity: float = 1.0,
) -> Reading:
    """Return what a tuner shows for a pitch.

    Args:
        hz: the pitch it found.
        a4_hz: its calibration.
        mode: chromatic, the nearest note; instrument, the nearest of the open strings it knows;
            lowered, names for an instrument whose strings are all a semitone lower.
        strings_midi: the open strings, for the mode “instrument”.

    >>> reading(438.0, a4_hz=440.0).cents
    -7.9
    """
    steps = 69.0 + 12.0 * math.log2(checked_hz(hz) / checked_a4_hz(a4_hz))
    shown = steps + (1.0 if mode == "lowered" else 0.0)
    if mode == "instrument" and strings_midi:
        midi = min(strings_midi, key=lambda one: abs(one - shown))
    else:
        midi = math.floor(shown + 0.5)
    return Reading(midi, note_name(midi, flats=flats), round(100.0 * (shown - midi), 1), clarity)


def room_noise(count: int, *, seed: str) -> NDArray[np.float64]:
    """Return `count` samples of a room’s noise: more low than high, the same for the same seed."""
    draw = np.random.default_rng(random.Random(seed).getrandbits(63))
    white = draw.standard_normal(count + 64)
    soft = np.convolve(white, np.exp(-np.arange(64) / 9.0), mode="valid")[:count]
    return np.asarray(soft * NOISE_RMS / max(float(np.std(soft)), 1e-12))
