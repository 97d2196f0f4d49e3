"""Where a learner stands with each skill, from what sittings told, and when it is due again.

What has been learned is heard again after growing pauses, by a spaced-repetition scheduler (FSRS:
Ye, Su and Cao, KDD 2022) that knows how fast things are usually forgotten; the clock is passed in.
"""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Final

from fsrs import Card, Rating, Scheduler

from meldrin.core.drills.drill import HARDEST
from meldrin.core.practice.figures import Sat
from meldrin.core.practice.skills import LAST_STEP, Skill

SCHEDULER: Final = Scheduler(
    desired_retention=0.9, learning_steps=(), relearning_steps=(), enable_fuzzing=False
)
MOST_LOOKED_AT: Final = 30  # the newest sittings of a skill
NEVER_TRIED: Final = math.log(2.0)  # as far from the goal as most beginners are
MOST_APART: Final = 40.0  # an interval as wide as this says nothing yet
SHARE_WELL, SHARE_BADLY = 0.8, 0.5
NEARLY: Final = 1.3  # times the goal
WELL_PAST: Final = 0.6


@dataclass(frozen=True, slots=True)
class Standing:
    """How far a skill is from its goal.

    away: 0 at the goal; else the log of how many times the threshold is too large.
    due: when it is to be heard again, or None where it was never tried.
    """

    skill: Skill
    away: float
    due: datetime | None
    last: Sat | None
    today: int


def standings(
    skills: Sequence[Skill], sat: Iterable[Sat], *, now: datetime
) -> tuple[tuple[Standing, ...], int]:
    """Return where each skill stands, and the step (from 0) that is aimed at: the first one that
    not all skills have reached.

    Args:
        sat: the sittings, the oldest first.
    """
    by_key: dict[tuple[str, str], list[Sat]] = {skill.key: [] for skill in skills}
    for one in sat:
        if one.key in by_key and one.trials:
            by_key[one.key].append(one)
    # a round with a class is practice, but tells neither a threshold nor a level
    alone = {key: [one for one in found if not one.in_class] for key, found in by_key.items()}
    newest = {key: found[-1] for key, found in alone.items() if found}
    at = 0
    while at < LAST_STEP and all(_away(one, newest.get(one.key), at) == 0.0 for one in skills):
        at += 1
    found = []
    for skill in skills:
        own = by_key[skill.key][-MOST_LOOKED_AT:]
        found.append(
            Standing(
                skill=skill,
                away=_away(skill, newest.get(skill.key), at),
                due=_due(skill, own, at),
                last=newest.get(skill.key),
                today=sum(now - one.at < timedelta(hours=12) for one in own),
            )
        )
    return tuple(found), at


def _away(skill: Skill, last: Sat | None, at: int) -> float:
    """Return how far a skill is from its goal in a step."""
    if last is None:
        return NEVER_TRIED
    if not skill.is_measured:
        reached = last.next_level - 1 + (last.level == HARDEST and last.share >= SHARE_WELL)
        return 0.0 if reached > at else math.log(1.0 + max(0.1, SHARE_WELL - last.share))
    threshold = last.threshold
    if threshold is None or threshold.high / threshold.low > MOST_APART:
        return NEVER_TRIED
    return max(0.0, math.log(threshold.middle / skill.goal(at)))


def _due(skill: Skill, own: Sequence[Sat], at: int) -> datetime | None:
    if not own:
        return None
    card = Card(card_id=1, due=own[0].at)
    for one in own:
        card, _ = SCHEDULER.review_card(card, _rating(skill, one, at), review_datetime=one.at)
    return card.due


def _rating(skill: Skill, one: Sat, at: int) -> Rating:
    """Return how well a sitting went, against the goal of now."""
    if not skill.is_measured or one.threshold is None:
        if one.share >= SHARE_WELL:
            return Rating.Good
        return Rating.Hard if one.share > SHARE_BADLY else Rating.Again
    times = one.threshold.middle / skill.goal(at)
    if times <= WELL_PAST:
        return Rating.Easy
    if times <= 1.0:
        return Rating.Good
    return Rating.Hard if times <= NEARLY else Rating.Again
