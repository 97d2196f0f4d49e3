"""Rounds with a class: begun by a teacher, moved on, joined by a code, judged, and ended.

How a round stands is in the database alone. A move says from which version of it, and writes the
next one; an answer is written while the question is open, which a lock on the round's row holds so
on one server, and a conflict of the two writes on a cluster.
"""

import json
import random
import secrets
import uuid
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import lru_cache
from typing import Final, Literal, cast

from sqlalchemy import Select, bindparam, func, insert, select, update
from sqlalchemy.dialects.mysql import insert as upsert
from sqlalchemy.orm import Session

from meldrin.core.drills import DrillExercise, Sure
from meldrin.core.drills.sitting import MOST_SEED
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.people import join_code_drawn, join_code_said
from meldrin.core.rounds import ROUNDS, Judged, Series, Size, figure_of, of_drill, of_show
from meldrin.services.actor import Actor
from meldrin.services.audit import note
from meldrin.services.figures import practice_of, record_of
from meldrin.services.limits import use
from meldrin.services.permissions import may_teach, may_watch
from meldrin.services.studios import room_for, taught
from meldrin.store.tables import (
    AssignmentRow,
    FigureRow,
    RoundAnswerRow,
    RoundRow,
    RoundSeatRow,
    StudioRow,
)

Stage = Literal["gathering", "asked", "told", "over"]
Move = Literal["ask", "play", "tell", "end"]
MOST_OPEN: Final = 20  # rounds of a studio at once
MOST_SEATS: Final = 200
MOST_PLACES: Final = 4  # at one browser
HERE_FOR: Final = timedelta(seconds=25)  # unless the browser's process says that it is still there
LEFT_FOR: Final = timedelta(hours=3)  # so long after its last move a round is over
KEPT_FOR: Final = timedelta(days=30)
_DRAW: Final = random.SystemRandom()


@dataclass(frozen=True, slots=True)
class Tally:
    """How a round stands, as far as every screen has to know: what has changed if this has.

    here: how many judge in it now. answered: how many of all have answered the question.
    """

    version: int
    here: int
    answered: int


def _tallies() -> Select[tuple[int, int, int, int]]:
    """Return the query of how rounds stand: made once, since it is asked many times a second."""
    here = (
        select(func.count())
        .where(RoundSeatRow.round_id == RoundRow.id, RoundSeatRow.until > bindparam("now"))
        .scalar_subquery()
    )
    answered = (
        select(func.count())
        .where(RoundAnswerRow.round_id == RoundRow.id, RoundAnswerRow.number == RoundRow.number)
        .scalar_subquery()
    )
    return select(
        RoundRow.id, RoundRow.version, here.label("here"), answered.label("answered")
    ).where(RoundRow.id.in_(bindparam("rounds", expanding=True)))


TALLIES: Final = _tallies()


def begin_round(
    session: Session,
    actor: Actor,
    studio_id: str,
    *,
    exercise: DrillExercise | None,
    show: str = "",
    count: int,
    size: Size,
    fading: bool,
    each_plays: bool,
    now: datetime,
    seed: int | None = None,
) -> RoundRow:
    """Begin a round in a studio; people come in by its code.

    Args:
        exercise: the drill whose trials are judged, or None where a comparison is.
        seed: what its questions are drawn with, or None for at random.

    Raises:
        MeldrinError: code ``no_such_studio``, ``round`` or ``too_many``.
    """
    studio = taught(session, actor, studio_id)
    drawn = secrets.randbelow(MOST_SEED) if seed is None else seed
    if exercise is not None and show:
        raise MeldrinError(Code.ROUND, "A round has a drill or a comparison, and only one.")
    if exercise is None:
        made = of_show(show, seed=drawn, count=count, fading=False, each_plays=each_plays)
    else:
        made = of_drill(
            exercise, seed=drawn, count=count, size=size, fading=fading, each_plays=each_plays
        )
    room_for(session, studio, 0)
    there = select(func.count()).where(RoundRow.studio_id == studio.id, RoundRow.stage != "over")
    if (session.scalar(there) or 0) >= MOST_OPEN:
        session.rollback()
        raise MeldrinError(
            Code.TOO_MANY, f"A studio has at most {MOST_OPEN} rounds open. End one first."
        )
    row = RoundRow(
        public_id=uuid.uuid4().hex,
        studio_id=studio.id,
        code=join_code_drawn(_DRAW),
        record=json.dumps(ROUNDS.record(made)),
        stage="gathering",
        number=0,
        plays=0,
        version=0,
        moved_at=now,
    )
    session.add(row)
    note(session, actor, studio.id, "round", now=now)
    session.commit()
    return row


