"""Exercises that were given: to whom, until when, and begun part by part."""

import json
import random
import secrets
import uuid
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any, Final

from sqlalchemy import ColumnElement, delete, func, or_, select
from sqlalchemy.orm import Session

from meldrin.core.bench.exercise import MOST_SEED
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.people import is_join_code, join_code_drawn, join_code_said, name_said
from meldrin.core.pitch import Naming
from meldrin.core.tasks import (
    TASKS,
    ListenPart,
    ReadPart,
    Task,
    TaskPart,
    TunePart,
    seed_for,
)
from meldrin.services.actor import Actor
from meldrin.services.attempts import start_attempt
from meldrin.services.audit import note
from meldrin.services.drills import begin_sitting
from meldrin.services.exercises import drawn
from meldrin.services.identity import TEACHING
from meldrin.services.permissions import may_do, may_teach
from meldrin.services.pupils import group_in
from meldrin.services.studios import member_in, room_for, taught
from meldrin.services.tasks import open_task, task_in
from meldrin.store.tables import (
    AssignedAttemptRow,
    AssignedGuestRow,
    AssignedMemberRow,
    AssignmentRow,
    AttemptRow,
    GroupMemberRow,
    MemberRow,
    StudioRow,
)

MOST_GIVEN: Final = 2000
_DRAW: Final = random.SystemRandom()


@dataclass(frozen=True, slots=True)
class To:
    """To whom an exercise is given: every pupil, a group (its id), some members (their ids), and
    whoever has its code.
    """

    everyone: bool = False
    group: str | None = None
    members: tuple[str, ...] = ()
    by_link: bool = False


@dataclass(frozen=True, slots=True)
class PartDone:
    """How far somebody is with a part.

    times: how often they have finished it. open: the attempt that goes on, or None.
    last: the one finished last, or None.
    """

    part: TaskPart
    times: int = 0
    open: str | None = None
    last: str | None = None

    @property
    def is_done(self) -> bool:
        """Whether it was done as often as it is to be done; what is read is done by opening it."""
        return isinstance(self.part, ReadPart) or self.times >= self.part.times


@dataclass(frozen=True, slots=True)
class Given:
    """An exercise that was given, as the one who does it sees it.

    by: the studio; parts: with how far they are.
    """

    row: AssignmentRow
    task: Task
    studio: str
    teachers: tuple[str, ...]
    parts: tuple[PartDone, ...]

    @property
    def next(self) -> int | None:
        """The first part that is not done yet, from 0; None when all are."""
        return next((n for n, one in enumerate(self.parts) if not one.is_done), None)


def give(
    session: Session,
    actor: Actor,
    studio_id: str,
    task_id: str,
    to: To,
    *,
    due: datetime | None,
    now: datetime,
    seed: int | None = None,
) -> AssignmentRow:
    """Give an exercise of the collection; what is changed of it later does not touch it.

    Args:
        seed: what starts are drawn with where all get the same, or None for at random.

    Raises:
        MeldrinError: code ``task`` where it is given to nobody, or for a date that is over;
            ``no_such_member``, ``no_such_group``, ``too_many``.
    """
    studio = taught(session, actor, studio_id)
    task = open_task(session, actor, studio_id, task_id).task
    if not (to.everyone or to.group or to.members or to.by_link):
        raise MeldrinError(Code.TASK, "Choose to whom it is given.")
    if due is not None and due <= now:
        raise MeldrinError(Code.TASK, "This date is over. Choose a later one, or none.")
    room_for(session, studio, 0)
    there = session.scalar(select(func.count()).where(AssignmentRow.studio_id == studio.id)) or 0
    if there >= MOST_GIVEN:
        session.rollback()
        raise MeldrinError(
            Code.TOO_MANY, f"A studio has at most {MOST_GIVEN} exercises given. Erase old ones."
        )
    row = AssignmentRow(
        public_id=uuid.uuid4().hex,
        studio_id=studio.id,
        name=task.name,
        record=json.dumps(TASKS.record(task)),
        seed=secrets.randbelow(MOST_SEED) if seed is None else seed,
        everyone=to.everyone,
        group_id=None if to.group is None else group_in(session, studio, to.group).id,
        code=join_code_drawn(_DRAW) if to.by_link else None,
        created_at=now,
        due_at=due,
    )
    members = [member_in(session, studio, one).id for one in dict.fromkeys(to.members)]
    session.add(row)
    session.flush()
    session.add_all(AssignedMemberRow(assignment_id=row.id, member_id=one) for one in members)
    note(session, actor, studio.id, "given", now=now)
    session.commit()
    return row


