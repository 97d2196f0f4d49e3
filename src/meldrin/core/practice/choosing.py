"""Which drills come next: what is farthest from its goal, what is due again, and in what order."""

import math
from collections.abc import Sequence
from dataclasses import replace
from datetime import datetime
from typing import Final

from meldrin.core.practice.standing import Standing

DUE_SHARE: Final = 1.0 / 3.0  # of a practice, at most, for what has been reached and is due again
AGAIN_TODAY: Final = 0.5  # what has been practised today is so much less urgent for each time


def chosen(
    standings: Sequence[Standing], count: int, *, now: datetime, easy_first: bool = False
) -> tuple[Standing, ...]:
    """Return so many drills to practise, in order; one may come twice where few are left.

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
    found: list[Standing] = []
    while len(found) + len(again) < count:
        if needed:
            before = found[-1].skill if found else None
            best = max(needed, key=lambda one: (one.skill != before, _urgency(one)))
            needed[needed.index(best)] = replace(best, today=best.today + 1)
        else:  # all is where it should be: what has rested longest
            rest = [one for one in standings if one not in again and one not in found]
            best = min(rest or standings, key=lambda one: (one.today, one.due or now))
        found.append(best)
    found += again
    if easy_first:
        found.sort(key=lambda one: one.away)
    return tuple(found)


def _urgency(one: Standing) -> float:
    return one.away * AGAIN_TODAY**one.today
