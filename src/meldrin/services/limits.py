"""How much of the shared means each learner may use, counted in the database, so that all processes
and nodes count together. What a person does by hand stays far below.
"""

import math
import random
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Final, Literal

from sqlalchemy import delete, select, update
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.orm import Session

from meldrin.core.errors import Code, MeldrinError
from meldrin.services.actor import Actor
from meldrin.store.tables import LearnerRow, OpenLineRow, UseRow

Limited = Literal["attempts", "imports", "downloads", "joins", "lines"]
HOUR: Final = timedelta(hours=1)
MOST_LINES: Final = 12  # tabs of one learner with an attempt open, wherever they are
LINE_LASTS: Final = timedelta(seconds=90)  # unless its process says that it is still there


@dataclass(frozen=True, slots=True)
class Limit:
    """So many in a stretch of time, and what is said of one more."""

    most: int
    within: timedelta
    sentence: str


LIMITS: Final[dict[Limited, Limit]] = {
    "attempts": Limit(200, HOUR, "That is a lot of attempts for one hour; go on a little later."),
    "imports": Limit(60, HOUR, "That is a lot of files for one hour; go on a little later."),
    "downloads": Limit(300, HOUR, "That is a lot to take along in an hour; go on a little later."),
    "joins": Limit(60, HOUR, "That is a lot of codes for one hour; go on a little later."),
    "lines": Limit(1500, HOUR, "This page comes back too often; close some tabs, wait a little."),
}


def use(session: Session, actor: Actor, what: Limited, *, now: datetime) -> None:
    """Count one more use by a learner; a newcomer has nothing to be counted under.

    Raises:
        MeldrinError: code ``too_many``, past the limit.
    """
    if actor.learner is None:
        return
    limit = LIMITS[what]
    began_at = _stretch(now, limit.within)
    row = insert(UseRow).values(learner_id=actor.learner, kind=what, began_at=began_at, count=1)
    session.execute(row.on_duplicate_key_update(count=UseRow.count + 1))
    count = session.scalar(
        select(UseRow.count).where(
            UseRow.learner_id == actor.learner, UseRow.kind == what, UseRow.began_at == began_at
        )
    )
    session.commit()
    if (count or 0) > limit.most:
        raise MeldrinError(
            Code.TOO_MANY,
            limit.sentence,
            after_s=math.ceil((began_at + limit.within - now).total_seconds()),
        )


def counting(session: Session, actor: Actor) -> None:
    """Begin to count what a learner has, so that of two who count at once one begins again."""
    session.execute(
        update(LearnerRow)
        .where(LearnerRow.id == actor.learner)
        .values(version=LearnerRow.version + 1)
    )


def take_place(session: Session, actor: Actor, *, process: str, now: datetime) -> int:
    """Take one of the places that a learner has for lines, and return its number.

    Raises:
        MeldrinError: code ``too_many``, where all are taken.
    """
    assert actor.learner is not None
    mine = OpenLineRow.learner_id == actor.learner
    known = session.execute(select(OpenLineRow.place, OpenLineRow.until).where(mine)).all()
    over = [place for place, until in known if until < now]
    if over:
        session.execute(
            delete(OpenLineRow).where(mine, OpenLineRow.place.in_(over), OpenLineRow.until < now)
        )
    taken = {place for place, _ in known} - set(over)
    free = [place for place in range(1, MOST_LINES + 1) if place not in taken]
    random.shuffle(free)  # two who come at once seldom want the same
    for place in free:
        row = insert(OpenLineRow).prefix_with("IGNORE")
        done = session.execute(
            row.values(
                learner_id=actor.learner, place=place, process=process, until=now + LINE_LASTS
            )
        )
        if done.rowcount:  # type: ignore[attr-defined]  # else somebody else has just taken it
            session.commit()
            return place
    session.rollback()
    raise MeldrinError(
        Code.TOO_MANY,
        f"You have {MOST_LINES} attempts open already; close one of those tabs.",
    )


def keep_places(session: Session, *, process: str, now: datetime) -> None:
    """Say that a process is still there, with all its lines."""
    session.execute(
        update(OpenLineRow).where(OpenLineRow.process == process).values(until=now + LINE_LASTS)
    )
    session.commit()


def leave_place(session: Session, actor: Actor, place: int, *, process: str) -> None:
    """Give a place back."""
    session.execute(
        delete(OpenLineRow).where(
            OpenLineRow.learner_id == actor.learner,
            OpenLineRow.place == place,
            OpenLineRow.process == process,
        )
    )
    session.commit()


def _stretch(now: datetime, within: timedelta) -> datetime:
    seconds = int(within.total_seconds())
    return datetime.fromtimestamp(int(now.timestamp()) // seconds * seconds, UTC)