def assignment_in(session: Session, studio: StudioRow, assignment_id: str) -> AssignmentRow:
    """Return an exercise that was given in a studio.

    Raises:
        MeldrinError: code ``no_such_task``.
    """
    row = session.scalar(
        select(AssignmentRow).where(
            AssignmentRow.public_id == assignment_id, AssignmentRow.studio_id == studio.id
        )
    )
    if row is None:
        raise _no_task()
    return row


def change_given(
    session: Session,
    actor: Actor,
    studio_id: str,
    assignment_id: str,
    *,
    due: datetime | None,
    open_by_code: bool,
    now: datetime,
) -> None:
    """Give an exercise another date, or open and close its code."""
    studio = taught(session, actor, studio_id)
    row = assignment_in(session, studio, assignment_id)
    row.due_at = due
    if open_by_code != (row.code is not None):
        row.code = join_code_drawn(_DRAW) if open_by_code else None
    note(session, actor, studio.id, "given", now=now)
    session.commit()


def take_back(
    session: Session, actor: Actor, studio_id: str, assignment_id: str, *, now: datetime
) -> None:
    """Take an exercise back; what pupils did for it stays their own."""
    studio = taught(session, actor, studio_id)
    row = assignment_in(session, studio, assignment_id)
    session.execute(delete(AssignmentRow).where(AssignmentRow.id == row.id))
    note(session, actor, studio.id, "given", now=now)
    session.commit()


def set_for(session: Session, actor: Actor) -> list[Given]:
    """Return the exercises that somebody has to do, what is due first first."""
    if actor.learner is None:
        return []
    mine = select(MemberRow).where(MemberRow.learner_id == actor.learner, MemberRow.role == "pupil")
    found: list[AssignmentRow] = []
    for member in session.scalars(mine):
        in_groups = select(GroupMemberRow.group_id).where(GroupMemberRow.member_id == member.id)
        by_name = select(AssignedMemberRow.assignment_id).where(
            AssignedMemberRow.member_id == member.id
        )
        query = select(AssignmentRow).where(
            AssignmentRow.studio_id == member.studio_id,
            or_(
                AssignmentRow.everyone.is_(True),
                AssignmentRow.group_id.in_(in_groups),
                AssignmentRow.id.in_(by_name),
            ),
        )
        found += session.scalars(query.order_by(AssignmentRow.created_at.desc()).limit(50))
    by_code = (
        select(AssignmentRow)
        .join(AssignedGuestRow, AssignedGuestRow.assignment_id == AssignmentRow.id)
        .where(AssignedGuestRow.learner_id == actor.learner, AssignmentRow.code.is_not(None))
    )
    known = {row.id for row in found}
    found += [row for row in session.scalars(by_code) if row.id not in known]
    return sorted(
        _given(session, actor, found),
        key=lambda one: (
            one.next is None,
            one.row.due_at is None,
            one.row.due_at or one.row.created_at,
        ),
    )


def open_given(session: Session, actor: Actor, key: str) -> Given:
    """Return an exercise that somebody has to do, or may do because they have its code.

    Args:
        key: its id, or its code.

    Raises:
        MeldrinError: code ``no_such_task``.
    """
    return _given(session, actor, [_open(session, actor, key)])[0]


