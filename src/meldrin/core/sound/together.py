"""Two sounds whose partials meet: how loud one is beside the other, and how deep they beat."""

import math
from typing import Final

from meldrin.core.beats import beat_depth
from meldrin.core.sound.partials import AUDIBLE, PartialTable

MATCHED_S: Final = 0.7  # after a stroke, where nothing says how long one listens
MOST_MATCHED: Final = 10.0  # times louder or softer than usual
LOUDEST: Final = 0.7  # the sum of a reference's amplitudes, so that strings find room beside it
SOFTER: Final = 0.5  # at the softest, of two strings played together
FROM_S: Final = 0.06  # the onset is over
SAMPLES: Final = 24
LONGEST_S: Final = 60.0


def as_loud(
    table: PartialTable, place: int, own: PartialTable, own_place: int, *, at_s: float = MATCHED_S
) -> PartialTable:
    """Return a reference as loud as the string that it is played with, where their partials (in
    these places, from 1) meet and so long after the stroke: who holds a fork, or gives a note,
    holds it so that they beat.
    """
    loud = as_loud_by(table, place, own, own_place, at_s=at_s)
    return table if loud == 1.0 else table.times(loud)


def as_loud_by(
    table: PartialTable, place: int, own: PartialTable, own_place: int, *, at_s: float
) -> float:
    """Return how many times louder than usual the reference then is."""
    meets, given = own.level(own_place, at_s), table.level(place, at_s)
    if not meets or not given:
        return 1.0
    most = min(MOST_MATCHED, LOUDEST / math.fsum(map(abs, table.amplitudes)))
    return max(1.0 / MOST_MATCHED, min(most, meets / given))


def balanced(
    own: PartialTable, own_place: int, other: PartialTable, other_place: int, *, at_s: float
) -> tuple[PartialTable, PartialTable]:
    """Return two strings as a hand plays them together: the one that would drown the other where
    their partials meet is played more softly, by half at most.
    """
    one, two = own.level(own_place, at_s), other.level(other_place, at_s)
    if not one or not two:
        return own, other
    if one > two:
        return own.times(max(SOFTER, two / one)), other
    return own, other.times(max(SOFTER, one / two))


def matched_at_s(listen_s: float | None) -> float:
    """Return when a reference is as loud as its string: half way through the listening."""
    return MATCHED_S if listen_s is None else 0.5 * listen_s


def depth_over(
    own: PartialTable,
    own_place: int,
    other: PartialTable,
    other_place: int,
    *,
    listen_s: float,
    loud: float = 1.0,
) -> float:
    """Return the mean depth of the beat of two partials over so long, 0 to 1. What is too faint to
    be heard does not beat. `loud`: how many times as loud as its table the other one is.
    """
    if max(own_place - len(own.amplitudes), other_place - len(other.amplitudes)) > 0:
        return 0.0
    until_s = max(listen_s, 2.0 * FROM_S)
    times = [FROM_S + (until_s - FROM_S) * (n + 0.5) / SAMPLES for n in range(SAMPLES)]
    levels = zip(
        own.levels(own_place, times),
        [loud * level for level in other.levels(other_place, times)],
        strict=True,
    )
    heard = [beat_depth(*both) for both in levels if min(both) > AUDIBLE]
    return math.fsum(heard) / len(times)


def rings_s(
    own: PartialTable, own_place: int, other: PartialTable, other_place: int, loud: float = 1.0
) -> float:
    """Return for how long both partials can be heard, the other one so many times as loud."""
    low, high = 0.0, LONGEST_S
    while high - low > 0.01:
        middle = 0.5 * (low + high)
        if min(own.level(own_place, middle), loud * other.level(other_place, middle)) > AUDIBLE:
            low = middle
        else:
            high = middle
    return low
