"""How far out a string begins, drawn so that nobody brings it in without hearing it.

A string is at least one and a half times the tolerance out, and its size varies by more than the
tolerance is wide; about as many strings are low as high. So who turns all one way, or always by the
same, takes as many away from their notes as towards them.
"""

import random
from collections.abc import Sequence
from typing import Final

from meldrin.core.bench.limits import Tolerance, limits

OUT_TIMES: Final = (1.5, 5.0)  # the tolerance: as far as a string may begin out
MOST_OUT_CENTS: Final = 50.0  # further out it would be on another note
FEW: Final = 4  # strings: fewer may all be brought in by chance


def amount_cents(
    draw: random.Random,
    tolerance: Tolerance,
    times: tuple[float, float],
    *,
    most_cents: float = MOST_OUT_CENTS,
) -> float:
    """Return a size drawn evenly between two multiples of the tolerance, in cents."""
    full = limits().tolerances[tolerance].full_cents
    low, high = (min(most_cents, each * full) for each in times)
    return low + (high - low) * draw.random()


def sides(count: int, draw: random.Random) -> list[int]:
    """Return -1 (low) or 1 (high) for each of `count` strings.

    From five strings on as many are low as high, or one more of either; of four at least one is on
    either side, since a pair on each would be met by one fixed rule in six; fewer are drawn singly.
    """
    if count < FEW:
        return [1 if draw.random() < 0.5 else -1 for _ in range(count)]
    if count == FEW:  # 4, 6 and 4 of the 14 ways that are not all on one side
        one, two = draw.random() * 14.0, draw.random()
        low = 2 if one < 6.0 else 1 if two < 0.5 else 3
    else:
        low = count // 2 + (count % 2 if draw.random() < 0.5 else 0)
    return shuffled([-1] * low + [1] * (count - low), draw)


def shuffled(of: Sequence[int], draw: random.Random) -> list[int]:
    """Return the same in a random order (Fisher and Yates, 1938), by random() alone, which is
    promised to stay the same between versions of Python.
    """
    mixed = list(of)
    for last in range(len(mixed) - 1, 0, -1):
        other = int(draw.random() * (last + 1))
        mixed[last], mixed[other] = mixed[other], mixed[last]
    return mixed
