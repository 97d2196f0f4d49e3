"""What learners practise for."""

from typing import Final

from pydantic import TypeAdapter, ValidationError
from sqlalchemy import select
from sqlalchemy.orm import Session

from meldrin.core.bench import FAULT, FREE
from meldrin.core.errors import MeldrinError
from meldrin.core.practice import Aim
from meldrin.services.actor import Actor
from meldrin.store.tables import AimRow, AttemptRow

AIMS: Final = TypeAdapter(Aim)


def aim_of(session: Session, actor: Actor) -> Aim | None:
    """Return what a learner practises for; what it tuned last where it has not said, or None."""
    record = session.scalar(select(AimRow.record).where(AimRow.learner_id == actor.learner))
    if record is not None:
        try:
            return AIMS.validate_json(record)
        except (ValidationError, MeldrinError):  # of another version
            pass
    last = session.execute(
        select(AttemptRow.instrument, AttemptRow.tuning, AttemptRow.method)
        .where(AttemptRow.learner_id == actor.learner, AttemptRow.practice == "bench")
        .where(AttemptRow.method.notin_((FREE, FAULT)))
        .order_by(AttemptRow.created_at.desc())
        .limit(1)
    ).one_or_none()
    if last is None:
        return None
    try:
        return Aim(last.method, last.instrument, last.tuning)
    except MeldrinError:  # a method of another version
        return None
