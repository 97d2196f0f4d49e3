"""Sittings at drills: begin one with what is known already, and what each drill has told so far."""

import json
import secrets
from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from meldrin.core.drills import DrillExercise, DrillResult, Threshold, drill_of, from_kept
from meldrin.core.drills.sitting import MOST_SEED
from meldrin.core.errors import MeldrinError
from meldrin.services.actor import Actor
from meldrin.services.attempts import Summary, start_attempt
from meldrin.services.practices.drills import DRILLS
from meldrin.store.tables import AttemptRow, ResultRow

PRACTICE = "drills"
DAY_S = 86_400.0


@dataclass(frozen=True, slots=True)
class Heard:
    """What the newest sitting at a drill, in one register and interval, has told."""

    drill: str
    known_by: str
    threshold: Threshold
    at: datetime


def begin_sitting(
    session: Session, actor: Actor, exercise: DrillExercise, *, now: datetime
) -> Summary:
    """Begin a sitting where the last one at the same drill and register left off, as far as it can
    still be relied on.
    """
    known: tuple[float, ...] = ()
    for result, at in _results(session, actor, exercise.drill, exercise.known_by):
        days = max(0.0, (now - at).total_seconds() / DAY_S)
        known = from_kept(drill_of(exercise.drill).scale, result.known).since(days).kept
        break
    seed = secrets.randbelow(MOST_SEED)
    begun = replace(exercise, known=known, seed=seed)
    return start_attempt(session, actor, begun, now=now, practice=PRACTICE)


def heard(session: Session, actor: Actor) -> list[Heard]:
    """Return what has been heard so far, the newest of each drill and register."""
    found: dict[tuple[str, str], Heard] = {}
    for result, at in _results(session, actor):
        key = (result.drill, result.known_by)
        if key not in found and result.threshold is not None:
            found[key] = Heard(*key, result.threshold, at)
    return list(found.values())


def _results(
    session: Session, actor: Actor, drill: str | None = None, known_by: str | None = None
) -> Iterator[tuple[DrillResult, datetime]]:
    """Yield the results of sittings in which something was judged, the newest first."""
    query = (
        select(ResultRow.record, AttemptRow.finished_at)
        .join(AttemptRow, AttemptRow.id == ResultRow.attempt_id)
        .where(AttemptRow.learner_id == actor.learner, AttemptRow.practice == PRACTICE)
        .where(ResultRow.engine == AttemptRow.engine, AttemptRow.finished_at.is_not(None))
        .order_by(AttemptRow.finished_at.desc(), AttemptRow.id.desc())
        .limit(500)
    )
    if drill is not None:
        query = query.where(AttemptRow.method == drill, AttemptRow.start == known_by)
    for record, at in session.execute(query):
        try:
            result = DRILLS.results.value(json.loads(record))
        except (MeldrinError, ValueError):  # damaged
            continue
        if result.trials and at is not None:
            yield result, at
