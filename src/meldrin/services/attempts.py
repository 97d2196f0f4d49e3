"""Attempts: begin, list, open, take over, append to, erase; every query scoped by the learner."""

import json
import logging
import secrets
import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import delete, insert, select
from sqlalchemy.orm import Session

from meldrin.core.bench import (
    Finish,
    Setup,
    TimedAction,
    action_from_record,
    action_record,
    replay,
    setup_from_record,
    setup_record,
    with_start,
)
from meldrin.core.bench.setup import MOST_SEED
from meldrin.core.errors import Code, MeldrinError
from meldrin.store.tables import ActionRow, AttemptRow, ResultRow

ENGINE = 3  # raised when the same list of actions would give another end or another score
MOST_LISTED = 200
LOG = logging.getLogger("meldrin.attempts")


@dataclass(frozen=True, slots=True)
class Brief:
    """What a list shows of a result: the help that gave most away, how far off the strings were in
    the middle and at worst (cents; None where they were slack), and how many were judged by ear.
    """

    aid: str
    median_cents: float | None
    worst_cents: float | None
    worst: str
    by_ear: int
    by_ear_of: int


@dataclass(frozen=True, slots=True)
class Summary:
    """An attempt as it stands in a list; `points` is None until it is finished, `setup` where its
    record cannot be read. `earlier`: scored by an earlier version, whose points it keeps.
    """

    id: str
    setup: Setup | None
    created_at: datetime
    finished_at: datetime | None
    points: float | None
    brief: Brief | None = None
    earlier: bool = False


@dataclass(frozen=True, slots=True)
class Numbered:
    """An action with the number that the browser gave it."""

    number: int
    timed: TimedAction


@dataclass(frozen=True, slots=True)
class Record:
    """An attempt with its list of actions; `key` is the row's own id."""

    key: int
    summary: Summary
    setup: Setup
    log: tuple[Numbered, ...]

    @property
    def timed(self) -> list[TimedAction]:
        """Its actions with their times."""
        return [entry.timed for entry in self.log]


@dataclass(frozen=True, slots=True)
class Batch:
    """Actions to be added to one attempt by the tab that holds it."""

    key: int
    holder: str
    actions: tuple[Numbered, ...]


def at_random(setup: Setup) -> Setup:
    """Return the same exercise with a random start."""
    return with_start(setup, seed=secrets.randbelow(MOST_SEED))


def start_attempt(session: Session, setup: Setup, *, learner: int, now: datetime) -> Summary:
    """Begin an attempt for a learner."""
    row = AttemptRow(
        public_id=uuid.uuid4().hex,
        learner_id=learner,
        engine=ENGINE,
        setup=json.dumps(setup_record(setup)),
        created_at=now,
    )
    session.add(row)
    session.commit()
    return _summary(row, None)


def import_attempt(
    session: Session,
    setup: Setup,
    log: Sequence[TimedAction],
    *,
    made: datetime,
    learner: int,
    earlier: bool = False,
) -> Summary:
    """Keep an attempt that was played elsewhere, at its own time; finished if its list says so.

    All of it in one transaction. `earlier`: it was played on an earlier version of the bench, so
    what today's refuses is passed over.

    Raises:
        MeldrinError: when the bench refuses an action of the list; nothing is kept then.
    """
    replay(setup, log, strict=not earlier)
    ended = any(isinstance(entry.action, Finish) for entry in log)
    row = AttemptRow(
        public_id=uuid.uuid4().hex,
        learner_id=learner,
        engine=ENGINE,
        setup=json.dumps(setup_record(setup)),
        created_at=made,
        finished_at=made + timedelta(seconds=log[-1].at_s) if ended else None,
    )
    session.add(row)
    session.flush()
    if log:
        actions = [Numbered(number, timed) for number, timed in enumerate(log, start=1)]
        session.execute(insert(ActionRow), _rows(row.id, actions))
    session.commit()
    return _summary(row, None)


def list_attempts(session: Session, *, learner: int) -> list[Summary]:
    """Return the learner's attempts, the newest first, at most 200."""
    query = (
        select(AttemptRow, ResultRow)
        .outerjoin(ResultRow, ResultRow.attempt_id == AttemptRow.id)
        .where(AttemptRow.learner_id == learner)
        .order_by(AttemptRow.created_at.desc(), AttemptRow.id.desc())
        .limit(MOST_LISTED)
    )
    return [_summary(row, result) for row, result in session.execute(query)]


def open_attempt(session: Session, public_id: str, *, learner: int | None) -> Record:
    """Return an attempt of this learner with its actions.

    Raises:
        MeldrinError: code ``no_such_attempt``, also where it is somebody else's.
    """
    return _record(session, _row(session, public_id, learner))