def begin_part(
    session: Session,
    actor: Actor,
    key: str,
    number: int,
    *,
    naming: Naming,
    called: str = "",
    now: datetime,
) -> tuple[str, str]:
    """Begin a part of an exercise, or go on with it where it was begun.

    Args:
        number: of the part, from 0.
        called: what somebody who comes by the code wants to be called; “” for nothing.

    Returns:
        The practice and the id of the attempt.

    Raises:
        MeldrinError: code ``no_such_task``, also for a part that is read.
    """
    row = _open(session, actor, key)
    given = _given(session, actor, [row])[0]
    if not 0 <= number < len(given.parts) or isinstance(given.parts[number].part, ReadPart):
        raise MeldrinError(Code.NO_SUCH_TASK, "There is no such part to be begun.")
    done = given.parts[number]
    practice = "drills" if isinstance(done.part, ListenPart) else "bench"
    if done.open is not None:
        return practice, done.open
    if not _is_pupil_of(session, actor, row):
        _come_by_code(session, actor, row, called)
    own = secrets.randbelow(MOST_SEED)
    seed = seed_for(given.task, seed=row.seed, part=number, time=done.times, own=own)
    begun = _begun(
        session, actor, done, seed=seed, fresh=given.task.starts == "own", naming=naming, now=now
    )
    attempt = session.scalar(select(AttemptRow.id).where(AttemptRow.public_id == begun))
    session.add(
        AssignedAttemptRow(
            attempt_id=attempt, assignment_id=row.id, part=number, learner_id=actor.learner
        )
    )
    session.commit()
    return practice, begun


def try_part(
    session: Session, actor: Actor, studio_id: str, task_id: str, number: int, *, now: datetime
) -> tuple[str, str]:
    """Begin a part of an exercise of the collection as its teacher, to see and hear it.

    Raises:
        MeldrinError: code ``no_such_studio`` or ``no_such_task``.
    """
    task = open_task(session, actor, studio_id, task_id).task
    if not 0 <= number < len(task.parts) or isinstance(task.parts[number], ReadPart):
        raise MeldrinError(Code.NO_SUCH_TASK, "There is no such part to be begun.")
    part = task.parts[number]
    seed = secrets.randbelow(MOST_SEED)
    begun = _begun(session, actor, PartDone(part), seed=seed, fresh=True, naming=None, now=now)
    return ("drills" if isinstance(part, ListenPart) else "bench"), begun


def assignment_of(session: Session, attempt_key: int) -> str | None:
    """Return the id of the exercise for which an attempt was begun, or None."""
    return session.scalar(
        select(AssignmentRow.public_id)
        .join(AssignedAttemptRow, AssignedAttemptRow.assignment_id == AssignmentRow.id)
        .where(AssignedAttemptRow.attempt_id == attempt_key)
    )


def _begun(
    session: Session,
    actor: Actor,
    done: PartDone,
    *,
    seed: int,
    fresh: bool,
    naming: Naming | None,
    now: datetime,
) -> str:
    named: dict[str, Any] = {} if naming is None else {"naming": naming}
    match done.part:
        case TunePart():
            exercise = replace(done.part.begun(done.times, seed=seed), **named)
            return start_attempt(
                session, actor, drawn(exercise, seed=seed, fresh=fresh), now=now
            ).id
        case ListenPart():
            sitting = replace(done.part.exercise, **named)
            return begin_sitting(session, actor, sitting, seed=seed, now=now).id
        case ReadPart():
            raise AssertionError("what is read is not begun")


def _open(session: Session, actor: Actor, key: str) -> AssignmentRow:
    if is_join_code(key):
        row = session.scalar(select(AssignmentRow).where(AssignmentRow.code == join_code_said(key)))
        if row is not None:
            return row
        raise MeldrinError(Code.NO_SUCH_TASK, "This code opens nothing now. Ask for a new one.")
    row = session.scalar(select(AssignmentRow).where(AssignmentRow.public_id == key))
    if row is None:
        raise _no_task()
    has_it = _is_pupil_of(session, actor, row) or _came_by_code(session, actor, row)
    if not may_do(actor, row, has_it=has_it):
        raise _no_task()
    return row


