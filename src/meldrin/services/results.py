"""Scores: computed once for a finished attempt, outside of any transaction, and kept."""

import contextlib
import json
import logging
import random
import threading
from collections.abc import Generator, Iterator
from dataclasses import asdict
from functools import partial
from typing import Any

from sqlalchemy import insert, select, update
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from meldrin.core.errors import MeldrinError
from meldrin.core.practice import IN_A_ROW, Figure, in_a_row
from meldrin.services.actor import Actor
from meldrin.services.attempts import FINISHED, Record, record_of
from meldrin.services.figures import figures_of, gone_of, keep_figure
from meldrin.services.practices import KINDS, kind_of
from meldrin.store.engine import Sessions, in_transaction
from meldrin.store.tables import AttemptRow, FigureRow, ResultRow

MOST_IN_A_ROW = 100  # figures looked at
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
        with self._alone(record.key):
            return self._kept_or_computed(record)

    def catch_up(self, ended: threading.Event | None = None) -> None:
        """Compute what was finished and not scored when this program last ended. One that cannot
        be scored stops nothing; the log says which and why.

        Args:
            ended: when set, the rest is left for the next time.
        """
        keys: list[int] = []
        bare: list[int] = []
        with self._sessions() as session:
            for name, kind in KINDS.items():
                for key, engine, scored in session.execute(_without_figures(name)):
                    if scored:
                        bare.append(key)
                    elif engine == kind.engine:
                        keys.append(key)
        random.shuffle(keys)  # several processes do this at once, and should not do the same
        for work, some in ((self.score, keys), (self._add_figure, bare)):
            for key in some:
                if ended is not None and ended.is_set():
                    return
                work(key)

    def _add_figure(self, key: int) -> None:
        """Keep the figures of an attempt that was scored before there were any."""
        try:
            with self._sessions() as session:
                record = record_of(session, key)
            found = self.kept(record)
            figure = None if found is None else _figure(record, found)
        except MeldrinError as error:  # erased meanwhile, or damaged
            LOG.warning("attempt %d has no figures: %s", key, error)
            return
        in_transaction(self._sessions, partial(_only_figure, record=record, figure=figure))

    def rescore(self) -> Generator[tuple[int, int], None, None]:
        """Give every attempt that an earlier version scored the score of this one, one after the
        other; yields how many are done and how many there were. Stopped anywhere, it goes on there
        the next time: what is done is no longer of an earlier version.
        """
        with self._sessions() as session:
            keys = [key for name in KINDS for key in session.scalars(_earlier(name))]
        for done, key in enumerate(keys, start=1):
            self.score(key)
            yield done, len(keys)

    def score(self, key: int) -> None:
        """Score an attempt by today's engine; one that cannot be scored stays as it is, and the log
        says why.
        """
        try:
            with self._sessions() as session:
                record = record_of(session, key)
            with self._alone(key):
                found, engine = self._kept_by(record)
                current = engine == kind_of(record.summary.practice).engine
                if found is None or not current:
                    self._computed(record)
        except SQLAlchemyError:
            raise
        except MeldrinError as error:  # erased meanwhile, or damaged
            LOG.warning("attempt %d is not scored: %s", key, error)
        except Exception:
            LOG.exception("attempt %d cannot be scored", key)

    @contextlib.contextmanager
    def _alone(self, key: int) -> Iterator[None]:
        """Let one at a time see to an attempt; the second finds what the first has kept."""
        with self._guard:
            lock = self._busy.setdefault(key, threading.Lock())
        try:
            with lock:
                yield
        finally:
            with self._guard:
                self._busy.pop(key, None)

    def kept(self, record: Record) -> Any:
        """Return the score that is in the store, or None where there is none to be had at once."""
        return self._kept_by(record)[0]

    def in_a_row(self, actor: Actor) -> int:
        """Return how many starts with few strings a learner has won by ear in a row."""
        with self._sessions() as session:
            _, tuned = figures_of(session, actor, most=MOST_IN_A_ROW)
            gone = gone_of(session, actor)
        return min(IN_A_ROW, in_a_row(tuned, gone))

    def _kept_by(self, record: Record) -> tuple[Any, int | None]:
        practice = record.summary.practice
        with self._sessions() as session:
            engine = session.scalar(select(AttemptRow.engine).where(AttemptRow.id == record.key))
            found = None if engine is None else _kept(session, practice, record.key, engine)
        return found, engine

    def _kept_or_computed(self, record: Record) -> Any:
        found, engine = self._kept_by(record)
        if found is not None or record.summary.finished_at is None:
            return found
        if engine is None or engine < kind_of(record.summary.practice).engine:
            return None
        return self._computed(record)

    def _computed(self, record: Record) -> Any:
        practice = record.summary.practice
        result = kind_of(practice).score(record.exercise, record.timed)
        row, figure = _row(practice, record.key, result), _figure(record, result)
        in_transaction(self._sessions, partial(_keep, record=record, row=row, figure=figure))
        return result


def _without_figures(practice: str) -> Any:
    """What has no figures yet, with its engine and whether that has scored it. What was scored
    since there are figures has some, so the large results need not be read to find the others.
    """
    return (
        select(AttemptRow.id, AttemptRow.engine, ResultRow.attempt_id.is_not(None))
        .outerjoin(FigureRow, FigureRow.attempt_id == AttemptRow.id)
        .outerjoin(
            ResultRow,
            (ResultRow.attempt_id == AttemptRow.id) & (ResultRow.engine == AttemptRow.engine),
        )
        .where(AttemptRow.state == FINISHED, AttemptRow.practice == practice)
        .where(FigureRow.id.is_(None))
    )


def _earlier(practice: str) -> Any:
    return (
        select(AttemptRow.id)
        .where(AttemptRow.state == FINISHED, AttemptRow.practice == practice)
        .where(AttemptRow.engine < KINDS[practice].engine)
        .order_by(AttemptRow.id)
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


def _figure(record: Record, result: Any) -> Figure | None:
    at = record.summary.finished_at
    if at is None:
        return None
    kind = kind_of(record.summary.practice)
    seconds = record.timed[-1].at_s if record.log else 0.0
    return kind.figure(record.exercise, result, at, seconds)


def _keep(
    session: Session, *, record: Record, row: dict[str, object], figure: Figure | None
) -> None:
    # IGNORE: another process may have computed the same in the meantime, or the attempt may have
    # been erased.
    session.execute(insert(ResultRow).prefix_with("IGNORE"), [row])
    session.execute(
        update(AttemptRow)
        .where(AttemptRow.id == row["attempt_id"])
        .values(engine=row["engine"], points=row["points"], accuracy=row["median_cents"])
    )
    keep_figure(session, record.key, figure)
    session.commit()


def _only_figure(session: Session, *, record: Record, figure: Figure | None) -> None:
    keep_figure(session, record.key, figure)
    session.commit()


def _row(practice: str, key: int, result: Any) -> dict[str, object]:
    kind = kind_of(practice)
    return {
        "attempt_id": key,
        "engine": kind.engine,
        "points": kind.points(result),
        **asdict(kind.brief(result)),
        "record": json.dumps(kind.results.record(result)),
    }
