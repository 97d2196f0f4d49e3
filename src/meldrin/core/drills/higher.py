"""Higher, lower or the same: two notes, one after the other."""

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
from meldrin.core.units import ratio_of_cents
from meldrin.core.words import cents_said

FIRST_S, REST_S, LASTS_S = 0.0, 0.4, 1.2
SECOND_S: Final = FIRST_S + LASTS_S + REST_S


def _sounding(asked: TrialSettings, draw: random.Random) -> Sounding:
    hz = roved(asked.hz, draw)
    made, number = asked.instrument, asked.string
    second_hz = hz * ratio_of_cents(asked.difference)
    return sounding(
        (note(made, number, hz=hz), FIRST_S, FIRST_S + LASTS_S),
        (note(made, number, hz=second_hz), SECOND_S, SECOND_S + LASTS_S),
    )


def _said(difference: float, _: Interval) -> str:
    if difference == 0.0:
        return "The two notes were the same."
    way = "lower" if difference < 0.0 else "higher"
    return f"The second note was {cents_said(abs(difference))} {way}."


def _heard_by(ear: EarModel, hz: float, _: Interval) -> float:
    return ear.threshold_at(hz)


HIGHER: Final = ThresholdDrill(
    id="higher",
    name="Higher or lower",
    about="Two notes, one after the other",
    question="Is the second note lower, the same, or higher?",
    answers=(
        Answer("lower", "Lower", "Sing the first note. The second one asks you to sing lower."),
        Answer("same", "The same", "Sing the first note. It still fits the second one."),
        Answer("higher", "Higher", "Sing the first note. The second one asks you to sing higher."),
    ),
    scale=Scale("side_or_same", low=0.5, high=200.0),
    unit="cents",
    goals=(15.0, 8.0, 4.0),  # trained: 2 to 4 cents (Micheyl, Hearing Research 219, 2006)
    heard_by=_heard_by,
    drawn="notes",
    in_rounds=(RoundChoice("One after the other: higher or lower"),),
    sizes={"large": (80.0, 30.0), "middle": (40.0, 15.0), "small": (20.0, 6.0)},
    parts=(
        Stretch("first", FIRST_S, FIRST_S + LASTS_S),
        Stretch("second", SECOND_S, SECOND_S + LASTS_S + 0.1),
    ),
    sounding=_sounding,
    said=_said,
)
