"""Attempts at any kind of practice: begin, list, open, take over, append to, erase."""

import json
import logging
import uuid
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import Any, Literal, get_args

import orjson
from sqlalchemy import and_, delete, insert, or_, select, tuple_, update
from sqlalchemy.orm import Session

from meldrin.core.errors import Code, MeldrinError
from meldrin.core.session import Timed, played
from meldrin.services.actor import Actor
from meldrin.services.audit import note_look
from meldrin.services.permissions import may_erase, may_play, may_see, may_teach
from meldrin.services.practices import ResultSummary, kind_of
from meldrin.store.tables import (
    ActionRow,
    AssignedAttemptRow,
    AttemptRow,
    ErasedRow,
    MemberRow,
    ResultRow,
)

MOST_LISTED = 100
AttemptState = Literal["open", "finished"]
OPEN, FINISHED = get_args(AttemptState)
UNREADABLE = "An attempt that cannot be opened"
LOG = logging.getLogger("meldrin.attempts")


@dataclass(frozen=True, slots=True)
class Summary:
    """An attempt as it stands in a list.

    name: what its exercise is called; title: what its learner calls it, or None.
    exercise: of its kind of practice, or None where the record cannot be read.
    points: or None until it is scored.
    earlier: scored by an earlier version, whose points it keeps.
    """

    id: str
    practice: str
    name: str
    exercise: Any
    created_at: datetime
    finished_at: datetime | None
    points: float | None
    brief: ResultSummary | None = None
    earlier: bool = False
    title: str | None = None


@dataclass(frozen=True, slots=True)
class Numbered:
    """An action with the number that the browser gave it."""

    number: int
    timed: Timed[Any]


@dataclass(frozen=True, slots=True)
class Record:
    """An attempt with its list of actions; `key` is the row's own id.
    by: the name of the pupil whose it is, where their teacher looks at it.
    """

    key: int
    summary: Summary
    exercise: Any
    log: tuple[Numbered, ...]
    by: str | None = None

    @property
    def timed(self) -> list[Timed[Any]]:
        """Its actions with their times."""
        return [entry.timed for entry in self.log]


@dataclass(frozen=True, slots=True)
class Batch:
    """Actions to be added to one attempt by the tab that holds it."""

    key: int
    holder: str
    actions: tuple[Numbered, ...]
    practice: str = "bench"

    @property
    def ends(self) -> bool:
        """Whether one of the actions ends the attempt."""
        ends = kind_of(self.practice).practice.ends
        return any(ends(one.timed.action) for one in self.actions)


@dataclass(frozen=True, slots=True)
class Filter:
    """Which attempts to list; None for any."""

    practice: str | None = None
    instrument: str | None = None
    tuning: str | None = None
    method: str | None = None
    start: str | None = None
    state: AttemptState | None = None


def start_attempt(
    session: Session, actor: Actor, exercise: Any, *, now: datetime, practice: str = "bench"
) -> Summary:
    """Begin an attempt for a learner."""
    row = _new_row(actor, exercise, practice=practice, created_at=now)
    session.add(row)
    session.commit()
    return _summary(row, None)


def begin_from(
    session: Session, actor: Actor, exercise: Any, passed: Sequence[Timed[Any]], *, now: datetime
) -> tuple[int, str]:
    """Begin an attempt at the bench that stands as if these actions had been done; the caller
    commits. Return its row and its id.
    """
    row = _new_row(actor, _met(exercise), practice="bench", created_at=now)
    session.add(row)
    session.flush()
    if passed:
        actions = tuple(Numbered(number, timed) for number, timed in enumerate(passed, start=1))
        session.execute(insert(ActionRow), _rows(Batch(row.id, "", actions, "bench")))
    return row.id, row.public_id


def import_attempt(
    session: Session,
    actor: Actor,
    exercise: Any,
    log: Sequence[Timed[Any]],
    *,
    made: datetime,
    earlier: bool = False,
    practice: str = "bench",
) -> Summary:
    """Keep an attempt that was played elsewhere, at its own time; finished if its list says so.

    All of it in one transaction. `earlier`: it was played on an earlier version, so what today's
    refuses is passed over.

    Raises:
        MeldrinError: when an action of the list is refused; nothing is kept then.
    """
    rules = kind_of(practice).practice
    for _ in played(rules, exercise, log, strict=not earlier):
        pass
    row = _new_row(actor, _met(exercise), practice=practice, created_at=made)
    if any(rules.ends(entry.action) for entry in log):
        row.state, row.finished_at = FINISHED, made + timedelta(seconds=log[-1].at_s)
    session.add(row)
    session.flush()
    if log:
        actions = tuple(Numbered(number, timed) for number, timed in enumerate(log, start=1))
        session.execute(insert(ActionRow), _rows(Batch(row.id, "", actions, practice)))
    session.commit()
    return _summary(row, None)


@dataclass(frozen=True, slots=True)
class Page:
    """Some of a list, and the id of the one after which it goes on; None where it ends."""

    attempts: list[Summary]
    after: str | None


