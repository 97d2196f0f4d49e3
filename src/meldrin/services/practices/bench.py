"""Practice at the simulated instrument."""

import json
import math
from collections.abc import Sequence
from dataclasses import replace
from datetime import datetime
from typing import Final

from pydantic import TypeAdapter
from pydantic_core import to_json

from meldrin.core import bench
from meldrin.core.bench import FAULT, FREE, Action, Exercise, State, with_instrument
from meldrin.core.bench.limits import limits
from meldrin.core.bench.listening import AIDS
from meldrin.core.errors import Code
from meldrin.core.names import exercise_name
from meldrin.core.practice import Broken, Brought, Tuned
from meldrin.core.scoring import Score, score
from meldrin.core.scoring.line import Line
from meldrin.core.scoring.result import StringResult
from meldrin.core.scoring.rules import first_moments
from meldrin.core.session import Record, Shape
from meldrin.services.practices.kind import Columns, PracticeKind, ResultSummary

SCORES: Final = TypeAdapter(Score)
WORTH_A_WORD: Final = 0.15  # the share of a rule that is broken before it is said
BROUGHT_IN: Final = "It came from a file, so it is practice."
MOST_CENTS: Final = 100_000.0  # of a slack string, in a figure


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


def _brief(result: Score) -> ResultSummary:
    accuracy = result.accuracy
    bases = {one.basis for one in result.strings}
    shown = [aid for aid in AIDS if aid in bases]
    return ResultSummary(
        aid=shown[-1] if shown else "read" if "read" in bases else "none",
        median_cents=_finite(accuracy.median_cents),
        worst_cents=_finite(accuracy.worst_cents),
        worst=_worst(result),
        sides_right=result.sides.right,
        sides_of=result.sides.of,
        by_ear=result.by_ear,
        by_ear_of=0 if result.practice else result.judged_by_ear_of,
        technique=_share(result.lines),
    )


def _worst(result: Score) -> str:
    """Return the string that is furthest off, and the side."""
    worst = next(one for one in result.strings if one.label == result.accuracy.worst)
    return f"{worst.label} {'low' if worst.pitch_cents < 0.0 else 'high'}"


def _share(lines: Sequence[Line]) -> float | None:
    """Return the share of technique that was right, whatever else its points depend on."""
    shares = [1.0 - line.broken for line in lines if line.part == "technique"]
    return sum(shares) / len(shares) if shares else None


def _finite(cents: float) -> float | None:
    return cents if math.isfinite(cents) else None


def _figure(exercise: Exercise, result: Score, at: datetime, seconds: float) -> Tuned | None:
    if exercise.method in (FREE, FAULT) or not any(one.moves for one in result.strings):
        return None
    return Tuned(
        instrument=exercise.instrument_id,
        method=exercise.method,
        at=at,
        aid=_brief(result).aid,
        strings=tuple(_brought(one) for one in result.strings),
        points=result.points,
        closing_cents=_near(result.closing_cents),
        seconds=seconds,
        tolerance_cents=limits().tolerances[exercise.tolerance].full_cents,
        habit=result.advice.habit[:40],
        advice=result.advice.sentence[:300] if result.advice.habit else "",
        practice=result.practice,
        proves=result.counts_in_a_row,
        sides_right=result.sides.right,
        sides_of=result.sides.of,
        start=exercise.start,
        behaviours=tuple(sorted(exercise.behaviours)),
        held=_held(result.lines),
        guided=exercise.guided,
        broken=tuple(
            Broken(line.rule, round(min(1.0, line.broken), 3))
            for line in result.lines
            if line.part == "technique" and line.rule and line.broken >= WORTH_A_WORD
        ),
    )


def _held(lines: Sequence[Line]) -> float | None:
    held = [line for line in lines if line.part == "holding"]
    possible = sum(line.out_of for line in held)
    return round(sum(line.points for line in held) / possible, 3) if possible else None


def _brought(one: StringResult) -> Brought:
    said = one.judgement
    return Brought(
        string=one.number,
        began_cents=_near(one.began_cents) or 0.0,
        ended_cents=_near(one.pitch_cents) or 0.0,
        well=one.brought,
        label=one.label[:40],
        verdict=said.verdict if said else None,
        was_cents=_near(said.was_cents) if said else None,
        moves=one.moves,
        overshoots=one.overshoots,
        basis=one.basis,
    )


def _near(cents: float | None) -> float | None:
    """Return a size that stays finite where a string was slack or broken."""
    return None if cents is None else max(-MOST_CENTS, min(MOST_CENTS, cents))


def _from_file(figure: Tuned) -> Tuned:
    """Return a figure that proves nothing: no file can say that a start was not known."""
    return replace(figure, proves=False, guided=False, practice=figure.practice or BROUGHT_IN)


BENCH: Final = PracticeKind[Exercise, State, Action, Score](
    practice=bench.BENCH,
    engine=6,
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
    figure=_figure,
    figures=Tuned,
    from_file=_from_file,
    tells="turn",
)
