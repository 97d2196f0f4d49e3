"""Remarks of teachers on moments of attempts: pinned, changed, read, and answered by doing the spot
once more.
"""

import uuid
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Final

from sqlalchemy import func, or_, select
from sqlalchemy.orm import Session, aliased

from meldrin.core.bench import came_to, spot_at
from meldrin.core.errors import Code, MeldrinError, within
from meldrin.core.session import Timed
from meldrin.services.actor import Actor
from meldrin.services.attempts import (
    FINISHED,
    as_pupil,
    begin_from,
    look_at_attempt,
    record_of,
)
from meldrin.services.audit import note
from meldrin.services.permissions import may_answer, may_change_remark, may_remark
from meldrin.store.tables import AttemptRow, MemberRow, RemarkRow

MOST_OF_AN_ATTEMPT: Final = 40
MOST_OF_A_REMARK: Final = 300


@dataclass(frozen=True, slots=True)
class Remark:
    """A remark as it is read.

    by: who made it, as they are called in the studio; “your teacher” where nobody is any more.
    attempt: the id of the attempt it is on.
    answer: the attempt in which the spot was done again, or None; is_done: whether it is over.
    cents, came_to: how far the string was then, and after that; None where that is not known.
    is_mine: whoever reads it made it.
    """

    id: str
    attempt: str
    at_s: float
    text: str
    by: str
    label: str
    cents: float | None
    answer: str | None
    is_done: bool
    came_to: float | None
    is_mine: bool
    created_at: datetime


def remark(
    session: Session, actor: Actor, attempt_id: str, *, at_s: float, text: str, now: datetime
) -> Remark:
    """Pin a remark to a moment of a pupil's finished attempt.

    Raises:
        MeldrinError: code ``no_such_attempt`` for who does not teach its maker, ``unfinished``,
            ``remark`` for no words, ``too_many``, or OutOfRange for a moment.
    """
    said = said_of(text)
    record = look_at_attempt(session, actor, attempt_id, now=now)
    row = session.get_one(AttemptRow, record.key)
    members = as_pupil(session, actor, row)
    taught_in = [one.studio_id for one in members]
    if not may_remark(actor, pupil_in=taught_in) or record.summary.practice != "bench":
        raise MeldrinError(Code.NO_SUCH_ATTEMPT, "There is no such attempt of a pupil of yours.")
    if record.summary.finished_at is None:
        raise MeldrinError(Code.UNFINISHED, "This attempt still goes on; remark on it afterwards.")
    log = record.timed
    within(at_s, name="moment", low=0.0, high=max((one.at_s for one in log), default=0.0) + 1.0)
    there = session.scalar(select(func.count()).where(RemarkRow.attempt_id == record.key))
    if (there or 0) >= MOST_OF_AN_ATTEMPT:
        raise MeldrinError(
            Code.TOO_MANY, f"An attempt has at most {MOST_OF_AN_ATTEMPT} remarks. Erase one first."
        )
    session.rollback()  # what follows takes a while
    spot = spot_at(record.exercise, log, at_s)
    made = RemarkRow(
        public_id=uuid.uuid4().hex,
        attempt_id=record.key,
        author_id=actor.learner,
        at_s=at_s,
        text=said,
        before=spot.before,
        stage=spot.stage,
        label=spot.label,
        cents=spot.cents,
        created_at=now,
    )
    session.add(made)
    for member in members:
        note(session, actor, member.studio_id, "remarked", now=now, about=member)
    session.commit()
    return _read(session, actor, [made])[0]


def said_of(text: str) -> str:
    """Return a remark as it is kept: one line.

    Raises:
        MeldrinError: code ``remark``, for nothing or too much.
    """
    said = " ".join(text.split())
    if not said or len(said) > MOST_OF_A_REMARK:
        raise MeldrinError(
            Code.REMARK, f"A remark has a few words, and at most {MOST_OF_A_REMARK} letters."
        )
    return said


def change_remark(session: Session, actor: Actor, remark_id: str, *, text: str) -> Remark:
    """Say a remark in other words; only who made it may."""
    said = said_of(text)
    row = _own(session, actor, remark_id)
    row.text = said
    session.commit()
    return _read(session, actor, [row])[0]


def erase_remark(session: Session, actor: Actor, remark_id: str) -> None:
    """Erase a remark; only who made it may. What was done again stays the pupil's."""
    session.delete(_own(session, actor, remark_id))
    session.commit()