def record_of(session: Session, key: int) -> Record:
    """Return an attempt by its row's own id.

    Raises:
        MeldrinError: code ``no_such_attempt``, where it has been erased.
    """
    row = session.get(AttemptRow, key)
    if row is None:
        raise MeldrinError(Code.NO_SUCH_ATTEMPT, "This attempt has been erased.")
    return _record(session, row)


def take_over(session: Session, public_id: str, *, learner: int | None, holder: str) -> Record:
    """Make a tab the one that plays this attempt, and return it as it now stands.

    Whatever another tab had written before is in it; what that tab sends later is refused.

    Raises:
        MeldrinError: code ``no_such_attempt``, also where it is somebody else's.
    """
    row = _row(session, public_id, learner, lock=True)
    row.holder = holder
    if row.finished_at is None:
        row.engine = ENGINE  # what is played on is scored as it ends
    session.flush()
    record = _record(session, row)
    session.commit()
    return record


def append_actions(
    session: Session, batches: Sequence[Batch], *, now: datetime
) -> set[tuple[int, str]]:
    """Add actions to attempts, many attempts in one commit; an attempt with Finish is closed. Its
    score is computed later, outside of any lock.

    Returns:
        (key, holder) of the batches that were refused, because another tab has taken the attempt
        over or it has been erased. All others are on disk when this returns.
    """
    keys = {batch.key for batch in batches}
    query = select(AttemptRow.id, AttemptRow.holder).where(AttemptRow.id.in_(keys))
    locked = session.execute(query.order_by(AttemptRow.id).with_for_update())
    held = {(key, holder) for key, holder in locked}
    taken = [batch for batch in batches if (batch.key, batch.holder) in held]
    if taken:
        # IGNORE: after a connection lost during a commit the same actions are written once more.
        session.execute(
            insert(ActionRow).prefix_with("IGNORE"),
            [row for batch in taken for row in _rows(batch.key, batch.actions)],
        )
    for batch in taken:
        if any(isinstance(action.timed.action, Finish) for action in batch.actions):
            session.get_one(AttemptRow, batch.key).finished_at = now
    session.commit()
    return {(batch.key, batch.holder) for batch in batches} - held


def _rows(key: int, actions: Sequence[Numbered]) -> list[dict[str, object]]:
    return [
        {
            "attempt_id": key,
            "number": action.number,
            "at_s": action.timed.at_s,
            "record": json.dumps(action_record(action.timed.action)),
        }
        for action in actions
    ]


def erase_attempt(session: Session, public_id: str, *, learner: int | None) -> None:
    """Erase an attempt of this learner with its actions.

    Raises:
        MeldrinError: code ``no_such_attempt``, also where it is somebody else's.
    """
    row = _row(session, public_id, learner)
    session.execute(delete(AttemptRow).where(AttemptRow.id == row.id))
    session.commit()


def _row(
    session: Session, public_id: str, learner: int | None, *, lock: bool = False
) -> AttemptRow:
    query = select(AttemptRow).where(
        AttemptRow.public_id == public_id, AttemptRow.learner_id == (learner or 0)
    )
    row = session.scalar(query.with_for_update() if lock else query)
    if row is None:
        raise MeldrinError(Code.NO_SUCH_ATTEMPT, "There is no such attempt among yours.")
    return row


def _record(session: Session, row: AttemptRow) -> Record:
    query = (
        select(ActionRow.number, ActionRow.at_s, ActionRow.record)
        .where(ActionRow.attempt_id == row.id)
        .order_by(ActionRow.number)
    )
    log = tuple(
        Numbered(number, TimedAction(at_s, action_from_record(json.loads(record))))
        for number, at_s, record in session.execute(query)
    )
    summary = _summary(row, session.get(ResultRow, row.id))
    if summary.setup is None:
        raise MeldrinError(Code.UNREADABLE, "This attempt cannot be opened: its record is damaged.")
    return Record(key=row.id, summary=summary, setup=summary.setup, log=log)


def _summary(row: AttemptRow, result: ResultRow | None) -> Summary:
    setup = None
    try:
        setup = setup_from_record(json.loads(row.setup))
    except (MeldrinError, ValueError, TypeError, AttributeError) as error:
        LOG.warning("attempt %s cannot be read: %s", row.public_id, error)
    brief = None
    if result is not None:
        brief = Brief(
            aid=result.aid,
            median_cents=result.median_cents,
            worst_cents=result.worst_cents,
            worst=result.worst,
            by_ear=result.by_ear,
            by_ear_of=result.by_ear_of,
        )
    return Summary(
        id=row.public_id,
        setup=setup,
        created_at=row.created_at,
        finished_at=row.finished_at,
        points=row.points if result is None else result.points,
        brief=brief,
        earlier=row.finished_at is not None
        and (row.engine if result is None else result.engine) < ENGINE,
    )