def list_attempts(
    session: Session,
    actor: Actor,
    wanted: Filter | None = None,
    *,
    after: str | None = None,
    most: int = MOST_LISTED,
) -> Page:
    """Return somebody's attempts, the newest first.

    Args:
        after: the id of the last one that is known already.
        most: how many at most.
    """
    query = (
        select(AttemptRow, ResultRow)
        .outerjoin(
            ResultRow,
            (ResultRow.attempt_id == AttemptRow.id) & (ResultRow.engine == AttemptRow.engine),
        )
        .where(AttemptRow.learner_id == actor.learner)
        .order_by(AttemptRow.created_at.desc(), AttemptRow.id.desc())
        .limit(most + 1)
    )
    last = None if after is None else _row(session, after)
    if last is not None and may_see(actor, last):
        query = query.where(
            or_(
                AttemptRow.created_at < last.created_at,
                and_(AttemptRow.created_at == last.created_at, AttemptRow.id < last.id),
            )
        )
    for name in Filter.__dataclass_fields__ if wanted else ():
        value = getattr(wanted, name)
        if value is not None:
            query = query.where(getattr(AttemptRow, name) == value)
    found = [_summary(row, result) for row, result in session.execute(query)]
    return Page(found[:most], found[most - 1].id if len(found) > most else None)


def open_attempt(session: Session, actor: Actor, public_id: str) -> Record:
    """Return an attempt of one's own with its actions.

    Raises:
        MeldrinError: code ``no_such_attempt``, also where it is somebody else's.
    """
    row = _row(session, public_id)
    if row is None or not may_see(actor, row):
        raise _not_found()
    return _record(session, row)


def look_at_attempt(session: Session, actor: Actor, public_id: str, *, now: datetime) -> Record:
    """Return an attempt of one's own or of a pupil's; that a teacher looked is written down.

    Raises:
        MeldrinError: code ``no_such_attempt``, for who neither made it nor teaches its maker.
    """
    row = _row(session, public_id)
    if row is None:
        raise _not_found()
    if not may_see(actor, row):
        taught = as_pupil(session, actor, row)
        if not taught:
            raise _not_found()
        by = taught[0].name
        for one in taught:
            note_look(session, actor, one.studio_id, now=now, about=one)
        return replace(_record(session, row), by=by)
    return _record(session, row)


def as_pupil(session: Session, actor: Actor, row: AttemptRow) -> list[MemberRow]:
    """Return the one who made an attempt as a pupil of each studio in which somebody teaches."""
    pupil = MemberRow.learner_id == row.learner_id, MemberRow.role == "pupil"
    return [
        one
        for one in session.scalars(select(MemberRow).where(*pupil))
        if may_teach(actor, one.studio_id)
    ]


def record_of(session: Session, key: int) -> Record:
    """Return an attempt by its row's own id.

    Raises:
        MeldrinError: code ``no_such_attempt``, where it has been erased.
    """
    row = session.get(AttemptRow, key)
    if row is None:
        raise MeldrinError(Code.NO_SUCH_ATTEMPT, "This attempt has been erased.")
    return _record(session, row)


def take_over(session: Session, actor: Actor, public_id: str, *, holder: str) -> Record:
    """Make a tab the one that plays this attempt, and return it as it now stands.

    Whatever another tab had written before is in it; what that tab sends later is refused.

    Raises:
        MeldrinError: code ``no_such_attempt``, also where it is somebody else's.
    """
    row = _row(session, public_id, lock=True)
    if row is None or not may_play(actor, row):
        raise _not_found()
    row.holder, row.version = holder, row.version + 1
    if row.finished_at is None:
        row.engine = kind_of(row.practice).engine  # what is played on is scored as it ends
    session.flush()
    record = _record(session, row)
    session.commit()
    return record


def append_actions(
    session: Session, batches: Sequence[Batch], *, now: datetime
) -> set[tuple[int, str]]:
    """Add actions to attempts, many attempts in one commit; one that ends is closed. Its score is
    computed later, outside of any lock.

    Returns:
        (key, holder) of the batches that were refused, because another tab has taken the attempt
        over or it has been erased. All others are on disk when this returns.
    """
    wanted = {(batch.key, batch.holder) for batch in batches}
    held_by = (
        AttemptRow.id.in_({key for key, _ in wanted}),
        tuple_(AttemptRow.id, AttemptRow.holder).in_(wanted),
    )
    # Over a cluster a lock guards nothing; rows that change do. Of this transaction and one that
    # takes an attempt over at another node at this moment, the second begins again.
    session.execute(update(AttemptRow).where(*held_by).values(version=AttemptRow.version + 1))
    query = select(AttemptRow.id, AttemptRow.holder).where(*held_by).with_for_update()
    held = {(key, holder) for key, holder in session.execute(query)}
    taken = [batch for batch in batches if (batch.key, batch.holder) in held]
    if taken:
        # IGNORE: after a connection lost during a commit the same actions are written once more.
        session.execute(
            insert(ActionRow).prefix_with("IGNORE"),
            [row for batch in taken for row in _rows(batch)],
        )
    ended = [batch.key for batch in taken if batch.ends]
    if ended:
        session.execute(
            update(AttemptRow)
            .where(AttemptRow.id.in_(ended))
            .values(state=FINISHED, finished_at=now)
        )
        session.execute(
            update(AssignedAttemptRow)
            .where(AssignedAttemptRow.attempt_id.in_(ended))
            .values(finished=True)
        )
    session.commit()
    return wanted - held