def rounds_in(session: Session, studio: StudioRow, *, most: int = 30) -> list[RoundRow]:
    """Return the rounds of a studio, the one moved last first."""
    query = (
        select(RoundRow)
        .where(RoundRow.studio_id == studio.id)
        .order_by(RoundRow.moved_at.desc(), RoundRow.id.desc())
        .limit(most)
    )
    return list(session.scalars(query))


def series_of(row: RoundRow) -> Series:
    """Return what a round asks."""
    return series_in(row.record)


@lru_cache(maxsize=64)
def series_in(record: str) -> Series:
    """Return what a round asks, from its record: read once, and asked for with every answer."""
    return ROUNDS.value(json.loads(record))


def studio_name(session: Session, row: RoundRow) -> str:
    """Return the name of the studio whose round it is."""
    return session.scalar(select(StudioRow.name).where(StudioRow.id == row.studio_id)) or ""


def round_taught(session: Session, actor: Actor, studio_id: str, round_id: str) -> RoundRow:
    """Return a round of a studio in which somebody teaches.

    Raises:
        MeldrinError: code ``no_such_studio`` or ``no_such_round``.
    """
    studio = taught(session, actor, studio_id)
    row = session.scalar(
        select(RoundRow).where(RoundRow.public_id == round_id, RoundRow.studio_id == studio.id)
    )
    if row is None:
        raise _no_round()
    return row


def round_watched(session: Session, actor: Actor, round_id: str) -> RoundRow:
    """Return a round that somebody may see: they judge in it, or teach in its studio.

    Raises:
        MeldrinError: code ``no_such_round``.
    """
    row = session.scalar(select(RoundRow).where(RoundRow.public_id == round_id))
    if row is None or not may_watch(actor, row, has_seat=bool(own_seats(session, actor, row))):
        raise _no_round()
    return row


def round_to_play(session: Session, actor: Actor, round_id: str) -> RoundRow:
    """Return a round whose question somebody's device may play: the one who leads it, or everybody
    where each plays for themselves.

    Raises:
        MeldrinError: code ``no_such_round``, or ``action`` where there is nothing to play now.
    """
    row = round_watched(session, actor, round_id)
    if not may_teach(actor, row.studio_id) and not series_of(row).each_plays:
        raise _no_round()
    if row.stage not in ("asked", "told"):
        raise MeldrinError(Code.ACTION, "There is nothing to play just now.")
    return row


def what_opens(session: Session, code: str) -> Literal["exercise", "round"] | None:
    """Return what a code on a wall opens, or None."""
    if session.scalar(select(RoundRow.id).where(RoundRow.code == code)) is not None:
        return "round"
    given = session.scalar(select(AssignmentRow.id).where(AssignmentRow.code == code))
    return None if given is None else "exercise"


def move_on(
    session: Session,
    actor: Actor,
    studio_id: str,
    round_id: str,
    move: Move,
    *,
    version: int,
    now: datetime,
) -> RoundRow:
    """Move a round on: ask the next question, play it to the room, tell the truth, or end it.

    Args:
        version: of the round as whoever moves it saw it.

    Raises:
        MeldrinError: code ``not_here`` where it has moved meanwhile; ``not_heard`` where a
            truth is to be told of what was not heard; ``action`` for a move that does not fit.
    """
    row = round_taught(session, actor, studio_id, round_id)
    if row.version != version:
        session.rollback()
        raise _moved()
    series = series_of(row)
    stage, number, plays = _after(row, series, move)
    done = session.execute(
        update(RoundRow)
        .where(RoundRow.id == row.id, RoundRow.version == version)
        .values(
            stage=stage,
            number=number,
            plays=plays,
            version=version + 1,
            moved_at=now,
            code=None if stage == "over" else row.code,
        )
    )
    if not done.rowcount:  # type: ignore[attr-defined]  # somebody else has just moved it
        session.rollback()
        raise _moved()
    if stage == "over":
        _keep_figures(session, row.id, series, last=number, now=now)
    session.commit()
    session.refresh(row)
    return row


