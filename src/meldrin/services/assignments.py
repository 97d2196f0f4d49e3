"""Exercises that were given: to whom, until when, begun part by part, and how far each is."""

import json
import random
import secrets
import uuid
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any, Final

from sqlalchemy import ColumnElement, delete, func, or_, select
from sqlalchemy.orm import Session

from meldrin.core.bench import FAULT
from meldrin.core.bench.exercise import MOST_SEED
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.people import is_join_code, join_code_drawn, join_code_said, name_said
from meldrin.core.pitch import Naming
from meldrin.core.tasks import (
    TASKS,
    ClassResult,
    Did,
    ListenPart,
    Part,
    ReadPart,
    Task,
    TunePart,
    class_result,
    seed_for,
)
from meldrin.core.words import listed
from meldrin.services.actor import Actor
from meldrin.services.attempts import FINISHED, start_attempt
from meldrin.services.audit import note, note_results
from meldrin.services.drills import begin_sitting
from meldrin.services.exercises import drawn
from meldrin.services.figures import figures_read
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
    FigureRow,
    GroupMemberRow,
    GroupRow,
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

    part: Part
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


def given_in(session: Session, studio: StudioRow, *, most: int = 100) -> list[AssignmentRow]:
    """Return the exercises that were given in a studio, the newest first."""
    query = (
        select(AssignmentRow)
        .where(AssignmentRow.studio_id == studio.id)
        .order_by(AssignmentRow.created_at.desc(), AssignmentRow.id.desc())
        .limit(most)
    )
    return list(session.scalars(query))


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


def to_whom(session: Session, row: AssignmentRow) -> str:
    """Return to whom an exercise was given, in words."""
    found = ["everyone"] if row.everyone else []
    if row.group_id is not None:
        found.append(session.get_one(GroupRow, row.group_id).name)
    by_name = (
        select(MemberRow.name)
        .join(AssignedMemberRow, AssignedMemberRow.member_id == MemberRow.id)
        .where(AssignedMemberRow.assignment_id == row.id)
        .order_by(MemberRow.name)
    )
    names = list(session.scalars(by_name))
    found += names if len(names) <= 3 else [f"{len(names)} pupils"]
    if row.code is not None:
        found.append("whoever has the code")
    return listed(found) or "nobody any more"


def how_far(session: Session, row: AssignmentRow) -> tuple[int, int]:
    """Return how many pupils have done all of an exercise, and how many have it to do."""
    pupils = {one.learner_id for one in pupils_for(session, row)}
    times: dict[tuple[int, int], int] = {}
    query = (
        select(AttemptRow.learner_id, AssignedAttemptRow.part, func.count())
        .join(AttemptRow, AttemptRow.id == AssignedAttemptRow.attempt_id)
        .where(AssignedAttemptRow.assignment_id == row.id, AttemptRow.state == FINISHED)
        .group_by(AttemptRow.learner_id, AssignedAttemptRow.part)
    )
    for learner, part, count in session.execute(query):
        times[learner, part] = count
    wanted = [
        (number, part.times)
        for number, part in enumerate(task_in(row.record).parts)
        if not isinstance(part, ReadPart)
    ]
    done = sum(
        all(times.get((learner, number), 0) >= of for number, of in wanted) for learner in pupils
    )
    return done, len(pupils)


def pupils_for(session: Session, row: AssignmentRow) -> list[MemberRow]:
    """Return the pupils who have an exercise to do, by name."""
    query = (
        select(MemberRow)
        .where(MemberRow.studio_id == row.studio_id, MemberRow.role == "pupil")
        .order_by(MemberRow.name, MemberRow.id)
    )
    if not row.everyone:
        query = query.where(_is_for(row))
    return list(session.scalars(query))


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
    given = [_given(session, actor, row) for row in found]
    return sorted(
        given,
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
    return _given(session, actor, _open(session, actor, key))


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
    given = _given(session, actor, row)
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
    begun = _begun(session, actor, done, seed=seed, naming=naming, now=now)
    attempt = session.scalar(select(AttemptRow.id).where(AttemptRow.public_id == begun))
    session.add(AssignedAttemptRow(attempt_id=attempt, assignment_id=row.id, part=number))
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
    begun = _begun(session, actor, PartDone(part), seed=seed, naming=None, now=now)
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
    naming: Naming | None,
    now: datetime,
) -> str:
    named: dict[str, Any] = {} if naming is None else {"naming": naming}
    match done.part:
        case TunePart():
            exercise = replace(done.part.begun(done.times, seed=seed), **named)
            return start_attempt(session, actor, drawn(exercise, seed=seed), now=now).id
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


