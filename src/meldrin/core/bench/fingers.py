"""Fingers: what pressing harder than needed does, where frets lie, and where on a string one is."""

import math
from typing import Final

from meldrin.core.bench.rig import Quirks, Rig
from meldrin.core.strings import String, cents_per_strain, stopped_m

LIGHT_M: Final = 1e-4  # below the crown of the fret, a light finger
HARD_M: Final = 6e-4  # and a hard one
BEHIND_M: Final = 8e-3  # where the finger lies, behind its fret
NUT_M: Final = 4e-4  # how high the string leaves the nut, over the crowns of the frets
SOFT_NUT_M: Final = 6e-4  # under strings of polyamide, which swing further
FIRST_FRET_SHARE: Final = 1.0 - 2.0 ** (-1.0 / 12.0)


def pressed_cents(string: String, *, strain: float, fret: int, press: float = 1.0) -> float:
    """Return how much sharper a hard finger makes a fretted note than a light one.

    The string runs from the nut down to the finger, below the crown of the fret, and up to the
    fret; the difference of two such ways does not depend on the action. A well-made nut and saddle
    take account of the light finger's part.

    Args:
        press: how deep a hard finger presses, against the usual hard one.
    """
    if fret <= 0 or strain <= 0.0:
        return 0.0
    fret_m = string.scale_m - stopped_m(string, fret)
    nut_m = SOFT_NUT_M if "polyamide" in string.material else NUT_M
    longer = _to_fret_m(fret_m, nut_m, HARD_M * press) - _to_fret_m(fret_m, nut_m, LIGHT_M)
    return cents_per_strain(string, strain) * longer / string.total_m


def _to_fret_m(fret_m: float, nut_m: float, depth_m: float) -> float:
    """Return the way from nut to fret of a string pressed so far below the crown."""
    behind = min(BEHIND_M, fret_m / 2.0)
    return math.hypot(fret_m - behind, nut_m + depth_m) + math.hypot(behind, depth_m)


def misplaced_cents(odd: Quirks, string: String, fret: int) -> float:
    """Return how sharp a fret is by the set-up and by a high nut.

    A saddle too far forward sharpens fret n by (2^(n/12) - 1) times what it does at fret 12; a high
    nut sharpens the first frets most, as 1/distance from the nut, and hardly shows at 5, 7 and 12.
    """
    if fret <= 0:
        return 0.0
    n = fret - string.nut_fret
    from_nut = 1.0 - 2.0 ** (-n / 12.0)
    return float(
        odd.fret_12_cents * (2.0 ** (n / 12.0) - 1.0)
        + odd.fret_1_cents * FIRST_FRET_SHARE / from_nut
    )


def finger_cents(
    rig: Rig, number: int, *, strain: float, fret: int, hard: bool, press: float = 1.0
) -> float:
    """Return by how much a string stopped at a fret sounds sharper than a true one would."""
    string = rig.strings[number - 1]
    cents = misplaced_cents(rig.quirks[number - 1], string, fret)
    if hard and rig.fault is not None and fret > 0:
        cents += rig.fault.size if rig.fault.kind == "finger" else 0.0
    elif hard and rig.on("fretting"):
        cents += pressed_cents(string, strain=strain, fret=fret, press=press)
    return cents


def touched_share(string: String, fret: float) -> float:
    """Return where a finger over this fret, or between two, lies, as a share of the speaking length
    from the nut.

    >>> from meldrin.core.catalogue import instrument
    >>> round(touched_share(instrument("guitar").string(6), 7.0), 4)
    0.3326
    """
    return float(1.0 - 2.0 ** (-(fret - string.nut_fret) / 12.0))
