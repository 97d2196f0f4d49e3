"""Beats: what two nearly equal partials do together, and what an ear can make of it."""

import math
from typing import Final, Literal

from meldrin.core.errors import within
from meldrin.core.pitch import checked_hz
from meldrin.core.units import cents_of_growth, growth_of_cents

# Those that two strings are tuned by.
Interval = Literal["unison", "octave", "fifth", "fourth", "third"]
ROUGH_FROM_HZ: Final = 15.0  # above it, separate loudness waves melt into roughness

# Partials (of the lower, of the upper string) that meet at an interval of that many semitones, with
# the interval's name. Thirds and sixths meet high and are 14 to 16 cents from equal temperament.
MEETING: Final = {
    0: (1, 1),
    3: (6, 5),
    4: (5, 4),
    5: (4, 3),
    7: (3, 2),
    8: (8, 5),
    9: (5, 3),
    12: (2, 1),
    16: (5, 2),
    19: (3, 1),
    24: (4, 1),
    28: (5, 1),
    31: (6, 1),
    36: (8, 1),
}
NAMES: Final = (
    "unison", "semitone", "whole tone", "minor third", "major third", "fourth", "tritone",
    "fifth", "minor sixth", "major sixth", "minor seventh", "major seventh", "octave",
)  # fmt: skip
FIFTH_FAMILY: Final = frozenset({0, 5, 7, 12, 19, 24, 31, 36})
OCTAVES: Final = frozenset({0, 12, 24, 36})


def meeting(semitones: int) -> tuple[int, int] | None:
    """Return the partials of the lower and the upper string that meet, or None."""
    return MEETING.get(semitones)


def interval_name(semitones: int) -> str:
    """Return what an interval is called, by its semitones (not negative).

    >>> interval_name(19), interval_name(24)
    ('fifth and an octave', 'two octaves')
    """
    if semitones <= 12:
        return NAMES[semitones]
    octaves, rest = divmod(semitones, 12)
    many = {1: "an octave", 2: "two octaves", 3: "three octaves"}.get(octaves, f"{octaves} octaves")
    return many if rest == 0 else f"{NAMES[rest]} and {many}"


def overtone_name(partial: int) -> str:
    """Return the interval from a note up to one of its partials.

    >>> overtone_name(3), overtone_name(4)
    ('fifth and an octave', 'two octaves')
    """
    return interval_name(round(12.0 * math.log2(partial)))


def beat_rate_hz(lower_hz: float, upper_hz: float, *, partials: tuple[int, int]) -> float:
    """Return |p f_lower - q f_upper|, the beats a second of two coincident partials (p, q).

    Flexible strings; for stiff ones take the two partials' own frequencies as (1, 1).
    Source: Helmholtz, On the Sensations of Tone (1863), ch. 8.

    >>> round(beat_rate_hz(293.6648, 440.0, partials=(3, 2)), 2)
    0.99
    """
    p, q = partials
    return abs(p * checked_hz(lower_hz) - q * checked_hz(upper_hz))


def beats_per_cent(partial_hz: float) -> float:
    """Return how many beats a second one cent makes where two partials meet: f (2^(1/1200) - 1).

    >>> round(beats_per_cent(440.0), 3)
    0.254
    """
    return checked_hz(partial_hz) * growth_of_cents(1.0)


def seconds_to_hear(beats_hz: float) -> float:
    """Return how long a sound must last for one whole beat; infinite for none."""
    rate = within(beats_hz, name="beat rate", low=0.0, high=20_000.0, unit="Hz")
    return 1.0 / rate if rate > 1e-9 else math.inf


def slowest_heard_hz(ringing_s: float) -> float:
    """Return the slowest beat that can be judged in a sound of this length: half a beat within it.

    A judgement of the ear's limits (0.5/tau), good for sounds of 1 to 6 s.
    """
    return 0.5 / within(ringing_s, name="ringing time", low=0.05, high=60.0, unit="s")


def attainable_cents(partial_hz: float, *, ringing_s: float) -> float:
    """Return the offset in cents that the slowest beat heard corresponds to: 1731 (0.5/tau)/f.

    >>> round(attainable_cents(110.0, ringing_s=4.0), 1)
    2.0
    """
    return cents_of_growth(slowest_heard_hz(ringing_s) / checked_hz(partial_hz))
