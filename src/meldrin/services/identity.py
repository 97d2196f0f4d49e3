"""Who asks: a guest is known by a random secret of which only the digest is stored."""

import hashlib
import secrets
from datetime import datetime

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from meldrin.store.tables import LearnerRow

SECRET_BYTES = 32


def new_secret() -> str:
    """Return a secret for a cookie, too random to guess."""
    return secrets.token_urlsafe(SECRET_BYTES)


def learner_id(session: Session, secret: str | None) -> int | None:
    """Return the id of the learner who holds this secret, or None."""
    if not secret:
        return None
    query = select(LearnerRow.id).where(LearnerRow.secret_sha256 == _digest(secret))
    return session.scalar(query)


def welcome_guest(session: Session, *, secret: str, now: datetime) -> int:
    """Make a learner for this secret and return its id."""
    row = LearnerRow(secret_sha256=_digest(secret), created_at=now)
    session.add(row)
    session.commit()
    return row.id


def erase_learner(session: Session, learner: int) -> None:
    """Erase a learner with everything that belongs to it."""
    session.execute(delete(LearnerRow).where(LearnerRow.id == learner))
    session.commit()


def _digest(secret: str) -> bytes:
    return hashlib.sha256(secret.encode()).digest()
