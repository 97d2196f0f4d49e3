"""Every conversion between units, once. Inside the program lengths are metres, forces newtons,
masses kilograms, times seconds; intervals are cents.
"""

import math
from fractions import Fraction
from typing import Final

CENTS_PER_OCTAVE: Final = 1200.0
CENTS_PER_SEMITONE: Final = 100.0
MM_PER_M: Final = 1000.0
PA_PER_GPA: Final = 1e9
DEGREES_PER_TURN: Final = 360.0


def cents_of_ratio(ratio: float | Fraction) -> float:
    """Return the size of an interval in cents: 1200 log2(ratio), after Ellis (1885).

    >>> round(cents_of_ratio(3 / 2), 3)
    701.955
    """
    return CENTS_PER_OCTAVE * math.log2(ratio)


def ratio_of_cents(cents: float) -> float:
    """Return the frequency ratio of an interval; the inverse of `cents_of_ratio`.

    >>> ratio_of_cents(1200.0)
    2.0
    """
    return float(2.0 ** (cents / CENTS_PER_OCTAVE))


def growth_of_cents(cents: float) -> float:
    """Return by which share a frequency grows: ratio - 1, exact for small intervals too.

    >>> round(growth_of_cents(1.0), 7)
    0.0005778
    """
    return math.expm1(math.log(2.0) * cents / CENTS_PER_OCTAVE)


def cents_of_growth(share: float) -> float:
    """Return how many cents a small relative growth of frequency is, to first order.

    >>> round(cents_of_growth(0.001), 3)
    1.731
    """
    return CENTS_PER_OCTAVE / math.log(2.0) * share


def semitones_of_cents(cents: float) -> float:
    """Return an interval in semitones."""
    return cents / CENTS_PER_SEMITONE


def cents_of_semitones(semitones: float) -> float:
    """Return an interval in cents."""
    return CENTS_PER_SEMITONE * semitones


def m_of_mm(length_mm: float) -> float:
    """Return a length in metres."""
    return length_mm / MM_PER_M


def mm_of_m(length_m: float) -> float:
    """Return a length in millimetres."""
    return length_m * MM_PER_M


def kg_per_m_of_g_per_m(density_g_per_m: float) -> float:
    """Return a linear density in kilograms per metre."""
    return density_g_per_m / 1000.0


def pa_of_gpa(modulus_gpa: float) -> float:
    """Return a modulus in pascal."""
    return modulus_gpa * PA_PER_GPA


def turns_of_degrees(angle_deg: float) -> float:
    """Return an angle in whole turns."""
    return angle_deg / DEGREES_PER_TURN
