"""Practice at the simulated instrument."""

import json
import math
from collections.abc import Sequence
from dataclasses import replace
from typing import Final

from pydantic import TypeAdapter
from pydantic_core import to_json

from meldrin.core import bench
from meldrin.core.bench import Action, Exercise, State, with_instrument
from meldrin.core.bench.listening import AIDS
from meldrin.core.errors import Code
from meldrin.core.names import exercise_name
from meldrin.core.scoring import Score, score
from meldrin.core.scoring.line import Line
from meldrin.core.scoring.rules import first_moments
from meldrin.core.session import Record, Shape
from meldrin.services.practices.kind import Brief, Columns, Kind

SCORES: Final = TypeAdapter(Score)


def _write(result: Score) -> Record:
    rules = tuple(replace(one, moments=first_moments(one.moments)) for one in result.rules)
    result = replace(result, rules=rules, moments=first_moments(result.moments))
    # a slack string is minus infinity away, which has to come back
    written: Record = json.loads(to_json(SCORES.dump_python(result), inf_nan_mode="constants"))
    return written


def _renamed(fields: Record) -> Record:
    """Return a score as version 2 names things: in tune, source."""
    for one in fields.get("strings", ()):
        if one.get("judgement") and one["judgement"]["verdict"] == "still":
            one["judgement"]["verdict"] = "in_tune"
    exercise = fields["advice"]["exercise"]
    exercise["source"] = exercise.pop("voice", "")
    return fields


def _columns(exercise: Exercise) -> Columns:
    return Columns(
        instrument=exercise.instrument_id,
        tuning=exercise.tuning,
        method=exercise.method,
        start=exercise.start,
    )


def _brief(result: Score) -> Brief:
    accuracy = result.accuracy
    bases = {one.basis for one in result.strings}
    shown = [aid for aid in AIDS if aid in bases]
    return Brief(
        aid=shown[-1] if shown else "read" if "read" in bases else "none",
        median_cents=_finite(accuracy.median_cents),
        worst_cents=_finite(accuracy.worst_cents),
        worst=accuracy.worst,
        by_ear=result.by_ear,
        by_ear_of=result.judged_by_ear_of,
        technique=_share(result.lines),
    )


def _share(lines: Sequence[Line]) -> float | None:
    """Return the share of technique that was right, whatever else its points depend on."""
    shares = [1.0 - line.broken for line in lines if line.part == "technique"]
    return sum(shares) / len(shares) if shares else None


def _finite(cents: float) -> float | None:
    return cents if math.isfinite(cents) else None


BENCH: Final = Kind[Exercise, State, Action, Score](
    practice=bench.BENCH,
    engine=5,
    columns=_columns,
    kept=with_instrument,
    name=exercise_name,
    score=score,
    results=Shape[Score](
        name="score",
        code=Code.UNREADABLE,
        version=2,
        write=_write,
        read=SCORES.validate_python,
        upgrades={1: _renamed},
    ),
    points=lambda result: result.points,
    brief=_brief,
)
