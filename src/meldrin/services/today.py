"""What to do today: what a learner practises for, the plan of the day, and how far it has come."""

import random
import uuid
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import Any, Final

from pydantic import TypeAdapter
from sqlalchemy import Select, select, update
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.orm import Session

from meldrin.core.bench import Exercise, begins
from meldrin.core.catalogue import Instrument, instrument_of
from meldrin.core.drills import DrillExercise, drill_of
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.pitch import Naming
from meldrin.core.practice import Aim, Item, Path, Sat, Tuned, items_for, side_to_begin
from meldrin.services.actor import Actor
from meldrin.services.aims import AIMS
from meldrin.services.attempts import FINISHED, start_attempt
from meldrin.services.drills import begin_sitting
from meldrin.services.exercises import drawn
from meldrin.services.figures import figures_of
from meldrin.services.instruments import text_for
from meldrin.services.path import begin_step, path_for
from meldrin.store.tables import AimRow, AttemptRow, TodayRow

GOES_ON_FOR: Final = timedelta(hours=18)  # so long a plan is today’s
MOST_DRAWS: Final = 40  # for a start on one side; one of two is
LOOKED_AT: Final = 600  # of the newest figures


@dataclass(frozen=True, slots=True)
class Doing:
    """An item of a plan, and what has become of it: the attempt it was begun with, and whether it
    is done.
    """

    item: Item
    attempt: str | None = None
    done: bool = False


@dataclass(frozen=True, slots=True)
class Today:
    """A plan of the day; its id is empty as long as it is not kept."""

    id: str
    aim: Aim
    made_at: datetime
    items: tuple[Doing, ...]

    @property
    def next(self) -> int | None:
        """The number of the item that comes next, from 0; None when all are done."""
        return next((n for n, one in enumerate(self.items) if not one.done), None)


@dataclass(frozen=True, slots=True)
class _Kept:
    aim: Aim
    items: tuple[Doing, ...]


KEPT: Final = TypeAdapter(_Kept)


def set_aim(session: Session, actor: Actor, aim: Aim, *, now: datetime) -> None:
    """Keep what a learner practises for. A plan of today that was made for something else, or of
    which nothing is done yet, gives way.

    Raises:
        MeldrinError: for an instrument, tuning or method that does not exist.
    """
    _check(session, actor, aim)
    statement = insert(AimRow).values(learner_id=actor.learner, record=_json(AIMS, aim))
    session.execute(statement.on_duplicate_key_update(record=statement.inserted.record))
    for row in session.scalars(_newest(actor, now)):
        kept = _today(session, row)
        nothing_done = not any(one.done for one in kept.items)
        if nothing_done or replace(kept.aim, minutes=aim.minutes) != aim:
            session.delete(row)
    session.commit()


def _check(session: Session, actor: Actor, aim: Aim) -> None:
    """Refuse what cannot be tuned so; the plan says why, and what can serve instead."""
    text = text_for(session, actor, aim.instrument_id)
    _ = Exercise(
        aim.instrument_id, aim.method, "hair", 0, tuning=aim.tuning, instrument_text=text
    ).plan


def thought_of(session: Session, actor: Actor, aim: Aim, *, path: Path, now: datetime) -> Today:
    """Return the plan of the day as it would be made now, from what has been done so far."""
    sat, tuned = evidence(session, actor, aim)
    made = instrument_for(session, actor, aim)
    items = items_for(aim, made, sat=sat, tuned=tuned, path=path, now=now)
    return Today("", aim, now, tuple(Doing(one) for one in items))


def make_today(session: Session, actor: Actor, aim: Aim, *, now: datetime) -> Today:
    """Make the plan of the day and keep it.

    Raises:
        MeldrinError: for an instrument, tuning or method that does not exist or go together.
    """
    _check(session, actor, aim)
    path = path_for(session, actor)
    made = replace(thought_of(session, actor, aim, path=path, now=now), id=uuid.uuid4().hex)
    row = TodayRow(
        public_id=made.id,
        learner_id=actor.learner,
        created_at=now,
        record=_json(KEPT, _Kept(aim, made.items)),
    )
    session.add(row)
    session.commit()
    return made


def evidence(session: Session, actor: Actor, aim: Aim) -> tuple[list[Sat], list[Tuned]]:
    """Return what tells about an aim: sittings, those of drills without a threshold on its own
    instrument only, and attempts on that instrument; the oldest first.
    """
    sat, tuned = figures_of(session, actor, most=LOOKED_AT)
    own = aim.instrument_id
    return (
        [one for one in sat if one.threshold is not None or one.instrument == own],
        [one for one in tuned if one.instrument == own],
    )


