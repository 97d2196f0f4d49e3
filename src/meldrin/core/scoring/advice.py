"""One piece of advice: what costs this learner most, said as the next thing to try."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from meldrin.core.scoring.score import Line, StringResult

FULL = "Nothing to mend. Next time take the picture away and do it by ear alone."
BY_PART = {
    "matched": "Stay on {worst} longer: wait through one whole slow beat before you call it still.",
    "placed": "Set the first string to the fork with the most care: every other string follows it.",
    "closed": "At the end listen to the outer strings, and go back to the one you trust least.",
    "judged": "Before you move on, say out loud: low, still or high? Then turn a hair and hear"
    " whether the beats slow.",
    "from_below": "If a string is too high, go clearly below and come up to the pitch.",
    "overshoot": "Make the turns smaller as the beats slow down, and sound the string again in"
    " between.",
}


def advice(lines: Sequence["Line"], results: Sequence["StringResult"]) -> str:
    """Return the advice for the part that lost the largest share of its points.

    Strings that were never listened to come first: nothing else helps before they are.
    """
    left = [result.label for result in results if not result.listened]
    if left:
        names = " and ".join([", ".join(left[:-1]), left[-1]] if len(left) > 1 else left)
        return f"Go through every string with its partner: you did not listen to {names}."
    lost: dict[str, float] = {}
    for line in lines:
        lost[line.part] = lost.get(line.part, 0.0) + line.out_of - line.points
    part = max(lost, key=lambda name: lost[name])
    if lost[part] < 1.0:
        return FULL
    worst = max(results, key=lambda result: abs(result.matched_cents)).label
    return BY_PART[part].format(worst=worst)
