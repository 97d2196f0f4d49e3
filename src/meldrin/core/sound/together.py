"""Two sounds whose partials meet: how loud one is beside the other, and how deep they beat."""

from collections.abc import Sequence
from typing import Final

from meldrin.core.sound.partials import AUDIBLE, PartialTable

MATCHED_S: Final = 0.7  # after a stroke, where nothing says how long one listens
MOST_MATCHED: Final = 10.0  # times louder or softer than usual
LOUDEST: Final = 0.7  # the sum of a reference's amplitudes, so that strings find room beside it
SOFTER: Final = 0.5  # at the softest, of two strings played together
FROM_S: Final = 0.06  # the onset is over
SAMPLES: Final = 24


def as_loud(
    table: PartialTable, place: int, own: PartialTable, own_place: int, *, at_s: float = MATCHED_S
) -> PartialTable:
    """Return a reference as loud as the string that it is played with, where their partials (in
    these places, from 1) meet and so long after the stroke: who holds a fork, or gives a note,
    holds it so that they beat.
    """
    loud = as_loud_by(table, place, meets=own.level(own_place, at_s), at_s=at_s)
    return table if loud == 1.0 else table.times(loud)


def as_loud_by(table: PartialTable, place: int, *, meets: float, at_s: float) -> float:
    """Return how many times louder than usual the reference then is; `meets`: the string's."""
    given = table.level(place, at_s)
    if not meets or not given:
        return 1.0
    most = min(MOST_MATCHED, LOUDEST / sum(map(abs, table.amplitudes)))
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


def levels_over(table: PartialTable, place: int, *, listen_s: float) -> list[float]:
    """Return how loud a partial is while one listens so long, after the onset."""
    until_s = max(listen_s, 2.0 * FROM_S)
    step_s = (until_s - FROM_S) / SAMPLES
    return table.levels(place, from_s=FROM_S + 0.5 * step_s, step_s=step_s, count=SAMPLES)


def mean_depth(levels: Sequence[float], others: Sequence[float], *, loud: float = 1.0) -> float:
    """Return the mean depth of the beat of two partials by their levels at the same times, 0 (none)
    to 1 (to silence); what is too faint to be heard does not beat. The envelope |a + b e^(i phase)|
    has the depth (largest - smallest)/(largest + smallest), which is min(a, b)/max(a, b).

    Args:
        loud: how many times as loud the others are.
    """
    total = 0.0
    for one, its in zip(levels, others, strict=True):
        other = loud * its
        if one > AUDIBLE and other > AUDIBLE:
            total += one / other if one < other else other / one
    return total / len(levels)
