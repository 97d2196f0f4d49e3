"""Scores: computed once for a finished attempt, outside of any transaction, and kept."""

import json
import logging
import threading
from dataclasses import asdict
from typing import Any

from sqlalchemy import insert, select, update
from sqlalchemy.orm import Session

from meldrin.core.errors import MeldrinError
from meldrin.services.attempts import FINISHED, Record, record_of
from meldrin.services.practices import KINDS, kind_of
from meldrin.store.engine import Sessions
from meldrin.store.tables import AttemptRow, ResultRow

LOG = logging.getLogger("meldrin.results")


class Results:
    """The scores of one process; two who ask for the same one wait for one computation."""

    def __init__(self, sessions: Sessions) -> None:
        self._sessions = sessions
        self._guard = threading.Lock()
        self._busy: dict[int, threading.Lock] = {}

    def of(self, record: Record) -> Any:
        """Return the score of a finished attempt, from the store where it is there.

        None for one that an earlier version scored: it keeps its points, and their reasons are not
        computed by other rules.
        """
        with self._guard:
            lock = self._busy.setdefault(record.key, threading.Lock())
        try:
            with lock:
                return self._kept_or_computed(record)
        finally:
            with self._guard:
                self._busy.pop(record.key, None)

    def catch_up(self) -> None:
        """Compute what was finished and not scored when this program last ended. One that cannot
        be scored stops no start; the log says which and why.
        """
        with self._sessions() as session:
            keys = [key for name in KINDS for key in session.scalars(_unscored(name))]
        for key in keys:
            try:
                with self._sessions() as session:
                    record = record_of(session, key)
                self.of(record)
            except Exception:
                LOG.exception("attempt %d cannot be scored", key)

    def _kept_or_computed(self, record: Record) -> Any:
        practice = record.summary.practice
        kind = kind_of(practice)
        with self._sessions() as session:
            engine = session.scalar(select(AttemptRow.engine).where(AttemptRow.id == record.key))
            found = None if engine is None else _kept(session, practice, record.key, engine)
        if found is not None or record.summary.finished_at is None:
            return found
        if engine is None or engine < kind.engine:
            return None
        result = kind.score(record.exercise, record.timed)
        with self._sessions() as session:
            # IGNORE: another process may have computed the same in the meantime, or the attempt may
            # have been erased.
            row = _row(practice, record.key, result)
            session.execute(insert(ResultRow).prefix_with("IGNORE"), [row])
            session.execute(
                update(AttemptRow)
                .where(AttemptRow.id == record.key)
                .values(points=row["points"], accuracy=row["median_cents"])
            )
            session.commit()
        return result


def _unscored(practice: str) -> Any:
    return (
        select(AttemptRow.id)
        .outerjoin(
            ResultRow,
            (ResultRow.attempt_id == AttemptRow.id) & (ResultRow.engine == AttemptRow.engine),
        )
        .where(AttemptRow.state == FINISHED, AttemptRow.practice == practice)
        .where(AttemptRow.engine == KINDS[practice].engine, ResultRow.attempt_id.is_(None))
    )


def _kept(session: Session, practice: str, key: int, engine: int) -> Any:
    row = session.get(ResultRow, (key, engine))
    if row is None:
        return None
    try:
        # records of version 1 did not say so
        return kind_of(practice).results.value({"v": 1, **json.loads(row.record)})
    except MeldrinError:  # damaged
        return None


def _row(practice: str, key: int, result: Any) -> dict[str, object]:
    kind = kind_of(practice)
    return {
        "attempt_id": key,
        "engine": kind.engine,
        "points": kind.points(result),
        **asdict(kind.brief(result)),
        "record": json.dumps(kind.results.record(result)),
    }
