"""Who asks: a guest is known by a random secret of which only the digest is stored."""

import hashlib
import secrets
from datetime import datetime

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from meldrin.services.actor import NEWCOMER, Actor
from meldrin.store.tables import LearnerRow

SECRET_BYTES = 32


def new_secret() -> str:
    """Return a secret for a cookie, too random to guess."""
    return secrets.token_urlsafe(SECRET_BYTES)


def actor_of(session: Session, secret: str | None) -> Actor:
    """Return whoever holds this secret; a newcomer where nobody does."""
    if not secret:
        return NEWCOMER
    query = select(LearnerRow.id).where(LearnerRow.secret_sha256 == _digest(secret))
    return Actor(session.scalar(query))


def welcome_guest(session: Session, *, secret: str, now: datetime) -> Actor:
    """Make a learner for this secret and return it."""
    row = LearnerRow(secret_sha256=_digest(secret), created_at=now)
    session.add(row)
    session.commit()
    return Actor(row.id)


def erase_learner(session: Session, actor: Actor) -> None:
    """Erase a learner with everything that belongs to it; a newcomer has nothing to erase."""
    session.execute(delete(LearnerRow).where(LearnerRow.id == actor.learner))
    session.commit()


def _digest(secret: str) -> bytes:
    return hashlib.sha256(secret.encode()).digest()