def _after(row: RoundRow, series: Series, move: Move) -> tuple[str, int, int]:
    """Return the stage, the number and the plays of a round after a move."""
    if move == "ask" and row.stage in ("gathering", "told") and row.number < series.count:
        return "asked", row.number + 1, 0
    if move == "play" and row.stage in ("asked", "told"):
        return row.stage, row.number, row.plays + 1
    if move == "tell" and row.stage == "asked":
        if row.plays == 0 and not series.each_plays:
            raise MeldrinError(Code.NOT_HEARD, "Play it to the room first.")
        return "told", row.number, row.plays
    if move == "end" and row.stage != "over":
        return "over", _told(row), row.plays
    raise MeldrinError(Code.ACTION, "The round does not stand so that this could be done.")


def erase_round(
    session: Session, actor: Actor, studio_id: str, round_id: str, *, now: datetime
) -> None:
    """Erase a round with what was said in it; what is in the records of pupils stays there."""
    row = round_taught(session, actor, studio_id, round_id)
    session.delete(row)
    note(session, actor, row.studio_id, "round", now=now)
    session.commit()


def take_seats(
    session: Session, actor: Actor, code: str, *, places: int, now: datetime
) -> RoundRow:
    """Sit down in a round by its code; who has a seat already keeps it with what they said.

    Args:
        places: how many judge at this browser, 1 to 4.

    Raises:
        MeldrinError: code ``slip`` for what can be no code, ``no_such_round``, or ``too_many``.
    """
    use(session, actor, "joins", now=now)
    said = join_code_said(code)
    row = session.scalar(select(RoundRow).where(RoundRow.code == said))
    if row is None:
        raise MeldrinError(Code.NO_SUCH_ROUND, "This code opens no round now. Ask for a new one.")
    there = select(func.count()).where(RoundSeatRow.round_id == row.id)
    if (session.scalar(there) or 0) + places > MOST_SEATS:
        raise MeldrinError(Code.TOO_MANY, "This round is full.")
    until = now + HERE_FOR
    for place in range(1, places + 1):
        seat = upsert(RoundSeatRow).values(
            round_id=row.id, learner_id=actor.learner, place=place, until=until
        )
        session.execute(seat.on_duplicate_key_update(until=until))
    session.commit()
    return row


def answer(
    session: Session,
    actor: Actor,
    round_id: str,
    said: Judged,
    *,
    place: int,
) -> None:
    """Say what one hears; what was said before to this question is replaced, until it is told.

    Raises:
        MeldrinError: code ``no_such_round``, ``answer``, ``not_heard``, or ``decided`` where the
            truth has been told.
    """
    seats = (
        select(RoundSeatRow.id, RoundSeatRow.round_id)
        .join(RoundRow, RoundRow.id == RoundSeatRow.round_id)
        .where(RoundRow.public_id == round_id, RoundSeatRow.learner_id == actor.learner)
        .where(RoundSeatRow.place == place)
    )
    seat = session.execute(seats).one_or_none()
    if seat is None:
        raise _no_round()
    row = session.scalars(
        select(RoundRow)
        .where(RoundRow.id == seat.round_id)
        .with_for_update(read=True)
        .execution_options(populate_existing=True)
    ).one()
    series = series_of(row)
    if row.stage != "asked" or row.number != said.number:
        session.rollback()
        raise MeldrinError(Code.DECIDED, "Too late: this question is closed.")
    if row.plays == 0 and not series.each_plays:
        session.rollback()
        raise MeldrinError(Code.NOT_HEARD, "Wait until it has sounded.")
    if said.answer >= len(series.posed(said.number).answers):
        session.rollback()
        raise MeldrinError(Code.ANSWER, "There is no such answer.")
    written = upsert(RoundAnswerRow).values(
        seat_id=seat.id,
        number=said.number,
        round_id=row.id,
        answer=said.answer,
        sure=said.sure,
    )
    session.execute(written.on_duplicate_key_update(answer=said.answer, sure=said.sure))
    session.commit()


def own_seats(session: Session, actor: Actor, row: RoundRow) -> dict[int, int]:
    """Return the seats (their keys) of somebody in a round, by place."""
    if actor.learner is None:
        return {}
    query = select(RoundSeatRow.place, RoundSeatRow.id).where(
        RoundSeatRow.round_id == row.id, RoundSeatRow.learner_id == actor.learner
    )
    return {one.place: one.id for one in session.execute(query)}


