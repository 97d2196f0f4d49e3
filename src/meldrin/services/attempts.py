"""Attempts: begin, list, open, take over, append to, erase; every query scoped by the learner."""

import contextlib
import json
import secrets
import uuid
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime

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
)
from meldrin.core.bench.setup import MOST_SEED
from meldrin.core.errors import MeldrinError
from meldrin.core.scoring import Score, score
from meldrin.store.tables import ActionRow, AttemptRow

ENGINE = 2  # raised when the same list of actions would give another end
MOST_LISTED = 200
IMPORTING = "import"


@dataclass(frozen=True, slots=True)
class Summary:
    """An attempt as it stands in a list; `points` is None until it is finished."""

    id: str
    setup: Setup
    created_at: datetime
    finished_at: datetime | None
    points: float | None


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
    log: tuple[Numbered, ...]


@dataclass(frozen=True, slots=True)
class Batch:
    """Actions to be added to one attempt by the tab that holds it."""

    key: int
    holder: str
    actions: tuple[Numbered, ...]


def by_lot(setup: Setup) -> Setup:
    """Return the same exercise with a start drawn by lot."""
    return replace(setup, seed=secrets.randbelow(MOST_SEED))


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
    return _summary(row)


def import_attempt(
    session: Session,
    setup: Setup,
    log: Sequence[TimedAction],
    *,
    learner: int,
    now: datetime,
) -> Summary:
    """Keep an attempt that was played elsewhere; it is finished if its list says so.

    Raises:
        MeldrinError: when the bench refuses an action of the list; nothing is kept then.
    """
    replay(setup, log)
    begun = start_attempt(session, setup, learner=learner, now=now)
    record = take_over(session, begun.id, learner=learner, holder=IMPORTING)
    actions = tuple(Numbered(number, timed) for number, timed in enumerate(log, start=1))
    append_actions(session, [Batch(record.key, IMPORTING, actions)], now=now)
    return open_attempt(session, begun.id, learner=learner).summary


def bring_up_to_date(session: Session) -> int:
    """Score finished attempts of an older engine or rubric again; return how many there were.

    One that the bench of today refuses keeps the points it had.
    """
    rows = list(session.scalars(select(AttemptRow).where(AttemptRow.engine < ENGINE)))
    for row in rows:
        if row.finished_at is not None:
            with contextlib.suppress(MeldrinError):
                row.points = result(_record(session, row)).points
        row.engine = ENGINE
    session.commit()
    return len(rows)


def list_attempts(session: Session, *, learner: int) -> list[Summary]:
    """Return the learner's attempts, the newest first, at most 200."""
    query = (
        select(AttemptRow)
        .where(AttemptRow.learner_id == learner)
        .order_by(AttemptRow.created_at.desc(), AttemptRow.id.desc())
        .limit(MOST_LISTED)
    )
    return [_summary(row) for row in session.scalars(query)]


def open_attempt(session: Session, public_id: str, *, learner: int | None) -> Record:
    """Return an attempt of this learner with its actions.

    Raises:
        MeldrinError: code ``no_such_attempt``, also where it is somebody else's.
    """
    return _record(session, _row(session, public_id, learner))


def take_over(session: Session, public_id: str, *, learner: int | None, holder: str) -> Record:
    """Make a tab the one that plays this attempt, and return it as it now stands.

    Whatever another tab had written before is in it; what that tab sends later is refused.

    Raises:
        MeldrinError: code ``no_such_attempt``, also where it is somebody else's.
    """
    row = _row(session, public_id, learner, lock=True)
    row.holder = holder
    session.flush()
    record = _record(session, row)
    session.commit()
    return record


def append_actions(
    session: Session, batches: Sequence[Batch], *, now: datetime
) -> set[tuple[int, str]]:
    """Add actions to attempts, many attempts in one commit; an attempt with Finish is closed.

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
            [
                {
                    "attempt_id": batch.key,
                    "number": action.number,
                    "at_s": action.timed.at_s,
                    "record": json.dumps(action_record(action.timed.action)),
                }
                for batch in taken
                for action in batch.actions
            ],
        )
    for batch in taken:
        if any(isinstance(action.timed.action, Finish) for action in batch.actions):
            row = session.get_one(AttemptRow, batch.key)
            row.finished_at = now
            row.points = result(_record(session, row)).points
    session.commit()
    return {(batch.key, batch.holder) for batch in batches} - held


def result(record: Record) -> Score:
    """Return the score of an attempt, computed from its list."""
    return score(record.summary.setup, [action.timed for action in record.log])


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
        raise MeldrinError("no_such_attempt", "There is no such attempt among yours.")
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
    return Record(key=row.id, summary=_summary(row), log=log)


def _summary(row: AttemptRow) -> Summary:
    return Summary(
        id=row.public_id,
        setup=setup_from_record(json.loads(row.setup)),
        created_at=row.created_at,
        finished_at=row.finished_at,
        points=row.points,
    )
