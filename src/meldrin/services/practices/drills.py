"""Practice of the ear: sittings at drills."""

from typing import Any, Final

from pydantic import TypeAdapter

from meldrin.core import drills
from meldrin.core.catalogue import tuning_said
from meldrin.core.drills import DrillAction, DrillExercise, DrillResult, Sitting, drill_of
from meldrin.core.errors import Code
from meldrin.core.methods.naming import string_label
from meldrin.core.session import Record, Shape
from meldrin.services.practices.kind import Brief, Columns, Kind

RESULTS: Final = TypeAdapter(DrillResult)


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
    made = exercise.instrument
    label = string_label(made, exercise.string, tuning_said(made, exercise.tuning))
    return f"{drill_of(exercise.drill).name}: {made.short_name}, {label} string"


def _brief(result: DrillResult) -> Brief:
    """A threshold in cents stands where a list shows how far off strings were."""
    in_cents = drill_of(result.drill).unit == "cents" and result.threshold is not None
    return Brief(
        aid="ear",
        median_cents=result.threshold.middle if in_cents and result.threshold else None,
        worst_cents=None,
        worst="",
        by_ear=result.right,
        by_ear_of=len(result.trials),
    )


def _nothing(_: Any) -> None:
    """A sitting has a threshold, and no points."""


DRILLS: Final = Kind[DrillExercise, Sitting, DrillAction, DrillResult](
    practice=drills.DRILLS_PRACTICE,
    engine=1,
    columns=_columns,
    kept=drills.with_instrument,
    name=_name,
    score=drills.drill_result,
    results=Shape[DrillResult](
        name="result",
        code=Code.UNREADABLE,
        version=1,
        write=_write,
        read=RESULTS.validate_python,
        upgrades={},
    ),
    points=_nothing,
    brief=_brief,
)
