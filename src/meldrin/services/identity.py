"""Who asks: a guest is known by a random secret of which only the digest is stored."""

import hashlib
import secrets
from datetime import datetime, timedelta
from typing import Final

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session

from meldrin.services.actor import NEWCOMER, Actor
from meldrin.store.tables import LearnerRow

SECRET_BYTES = 32
NOTED_EVERY: Final = timedelta(days=1)


def new_secret() -> str:
    """Return a secret for a cookie, too random to guess."""
    return secrets.token_urlsafe(SECRET_BYTES)


def actor_of(session: Session, secret: str | None, *, now: datetime) -> Actor:
    """Return whoever holds this secret, and note that it was here today; a newcomer where nobody
    does.
    """
    if not secret:
        return NEWCOMER
    query = select(LearnerRow.id, LearnerRow.seen_at)
    found = session.execute(query.where(LearnerRow.secret_sha256 == _digest(secret))).one_or_none()
    if found is None:
        return NEWCOMER
    if found.seen_at < now - NOTED_EVERY:
        session.execute(update(LearnerRow).where(LearnerRow.id == found.id).values(seen_at=now))
        session.commit()
    return Actor(found.id)


def welcome_guest(session: Session, *, secret: str, now: datetime) -> Actor:
    """Make a learner for this secret and return it."""
    row = LearnerRow(secret_sha256=_digest(secret), created_at=now, seen_at=now)
    session.add(row)
    session.commit()
    return Actor(row.id)


def erase_learner(session: Session, actor: Actor) -> None:
    """Erase a learner with everything that belongs to it; a newcomer has nothing to erase."""
    session.execute(delete(LearnerRow).where(LearnerRow.id == actor.learner))
    session.commit()


def _digest(secret: str) -> bytes:
    return hashlib.sha256(secret.encode(errors="surrogateescape")).digest()
