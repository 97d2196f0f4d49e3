"""From drills and sittings to their shapes."""

import base64
from collections.abc import Sequence

import numpy as np

from meldrin.core.catalogue import tuning_said
from meldrin.core.drills import (
    DRILLS,
    SAMPLE_RATE,
    Drill,
    DrillExercise,
    DrillResult,
    Sitting,
    Sounding,
    drill_of,
    threshold_said,
)
from meldrin.core.methods.naming import string_label
from meldrin.core.sound.render import render
from meldrin.server.drills.schemas import (
    DrillAnswer,
    DrillList,
    DrillOption,
    DrillPart,
    DrillScene,
    HeardSoFar,
    JudgedTrial,
    SittingPage,
    SittingResult,
    SureOf,
    TrialTruth,
)
from meldrin.services.attempts import Record
from meldrin.services.drills import Heard

WORDS = {"pure": "", "equal": "in equal temperament", "third": "major third"}


def list_of(heard: Sequence[Heard]) -> DrillList:
    """Return the drills, and what has been heard so far."""
    return DrillList(
        drills=[
            DrillOption(id=one.id, name=one.name, about=one.about, intervals=list(one.intervals))
            for one in DRILLS
        ],
        heard=[
            HeardSoFar(
                drill=one.drill,
                known_by=one.known_by,
                where=_where(one.known_by),
                says=threshold_said(drill_of(one.drill), one.threshold),
                low=one.threshold.low,
                middle=one.threshold.middle,
                high=one.threshold.high,
                unit=drill_of(one.drill).unit,
                at=one.at,
            )
            for one in heard
        ],
    )


def _where(known_by: str) -> str:
    """Return in words where it was heard: “middle notes”, “fifth, low notes”."""
    register, *rest = known_by.split()
    said = [f"{register} notes", *(WORDS.get(one, one) for one in rest)]
    return ", ".join(one for one in said if one)


def page_of(record: Record, result: DrillResult | None) -> SittingPage:
    """Return a sitting; it tells nothing of a trial before all is over."""
    exercise: DrillExercise = record.exercise
    drill, made = drill_of(exercise.drill), exercise.instrument
    return SittingPage(
        id=record.summary.id,
        drill=drill.id,
        name=drill.name,
        about=drill.about,
        question=drill.question,
        answers=[
            DrillAnswer(id=one.id, words=one.words, listen_for=one.listen_for)
            for one in drill.answers
        ],
        parts=[
            DrillPart(name=one.name, begin_s=one.begin_s, end_s=one.end_s) for one in drill.parts
        ],
        instrument=exercise.instrument_id,
        instrument_name=made.short_name,
        string=exercise.string,
        string_name=string_label(made, exercise.string, tuning_said(made, exercise.tuning)),
        interval=exercise.interval,
        truth=exercise.truth,
        trials=exercise.trials,
        result=None if result is None else _result_of(drill, exercise, result),
    )


def _result_of(drill: Drill, exercise: DrillExercise, result: DrillResult) -> SittingResult:
    threshold = result.threshold
    return SittingResult(
        headline=result.headline,
        remarks=list(result.remarks),
        low=None if threshold is None else threshold.low,
        middle=None if threshold is None else threshold.middle,
        high=None if threshold is None else threshold.high,
        before=None if result.before is None else result.before.middle,
        unit=drill.unit,
        trials=[
            JudgedTrial(
                says=drill.said(one.difference, exercise.interval),
                answer=one.answer,
                right=one.right,
                sure=one.sure,
                difference=one.difference,
                listens=one.listens,
            )
            for one in result.trials
        ],
        right=result.right,
        calibration=[
            SureOf(sure=one.sure, answers=one.answers, right=one.right)
            for one in result.calibration
        ],
        brier=result.brier,
    )


def scene_of(state: Sitting) -> DrillScene:
    """Return what may be known of a sitting."""
    truth = None
    if state.stage == "told":
        trial, drill = state.trials[-1], state.drill
        truth = TrialTruth(
            answer=trial.right,
            said=trial.answer,
            difference=trial.difference,
            says=drill.said(trial.difference, state.exercise.interval),
            listen_for=drill.answers[trial.right].listen_for,
        )
    return DrillScene(
        stage=state.stage,
        number=state.number,
        trials=state.exercise.trials,
        listens=state.listens,
        last=state.is_last,
        truth=truth,
    )


def samples_of(drill: Drill, sounding: Sounding) -> str:
    """Render what is played, as many samples for every trial of a drill."""
    samples = render(sounding.events, duration_s=drill.duration_s, sample_rate=SAMPLE_RATE)
    return base64.b64encode(np.round(samples * 32767.0).astype("<i2").tobytes()).decode()