def today(session: Session, actor: Actor, *, now: datetime) -> Today | None:
    """Return the plan of the day, or None where none was made for today."""
    row = session.scalars(_newest(actor, now)).one_or_none()
    return None if row is None else _today(session, row)


def _newest(actor: Actor, now: datetime) -> Select[TodayRow]:
    return (
        select(TodayRow)
        .where(TodayRow.learner_id == actor.learner, TodayRow.created_at > now - GOES_ON_FOR)
        .order_by(TodayRow.created_at.desc(), TodayRow.id.desc())
        .limit(1)
    )


def begin_item(
    session: Session,
    actor: Actor,
    public_id: str,
    number: int,
    *,
    naming: Naming,
    now: datetime,
) -> Today:
    """Begin an item of a plan, from 0, or go on with it where it was begun; a rest is done by it.

    Raises:
        MeldrinError: code ``no_such_plan``.
    """
    row = session.scalar(select(TodayRow).where(TodayRow.public_id == public_id))
    if row is None or row.learner_id != actor.learner:
        raise MeldrinError(Code.NO_SUCH_PLAN, "There is no such plan among yours.")
    found, version = _today(session, row), row.version
    if not 0 <= number < len(found.items):
        raise MeldrinError(Code.NO_SUCH_PLAN, f"This plan has {len(found.items)} parts.")
    doing = found.items[number]
    if doing.attempt is not None:
        return found
    if doing.item.kind == "rest":
        doing = replace(doing, done=True)
    else:
        doing = replace(doing, attempt=_begun(session, actor, found.aim, doing.item, naming, now))
    items = (*found.items[:number], doing, *found.items[number + 1 :])
    session.execute(  # of two tabs that begin it the second one goes on with the first one’s
        update(TodayRow)
        .where(TodayRow.id == row.id, TodayRow.version == version)
        .values(record=_json(KEPT, _Kept(found.aim, items)), version=version + 1)
    )
    session.commit()
    session.refresh(row)
    return _today(session, row)


def _begun(
    session: Session, actor: Actor, aim: Aim, item: Item, naming: Naming, now: datetime
) -> str:
    if item.step:
        return begin_step(session, actor, item.step, aim=aim, naming=naming, now=now)[0]
    text = text_for(session, actor, aim.instrument_id)
    if item.skill is not None:
        exercise = DrillExercise(
            drill=item.skill.drill,
            instrument_id=aim.instrument_id,
            instrument_text=text,
            seed=0,
            string=item.skill.string,
            tuning=aim.tuning,
            interval=item.skill.interval,
            truth=item.skill.truth,
            trials=drill_of(item.skill.drill).trials,
            naming=naming,
        )
        return begin_sitting(session, actor, exercise, now=now).id
    bench = Exercise(
        instrument_id=aim.instrument_id,
        instrument_text=text,
        method=aim.method,
        start="one" if item.kind == "one_string" else "hair",
        seed=0,
        tuning=aim.tuning,
        out_string=item.string,
        aid=item.aid,
        naming=naming,
    )
    begun = drawn(bench)
    if item.began:
        side = side_to_begin(item.began, random.SystemRandom())
        for _ in range(MOST_DRAWS):
            if begins(begun, begun.string_out) == side:
                break
            begun = drawn(bench)
    return start_attempt(session, actor, begun, now=now).id


def _today(session: Session, row: TodayRow) -> Today:
    """Return a plan with what has become of its items by now."""
    kept = KEPT.validate_json(row.record)
    ids = [one.attempt for one in kept.items if one.attempt is not None]
    query = select(AttemptRow.public_id, AttemptRow.state).where(AttemptRow.public_id.in_(ids))
    states = {one.public_id: one.state for one in session.execute(query)}
    items = tuple(_become(one, states) for one in kept.items)
    return Today(row.public_id, kept.aim, row.created_at, items)


def _become(doing: Doing, states: dict[str, str]) -> Doing:
    """Return an item as its attempt now stands; one that was erased can be begun again."""
    if doing.attempt is None:
        return doing
    if doing.attempt not in states:
        return replace(doing, attempt=None)
    return replace(doing, done=states[doing.attempt] == FINISHED)


def instrument_for(session: Session, actor: Actor, aim: Aim) -> Instrument:
    """Return the instrument that a learner practises for."""
    return instrument_of(text_for(session, actor, aim.instrument_id))


def _json(adapter: TypeAdapter[Any], value: object) -> str:
    written: bytes = adapter.dump_json(value)
    return written.decode()
