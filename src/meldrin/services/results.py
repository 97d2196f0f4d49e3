"""Scores: computed once for a finished attempt, outside of any transaction, and kept."""

import contextlib
import math
import threading
from typing import Final

from pydantic import TypeAdapter, ValidationError
from pydantic_core import to_json
from sqlalchemy import insert, select
from sqlalchemy.orm import Session

from meldrin.core.bench.listening import AIDS
from meldrin.core.errors import MeldrinError
from meldrin.core.scoring import Score, score
from meldrin.services.attempts import ENGINE, Record, record_of
from meldrin.store.engine import Sessions
from meldrin.store.tables import AttemptRow, ResultRow

KEPT: Final = TypeAdapter(Score)


class Results:
    """The scores of one process; two who ask for the same one wait for one computation."""

    def __init__(self, sessions: Sessions) -> None:
        self._sessions = sessions
        self._guard = threading.Lock()
        self._busy: dict[int, threading.Lock] = {}

    def of(self, record: Record) -> Score | None:
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
        """Compute what was finished and not yet scored when this program last ended."""
        query = (
            select(AttemptRow.id)
            .outerjoin(ResultRow, ResultRow.attempt_id == AttemptRow.id)
            .where(AttemptRow.finished_at.is_not(None), AttemptRow.engine == ENGINE)
            .where(ResultRow.attempt_id.is_(None))
        )
        with self._sessions() as session:
            keys = list(session.scalars(query))
        for key in keys:
            with contextlib.suppress(MeldrinError):  # one that cannot be read is passed over
                with self._sessions() as session:
                    record = record_of(session, key)
                self.of(record)

    def _kept_or_computed(self, record: Record) -> Score | None:
        with self._sessions() as session:
            found = _kept(session, record.key)
            engine = session.scalar(select(AttemptRow.engine).where(AttemptRow.id == record.key))
        if found is not None or record.summary.finished_at is None:
            return found
        if engine is None or engine < ENGINE:
            return None
        result = score(record.setup, record.timed)
        with self._sessions() as session:
            # IGNORE: another process may have computed the same in the meantime, or the attempt may
            # have been erased.
            session.execute(insert(ResultRow).prefix_with("IGNORE"), [_row(record.key, result)])
            session.commit()
        return result


def _kept(session: Session, key: int) -> Score | None:
    row = session.get(ResultRow, key)
    if row is None:
        return None
    try:
        return KEPT.validate_json(row.record)
    except ValidationError:  # written by a version whose shape is no longer read
        return None


def _row(key: int, result: Score) -> dict[str, object]:
    accuracy = result.accuracy
    bases = {one.basis for one in result.strings}
    shown = [aid for aid in AIDS if aid in bases]
    return {
        "attempt_id": key,
        "engine": ENGINE,
        "points": result.points,
        "aid": shown[-1] if shown else "read" if "read" in bases else "none",
        "median_cents": _finite(accuracy.median_cents),
        "worst_cents": _finite(accuracy.worst_cents),
        "worst": accuracy.worst,
        "by_ear": result.by_ear,
        "by_ear_of": result.judged_by_ear_of,
        # a slack string is minus infinity away, which has to come back
        "record": to_json(KEPT.dump_python(result), inf_nan_mode="constants").decode(),
    }


def _finite(cents: float) -> float | None:
    return cents if math.isfinite(cents) else None
