"""All that is kept of a learner, to be taken along: each row as it is kept, but for what lets
somebody in.
"""

import json
from collections.abc import Iterator
from dataclasses import asdict
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from meldrin.services.actor import Actor
from meldrin.services.audit import about
from meldrin.store.tables import (
    AccountRow,
    ActionRow,
    AimRow,
    AssignedAttemptRow,
    AssignmentRow,
    AttemptRow,
    EnsembleReadingRow,
    EnsembleRow,
    ErasedRow,
    FigureRow,
    GroupMemberRow,
    GroupRow,
    InstrumentRow,
    LearnerRow,
    MemberRow,
    PathRow,
    RemarkRow,
    ResultRow,
    RoundAnswerRow,
    RoundRow,
    RoundSeatRow,
    SignInRow,
    StudioRow,
    TodayRow,
)

# Columns that say nothing of the learner: keys of rows, and what must not be known.
LEFT_OUT = frozenset(
    {
        "id",
        "learner_id",
        "attempt_id",
        "studio_id",
        "round_id",
        "seat_id",
        "author_id",
        "answer_id",
        "version",
        "holder",
    }
)
SECRETS = frozenset({"secret_sha256", "passphrase", "slip_sha256"})


def everything_of(session: Session, actor: Actor) -> Iterator[tuple[str, str]]:
    """Yield files: their names, and what is in them."""
    if actor.learner is None:
        return
    learner = session.get_one(LearnerRow, actor.learner)
    account = session.get(AccountRow, actor.learner)
    who = {"learner": _told(learner), "account": None if account is None else _told(account)}
    yield "who.json", _json(who)
    for name, table in (
        ("sign-ins", SignInRow),
        ("practises-for", AimRow),
        ("plans", TodayRow),
        ("figures", FigureRow),
        ("steps", PathRow),
        ("erased", ErasedRow),
    ):
        mine = session.scalars(select(table).where(table.learner_id == actor.learner))
        yield f"{name}.json", _json([_told(row) for row in mine])
    yield "studios.json", _json(_studios(session, actor))
    yield "set.json", _json(_set(session, actor))
    yield "remarks.json", _json(_remarks(session, actor))
    yield "concerts.json", _json(_concerts(session, actor))
    yield "rounds.json", _json(_rounds(session, actor))
    looks = [asdict(one) for one in about(session, actor)]
    yield "looked-at-by.json", _json([{**one, "at": _plain(one["at"])} for one in looks])
    instruments = select(InstrumentRow).where(InstrumentRow.learner_id == actor.learner)
    for instrument in session.scalars(instruments):
        yield f"instruments/{instrument.instrument}.toml", instrument.text
    keys = session.scalars(
        select(AttemptRow.id).where(AttemptRow.learner_id == actor.learner).order_by(AttemptRow.id)
    ).all()
    for key in keys:
        yield _attempt(session, key)
        session.expunge_all()


def _studios(session: Session, actor: Actor) -> list[dict[str, object]]:
    mine = (
        select(MemberRow, StudioRow.name)
        .join(StudioRow, StudioRow.id == MemberRow.studio_id)
        .where(MemberRow.learner_id == actor.learner)
    )
    groups = (
        select(GroupRow.name)
        .join(GroupMemberRow, GroupMemberRow.group_id == GroupRow.id)
        .order_by(GroupRow.name)
    )
    return [
        {
            **_told(row),
            "studio": studio,
            "groups": list(session.scalars(groups.where(GroupMemberRow.member_id == row.id))),
        }
        for row, studio in session.execute(mine)
    ]


def _set(session: Session, actor: Actor) -> list[dict[str, object]]:
    """Return which attempts were made for which exercise that a teacher has set."""
    query = (
        select(AssignmentRow.name, AssignedAttemptRow.part, AttemptRow.public_id)
        .join(AssignedAttemptRow, AssignedAttemptRow.assignment_id == AssignmentRow.id)
        .join(AttemptRow, AttemptRow.id == AssignedAttemptRow.attempt_id)
        .where(AttemptRow.learner_id == actor.learner)
        .order_by(AttemptRow.id)
    )
    return [
        {"exercise": name, "part": part, "attempt": attempt}
        for name, part, attempt in session.execute(query)
    ]


def _remarks(session: Session, actor: Actor) -> list[dict[str, object]]:
    """Return what teachers have remarked on one's attempts, and what one has remarked oneself."""
    query = (
        select(RemarkRow, AttemptRow.public_id, AttemptRow.learner_id)
        .join(AttemptRow, AttemptRow.id == RemarkRow.attempt_id)
        .where(or_(AttemptRow.learner_id == actor.learner, RemarkRow.author_id == actor.learner))
        .order_by(RemarkRow.id)
    )
    return [
        # of others' work a teacher takes along the words alone
        {**_told(row), "attempt": attempt if learner == actor.learner else None}
        for row, attempt, learner in session.execute(query)
    ]


def _concerts(session: Session, actor: Actor) -> list[dict[str, object]]:
    """Return what teachers have typed in of one's strings before concerts."""
    query = (
        select(EnsembleRow.name, EnsembleReadingRow)
        .join(EnsembleReadingRow, EnsembleReadingRow.ensemble_id == EnsembleRow.id)
        .join(MemberRow, MemberRow.id == EnsembleReadingRow.member_id)
        .where(MemberRow.learner_id == actor.learner)
    )
    return [
        {"check": name, "string": row.string, "cents": row.cents, "at": _plain(row.at)}
        for name, row in session.execute(query)
    ]


def _rounds(session: Session, actor: Actor) -> list[dict[str, object]]:
    """Return what was said in rounds with a class."""
    query = (
        select(RoundRow.moved_at, RoundSeatRow.place, RoundAnswerRow)
        .join(RoundSeatRow, RoundSeatRow.round_id == RoundRow.id)
        .join(RoundAnswerRow, RoundAnswerRow.seat_id == RoundSeatRow.id)
        .where(RoundSeatRow.learner_id == actor.learner)
        .order_by(RoundSeatRow.id, RoundAnswerRow.number)
    )
    return [
        {"at": _plain(at), "place": place, **_told(row)}
        for at, place, row in session.execute(query)
    ]


def _attempt(session: Session, key: int) -> tuple[str, str]:
    attempt = session.get_one(AttemptRow, key)
    actions = select(ActionRow).where(ActionRow.attempt_id == key).order_by(ActionRow.number)
    results = select(ResultRow).where(ResultRow.attempt_id == key)
    kept = {
        "attempt": _told(attempt),
        "actions": [_told(row) for row in session.scalars(actions)],
        "results": [_told(row) for row in session.scalars(results)],
    }
    return f"attempts/{attempt.public_id}.json", _json(kept)


def _told(row: Any) -> dict[str, object]:
    names = [one.name for one in row.__table__.columns]
    return {
        name: _plain(getattr(row, name))
        for name in names
        if name not in LEFT_OUT and name not in SECRETS
    }


def _plain(value: object) -> object:
    """Return a value as JSON has it; a record that is kept as JSON is one, where it is whole."""
    if isinstance(value, datetime):
        return value.astimezone(UTC).isoformat()
    if isinstance(value, str) and value[:1] in ("{", "["):
        try:
            return json.loads(value)
        except ValueError:
            return value
    return value


def _json(value: object) -> str:
    return json.dumps(value, ensure_ascii=False, indent=1) + "\n"
