"""Whether records can be read and written, and what is the matter where they cannot."""

import re
import shutil
from datetime import datetime
from pathlib import Path
from typing import Final

from sqlalchemy import literal_column, select
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.exc import DBAPIError, SQLAlchemyError
from sqlalchemy.orm import Session

from meldrin.store.engine import Sessions, in_transaction
from meldrin.store.tables import PulseRow, Table

AWAY: Final = "The database does not answer. What is played meanwhile is kept."
LEAST_FREE: Final = 200_000_000  # bytes; a class of twenty fills less than a tenth of it in a year
# Numbers of MariaDB’s errors, and of the storage engine’s inside them.
FULL: Final = (28, 1021, 1114)
MISSING: Final = (2, 194, 1016, 1017, 1146, 1812, 1932)
DAMAGED: Final = (126, 127, 144, 145, 180, 1033, 1034, 1035, 1194, 1195, 1712, 1815, 1877)
INSIDE: Final = re.compile(r"(?:Got error|[Ee]rrno:) (\d+)")
NO_QUORUM: Final = (1047, 1180)
NO_WRITES: Final = (1290, 1792, 1836)


def trouble_with(
    sessions: Sessions, *, process: str, now: datetime, folder: str = ""
) -> str | None:
    """Read from every table and write a row; return what is the matter in a sentence, or None.

    Args:
        process: the name under which this process writes.
        folder: where the database lies, if it lies on this machine.
    """

    def beat(session: Session) -> None:
        row = insert(PulseRow).values(process=process, at=now)
        session.execute(row.on_duplicate_key_update(at=row.inserted.at))
        session.commit()

    looked_at = ""
    try:
        with sessions() as session:
            for table in Table.metadata.sorted_tables:
                looked_at = table.name
                session.execute(select(literal_column("1")).select_from(table).limit(1))
        looked_at = PulseRow.__tablename__
        in_transaction(sessions, beat)
    except SQLAlchemyError as error:
        return sentence_of(error, table=looked_at)
    free = shutil.disk_usage(folder).free if folder and Path(folder).is_dir() else LEAST_FREE
    if free < LEAST_FREE:
        return f"The disk has only {free // 1_000_000} MB left. Make room before it is full."
    return None


def sentence_of(error: SQLAlchemyError, *, table: str) -> str:
    """Return what an error of the database means for whoever looks after it."""
    raised = error.orig if isinstance(error, DBAPIError) else None
    inside = INSIDE.search(str(raised))
    number = raised.args[0] if raised is not None and raised.args else None
    if inside is not None:
        number = int(inside[1])
    if number in FULL:
        return "The disk of the database is full. Make room; what is played meanwhile is kept."
    if number in MISSING:
        return f"A file of the database is missing, that of the table {table}. Restore a backup."
    if number in DAMAGED:
        return f"The table {table} of the database is damaged. Restore a backup."
    if number in NO_QUORUM:
        return "Too few nodes of the cluster are there. Saving waits until they are back."
    if number in NO_WRITES:
        return "The database takes no writes. What is played meanwhile is kept."
    return AWAY
