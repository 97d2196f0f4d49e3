"""Beats: is it still or does it beat, and does it beat faster or slower than before?"""

import random
from typing import Final

from meldrin.core.drills.belief import Scale
from meldrin.core.drills.drill import (
    Answer,
    EarModel,
    Interval,
    RoundChoice,
    Sounding,
    Stretch,
    ThresholdDrill,
    TrialSettings,
)
from meldrin.core.drills.notes import note, roved, sounding
from meldrin.core.sound.partials import PartialTable
from meldrin.core.sound.references import fork
from meldrin.core.sound.together import as_loud, matched_at_s
from meldrin.core.words import beats_said

MEETS_NEAR_HZ: Final = 440.0  # where a fork lies, and partials are picked out best
HIGHEST_PARTIAL: Final = 6
LASTS_S: Final = 4.0
EACH_S, REST_S = 2.4, 0.4
SECOND_S: Final = EACH_S + REST_S
USUAL_HZ: Final = (1.5, 4.0)  # beats that are compared with others, which a beginner can follow


def pair(
    asked: TrialSettings, beats_hz: float, *, hz: float, lasts_s: float
) -> tuple[PartialTable, PartialTable]:
    """Return a string and a fork that meets one of its partials, so far apart that they beat."""
    string = note(asked.instrument, asked.string, hz=hz)
    beside = fork_beside(string, hz, beats_hz=beats_hz, lasts_s=lasts_s)
    return string, beside


def meeting(hz: float) -> int:
    """Return the number of the partial of a note that a fork is to meet."""
    return min(range(1, HIGHEST_PARTIAL + 1), key=lambda n: abs(n * hz - MEETS_NEAR_HZ))


def fork_beside(
    string: PartialTable, hz: float, *, beats_hz: float, lasts_s: float
) -> PartialTable:
    """Return a fork that lies so far above a partial of the string, and is as loud as that."""
    partial = meeting(hz)
    meets_hz = string.frequencies_hz[partial - 1] + beats_hz
    return as_loud(fork(hz=meets_hz), 1, string, partial, at_s=matched_at_s(lasts_s))


def _whether(asked: TrialSettings, draw: random.Random) -> Sounding:
    side = draw.choice((-1.0, 1.0))
    hz = roved(asked.hz, draw)
    both = pair(asked, side * asked.difference, hz=hz, lasts_s=LASTS_S)
    return sounding(*((one, 0.0, LASTS_S) for one in both))


def _faster(asked: TrialSettings, draw: random.Random) -> Sounding:
    """Two pairs; the second one beats faster, by a percentage, or the first one does."""
    low, high = USUAL_HZ
    first_hz = low * (high / low) ** draw.random()
    ratio = 1.0 + abs(asked.difference) / 100.0
    second_hz = first_hz * (ratio if asked.difference > 0.0 else 1.0 / ratio)
    hz, side = roved(asked.hz, draw), draw.choice((-1.0, 1.0))
    first = pair(asked, side * first_hz, hz=hz, lasts_s=EACH_S)
    second = pair(asked, side * second_hz, hz=hz, lasts_s=EACH_S)
    return sounding(
        *((one, 0.0, EACH_S) for one in first),
        *((one, SECOND_S, SECOND_S + EACH_S) for one in second),
    )


def _whether_said(difference: float, _: Interval) -> str:
    if difference == 0.0:
        return "It was still."
    return f"It made {beats_said(difference)}."


def _faster_said(difference: float, _: Interval) -> str:
    if difference == 0.0:
        return "Both beat alike."
    which = "second" if difference > 0.0 else "first"
    return f"The {which} one beat {abs(difference):.2g} percent faster."


def _whether_heard_by(ear: EarModel, _: float, __: Interval) -> float:
    return ear.slowest_hz


def _rate_heard_by(ear: EarModel, _: float, __: Interval) -> float:
    # the error of a rate is even over twice its spread, up and down
    return 100.0 * 2.0 * ear.spread


BEATING: Final = ThresholdDrill(
    id="beating",
    name="Still or beating",
    about="A string and a fork together",
    question="Is it still, or does it beat?",
    answers=(
        Answer("still", "Still", "The sound only fades. It never comes back louder."),
        Answer("beating", "Beating", "The sound swells and sinks while it fades."),
    ),
    scale=Scale("whether", low=0.05, high=10.0),
    unit="beats a second",
    goals=(1.0, 0.6, 0.35),  # slower than half a beat a second does not show within a plucked note
    heard_by=_whether_heard_by,
    drawn="beats",
    in_rounds=(RoundChoice("Still or beating"),),
    sizes={"large": (4.0, 1.5), "middle": (2.0, 0.7), "small": (1.0, 0.3)},
    water="fork",
    parts=(Stretch("both", 0.0, LASTS_S + 0.1),),
    sounding=_whether,
    said=_whether_said,
)

FASTER: Final = ThresholdDrill(
    id="faster",
    name="Faster or slower",
    about="Two pairs that beat",
    question="Does the second pair beat slower, the same, or faster?",
    answers=(
        Answer("slower", "Slower", "Nod with the first beats. The second ones come late."),
        Answer("same", "The same", "Nod with the first beats. The second ones fit."),
        Answer("faster", "Faster", "Nod with the first beats. The second ones come early."),
    ),
    scale=Scale("side_or_same", low=2.0, high=400.0),
    unit="percent",
    goals=(50.0, 25.0, 15.0),
    heard_by=_rate_heard_by,
    drawn="pairs",
    in_rounds=(RoundChoice("Which pair beats faster"),),
    sizes={"large": (200.0, 80.0), "middle": (100.0, 40.0), "small": (60.0, 20.0)},
    parts=(
        Stretch("first", 0.0, EACH_S),
        Stretch("second", SECOND_S, SECOND_S + EACH_S + 0.1),
    ),
    sounding=_faster,
    said=_faster_said,
)
