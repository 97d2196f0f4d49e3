"""How it was done: turns and time against a good player's, and strings in danger."""

import math
from dataclasses import dataclass
from functools import lru_cache

from meldrin.core.bench import Setup
from meldrin.core.learner import GOOD, practise
from meldrin.core.scoring.line import Line
from meldrin.core.scoring.rubric import Limits, Rubric
from meldrin.core.scoring.watch import Watched, watched
from meldrin.core.words import cents_said


@dataclass(frozen=True, slots=True)
class Manner:
    """How many runs of turns and how many seconds it took."""

    runs: int
    seconds: float


@lru_cache(maxsize=512)
def good_manner(setup: Setup) -> Manner:
    """Return what a good player needs from the same start: played, not guessed."""
    log = practise(setup, GOOD, seed=setup.seed, left_cents=1.0)
    return Manner(len(watched(setup, log, far_cents=math.inf).runs), log[-1].at_s)


def economy_line(setup: Setup, seen: Watched, rules: Rubric, *, reached: float) -> Line:
    """Return the line for turns and time; it counts only as far as strings arrived."""
    good = good_manner(setup)
    out_of = rules.points.economy
    runs, seconds = len(seen.runs), seen.ended_s
    times = max(runs / max(1, good.runs), seconds / good.seconds)
    share = _economy_share(times, rules.limits) * reached
    text = (
        f"{runs} {'turn' if runs == 1 else 'turns'} in {_minutes(seconds)}; a good player needs"
        f" {good.runs} in {_minutes(good.seconds)} from this start."
    )
    if reached == 0.0:
        text += " No string arrived, so it brings no points."
    elif times <= rules.limits.economy_full:
        text += f" Up to {rules.limits.economy_full:g} times that brings full points."
    return Line("economy", None, share * out_of, out_of, text)


def _economy_share(times: float, limits: Limits) -> float:
    full, nothing = limits.economy_full, limits.economy_nothing
    if times <= full:
        return 1.0
    return max(0.0, math.log(nothing / times) / math.log(nothing / full))


def _minutes(seconds: float) -> str:
    if seconds < 90.0:
        return f"{seconds:.0f} seconds"
    return f"{seconds / 60.0:.1f} minutes"


def safety_lines(seen: Watched, rules: Rubric, *, reached: float) -> list[Line]:
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
        how = f" after {snap.unheard} turns up without being sounded" if snap.unheard > 1 else ""
        text = (
            f"The {label} string snapped {cents_said(snap.cents_above)} above its note{how}. Sound"
            " it while you turn, and stop when it does not change as you expect."
        )
        found[snap.string] = (snap.at_s, text)
    if not found:
        text = "No string was turned into danger."
        if reached == 0.0:
            text += " But none arrived, so it brings no points."
        return [Line("safety", None, reached * out_of, out_of, text)]
    share = 0.0 if state.snaps else max(0.0, 1.0 - 0.5 * len(found)) * reached
    return [
        Line(
            "safety",
            number,
            share * out_of / len(found),
            out_of / len(found),
            text[:1].upper() + text[1:],
            at_s=at_s,
        )
        for number, (at_s, text) in found.items()
    ]
