"""Ear drills: each sitting is a measurement of the ear, and a practice like the bench."""

from meldrin.core.drills.belief import Belief, Scale, Threshold, from_kept, nothing_known
from meldrin.core.drills.drill import (
    SAMPLE_RATE,
    Answer,
    Example,
    Heard,
    Interval,
    MarkedPeg,
    MatchDrill,
    MeasuredDrill,
    Part,
    Posed,
    QuestionDrill,
    Sounding,
    ThresholdDrill,
    Truth,
    TunerShown,
    Turned,
)
from meldrin.core.drills.registry import DRILLS, MEASURED, AnyDrill, drill_of, measured
from meldrin.core.drills.result import (
    DrillResult,
    above_chance,
    drill_result,
    share_said,
    threshold_said,
    where_said,
)
from meldrin.core.drills.sitting import (
    DRILLS_PRACTICE,
    FEWEST,
    MOST,
    USUAL,
    DrillAction,
    DrillExercise,
    EndSitting,
    HearExample,
    HearTrial,
    JudgeTrial,
    NextTrial,
    PlayString,
    Sitting,
    StartTrials,
    Sure,
    Trial,
    TurnTrial,
    opening,
    sat,
    step,
    with_instrument,
)
