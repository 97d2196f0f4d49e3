"""What a class has made of the exercises that were given: how far each is, and its results."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime
from operator import itemgetter
from typing import Final

from sqlalchemy import and_, func, or_, select
from sqlalchemy.orm import Session

from meldrin.core.bench import FAULT
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.tasks import ClassResult, Did, ReadPart, Task, TaskPart, TunePart, class_result
from meldrin.core.words import listed
from meldrin.services.actor import Actor
from meldrin.services.assignments import assignment_in
from meldrin.services.audit import note_results
from meldrin.services.figures import figures_read
from meldrin.services.studios import taught
from meldrin.services.tasks import task_in
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
)

MOST_LISTED: Final = 25


@dataclass(frozen=True, slots=True)
class Overview:
    """An exercise that was given, to whom, in words, and how far it is.

    of, done: how many pupils have it to do, and how many have done all of it.
    """

    row: AssignmentRow
    to: str
    of: int
    done: int


@dataclass(frozen=True, slots=True)
class Page:
    """Some exercises that were given. after: the last of them where more come, or None."""

    given: list[Overview]
    after: str | None


def list_given(session: Session, actor: Actor, studio_id: str, *, after: str | None = None) -> Page:
    """Return exercises that were given in a studio, the newest first.

    Args:
        after: the id of the last one that is known already.
    """
    studio = taught(session, actor, studio_id)
    query = (
        select(AssignmentRow)
        .where(AssignmentRow.studio_id == studio.id)
        .order_by(AssignmentRow.created_at.desc(), AssignmentRow.id.desc())
        .limit(MOST_LISTED + 1)
    )
    if after is not None:
        last = assignment_in(session, studio, after)
        query = query.where(
            or_(
                AssignmentRow.created_at < last.created_at,
                and_(AssignmentRow.created_at == last.created_at, AssignmentRow.id < last.id),
            )
        )
    rows = list(session.scalars(query))
    more = rows[MOST_LISTED - 1].public_id if len(rows) > MOST_LISTED else None
    return Page(overviews(session, studio.id, rows[:MOST_LISTED]), more)


def overview(session: Session, row: AssignmentRow) -> Overview:
    """Return how far an exercise is."""
    return overviews(session, row.studio_id, [row])[0]


def overviews(session: Session, studio: int, rows: Sequence[AssignmentRow]) -> list[Overview]:
    """Return how far exercises of one studio are, in their order.

    Args:
        studio: its key.
    """
    roll = _roll(session, studio, rows)
    times = _times(session, rows)
    found = []
    for row in rows:
        pupils = roll.pupils(row)
        wanted = [
            (number, part.times)
            for number, part in enumerate(task_in(row.record).parts)
            if not isinstance(part, ReadPart)
        ]
        done = sum(
            all(times.get((row.id, learner, number), 0) >= of for number, of in wanted)
            for learner, _ in pupils
        )
        found.append(Overview(row, roll.to_whom(row), len(pupils), done))
    return found


@dataclass(frozen=True, slots=True)
class _Roll:
    """The members of a studio, and who of them has which exercises to do.

    members: learner, name and role of each by key, in the order of their names.
    groups: their names by key. in_groups: the members of a group. by_name: those to whom an
        exercise was given by name.
    """

    members: dict[int, tuple[int, str, str]]
    groups: dict[int, str]
    in_groups: dict[int, set[int]]
    by_name: dict[int, set[int]]

    def pupils(self, row: AssignmentRow) -> list[tuple[int, str]]:
        """Return who has an exercise to do, learner and name, by name."""
        theirs = self.by_name.get(row.id, set()) | self.in_groups.get(row.group_id or 0, set())
        return [
            (learner, name)
            for key, (learner, name, role) in self.members.items()
            if role == "pupil" and (row.everyone or key in theirs)
        ]

    def to_whom(self, row: AssignmentRow) -> str:
        """Return to whom an exercise was given, in words."""
        found = ["everyone"] if row.everyone else []
        if row.group_id is not None:
            found.append(self.groups[row.group_id])
        by_name = self.by_name.get(row.id, set())
        names = [name for key, (_, name, _) in self.members.items() if key in by_name]
        found += names if len(names) <= 3 else [f"{len(names)} pupils"]
        if row.code is not None:
            found.append("whoever has the code")
        return listed(found) or "nobody any more"


def _roll(session: Session, studio: int, rows: Sequence[AssignmentRow]) -> _Roll:
    members = (
        select(MemberRow.id, MemberRow.learner_id, MemberRow.name, MemberRow.role)
        .where(MemberRow.studio_id == studio)
        .order_by(MemberRow.name, MemberRow.id)
    )
    groups = select(GroupRow.id, GroupRow.name).where(GroupRow.studio_id == studio)
    in_groups = select(GroupMemberRow.group_id, GroupMemberRow.member_id).where(
        GroupMemberRow.group_id.in_({row.group_id for row in rows} - {None})
    )
    by_name = select(AssignedMemberRow.assignment_id, AssignedMemberRow.member_id).where(
        AssignedMemberRow.assignment_id.in_([row.id for row in rows])
    )
    return _Roll(
        {key: (learner, name, role) for key, learner, name, role in session.execute(members)},
        dict(session.execute(groups).all()),
        _together(session.execute(in_groups)),
        _together(session.execute(by_name)),
    )


def _together(pairs: Iterable[tuple[int, int]]) -> dict[int, set[int]]:
    found: dict[int, set[int]] = {}
    for one, other in pairs:
        found.setdefault(one, set()).add(other)
    return found


def _times(session: Session, rows: Sequence[AssignmentRow]) -> dict[tuple[int, int, int], int]:
    """Return how often each part was finished: by exercise, learner and part."""
    query = (
        select(
            AssignedAttemptRow.assignment_id,
            AssignedAttemptRow.learner_id,
            AssignedAttemptRow.part,
            func.count(),
        )
        .where(AssignedAttemptRow.assignment_id.in_([row.id for row in rows]))
        .where(AssignedAttemptRow.finished.is_(True))
        .group_by(
            AssignedAttemptRow.assignment_id,
            AssignedAttemptRow.learner_id,
            AssignedAttemptRow.part,
        )
    )
    return {(one, who, part): count for one, who, part, count in session.execute(query)}


@dataclass(frozen=True, slots=True)
class Results:
    """What a class made of a part of an exercise that was given.

    to: to whom, in words. attempts: the newest of each, in the order of its pupils; None where
        there is none.
    """

    row: AssignmentRow
    to: str
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
    roll = _roll(session, studio.id, [row])
    names, to = dict(roll.pupils(row)), roll.to_whom(row)
    guests = select(AssignedGuestRow).where(AssignedGuestRow.assignment_id == row.id)
    for number, guest in enumerate(session.scalars(guests), start=1):
        names.setdefault(guest.learner_id, guest.name or f"Guest {number}")
    query = (
        select(
            AttemptRow.created_at,
            AssignedAttemptRow.attempt_id,
            AssignedAttemptRow.learner_id,
            AttemptRow.public_id,
            FigureRow.practice,
            FigureRow.record,
        )
        .join(AttemptRow, AttemptRow.id == AssignedAttemptRow.attempt_id)
        .outerjoin(FigureRow, FigureRow.attempt_id == AssignedAttemptRow.attempt_id)
        .where(AssignedAttemptRow.assignment_id == row.id, AssignedAttemptRow.part == part)
        .where(AssignedAttemptRow.finished.is_(True))
    )
    finished: dict[int, list[str]] = {learner: [] for learner in names}
    records: dict[int, list[tuple[str, str]]] = {learner: [] for learner in names}
    # sorted here: the database would copy the long records for it
    by_age = sorted(session.execute(query), key=itemgetter(0, 1))
    for _, _, learner, attempt, practice, record in by_age:
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
        to,
        task,
        part,
        class_result(did, counts=task.counts, is_measured=_is_measured(task.parts[part])),
        tuple(finished[learner][-1] if finished[learner] else None for learner in names),
    )


def _of(practice: str, records: list[tuple[str, str]]) -> list[str]:
    return [record for kind, record in records if kind == practice]


def _is_measured(part: TaskPart) -> bool:
    """Whether what somebody did of a part has figures; to find a fault has none."""
    return not isinstance(part, TunePart) or part.exercise.method != FAULT
