"""What learners can do: the steps they have proven, and one to try."""

import json
import math
import time
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Final

from pydantic import TypeAdapter
from sqlalchemy import func, select
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.orm import Session

from meldrin.core.bench import FAULT
from meldrin.core.drills import DrillExercise
from meldrin.core.pitch import Naming
from meldrin.core.practice import (
    Aim,
    Evidence,
    Path,
    Way,
    beginning,
    path_of,
    ways,
)
from meldrin.core.practice.path import path_kept, step_of, steps_sum
from meldrin.services.actor import Actor
from meldrin.services.aims import aim_of
from meldrin.services.attempts import start_attempt
from meldrin.services.audit import note_steps
from meldrin.services.drills import begin_sitting
from meldrin.services.exercises import drawn
from meldrin.services.figures import figures_of, gone_of
from meldrin.services.instruments import text_for
from meldrin.services.studios import taught
from meldrin.store.tables import AttemptRow, FigureRow, MemberRow, PathRow, ResultRow


@dataclass(frozen=True, slots=True)
class PupilOnPath:
    """A pupil: the member's id and name, and what they can do."""

    member: str
    name: str
    path: Path


PROVEN: Final = TypeAdapter(dict[str, datetime])
READS_FOR_S: Final = 0.3  # of a large class at once: the rest when it is asked for again
LOOKED_AT: Final = 600  # of the newest figures, where the newest say enough
USUAL: Final = Aim("unison", "guitar")  # for whom nothing is known


def path_for(session: Session, actor: Actor) -> Path:
    """Return which steps a learner has proven: as kept, where nothing was done since."""
    if actor.learner is None:
        return path_of(Evidence())
    return _paths(session, [actor.learner])[actor.learner]


def _paths(
    session: Session, learners: Sequence[int], *, for_s: float = math.inf
) -> dict[int, Path]:
    """Return the paths of learners; those with figures that were not looked at yet are found out
    and kept, as many as can be in `for_s` seconds, and one at least. The others are left out.
    """
    begun_s = time.monotonic()
    seen = dict.fromkeys(learners, (0, 0))
    query = (
        select(FigureRow.learner_id, func.count(), func.max(FigureRow.id))
        .where(FigureRow.learner_id.in_(learners))
        .group_by(FigureRow.learner_id)
    )
    for learner, count, newest in session.execute(query):
        seen[learner] = (count, newest)
    rows = session.scalars(select(PathRow).where(PathRow.learner_id.in_(learners)))
    kept = {row.learner_id: row for row in rows}
    found, worked = {}, False
    for learner, (count, newest) in seen.items():
        row = kept.get(learner)
        if row is not None and (row.figures, row.newest, row.steps) == (count, newest, steps_sum()):
            found[learner] = path_kept(PROVEN.validate_json(row.record))
            continue
        if worked and time.monotonic() - begun_s > for_s:
            continue
        worked = True
        found[learner] = path = path_of(evidence_of(session, Actor(learner)))
        proven = {one.step.id: one.proven for one in path.steps if one.proven}
        values = {
            "figures": count,
            "newest": newest,
            "steps": steps_sum(),
            "record": PROVEN.dump_json(proven).decode(),
        }
        # IGNORE: they may have been erased meanwhile
        made = insert(PathRow).prefix_with("IGNORE").values(learner_id=learner, **values)
        session.execute(made.on_duplicate_key_update(**values))
    session.commit()
    return found


def evidence_of(session: Session, actor: Actor) -> Evidence:
    """Return all that a learner has done, the oldest first."""
    sat, tuned = figures_of(session, actor)
    return Evidence(
        sat,
        tuned,
        _faults(session, actor),
        gone=gone_of(session, actor),
        sittings_gone=gone_of(session, actor, practice="drills"),
    )


def _faults(session: Session, actor: Actor) -> list[tuple[datetime, float]]:
    """Return when faults were found that nobody knew, and the points."""
    query = (
        select(AttemptRow.finished_at, ResultRow.points, AttemptRow.exercise)
        .join(ResultRow, ResultRow.attempt_id == AttemptRow.id)
        .where(AttemptRow.learner_id == actor.learner, AttemptRow.method == FAULT)
        .order_by(AttemptRow.finished_at)
    )
    return [
        (at, points)
        for at, points, exercise in session.execute(query)
        if at is not None and points is not None and json.loads(exercise).get("fresh")
    ]


def begin_step(
    session: Session,
    actor: Actor,
    step_id: str,
    *,
    naming: Naming,
    now: datetime,
    aim: Aim | None = None,
) -> tuple[str, bool]:
    """Begin what a step is tried with, on the instrument of an aim, or the learner's own.

    Returns:
        The attempt's id, and whether it is a sitting.

    Raises:
        MeldrinError: code ``no_such_step``, or where no method serves the instrument.
    """
    step = step_of(step_id)
    aim = aim or aim_of(session, actor) or USUAL
    text = text_for(session, actor, aim.instrument_id)
    _, tuned = figures_of(session, actor, most=LOOKED_AT)
    methods = {one.method for one in tuned if one.well and not one.practice}
    made = beginning(step, aim, text=text, methods=methods, naming=naming)
    if isinstance(made, DrillExercise):
        return begin_sitting(session, actor, made, now=now).id, True
    return start_attempt(session, actor, drawn(made), now=now).id, False


def class_path(
    session: Session, actor: Actor, studio_id: str, *, now: datetime
) -> tuple[list[PupilOnPath], int]:
    """Return where the pupils of a studio stand, by name, and of how many that is not found out
    yet: ask again. That it was looked at is written down.

    Raises:
        MeldrinError: code ``no_such_studio``.
    """
    studio = taught(session, actor, studio_id)
    note_steps(session, actor, studio.id, now=now)
    query = (
        select(MemberRow.public_id, MemberRow.name, MemberRow.learner_id)
        .where(MemberRow.studio_id == studio.id, MemberRow.role == "pupil")
        .order_by(MemberRow.name, MemberRow.id)
    )
    pupils = session.execute(query).all()
    paths = _paths(session, [learner for _, _, learner in pupils], for_s=READS_FOR_S)
    found = [
        PupilOnPath(member, name, paths[learner])
        for member, name, learner in pupils
        if learner in paths
    ]
    return found, len(pupils) - len(found)


def ways_for(
    session: Session, actor: Actor, instrument_id: str, *, tuning: str, naming: Naming
) -> tuple[Way, ...]:
    """Return three ways to begin on an instrument, from what the learner has done on it.

    Raises:
        MeldrinError: for an instrument or tuning that does not exist.
    """
    text = text_for(session, actor, instrument_id)
    _, tuned = figures_of(session, actor, most=LOOKED_AT)
    own = [one for one in tuned if one.instrument == instrument_id]
    return ways(text, tuning, tuned=own, naming=naming)