def said_by(session: Session, actor: Actor, row: RoundRow) -> dict[int, list[Judged]]:
    """Return what somebody has said in a round, by place, in order."""
    own = own_seats(session, actor, row)
    found: dict[int, list[Judged]] = {place: [] for place in sorted(own)}
    places = {key: place for place, key in own.items()}
    query = (
        select(RoundAnswerRow)
        .where(RoundAnswerRow.seat_id.in_(places))
        .order_by(RoundAnswerRow.number)
    )
    for one in session.scalars(query):
        found[places[one.seat_id]].append(_judged(one))
    return found


def class_said(session: Session, row: RoundRow, series: Series) -> dict[int, list[int]]:
    """Return, of each question whose truth was told, how often each answer was given."""
    query = (
        select(RoundAnswerRow.number, RoundAnswerRow.answer, func.count())
        .where(RoundAnswerRow.round_id == row.id, RoundAnswerRow.number <= _told(row))
        .group_by(RoundAnswerRow.number, RoundAnswerRow.answer)
    )
    found = {number: [0] * len(series.posed(number).answers) for number in range(1, _told(row) + 1)}
    for number, answer, count in session.execute(query):
        found[number][answer] = count
    return found


def _told(row: RoundRow) -> int:
    """Return how many questions are told; the one that is open counts no more than the others."""
    return row.number - (row.stage == "asked")


def tallies(session: Session, rounds: Collection[int], *, now: datetime) -> dict[int, Tally]:
    """Return how these rounds stand; one that has been erased is missing."""
    rows = session.execute(TALLIES, {"rounds": list(rounds), "now": now})
    found = {one.id: Tally(one.version, max(one.here, one.answered), one.answered) for one in rows}
    session.rollback()
    return found


def stay(session: Session, seats: Sequence[int], *, until: datetime) -> None:
    """Say until when these seats are taken, unless it is said again."""
    if seats:
        session.execute(update(RoundSeatRow).where(RoundSeatRow.id.in_(seats)).values(until=until))
        session.commit()


def end_left(session: Session, *, now: datetime) -> None:
    """End the rounds that somebody has walked away from, so that what was said in them counts."""
    query = select(RoundRow).where(RoundRow.stage != "over", RoundRow.moved_at < now - LEFT_FOR)
    for row in session.scalars(query).all():
        last, left_at = _told(row), row.moved_at
        done = session.execute(
            update(RoundRow)
            .where(RoundRow.id == row.id, RoundRow.version == row.version)
            .values(stage="over", number=last, code=None, version=row.version + 1)
        )
        if done.rowcount:  # type: ignore[attr-defined]
            _keep_figures(session, row.id, series_of(row), last=last, now=left_at)
    session.commit()


def _keep_figures(session: Session, key: int, series: Series, *, last: int, now: datetime) -> None:
    """Put what each judged of the questions up to the last one that was told into their record;
    what several say at one browser is nobody's own.
    """
    query = (
        select(RoundSeatRow.learner_id, RoundAnswerRow)
        .join(RoundAnswerRow, RoundAnswerRow.seat_id == RoundSeatRow.id)
        .where(RoundSeatRow.round_id == key, RoundAnswerRow.number <= last)
        .order_by(RoundAnswerRow.number)
    )
    several = set(
        session.scalars(
            select(RoundSeatRow.learner_id).where(
                RoundSeatRow.round_id == key, RoundSeatRow.place > 1
            )
        )
    )
    judged: dict[int, list[Judged]] = {}
    for learner, one in session.execute(query):
        judged.setdefault(learner, []).append(_judged(one))
    found = []
    for learner, said in judged.items():
        figure = None if learner in several else figure_of(series, said, at=now)
        if figure is not None:
            found.append(
                {
                    "learner_id": learner,
                    "attempt_id": None,
                    "practice": practice_of(figure),
                    "at": now,
                    "record": record_of(figure),
                }
            )
    if found:
        session.execute(insert(FigureRow), found)


def _judged(one: RoundAnswerRow) -> Judged:
    return Judged(one.number, one.answer, cast("Sure | None", one.sure))


def _moved() -> MeldrinError:
    return MeldrinError(Code.NOT_HERE, "The round has gone on at another screen.")


def _no_round() -> MeldrinError:
    return MeldrinError(Code.NO_SUCH_ROUND, "There is no such round.")
