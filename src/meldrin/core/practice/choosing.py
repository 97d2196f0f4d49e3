"""Which drills come next: what is farthest from its goal, what is due again, and in what order."""

import math
from collections.abc import Sequence
from datetime import datetime
from typing import Final

from meldrin.core.practice.standing import Standing

DUE_SHARE: Final = 1.0 / 3.0  # of a practice, at most, for what has been reached and is due again
AGAIN_TODAY: Final = 0.5  # how much less urgent a drill is for each time it was practised today


def chosen(
    standings: Sequence[Standing], count: int, *, now: datetime, easy_first: bool = False
) -> tuple[Standing, ...]:
    """Return some drills to practise, in order; one comes twice only where there are no others.

    Args:
        easy_first: begin with what is nearest to its goal, as after days away.
    """
    due = sorted(
        (one for one in standings if one.away == 0.0 and one.due is not None and one.due <= now),
        key=lambda one: (one.due, one.skill.key),
    )
    needed = [one for one in standings if one.away > 0.0]
    places = count
    if needed:
        places = math.ceil(DUE_SHARE * count) if count > 1 else 0
    again = due[:places]
    found = sorted(needed, key=_urgency, reverse=True)[: count - len(again)]
    found += again
    # what is left of the time goes to what has rested longest, and then once more round
    rest = [one for one in standings if one not in found]
    found += sorted(rest, key=lambda one: (one.today, one.due or now))[: count - len(found)]
    round_again = list(found)
    while len(found) < count:
        found += round_again[: count - len(found)]
    if easy_first:
        found.sort(key=lambda one: one.away)
    return tuple(found)


def _urgency(one: Standing) -> float:
    return one.away * AGAIN_TODAY**one.today
