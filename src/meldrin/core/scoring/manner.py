"""How it was done: turns and time against a good player's, strings in danger, and what holds."""

import math
from dataclasses import dataclass
from functools import lru_cache

from meldrin.core.bench import Exercise, Minute
from meldrin.core.bench.limits import Exactness
from meldrin.core.bench.minute import played_a_minute
from meldrin.core.learner import GOOD, practise
from meldrin.core.scoring.line import Line, Tuned
from meldrin.core.scoring.rubric import Limits, Rubric
from meldrin.core.scoring.watch import Watched, watched
from meldrin.core.words import capital, cents_said

GIVING = ("pegs", "nut", "creep")


@dataclass(frozen=True, slots=True)
class Manner:
    """How many runs of turns and how many seconds it took, and what a minute of playing then moved
    (cents, string 1 first).
    """

    runs: int
    seconds: float
    moved_cents: tuple[float, ...]


@lru_cache(maxsize=512)
def good_manner(exercise: Exercise) -> Manner:
    """Return what a good player needs from the same start: played, not guessed."""
    log = practise(exercise, GOOD, seed=exercise.seed, left_cents=1.0)
    seen = watched(exercise, log)
    minute = last_minute(seen)
    return Manner(len(seen.runs), log[-1].at_s, minute.moved_cents)


def last_minute(seen: Watched) -> Minute:
    """Return the minute played after the last turn; where none was, what one would have moved."""
    state = seen.state
    turns = sum(string.turns for string in state.strings)
    if state.minutes and state.minutes[-1].turns == turns:
        return state.minutes[-1]
    return played_a_minute(state).minutes[-1]


def economy_line(exercise: Exercise, seen: Watched, rules: Rubric, *, tuned: Tuned) -> Line:
    """Return the line for turns and time."""
    good = good_manner(exercise)
    runs, seconds = len(seen.runs), seen.ended_s - seen.spent_s
    times = max(runs / max(1, good.runs), seconds / good.seconds)
    text = (
        f"{runs} {'turn' if runs == 1 else 'turns'} in {_minutes(seconds)}; a good player needs"
        f" {good.runs} in {_minutes(good.seconds)} from this start."
    )
    share = _economy_share(times, rules.limits)
    return tuned.line("economy", None, share, rules.points.economy, text)


def _economy_share(times: float, limits: Limits) -> float:
    full, nothing = limits.economy_full, limits.economy_nothing
    if times <= full:
        return 1.0
    return max(0.0, math.log(nothing / times) / math.log(nothing / full))


def _minutes(seconds: float) -> str:
    if seconds < 90.0:
        return f"{seconds:.0f} seconds"
    return f"{seconds / 60.0:.1f} minutes"


def safety_lines(seen: Watched, rules: Rubric, *, tuned: Tuned) -> list[Line]:
    """Return a line for each string that was in danger or broke, or one that none was."""
    out_of, state = rules.points.safety, seen.state
    found: dict[int, tuple[float, str]] = {}
    for run in seen.runs:
        above = run.highest_cents
        if run.rising and above > rules.limits.far_above_cents and run.string not in found:
            label = state.rig.plan.label(run.string)
            text = f"{label} was turned {cents_said(above)} above its note, where strings snap."
            found[run.string] = (run.ended_s, text)
    for snap in state.snaps:
        label = state.rig.plan.label(snap.string)
        how = f" after {snap.unheard} turns up in silence" if snap.unheard > 1 else ""
        text = (
            f"The {label} string snapped {cents_said(snap.cents_above)} above its note{how}. Play"
            " it while you turn, and stop when it does not change as you expect."
        )
        found[snap.string] = (snap.at_s, text)
    if not found:
        return [tuned.line("safety", None, 1.0, out_of, "No string was in danger.")]
    share = 0.0 if state.snaps else max(0.0, 1.0 - 0.5 * len(found))
    each = out_of / len(found)
    return [
        tuned.line("safety", number, share, each, capital(text), at_s=at_s)
        for number, (at_s, text) in found.items()
    ]


def holding_lines(
    exercise: Exercise,
    seen: Watched,
    rules: Rubric,
    exactness: Exactness,
    *,
    brought: frozenset[int],
) -> list[Line]:
    """Return a line for each string: what a minute of playing moved, beyond what it moves for a
    good player; none where nothing can give.
    """
    if not exercise.behaviours & set(GIVING):
        return []
    minute, good = last_minute(seen), good_manner(exercise)
    out_of = rules.points.holding / len(exercise.plan.steps)
    lines = []
    for step in exercise.plan.steps:
        number, label = step.string, exercise.plan.label(step.string)
        if number not in brought:
            text = f"{label} was not tuned, so there is nothing to hold."
            lines.append(Line("holding", number, 0.0, out_of, capital(text)))
            continue
        moved = minute.moved_cents[number - 1]
        usual = abs(good.moved_cents[number - 1])
        share = exactness.share(max(0.0, abs(moved) - usual))
        way = "sank" if moved < 0.0 else "rose"
        if abs(moved) < 0.05:
            text = f"{label} held through a minute of playing."
        else:
            text = f"{label} {way} {cents_said(abs(moved))} in a minute of playing."
            if usual >= 0.05:
                text += f" For a good player it moves {cents_said(usual)}."
        if share < 1.0:
            text += f" {_reason(seen, number)}"
        points = share * out_of
        lines.append(Line("holding", number, points, out_of, capital(text), broken=1.0 - share))
    return lines


def _reason(seen: Watched, number: int) -> str:
    """Return why a string did not hold, in a sentence."""
    state = seen.state
    now, odd = state.string(number), state.rig.quirks[number - 1]
    pulls = [at for at, string in seen.settled if string == number]
    runs = seen.runs_of(number)
    if number in seen.unpushed and odd.slip_share:
        return "The peg was not pushed in."
    if odd.grip and runs and not runs[-1].rising and not pulls:
        return "It came from above and was not pulled."
    if odd.fresh_creep_cents and now.creep_cents > odd.settled_creep_cents:
        return "It is new: pull it once more and tune it again."
    return "Pull it once more and tune it again."
