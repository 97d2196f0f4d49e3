"""The exercises of a studio's collection: kept, changed, copied, taken out and in."""

import json
import uuid
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Final

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from meldrin.core.errors import Code, MeldrinError
from meldrin.core.people import MOST_OF_A_TITLE
from meldrin.core.tasks import TASKS, ListenPart, ReadPart, Task, TaskPart, TunePart
from meldrin.services.actor import Actor
from meldrin.services.audit import note
from meldrin.services.practices import kind_of
from meldrin.services.studios import room_for, taught
from meldrin.store.tables import StudioRow, TaskRow

MOST_TASKS: Final = 500
READS: Final = {"before": "Before you start", "plan": "The plan"}


@dataclass(frozen=True, slots=True)
class StoredTask:
    """An exercise of a collection with its id, and when it was changed last."""

    id: str
    task: Task
    changed: datetime


def part_name(part: TaskPart) -> str:
    """Return what a part of an exercise is called."""
    match part:
        case TunePart():
            return kind_of("bench").name(part.exercise)
        case ListenPart():
            return kind_of("drills").name(part.exercise)
        case ReadPart():
            return READS[part.page]


def collection(session: Session, studio: StudioRow) -> list[StoredTask]:
    """Return the exercises of a studio, the one changed last first."""
    query = (
        select(TaskRow)
        .where(TaskRow.studio_id == studio.id)
        .order_by(TaskRow.changed_at.desc(), TaskRow.id.desc())
    )
    return [_kept(row) for row in session.scalars(query)]


def open_task(session: Session, actor: Actor, studio_id: str, task_id: str) -> StoredTask:
    """Return an exercise of a studio's collection.

    Raises:
        MeldrinError: code ``no_such_studio`` or ``no_such_task``.
    """
    return _kept(_there(session, taught(session, actor, studio_id), task_id))


def keep_task(
    session: Session,
    actor: Actor,
    studio_id: str,
    task: Task,
    *,
    task_id: str | None = None,
    now: datetime,
) -> StoredTask:
    """Keep an exercise in a studio's collection.

    Args:
        task_id: the one it takes the place of, or None for one more.

    Raises:
        MeldrinError: code ``no_such_studio``, ``no_such_task`` or ``too_many``.
    """
    studio = taught(session, actor, studio_id)
    if task_id is None:
        room_for(session, studio, 0)
        there = session.scalar(select(func.count()).where(TaskRow.studio_id == studio.id)) or 0
        if there >= MOST_TASKS:
            session.rollback()
            raise MeldrinError(
                Code.TOO_MANY, f"A studio keeps at most {MOST_TASKS} exercises. Erase one first."
            )
        row = TaskRow(public_id=uuid.uuid4().hex, studio_id=studio.id)
        session.add(row)
    else:
        row = _there(session, studio, task_id)
    row.name, row.record, row.changed_at = task.name, json.dumps(TASKS.record(task)), now
    note(session, actor, studio.id, "task", now=now)
    session.commit()
    return _kept(row)


def copy_task(
    session: Session, actor: Actor, studio_id: str, task_id: str, *, now: datetime
) -> StoredTask:
    """Keep a copy of an exercise, to be changed."""
    task = open_task(session, actor, studio_id, task_id).task
    name = f"{task.name[: MOST_OF_A_TITLE - 5].rstrip()} copy"
    return keep_task(session, actor, studio_id, replace(task, name=name), now=now)


def erase_task(
    session: Session, actor: Actor, studio_id: str, task_id: str, *, now: datetime
) -> None:
    """Erase an exercise of the collection; where it was given it stays as it is."""
    studio = taught(session, actor, studio_id)
    session.delete(_there(session, studio, task_id))
    note(session, actor, studio.id, "task", now=now)
    session.commit()


def task_in(record: str) -> Task:
    """Return the exercise that a row holds."""
    return TASKS.value(json.loads(record))


def _kept(row: TaskRow) -> StoredTask:
    return StoredTask(row.public_id, task_in(row.record), row.changed_at)


def _there(session: Session, studio: StudioRow, task_id: str) -> TaskRow:
    row = session.scalar(
        select(TaskRow).where(TaskRow.public_id == task_id, TaskRow.studio_id == studio.id)
    )
    if row is None:
        raise MeldrinError(Code.NO_SUCH_TASK, "There is no such exercise in this studio.")
    return row
