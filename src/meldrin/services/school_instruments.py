"""The instruments of a studio, by what stands on their labels."""

import json
import uuid
from dataclasses import dataclass
from datetime import datetime
from typing import Final

from sqlalchemy import func, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from meldrin.core.bench import Behaviour, Exercise
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.people import title_said
from meldrin.services.actor import Actor
from meldrin.services.audit import note
from meldrin.services.studios import room_for, taught
from meldrin.store.tables import SchoolInstrumentRow, StudioRow

MOST_INSTRUMENTS: Final = 300
MOST_OF_A_LABEL: Final = 12
MOST_OF_A_NOTE: Final = 120


@dataclass(frozen=True, slots=True)
class SchoolInstrument:
    """An instrument of a studio.

    shelf: what stands on its label.
    instrument, tuning: of the catalogue; the tuning may be a line of notes.
    behaviours: what is peculiar to it, such as pegs that slip.
    note: a sentence about it, or nothing.

    Raises:
        MeldrinError: for an unknown instrument, tuning or behaviour, and for a label or a note that
            is too long.
    """

    shelf: str
    instrument: str
    tuning: str = "standard"
    behaviours: frozenset[Behaviour] = frozenset()
    note: str = ""

    def __post_init__(self) -> None:
        if title_said(self.shelf) != self.shelf or len(self.shelf) > MOST_OF_A_LABEL:
            raise MeldrinError(
                Code.NAME, f"A label has at most {MOST_OF_A_LABEL} letters and digits."
            )
        if len(self.note) > MOST_OF_A_NOTE or not self.note.isprintable():
            raise MeldrinError(
                Code.NAME, f"A note is one sentence of at most {MOST_OF_A_NOTE} letters."
            )
        Exercise(
            self.instrument,
            "free",
            "hair",
            0,
            tuning=self.tuning,
            behaviours=self.behaviours,
        )


def school_instruments(session: Session, studio: StudioRow) -> list[tuple[str, SchoolInstrument]]:
    """Return the instruments of a studio with their ids, by label."""
    query = (
        select(SchoolInstrumentRow)
        .where(SchoolInstrumentRow.studio_id == studio.id)
        .order_by(SchoolInstrumentRow.shelf)
    )
    return [
        (
            row.public_id,
            SchoolInstrument(
                row.shelf,
                row.instrument,
                row.tuning,
                frozenset(json.loads(row.behaviours)),
                row.note,
            ),
        )
        for row in session.scalars(query)
    ]


def keep_instrument(
    session: Session,
    actor: Actor,
    studio_id: str,
    wanted: SchoolInstrument,
    *,
    instrument_id: str | None = None,
    now: datetime,
) -> str:
    """Keep an instrument of a studio, and return its id.

    Args:
        instrument_id: the one it takes the place of, or None for one more.

    Raises:
        MeldrinError: code ``name`` where its label is another's, ``too_many``,
            ``no_such_instrument``.
    """
    studio = taught(session, actor, studio_id)
    if instrument_id is None:
        room_for(session, studio, 0)
        mine = SchoolInstrumentRow.studio_id == studio.id
        if (session.scalar(select(func.count()).where(mine)) or 0) >= MOST_INSTRUMENTS:
            session.rollback()
            raise MeldrinError(
                Code.TOO_MANY, f"A studio has at most {MOST_INSTRUMENTS} instruments."
            )
        row = SchoolInstrumentRow(public_id=uuid.uuid4().hex, studio_id=studio.id)
        session.add(row)
    else:
        row = _there(session, studio, instrument_id)
    row.shelf, row.instrument, row.tuning = wanted.shelf, wanted.instrument, wanted.tuning
    row.behaviours, row.note = json.dumps(sorted(wanted.behaviours)), wanted.note
    try:
        session.flush()
    except IntegrityError as error:
        session.rollback()
        raise MeldrinError(
            Code.NAME, f"Another instrument has the label “{wanted.shelf}” already."
        ) from error
    note(session, actor, studio.id, "instrument", now=now)
    session.commit()
    return row.public_id


def remove_instrument(
    session: Session, actor: Actor, studio_id: str, instrument_id: str, *, now: datetime
) -> None:
    """Take an instrument off a studio's shelf.

    Raises:
        MeldrinError: code ``no_such_instrument``.
    """
    studio = taught(session, actor, studio_id)
    session.delete(_there(session, studio, instrument_id))
    note(session, actor, studio.id, "instrument", now=now)
    session.commit()


def _there(session: Session, studio: StudioRow, instrument_id: str) -> SchoolInstrumentRow:
    row = session.scalar(
        select(SchoolInstrumentRow).where(
            SchoolInstrumentRow.public_id == instrument_id,
            SchoolInstrumentRow.studio_id == studio.id,
        )
    )
    if row is None:
        raise MeldrinError(Code.NO_SUCH_INSTRUMENT, "There is no such instrument in this studio.")
    return row
