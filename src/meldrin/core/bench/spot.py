"""A spot of an attempt: the step in which a moment lies, to be done again from where it was met."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from meldrin.core.bench.actions import Finish, TimedAction
from meldrin.core.bench.exercise import Exercise
from meldrin.core.bench.observe import matched_cents
from meldrin.core.bench.opening import opening
from meldrin.core.bench.state import State
from meldrin.core.bench.step import played, replay
from meldrin.core.methods.plan import Check, Step

FREE_S: Final = 10.0  # where there are no steps, so long before a moment its spot begins


@dataclass(frozen=True, slots=True)
class Spot:
    """Where in an attempt a moment lies.

    before: how many of its actions came before the step was met.
    stage: the number of the step, from 0; None in free play.
    label: what players call its string, or “”.
    cents: how far that was from where it is wanted at the moment, or None where it was slack.
    """

    before: int
    stage: int | None
    label: str
    cents: float | None


def spot_at(exercise: Exercise, log: Sequence[TimedAction], at_s: float) -> Spot:
    """Return the spot of a moment, in seconds since the attempt began."""
    passed = [entry for entry in log if entry.at_s <= at_s and not isinstance(entry.action, Finish)]
    place = {id(entry): number for number, entry in enumerate(log)}
    before, state = 0, opening(exercise)
    for one in played(exercise, passed):
        if one.after.stage != state.stage:  # whatever led to it belongs to what was before
            before = place[id(one.entry)] + 1
        state = one.after
    stage = state.current()
    if stage is None:
        return Spot(sum(entry.at_s < at_s - FREE_S for entry in passed), None, "", None)
    string = stage.own.string
    label = "" if string is None else state.rig.plan.label(string)
    return Spot(before, state.stage, label, _cents(state, stage))


def came_to(exercise: Exercise, log: Sequence[TimedAction], number: int) -> float | None:
    """Return how far what a step brings is from where it is wanted when all is done, in cents; None
    where it is slack.
    """
    state = replay(exercise, log, strict=False)
    if not number < len(state.rig.plan.stages):
        return None
    return _cents(state, state.rig.plan.stages[number])


def _cents(state: State, stage: Step | Check) -> float | None:
    cents = matched_cents(state, stage)
    return cents if math.isfinite(cents) else None
