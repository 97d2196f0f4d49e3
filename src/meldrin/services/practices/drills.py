"""Practice of the ear: sittings at drills."""

from dataclasses import replace
from datetime import datetime
from typing import Any, Final, get_args

from pydantic import TypeAdapter

from meldrin.core import drills
from meldrin.core.catalogue import tuning_said
from meldrin.core.drills import (
    DrillAction,
    DrillExercise,
    DrillResult,
    Interval,
    MeasuredDrill,
    Sitting,
    ThresholdDrill,
    drill_of,
)
from meldrin.core.errors import Code
from meldrin.core.methods.naming import string_label
from meldrin.core.practice import SaidSure, Sat
from meldrin.core.session import Record, Shape
from meldrin.services.practices.kind import Columns, PracticeKind, ResultSummary

RESULTS: Final = TypeAdapter(DrillResult)


def _with_words(record: Record) -> Record:
    """Write into each trial what it was and what was said, which the first version left out."""
    drill = drill_of(record["drill"])
    assert isinstance(drill, ThresholdDrill)  # there were no others
    name = record["known_by"].split()[1] if drill.intervals else "unison"
    interval = next(one for one in get_args(Interval) if one == name)
    for trial in record["trials"]:
        trial["answers"] = len(drill.answers)
        trial["says"] = drill.said(trial["difference"], interval)
        trial["said"] = drill.answers[trial["answer"]].words
    return record


def _write(result: DrillResult) -> Record:
    written: Record = RESULTS.dump_python(result, mode="json")
    return written


def _columns(exercise: DrillExercise) -> Columns:
    return Columns(
        instrument=exercise.instrument_id,
        tuning=exercise.tuning,
        method=exercise.drill,
        start=exercise.known_by,
    )


def _name(exercise: DrillExercise) -> str:
    made, drill = exercise.instrument, drill_of(exercise.drill)
    if not isinstance(drill, MeasuredDrill):
        return f"{drill.name}: {made.short_name}"
    label = string_label(made, exercise.string, tuning_said(made, exercise.tuning))
    return f"{drill.name}: {made.short_name}, {label} string"


def _brief(result: DrillResult) -> ResultSummary:
    """A threshold in cents stands where a list shows how far off strings were."""
    drill, threshold = drill_of(result.drill), result.threshold
    in_cents = isinstance(drill, MeasuredDrill) and drill.unit == "cents"
    return ResultSummary(
        aid="ear",
        median_cents=threshold.middle if in_cents and threshold else None,
        worst_cents=None,
        worst="",
        by_ear=result.right,
        by_ear_of=len(result.trials),
    )


def _nothing(_: Any) -> None:
    """A sitting has a threshold, and no points."""


def _figure(exercise: DrillExercise, result: DrillResult, at: datetime, _: float) -> Sat | None:
    if not result.trials:
        return None
    wrong = [one for one in result.trials if not one.is_right]
    sides = isinstance(drill_of(result.drill), MeasuredDrill)
    return Sat(
        drill=result.drill,
        known_by=result.known_by,
        at=at,
        right=result.right,
        trials=len(result.trials),
        threshold=result.threshold,
        level=result.level,
        next_level=result.next_level,
        instrument=exercise.instrument_id,
        brier=result.brier,
        sure=tuple(SaidSure(one.sure, one.answers, one.right) for one in result.calibration),
        below=sum(one.answer < one.right for one in wrong) if sides else 0,
        above=sum(one.answer > one.right for one in wrong) if sides else 0,
    )


def _from_file(figure: Sat) -> Sat:
    return replace(figure, from_file=True)


DRILLS: Final = PracticeKind[DrillExercise, Sitting, DrillAction, DrillResult](
    practice=drills.DRILLS_PRACTICE,
    engine=3,
    columns=_columns,
    kept=drills.with_instrument,
    name=_name,
    score=drills.drill_result,
    results=Shape[DrillResult](
        name="result",
        code=Code.UNREADABLE,
        version=2,
        write=_write,
        read=RESULTS.validate_python,
        upgrades={1: _with_words},
    ),
    points=_nothing,
    brief=_brief,
    figure=_figure,
    figures=Sat,
    from_file=_from_file,
    tells="judge_trial",
)
