"""Who asks: a browser is known by a random secret of which only the digest is stored."""

import hashlib
import secrets
from datetime import datetime, timedelta
from typing import Final, Literal

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session

from meldrin.services.actor import NEWCOMER, Actor
from meldrin.store.tables import LearnerRow, SignInRow

SECRET_BYTES = 32
NOTED_EVERY: Final = timedelta(days=1)
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
    query = select(SignInRow.id, SignInRow.learner_id, SignInRow.seen_at)
    found = session.execute(query.where(SignInRow.secret_sha256 == digest(secret))).one_or_none()
    if found is None:
        return NEWCOMER
    if found.seen_at < now - NOTED_EVERY:
        session.execute(update(SignInRow).where(SignInRow.id == found.id).values(seen_at=now))
        session.execute(
            update(LearnerRow).where(LearnerRow.id == found.learner_id).values(seen_at=now)
        )
        session.commit()
    return Actor(found.learner_id)


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


def let_in(session: Session, learner: int, *, secret: str, device: Device, now: datetime) -> None:
    """Let the holder of this secret be a learner from now on; the caller commits."""
    session.add(
        SignInRow(
            public_id=secrets.token_hex(16),
            learner_id=learner,
            secret_sha256=digest(secret),
            device=device,
            created_at=now,
            seen_at=now,
        )
    )


def erase_learner(session: Session, actor: Actor) -> None:
    """Erase a learner with everything that belongs to it; a newcomer has nothing to erase."""
    session.execute(delete(LearnerRow).where(LearnerRow.id == actor.learner))
    session.commit()


def digest(secret: str) -> bytes:
    """Return what is stored of a secret that is too long to guess."""
    return hashlib.sha256(secret.encode(errors="surrogateescape")).digest()