def _is_pupil_of(session: Session, actor: Actor, row: AssignmentRow) -> bool:
    query = select(MemberRow.id).where(
        MemberRow.studio_id == row.studio_id,
        MemberRow.learner_id == actor.learner,
        MemberRow.role == "pupil",
    )
    if not row.everyone:
        query = query.where(_is_for(row))
    return session.scalar(query) is not None


def _is_for(row: AssignmentRow) -> ColumnElement[bool]:
    in_group = select(GroupMemberRow.member_id).where(GroupMemberRow.group_id == row.group_id)
    by_name = select(AssignedMemberRow.member_id).where(AssignedMemberRow.assignment_id == row.id)
    return or_(MemberRow.id.in_(in_group), MemberRow.id.in_(by_name))


def _came_by_code(session: Session, actor: Actor, row: AssignmentRow) -> bool:
    if actor.learner is None or row.code is None:
        return False
    return session.get(AssignedGuestRow, (row.id, actor.learner)) is not None


def _come_by_code(session: Session, actor: Actor, row: AssignmentRow, called: str) -> None:
    if actor.learner is None or may_teach(actor, row.studio_id):
        return
    there = session.get(AssignedGuestRow, (row.id, actor.learner))
    if there is None:
        name = name_said(called) if called.strip() else ""
        session.add(AssignedGuestRow(assignment_id=row.id, learner_id=actor.learner, name=name))
        session.commit()


def _given(session: Session, actor: Actor, rows: Sequence[AssignmentRow]) -> list[Given]:
    done = _done(session, actor, rows)
    studios = {row.studio_id for row in rows}
    names = dict(
        session.execute(select(StudioRow.id, StudioRow.name).where(StudioRow.id.in_(studios))).all()
    )
    teachers: dict[int, list[str]] = {}
    teaching = (
        select(MemberRow.studio_id, MemberRow.name)
        .where(MemberRow.studio_id.in_(studios), MemberRow.role.in_(TEACHING))
        .order_by(MemberRow.name)
    )
    for studio, name in session.execute(teaching):
        teachers.setdefault(studio, []).append(name)
    found = []
    for row in rows:
        task = task_in(row.record)
        parts = tuple(
            replace(done.get((row.id, number), PartDone(part)), part=part)
            for number, part in enumerate(task.parts)
        )
        by = tuple(teachers.get(row.studio_id, ()))
        found.append(Given(row, task, names[row.studio_id], by, parts))
    return found


def _done(
    session: Session, actor: Actor, rows: Sequence[AssignmentRow]
) -> dict[tuple[int, int], PartDone]:
    """Return how far somebody is with the parts of exercises: by an exercise's key and a part."""
    if actor.learner is None:
        return {}
    query = (
        select(
            AssignedAttemptRow.assignment_id,
            AssignedAttemptRow.part,
            AssignedAttemptRow.finished,
            AttemptRow.public_id,
        )
        .join(AttemptRow, AttemptRow.id == AssignedAttemptRow.attempt_id)
        .where(AssignedAttemptRow.learner_id == actor.learner)
        .where(AssignedAttemptRow.assignment_id.in_([row.id for row in rows]))
        .order_by(AttemptRow.created_at, AttemptRow.id)
    )
    found: dict[tuple[int, int], PartDone] = {}
    for assignment, part, finished, attempt in session.execute(query):
        before = found.get((assignment, part), PartDone(ReadPart("before", "")))
        if finished:
            found[assignment, part] = replace(before, times=before.times + 1, last=attempt)
        else:
            found[assignment, part] = replace(before, open=attempt)
    return found


def _no_task() -> MeldrinError:
    return MeldrinError(Code.NO_SUCH_TASK, "There is no such exercise set for you.")