def remarks_on(session: Session, actor: Actor, attempt_id: str, *, now: datetime) -> list[Remark]:
    """Return the remarks on an attempt of one's own or of a pupil's, in the order of moments."""
    record = look_at_attempt(session, actor, attempt_id, now=now)
    rows = session.scalars(
        select(RemarkRow)
        .where(RemarkRow.attempt_id == record.key)
        .order_by(RemarkRow.at_s, RemarkRow.id)
    ).all()
    return _read(session, actor, list(rows))


def to_answer(session: Session, actor: Actor, *, most: int = 20) -> list[Remark]:
    """Return the remarks on one's own attempts whose spot has not been done again to its end, the
    newest first.
    """
    again = aliased(AttemptRow)
    rows = session.scalars(
        select(RemarkRow)
        .join(AttemptRow, AttemptRow.id == RemarkRow.attempt_id)
        .outerjoin(again, again.id == RemarkRow.answer_id)
        .where(AttemptRow.learner_id == actor.learner)
        .where(or_(RemarkRow.answer_id.is_(None), again.state != FINISHED))
        .order_by(RemarkRow.created_at.desc(), RemarkRow.id.desc())
        .limit(most)
    ).all()
    return _read(session, actor, list(rows))


def answer_remark(session: Session, actor: Actor, remark_id: str, *, now: datetime) -> str:
    """Begin again where the step of a remark was met, or go on with that; return the attempt's id.

    Raises:
        MeldrinError: code ``no_such_remark``, also for who did not make its attempt.
    """
    row = session.scalar(select(RemarkRow).where(RemarkRow.public_id == remark_id))
    attempt = None if row is None else session.get(AttemptRow, row.attempt_id)
    if row is None or attempt is None or not may_answer(actor, attempt):
        raise _no_remark()
    if row.answer_id is not None:
        begun = session.get_one(AttemptRow, row.answer_id)
        if begun.state != FINISHED:
            return begun.public_id
    record = record_of(session, row.attempt_id)
    # the step takes as long as it takes
    exercise = replace(record.exercise, limit_s=0.0)
    passed = [Timed(one.at_s, one.action) for one in record.timed[: row.before]]
    key, public_id = begin_from(session, actor, exercise, passed, now=now)
    row.answer_id, row.came_to = key, None
    session.commit()
    return public_id


def _read(session: Session, actor: Actor, rows: list[RemarkRow]) -> list[Remark]:
    """Return remarks as they are read; what an answer came to is worked out once."""
    found = []
    for row in rows:
        attempt = session.get_one(AttemptRow, row.attempt_id)
        answer = None if row.answer_id is None else session.get(AttemptRow, row.answer_id)
        is_done = answer is not None and answer.state == FINISHED
        if answer is not None and is_done and row.came_to is None and row.stage is not None:
            again = record_of(session, answer.id)
            row.came_to = came_to(again.exercise, again.timed, row.stage)
            session.commit()
        found.append(
            Remark(
                id=row.public_id,
                attempt=attempt.public_id,
                at_s=row.at_s,
                text=row.text,
                by=_called(session, row, attempt),
                label=row.label,
                cents=row.cents,
                answer=None if answer is None else answer.public_id,
                is_done=is_done,
                came_to=row.came_to if is_done else None,
                is_mine=may_change_remark(actor, row),
                created_at=row.created_at,
            )
        )
    return found


def _called(session: Session, row: RemarkRow, attempt: AttemptRow) -> str:
    """Return what its author is called in a studio of the pupil's."""
    studios = select(MemberRow.studio_id).where(MemberRow.learner_id == attempt.learner_id)
    name = session.scalar(
        select(MemberRow.name)
        .where(MemberRow.learner_id == row.author_id, MemberRow.studio_id.in_(studios))
        .limit(1)
    )
    return name or "Your teacher"


def _own(session: Session, actor: Actor, remark_id: str) -> RemarkRow:
    row = session.scalar(select(RemarkRow).where(RemarkRow.public_id == remark_id))
    if row is None or not may_change_remark(actor, row):
        raise _no_remark()
    attempt = session.get_one(AttemptRow, row.attempt_id)
    taught_in = [one.studio_id for one in as_pupil(session, actor, attempt)]
    if not may_remark(actor, pupil_in=taught_in):
        raise _no_remark()  # who has left the studio says nothing there any more
    return row


def _no_remark() -> MeldrinError:
    return MeldrinError(Code.NO_SUCH_REMARK, "There is no such remark.")
