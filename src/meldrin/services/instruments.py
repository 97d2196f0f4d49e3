"""Instruments: those of the catalogue, and those that somebody brought in."""

from datetime import datetime

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from meldrin.core.catalogue import Instrument, instrument, instrument_of, instrument_text
from meldrin.core.errors import Code, MeldrinError
from meldrin.services.actor import Actor
from meldrin.services.limits import counting
from meldrin.services.permissions import may_erase
from meldrin.store.tables import InstrumentRow

MOST_OWN = 50


def own_instruments(session: Session, actor: Actor) -> list[Instrument]:
    """Return the instruments that somebody brought in, the newest first."""
    if actor.learner is None:
        return []
    query = (
        select(InstrumentRow.text)
        .where(InstrumentRow.learner_id == actor.learner)
        .order_by(InstrumentRow.created_at.desc(), InstrumentRow.id.desc())
    )
    return [instrument_of(text) for text in session.scalars(query)]


def instrument_for(session: Session, actor: Actor, instrument_id: str) -> Instrument:
    """Return an instrument by its id; one's own comes before one of the catalogue.

    Raises:
        MeldrinError: code ``no_such_instrument``.
    """
    text = _own_text(session, actor, instrument_id)
    return instrument(instrument_id) if text is None else instrument_of(text)


def text_for(session: Session, actor: Actor, instrument_id: str) -> str:
    """Return the data of an instrument, one's own before one of the catalogue.

    Raises:
        MeldrinError: code ``no_such_instrument``.
    """
    text = _own_text(session, actor, instrument_id)
    return instrument_text(instrument_id) if text is None else text


def own_text(session: Session, actor: Actor, instrument_id: str) -> str:
    """Return the data of an instrument of one's own, or “” where it is the catalogue's."""
    return _own_text(session, actor, instrument_id) or ""


def bring_instrument(session: Session, actor: Actor, text: str, *, now: datetime) -> Instrument:
    """Keep an instrument of one's own; one with the same id is replaced.

    Raises:
        MeldrinError: code ``catalogue``, with the line and the reason, for a text that is not an
            instrument; ``too_many`` from the 51st on.
    """
    made = instrument_of(text, name="Your instrument")
    counting(session, actor)
    query = select(func.count()).where(
        InstrumentRow.learner_id == actor.learner, InstrumentRow.instrument != made.id
    )
    if (session.scalar(query) or 0) >= MOST_OWN:
        raise MeldrinError(
            Code.TOO_MANY, f"You have {MOST_OWN} instruments of your own; remove one first."
        )
    same = (InstrumentRow.learner_id == actor.learner, InstrumentRow.instrument == made.id)
    session.execute(delete(InstrumentRow).where(*same))
    session.add(
        InstrumentRow(learner_id=actor.learner, instrument=made.id, text=text, created_at=now)
    )
    session.commit()
    return made


def remove_instrument(session: Session, actor: Actor, instrument_id: str) -> None:
    """Remove an instrument of one's own; attempts that were played on it keep its data.

    Raises:
        MeldrinError: code ``no_such_instrument``.
    """
    query = select(InstrumentRow).where(
        InstrumentRow.learner_id == actor.learner, InstrumentRow.instrument == instrument_id
    )
    row = session.scalar(query)
    if row is None or not may_erase(actor, row):
        raise MeldrinError(
            Code.NO_SUCH_INSTRUMENT, f"You have no instrument of your own “{instrument_id}”."
        )
    session.delete(row)
    session.commit()


def _own_text(session: Session, actor: Actor, instrument_id: str) -> str | None:
    if actor.learner is None:
        return None
    query = select(InstrumentRow.text).where(
        InstrumentRow.learner_id == actor.learner, InstrumentRow.instrument == instrument_id
    )
    return session.scalar(query)
