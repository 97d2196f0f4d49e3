"""Narrow, true or wide: two notes together, by their interval."""

import math
import random
from fractions import Fraction
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
    Truth,
)
from meldrin.core.drills.notes import note, roved, sounding, stopped_at
from meldrin.core.units import cents_of_ratio, ratio_of_cents
from meldrin.core.words import cents_said

PURE: Final[dict[Interval, Fraction]] = {
    "unison": Fraction(1),
    "octave": Fraction(2),
    "fifth": Fraction(3, 2),
    "fourth": Fraction(4, 3),
    "third": Fraction(5, 4),
}
SEMITONES: Final[dict[Interval, int]] = {
    "unison": 0,
    "octave": 12,
    "fifth": 7,
    "fourth": 5,
    "third": 4,
}
WORDS: Final[dict[Interval, str]] = {
    "unison": "unison", "octave": "octave", "fifth": "fifth", "fourth": "fourth",
    "third": "major third"
}  # fmt: skip
ALONE_S, REST_S, TOGETHER_S = 0.7, 0.1, 2.6
BOTH_S: Final = 2 * (ALONE_S + REST_S) + 0.1


def true_cents(interval: Interval, truth: Truth) -> float:
    """Return how wide the interval is when it is true: as pure ratios or in equal temperament."""
    if truth == "equal":
        return 100.0 * SEMITONES[interval]
    return cents_of_ratio(float(PURE[interval]))


def _sounding(asked: TrialSettings, draw: random.Random) -> Sounding:
    """The lower note, the upper one, and then both."""
    low_hz = roved(asked.hz, draw)
    cents = true_cents(asked.interval, asked.truth) + asked.difference
    high_hz = low_hz * ratio_of_cents(cents)
    made, number = asked.instrument, asked.string
    low = note(made, number, hz=low_hz)
    high = note(made, number, hz=high_hz, fret=stopped_at(made, number, hz=high_hz, open_hz=low_hz))
    second_s, end_s = ALONE_S + REST_S, BOTH_S + TOGETHER_S
    return sounding(
        (low, 0.0, ALONE_S),
        (high, second_s, second_s + ALONE_S),
        (low, BOTH_S, end_s),
        (high, BOTH_S, end_s),
    )


def _said(difference: float, interval: Interval) -> str:
    if difference == 0.0 and interval == "unison":
        return "The second note was in tune."
    if difference == 0.0:
        return f"The {WORDS[interval]} was true."
    if interval == "unison":
        way = "low" if difference < 0.0 else "high"
        return f"The second note was {cents_said(abs(difference))} {way}."
    way = "narrow" if difference < 0.0 else "wide"
    return f"The {WORDS[interval]} was {cents_said(abs(difference))} {way}."


def _heard_by(ear: EarModel, hz: float, interval: Interval) -> float:
    """Return what an ear tells by whichever of pitch and beats tells less; of a pair p : q the beat
    is abs(p f_low - q f_high), so a cent is some beats a second.
    """
    per_cent_hz = PURE[interval].numerator * hz * (ratio_of_cents(1.0) - 1.0)
    return math.hypot(ear.threshold_at(hz), ear.slowest_hz / per_cent_hz)


WIDTH: Final = ThresholdDrill(
    id="width",
    name="Narrow, true or wide",
    about="Two notes, then both together",
    question="Is the interval narrow, true, or wide?",
    answers=(
        Answer("narrow", "Narrow", "Together they beat. The upper note wants to go up."),
        Answer("true", "True", "Together they are at rest."),
        Answer("wide", "Wide", "Together they beat. The upper note wants to come down."),
    ),
    scale=Scale("side_or_same", low=0.5, high=200.0),
    unit="cents",
    goals=(15.0, 8.0, 4.0),
    heard_by=_heard_by,
    drawn="notes",
    in_rounds=(
        RoundChoice("Two notes: low, in tune or high", "unison", "Low, in tune or high", 1),
        RoundChoice("A fifth: narrow, true or wide", "fifth", place=2),
        RoundChoice("An octave: narrow, true or wide", "octave", place=3),
    ),
    sizes={"large": (40.0, 15.0), "middle": (20.0, 7.0), "small": (10.0, 3.0)},
    water="notes",
    parts=(
        Stretch("first", 0.0, ALONE_S),
        Stretch("second", ALONE_S + REST_S, 2 * ALONE_S + REST_S),
        Stretch("both", BOTH_S, BOTH_S + TOGETHER_S + 0.1),
    ),
    sounding=_sounding,
    said=_said,
    for_unison=(
        "Is the second note low, in tune, or high?",
        (
            Answer("low", "Low", "Together they beat. The second note wants to go up."),
            Answer("true", "In tune", "Together they are at rest."),
            Answer("high", "High", "Together they beat. The second note wants to come down."),
        ),
    ),
    intervals=("unison", "octave", "fifth", "fourth", "third"),
)
