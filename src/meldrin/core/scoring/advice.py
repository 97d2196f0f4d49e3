"""One piece of advice: what costs this learner most, said as the next thing to try, and the
exercise for it.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Final

from meldrin.core.bench import FREE, Aid, Behaviour, Setup, StartKind
from meldrin.core.scoring.line import Line
from meldrin.core.words import capital

if TYPE_CHECKING:
    from meldrin.core.scoring.score import StringResult


@dataclass(frozen=True, slots=True)
class Advice:
    """What to change next, in a sentence, and the exercise that trains it: its setup (with a seed
    to be drawn anew), the help to begin with, and what its button says.
    """

    sentence: str
    exercise: Setup
    aid: Aid
    button: str


@dataclass(frozen=True, slots=True)
class _Cure:
    sentence: str
    start: StartKind | None
    behaviours: frozenset[Behaviour]
    aid: Aid
    button: str


def _cure(
    sentence: str,
    start: StartKind | None,
    *behaviours: Behaviour,
    aid: Aid = "ripple",
    button: str,
) -> _Cure:
    return _Cure(sentence, start, frozenset(behaviours), aid, button)


FULL: Final = _cure(
    "Nothing to mend. Next time take the picture away and do it by ear alone.",
    "month",
    aid="ear",
    button="The same by ear alone",
)
CURES: Final = {
    "matched": _cure(
        "Stay on {worst} longer: wait through one whole slow beat before you call it still.",
        "one",
        button="Practise {worst} alone",
    ),
    "placed": _cure(
        "Set the first string with the most care: every other string follows it.",
        "hair",
        button="Once more, a hair out",
    ),
    "closed": _cure(
        "At the end listen to the closing pairs, and go back to the string you trust least.",
        "hair",
        button="Once more, a hair out",
    ),
    "judged": _cure(
        "Before you move on, say out loud: low, still or high? Then turn a hair and hear whether"
        " the beats slow.",
        "one",
        aid="ear",
        button="One string out, by ear",
    ),
    "leaning": _cure(
        "Your ear leans to one side. Try both sides of still before you decide.",
        "one",
        aid="ear",
        button="One string out, by ear",
    ),
    "reference": _cure(
        "Check the reference before you trust it: read it with a tuner, and look at what the tuner"
        " itself is set to.",
        "reference",
        button="Find out a wrong reference",
    ),
    "economy": _cure(
        "Make the first turns larger while it is far out, and small only when the beats slow down.",
        "month",
        button="After a month, in fewer turns",
    ),
    "safety": _cure(
        "Sound the string while you turn it up, and stop as soon as it is higher than you expect:"
        " it may be the wrong peg.",
        "month",
        button="Bring them up safely",
    ),
    "sounding": _cure(
        "Turn only while the string sounds, and only the peg of the string you hear change.",
        "month",
        button="Turn while it sounds",
    ),
    "decide": _cure(
        "Decide first: is it low or high? Hum the target, then turn.",
        "one",
        button="Low or high? One string out",
    ),
    "small": _cure(
        "Make the turns smaller as the beats slow down, and sound the string again in between.",
        "hair",
        button="A hair out, small turns",
    ),
    "from_below": _cure(
        "If a string is too high, go clearly below and come up to the pitch.",
        "month",
        "nut",
        button="Arrive from below",
    ),
    "mute": _cure(
        "Lay a hand on the other strings before you sound the pair.",
        "hair",
        "ringing",
        button="With strings that ring along",
    ),
    "passes": _cure(
        "Bring all strings near first, then each to its place, and go round once more.",
        "month",
        "coupling",
        button="On a frame that gives",
    ),
    "settle": _cure(
        "When a string is in place, pull it gently along its length and tune it once more.",
        "hair",
        "creep",
        "nut",
        button="With strings that give",
    ),
    "stroke": _cure(
        "Strike as you will play, always alike, and judge only after the first moment has passed.",
        "hair",
        "stroke",
        button="With strokes that start sharp",
    ),
    "check": _cure(
        "When the last string is done, listen to the closing checks before you finish.",
        "hair",
        button="Once more, to the end",
    ),
    "fifths": _cure(
        "Stay on each fifth until it locks: two seconds of still water are the proof.",
        "hair",
        button="Fifths, until they lock",
    ),
}


def advice(
    setup: Setup,
    lines: Sequence[Line],
    results: Sequence["StringResult"],
) -> Advice:
    """Return the advice for the part or rule that lost the most points.

    Strings that were never listened to come first: nothing else helps before they are.
    """
    worst = max(results, key=lambda result: abs(result.matched_cents))
    if setup.method == FREE:
        cure = replace(
            FULL, sentence="Now follow a plan, and be told how it went.", button="A plan"
        )
        return _advised(replace(setup, method="each"), cure, worst)
    left = [result.label for result in results if not result.listened]
    if left:
        names = " and ".join([", ".join(left[:-1]), left[-1]] if len(left) > 1 else left)
        sentence = f"Go through every string with its partner: you did not listen to {names}."
        return _advised(setup, replace(CURES["check"], sentence=sentence), worst)
    lost: dict[str, float] = {}
    for line in lines:
        name = line.rule or line.part
        lost[name] = lost.get(name, 0.0) + line.out_of - line.points
    name = max(lost, key=lambda key: lost[key])
    return _advised(setup, CURES[name] if lost[name] >= 0.5 else FULL, worst)


def _advised(setup: Setup, cure: _Cure, worst: "StringResult") -> Advice:
    start = cure.start or setup.start
    exercise = replace(
        setup,
        start=start,
        came_from="",
        behaviours=setup.behaviours | cure.behaviours,
        out_string=worst.number if cure is CURES["matched"] else 0,
        out_cents=0.0,
    )
    return Advice(
        sentence=capital(cure.sentence.format(worst=worst.label)),
        exercise=exercise,
        aid=cure.aid,
        button=capital(cure.button.format(worst=worst.label)),
    )
