"""Sittings at drills: begin one with what is known already, and what each drill has told so far."""

import json
import secrets
from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from meldrin.core.drills import (
    DrillExercise,
    DrillResult,
    MeasuredDrill,
    drill_of,
    drill_result,
    from_kept,
)
from meldrin.core.drills.sitting import MOST_SEED
from meldrin.core.errors import MeldrinError
from meldrin.services.actor import Actor
from meldrin.services.attempts import OPEN, Summary, record_of, start_attempt
from meldrin.services.practices.drills import DRILLS
from meldrin.store.tables import AttemptRow, ResultRow

PRACTICE = "drills"
DAY_S = 86_400.0
OFFERED_FOR = timedelta(days=7)  # so long a sitting that was left is offered again
MOST_OFFERED = 3


@dataclass(frozen=True, slots=True)
class SoFar:
    """What the newest sitting at a drill, in one register and interval or on one instrument, has
    told.
    """

    instrument: str
    result: DrillResult
    at: datetime


@dataclass(frozen=True, slots=True)
class Left:
    """A sitting that was left before its end."""

    id: str
    drill: str
    name: str
    at: datetime


def begin_sitting(
    session: Session,
    actor: Actor,
    exercise: DrillExercise,
    *,
    now: datetime,
    seed: int | None = None,
) -> Summary:
    """Begin a sitting where the last one at the same drill and register left off, as far as it can
    still be relied on. One that was left before its end counts like any other.

    Args:
        seed: what its trials are drawn with; None for a random one.
    """
    known: tuple[float, ...] = ()
    level, drill = exercise.level, drill_of(exercise.drill)
    last = _last(session, actor, exercise)
    if last is not None:
        result, at = last
        level = result.next_level
        if isinstance(drill, MeasuredDrill):
            days = max(0.0, (now - at).total_seconds() / DAY_S)
            known = from_kept(drill.scale, result.known).since(days).kept
    seed = secrets.randbelow(MOST_SEED) if seed is None else seed
    begun = replace(exercise, known=known, seed=seed, level=level)
    return start_attempt(session, actor, begun, now=now, practice=PRACTICE)


def so_far(session: Session, actor: Actor) -> list[SoFar]:
    """Return what has been heard so far, the newest of each drill and register; of a drill without
    a threshold the newest on each instrument.
    """
    found: dict[tuple[str, str], SoFar] = {}
    for result, instrument, at in _results(session, actor):
        where = instrument if result.threshold is None else result.known_by
        found.setdefault((result.drill, where), SoFar(instrument, result, at))
    return list(found.values())


def left(session: Session, actor: Actor, *, now: datetime) -> list[Left]:
    """Return the sittings of the last days that were left before their end, the newest first; of
    those at one drill the newest.
    """
    query = (
        select(AttemptRow.id)
        .where(AttemptRow.learner_id == actor.learner, AttemptRow.practice == PRACTICE)
        .where(AttemptRow.state == OPEN, AttemptRow.created_at > now - OFFERED_FOR)
        .order_by(AttemptRow.created_at.desc(), AttemptRow.id.desc())
        .limit(4 * MOST_OFFERED)
    )
    found: dict[str, Left] = {}
    for key in session.scalars(query):
        try:
            summary = record_of(session, key).summary
        except MeldrinError:  # damaged
            continue
        drill = summary.exercise.drill
        found.setdefault(drill, Left(summary.id, drill, summary.name, summary.created_at))
    return list(found.values())[:MOST_OFFERED]


def _last(
    session: Session, actor: Actor, exercise: DrillExercise
) -> tuple[DrillResult, datetime] | None:
    """Return what the newest sitting of this kind has told, finished or left."""
    same = (
        AttemptRow.learner_id == actor.learner,
        AttemptRow.practice == PRACTICE,
        AttemptRow.method == exercise.drill,
        AttemptRow.start == exercise.known_by,
    )
    measured = isinstance(drill_of(exercise.drill), MeasuredDrill)
    where = same if measured else (*same, AttemptRow.instrument == exercise.instrument_id)
    query = (
        select(AttemptRow.id, AttemptRow.created_at, ResultRow.record)
        .outerjoin(
            ResultRow,
            (ResultRow.attempt_id == AttemptRow.id) & (ResultRow.engine == AttemptRow.engine),
        )
        .where(*where)
        .order_by(AttemptRow.created_at.desc(), AttemptRow.id.desc())
        .limit(10)
    )
    for key, at, kept in session.execute(query):
        try:
            result = _kept(kept) if kept else _gone_through(session, key)
        except (MeldrinError, ValueError):  # damaged
            continue
        if result.trials:
            return result, at
    return None


def _kept(record: str) -> DrillResult:
    return DRILLS.results.value(json.loads(record))


def _gone_through(session: Session, key: int) -> DrillResult:
    """Return what a sitting tells that was left, or has not been scored yet."""
    record = record_of(session, key)
    return drill_result(record.exercise, record.timed)


def _results(session: Session, actor: Actor) -> Iterator[tuple[DrillResult, str, datetime]]:
    """Yield the results of sittings in which something was judged, the newest first."""
    query = (
        select(ResultRow.record, AttemptRow.instrument, AttemptRow.finished_at)
        .join(AttemptRow, AttemptRow.id == ResultRow.attempt_id)
        .where(AttemptRow.learner_id == actor.learner, AttemptRow.practice == PRACTICE)
        .where(ResultRow.engine == AttemptRow.engine, AttemptRow.finished_at.is_not(None))
        .order_by(AttemptRow.finished_at.desc(), AttemptRow.id.desc())
        .limit(200)
    )
    for record, instrument, at in session.execute(query):
        try:
            result = _kept(record)
        except (MeldrinError, ValueError):  # damaged
            continue
        if result.trials and at is not None:
            yield result, instrument, at
