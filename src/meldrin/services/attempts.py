"""Attempts: begin, list, open, take over, append to, erase; every query scoped by the learner."""

import json
import secrets
import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import delete, insert, select
from sqlalchemy.orm import Session

from meldrin.core.bench import (
    Finish,
    Setup,
    TimedAction,
    action_from_record,
    action_record,
)
from meldrin.core.bench.setup import MOST_SEED, StartKind
from meldrin.core.errors import MeldrinError
from meldrin.core.scoring import Score, score
from meldrin.store.tables import ActionRow, AttemptRow

ENGINE = 1  # raised when the same list of actions would give another end
MOST_LISTED = 200


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


def start_attempt(
    session: Session,
    *,
    learner: int,
    instrument: str,
    method: str,
    start: StartKind,
    a4_hz: float,
    now: datetime,
    seed: int | None = None,
) -> Summary:
    """Begin an attempt for a learner, with a start drawn by lot unless `seed` is given.

    Raises:
        MeldrinError: for an instrument, method, start or calibration there is none of.
    """
    drawn = secrets.randbelow(MOST_SEED) if seed is None else seed
    setup = Setup(instrument, method, start, drawn, a4_hz)
    row = AttemptRow(
        public_id=uuid.uuid4().hex,
        learner_id=learner,
        engine=ENGINE,
        instrument=setup.instrument_id,
        method=setup.method,
        start=setup.start,
        seed=setup.seed,
        a4_hz=setup.a4_hz,
        created_at=now,
    )
    session.add(row)
    session.commit()
    return _summary(row)


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
    setup = Setup(row.instrument, row.method, row.start, row.seed, row.a4_hz)  # type: ignore[arg-type]
    return Summary(
        id=row.public_id,
        setup=setup,
        created_at=row.created_at,
        finished_at=row.finished_at,
        points=row.points,
    )
