"""Who asks: a browser is known by a random secret of which only the digest is stored."""

import hashlib
import secrets
from datetime import datetime, timedelta
from typing import Final, Literal

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session

from meldrin.core.errors import Code, MeldrinError
from meldrin.services.actor import NEWCOMER, Actor
from meldrin.store.tables import LearnerRow, MemberRow, SignInRow, StudioRow

SECRET_BYTES = 32
NOTED_EVERY: Final = timedelta(days=1)
TEACHING: Final = ("teacher", "owner")
Device = Literal["phone", "tablet", "computer"]


def new_secret() -> str:
    """Return a secret for a cookie, too random to guess."""
    return secrets.token_urlsafe(SECRET_BYTES)


def actor_of(session: Session, secret: str | None, *, now: datetime) -> Actor:
    """Return whoever holds this secret, and note that it was here today; a newcomer where nobody
    does.
    """
    if not secret:
        return NEWCOMER
    query = (
        select(
            SignInRow.id,
            SignInRow.learner_id,
            SignInRow.seen_at,
            MemberRow.studio_id,
            MemberRow.role,
        )
        .outerjoin(
            MemberRow,
            (MemberRow.learner_id == SignInRow.learner_id) & MemberRow.role.in_(TEACHING),
        )
        .where(SignInRow.secret_sha256 == digest(secret))
        .where(SignInRow.ends_at.is_(None) | (SignInRow.ends_at > now))
    )
    found = session.execute(query).all()
    if not found:
        return NEWCOMER
    first = found[0]
    if first.seen_at < now - NOTED_EVERY:
        session.execute(update(SignInRow).where(SignInRow.id == first.id).values(seen_at=now))
        session.execute(
            update(LearnerRow).where(LearnerRow.id == first.learner_id).values(seen_at=now)
        )
        session.commit()
    teaches = {one.studio_id: one.role for one in found if one.studio_id is not None}
    return Actor(first.learner_id, teaches)


def welcome_guest(
    session: Session, *, secret: str, now: datetime, device: Device = "computer"
) -> Actor:
    """Make a learner for this secret and return it."""
    row = LearnerRow(created_at=now, seen_at=now)
    session.add(row)
    session.flush()
    let_in(session, row.id, secret=secret, device=device, now=now)
    session.commit()
    return Actor(row.id)


def let_in(
    session: Session,
    learner: int,
    *,
    secret: str,
    device: Device,
    now: datetime,
    ends_at: datetime | None = None,
) -> None:
    """Let the holder of this secret be a learner from now on; the caller commits.

    Args:
        ends_at: until when, or None for as long as nobody signs out.
    """
    session.add(
        SignInRow(
            public_id=secrets.token_hex(16),
            learner_id=learner,
            secret_sha256=digest(secret),
            device=device,
            created_at=now,
            seen_at=now,
            ends_at=ends_at,
        )
    )


def erase_learner(session: Session, actor: Actor) -> None:
    """Erase a learner with everything that belongs to it; a newcomer has nothing to erase.

    Raises:
        MeldrinError: code ``studio``, for the only owner of a studio.
    """
    for studio, role in actor.teaches.items():
        if role == "owner":
            keep_an_owner(session, studio, without=actor.learner)
    session.execute(delete(LearnerRow).where(LearnerRow.id == actor.learner))
    session.commit()


def keep_an_owner(session: Session, studio: int, *, without: int | None) -> None:
    """Refuse that a studio is left without an owner; of two who ask at once one begins again.

    Args:
        without: the learner who would be its owner no longer.

    Raises:
        MeldrinError: code ``studio``.
    """
    session.execute(
        update(StudioRow).where(StudioRow.id == studio).values(version=StudioRow.version + 1)
    )
    others = select(MemberRow.id).where(
        MemberRow.studio_id == studio, MemberRow.role == "owner", MemberRow.learner_id != without
    )
    if session.scalar(others.limit(1)) is None:
        session.rollback()
        raise MeldrinError(
            Code.STUDIO, "A studio needs an owner. Make another teacher its owner, or delete it."
        )


def digest(secret: str) -> bytes:
    """Return what is stored of a secret that is too long to guess."""
    return hashlib.sha256(secret.encode(errors="surrogateescape")).digest()