def _given(session: Session, actor: Actor, row: AssignmentRow) -> Given:
    task = task_in(row.record)
    studio = session.get_one(StudioRow, row.studio_id)
    teachers = session.scalars(
        select(MemberRow.name)
        .where(MemberRow.studio_id == row.studio_id, MemberRow.role != "pupil")
        .order_by(MemberRow.name)
    )
    done = _done(session, actor, row)
    parts = tuple(
        replace(done.get(number, PartDone(part)), part=part)
        for number, part in enumerate(task.parts)
    )
    return Given(row, task, studio.name, tuple(teachers), parts)


def _done(session: Session, actor: Actor, row: AssignmentRow) -> dict[int, PartDone]:
    if actor.learner is None:
        return {}
    query = (
        select(AssignedAttemptRow.part, AttemptRow.public_id, AttemptRow.state)
        .join(AttemptRow, AttemptRow.id == AssignedAttemptRow.attempt_id)
        .where(AssignedAttemptRow.assignment_id == row.id, AttemptRow.learner_id == actor.learner)
        .order_by(AttemptRow.created_at, AttemptRow.id)
    )
    found: dict[int, PartDone] = {}
    for part, attempt, state in session.execute(query):
        before = found.get(part, PartDone(ReadPart("before", "")))
        if state == FINISHED:
            found[part] = replace(before, times=before.times + 1, last=attempt)
        else:
            found[part] = replace(before, open=attempt)
    return found


def _no_task() -> MeldrinError:
    return MeldrinError(Code.NO_SUCH_TASK, "There is no such exercise set for you.")


@dataclass(frozen=True, slots=True)
class Results:
    """What a class made of a part of an exercise, with the newest attempt of each, in the order of
    its pupils; None where there is none.
    """

    row: AssignmentRow
    task: Task
    part: int
    result: ClassResult
    attempts: tuple[str | None, ...]


def results(
    session: Session, actor: Actor, studio_id: str, assignment_id: str, part: int, *, now: datetime
) -> Results:
    """Return what a class made of a part of an exercise; the look is written down.

    Raises:
        MeldrinError: code ``no_such_task``, also for a part that there is not.
    """
    studio = taught(session, actor, studio_id)
    row = assignment_in(session, studio, assignment_id)
    task = task_in(row.record)
    if not 0 <= part < len(task.parts):
        raise MeldrinError(Code.NO_SUCH_TASK, "This exercise has no such part.")
    note_results(session, actor, studio.id, now=now)
    names = {one.learner_id: one.name for one in pupils_for(session, row)}
    guests = select(AssignedGuestRow).where(AssignedGuestRow.assignment_id == row.id)
    for number, guest in enumerate(session.scalars(guests), start=1):
        names.setdefault(guest.learner_id, guest.name or f"Guest {number}")
    query = (
        select(
            AttemptRow.learner_id,
            AttemptRow.public_id,
            FigureRow.practice,
            FigureRow.record,
        )
        .join(AssignedAttemptRow, AssignedAttemptRow.attempt_id == AttemptRow.id)
        .outerjoin(FigureRow, FigureRow.attempt_id == AttemptRow.id)
        .where(AssignedAttemptRow.assignment_id == row.id, AssignedAttemptRow.part == part)
        .where(AttemptRow.state == FINISHED)
        .order_by(AttemptRow.created_at, AttemptRow.id)
    )
    finished: dict[int, list[str]] = {learner: [] for learner in names}
    records: dict[int, list[tuple[str, str]]] = {learner: [] for learner in names}
    for learner, attempt, practice, record in session.execute(query):
        if learner in names:  # who has left the studio is not shown any more
            finished[learner].append(attempt)
            if record:
                records[learner].append((practice, record))
    session.rollback()
    did = [
        Did(
            name=name,
            tuned=tuple(figures_read("bench", _of("bench", records[learner]))),
            sat=tuple(figures_read("drills", _of("drills", records[learner]))),
            finished=len(finished[learner]),
        )
        for learner, name in names.items()
    ]
    return Results(
        row,
        task,
        part,
        class_result(did, counts=task.counts, is_measured=_is_measured(task.parts[part])),
        tuple(finished[learner][-1] if finished[learner] else None for learner in names),
    )


def _of(practice: str, records: list[tuple[str, str]]) -> list[str]:
    return [record for kind, record in records if kind == practice]


def _is_measured(part: Part) -> bool:
    """Whether what somebody did of a part has figures; to find a fault has none."""
    return not isinstance(part, TunePart) or part.exercise.method != FAULT
