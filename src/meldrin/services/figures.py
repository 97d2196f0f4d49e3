"""Figures of what a learner has done: kept with each result, read together, taken out and in."""

import logging
from collections.abc import Iterable, Sequence
from datetime import datetime
from functools import cache
from typing import Any, Final

from pydantic import TypeAdapter, ValidationError
from sqlalchemy import delete, insert, select
from sqlalchemy.orm import Session

from meldrin.core.bench import FAULT, FREE
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.practice import Figure, Sat, Tuned
from meldrin.services.actor import Actor
from meldrin.services.practices import KINDS, kind_of
from meldrin.store.tables import ActionRow, AttemptRow, ErasedRow, FigureRow, RemarkRow

LOG = logging.getLogger("meldrin.figures")
NOTHING: Final = ""  # the kind of what has no figures
MOST_BROUGHT_IN: Final = 10_000  # figures at once
MOST_READ: Final = 20_000


def practice_of(figure: Figure) -> str:
    """Return of which kind of practice a figure is."""
    return next(name for name, kind in KINDS.items() if isinstance(figure, kind.figures))


@cache
def _shape(kind: type[Figure]) -> TypeAdapter[Any]:
    return TypeAdapter(kind)


@cache
def _list_of(kind: type[Figure]) -> TypeAdapter[Any]:
    return TypeAdapter(list[kind])  # type: ignore[valid-type]


def record_of(figure: Figure) -> str:
    """Return a figure as it is stored."""
    written: bytes = _shape(type(figure)).dump_json(figure, exclude_defaults=True)
    return written.decode()


def keep_figure(session: Session, attempt: int, figure: Figure | None) -> None:
    """Keep the figures of a finished attempt, in place of earlier ones; of one that has none it is
    kept that it was looked at.
    """
    session.execute(delete(FigureRow).where(FigureRow.attempt_id == attempt))
    query = select(AttemptRow.learner_id, AttemptRow.finished_at).where(AttemptRow.id == attempt)
    found = session.execute(query).one_or_none()
    if found is None or found.finished_at is None:  # erased meanwhile
        return
    again = select(RemarkRow.id).where(RemarkRow.answer_id == attempt).limit(1)
    if session.scalar(again) is not None:  # a spot done again holds what was done before it too
        figure = None
    row = {
        "learner_id": found.learner_id,
        "attempt_id": attempt,
        "practice": NOTHING if figure is None else practice_of(figure),
        "at": found.finished_at,
        "record": "" if figure is None else record_of(figure),
    }
    session.execute(insert(FigureRow).prefix_with("IGNORE"), [row])


def figures_by_kind(
    session: Session, actor: Actor, *, since: datetime | None = None, most: int = MOST_READ
) -> dict[str, list[Any]]:
    """Return the figures of each kind of practice, the oldest first; of more than `most` the
    newest.
    """
    query = (
        select(FigureRow.practice, FigureRow.record)
        .where(FigureRow.learner_id == actor.learner)
        .order_by(FigureRow.at.desc(), FigureRow.id.desc())
        .limit(most)
    )
    if since is not None:
        query = query.where(FigureRow.at >= since)
    found: dict[str, list[str]] = {practice: [] for practice in KINDS}
    for practice, record in session.execute(query):
        if practice in found:
            found[practice].append(record)
    return {practice: figures_read(practice, rows[::-1]) for practice, rows in found.items()}


def figures_of(
    session: Session, actor: Actor, *, since: datetime | None = None, most: int = MOST_READ
) -> tuple[list[Sat], list[Tuned]]:
    """Return the figures of sittings and of attempts at the bench, as `figures_by_kind`."""
    found = figures_by_kind(session, actor, since=since, most=most)
    return found["drills"], found["bench"]


def gone_of(session: Session, actor: Actor, *, practice: str = "bench") -> list[datetime]:
    """Return when attempts of a kind of practice were left after an answer of theirs was told, and
    when some were finished that have been erased: nobody makes a row of good ones by leaving or
    erasing the others.
    """
    tells = f'"{kind_of(practice).tells}"'
    told = (
        select(ActionRow.attempt_id)
        .where(ActionRow.attempt_id == AttemptRow.id, ActionRow.record.contains(tells))
        .exists()
    )
    left = (
        select(AttemptRow.created_at)
        .where(AttemptRow.learner_id == actor.learner, AttemptRow.practice == practice)
        .where(AttemptRow.finished_at.is_(None), AttemptRow.method.notin_((FREE, FAULT)), told)
    )
    erased = select(ErasedRow.at).where(
        ErasedRow.learner_id == actor.learner, ErasedRow.practice == practice
    )
    return sorted([*session.scalars(left), *session.scalars(erased)])


def figures_read(practice: str, records: Sequence[str]) -> list[Any]:
    """Return the figures that records of one kind of practice hold; damaged ones are left out."""
    kind = kind_of(practice).figures
    try:  # all at once is ten times as fast
        read: list[Any] = _list_of(kind).validate_json(f"[{','.join(records)}]")
        return read
    except ValidationError:
        found = []
        for record in records:
            try:
                found.append(_shape(kind).validate_json(record))
            except ValidationError:
                LOG.warning("a figure of %s is damaged", practice)
        return found


def bring_in(session: Session, actor: Actor, figures: Sequence[Figure]) -> int:
    """Take figures from elsewhere in, and return how many were not there yet.

    Raises:
        MeldrinError: code ``too_large`` for too many at once.
    """
    if len(figures) > MOST_BROUGHT_IN:
        raise MeldrinError(
            Code.TOO_LARGE, f"At most {MOST_BROUGHT_IN} figures can be brought in at once."
        )
    query = select(FigureRow.practice, FigureRow.at).where(FigureRow.learner_id == actor.learner)
    there = {(practice, at) for practice, at in session.execute(query)}
    rows = [
        {
            "learner_id": actor.learner,
            "attempt_id": None,
            "practice": practice_of(one),
            "at": one.at,
            "record": record_of(kind_of(practice_of(one)).from_file(one)),
        }
        for one in _once(figures)
        if (practice_of(one), one.at) not in there
    ]
    if rows:
        session.execute(insert(FigureRow), rows)
        session.commit()
    return len(rows)


def _once(figures: Iterable[Figure]) -> Iterable[Figure]:
    return {(practice_of(one), one.at): one for one in figures}.values()