def name_attempt(session: Session, actor: Actor, public_id: str, *, title: str) -> Summary:
    """Give an attempt a name of one's own, or take it away again with an empty one.

    Raises:
        MeldrinError: code ``no_such_attempt``, also where it is somebody else's.
    """
    row = _row(session, public_id)
    if row is None or not may_erase(actor, row):
        raise _not_found()
    row.title = " ".join(title.split()) or None
    session.commit()
    return _summary(row, session.get(ResultRow, (row.id, row.engine)))


def erase_attempt(session: Session, actor: Actor, public_id: str) -> None:
    """Erase an attempt with its actions. Its time and its kind stay, and nothing else: it ends a
    row of attempts that went well.

    Raises:
        MeldrinError: code ``no_such_attempt``, also where it is somebody else's.
    """
    row = _row(session, public_id)
    if row is None or not may_erase(actor, row):
        raise _not_found()
    kept = {
        "learner_id": row.learner_id,
        "at": row.finished_at or row.created_at,
        "practice": row.practice,
    }
    session.execute(insert(ErasedRow).prefix_with("IGNORE"), [kept])
    session.execute(delete(AttemptRow).where(AttemptRow.id == row.id))
    session.commit()


def _met(exercise: Any) -> Any:
    """Return an exercise whose start may have been met before: no file can say otherwise."""
    return replace(exercise, fresh=False) if getattr(exercise, "fresh", False) else exercise


def _new_row(actor: Actor, exercise: Any, *, practice: str, created_at: datetime) -> AttemptRow:
    kind = kind_of(practice)
    kept = kind.kept(exercise)
    columns = kind.columns(kept)
    return AttemptRow(
        public_id=uuid.uuid4().hex,
        learner_id=actor.learner,
        practice=practice,
        instrument=columns.instrument,
        tuning=columns.tuning,
        method=columns.method,
        start=columns.start,
        state=OPEN,
        engine=kind.engine,
        exercise=json.dumps(kind.practice.exercises.record(kept)),
        created_at=created_at,
    )


def _rows(batch: Batch) -> list[dict[str, object]]:
    actions = kind_of(batch.practice).practice.actions
    return [
        {
            "attempt_id": batch.key,
            "number": one.number,
            "at_s": one.timed.at_s,
            "record": orjson.dumps(actions.record(one.timed.action)).decode(),
        }
        for one in batch.actions
    ]


def _row(session: Session, public_id: str, *, lock: bool = False) -> AttemptRow | None:
    query = select(AttemptRow).where(AttemptRow.public_id == public_id)
    return session.scalar(query.with_for_update() if lock else query)


def _not_found() -> MeldrinError:
    return MeldrinError(Code.NO_SUCH_ATTEMPT, "There is no such attempt among yours.")


def _record(session: Session, row: AttemptRow) -> Record:
    summary = _summary(row, session.get(ResultRow, (row.id, row.engine)))
    if summary.exercise is None:
        raise MeldrinError(Code.UNREADABLE, "This attempt cannot be opened: its record is damaged.")
    actions = kind_of(row.practice).practice.actions
    query = (
        select(ActionRow.number, ActionRow.at_s, ActionRow.record)
        .where(ActionRow.attempt_id == row.id)
        .order_by(ActionRow.number)
    )
    log = tuple(
        Numbered(number, Timed(at_s, actions.value(orjson.loads(record))))
        for number, at_s, record in session.execute(query)
    )
    return Record(key=row.id, summary=summary, exercise=summary.exercise, log=log)


def _summary(row: AttemptRow, result: ResultRow | None) -> Summary:
    exercise, name, engine = None, UNREADABLE, row.engine
    try:
        kind = kind_of(row.practice)
        engine = kind.engine
        exercise = kind.practice.exercises.value(json.loads(row.exercise))
        name = kind.name(exercise)
    except (MeldrinError, ValueError, TypeError, AttributeError) as error:
        LOG.warning("attempt %s cannot be read: %s", row.public_id, error)
    brief = None
    if result is not None:
        brief = ResultSummary(
            **{name: getattr(result, name) for name in ResultSummary.__dataclass_fields__}
        )
    return Summary(
        id=row.public_id,
        practice=row.practice,
        name=name,
        exercise=exercise,
        created_at=row.created_at,
        finished_at=row.finished_at,
        points=row.points,
        brief=brief,
        earlier=row.finished_at is not None and row.engine < engine,
        title=row.title,
    )
