"""From rounds to their shapes."""

from datetime import datetime
from functools import lru_cache

from sqlalchemy.orm import Session

from meldrin.core.drills import SAMPLE_RATE, Playback, drill_of
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.rounds import Beating, Series, ended_said, told_said
from meldrin.server.drills.present import samples_of, stretches
from meldrin.server.drills.schemas import DrillAnswer
from meldrin.server.rounds.schemas import (
    RoundBeating,
    RoundExample,
    RoundLine,
    RoundPage,
    RoundPlace,
    RoundQuestion,
    RoundRowPage,
    RoundSaid,
    RoundScene,
    RoundSeats,
    RoundSound,
    RoundTruth,
)
from meldrin.services.actor import Actor
from meldrin.services.rounds import Tally, class_said, said_by, series_in, studio_name, tallies
from meldrin.store.tables import RoundRow


def scene_of(session: Session, row: RoundRow, tally: Tally) -> RoundScene:
    """Return how a round stands, as far as everybody may know."""
    series = series_in(row.record)
    counts = class_said(session, row, series) if row.stage in ("told", "over") else {}
    exercise = series.exercise
    return RoundScene(
        id=row.public_id,
        version=row.version,
        stage=row.stage,
        name=series.name,
        drawn="block" if exercise is None else drill_of(exercise.drill).drawn,
        studio=studio_name(session, row),
        number=row.number,
        count=series.count,
        plays=row.plays,
        each_plays=series.each_plays,
        here=tally.here,
        answered=tally.answered,
        question=_question(series, row.number) if row.stage in ("asked", "told") else None,
        truth=_truth(series, row.number, counts[row.number]) if row.stage == "told" else None,
        lines=_lines(series, counts) if row.stage == "over" else [],
    )


def page_of(session: Session, row: RoundRow, tally: Tally) -> RoundPage:
    """Return a round for the one who leads it."""
    return RoundPage(
        scene=scene_of(session, row, tally),
        code=row.code,
        examples=[
            RoundExample(words=one.words, listen_for=one.listen_for)
            for one in series_in(row.record).examples
        ],
    )


def row_of(row: RoundRow) -> RoundRowPage:
    """Return a round for a list."""
    series = series_in(row.record)
    return RoundRowPage(
        id=row.public_id,
        name=series.name,
        stage=row.stage,
        number=row.number,
        count=series.count,
        moved=row.moved_at,
    )


def seats_of(session: Session, actor: Actor, row: RoundRow, tally: Tally) -> RoundSeats:
    """Return a round for those who judge at one browser."""
    series = series_in(row.record)
    return RoundSeats(
        scene=scene_of(session, row, tally),
        places=[
            RoundPlace(
                place=place,
                said=[
                    RoundSaid(number=one.number, answer=one.answer, sure=one.sure) for one in said
                ],
                says=ended_said(series, said) if row.stage == "over" else None,
            )
            for place, said in said_by(session, actor, row).items()
        ],
    )


@lru_cache(maxsize=16)  # half a megabyte each: all who play for themselves play the same
def sound_of(record: str, number: int, is_told: bool) -> RoundSound:
    """Return the samples of a question."""
    posed = series_in(record).posed(number)
    return _sound((posed.afterwards or posed.heard) if is_told else posed.heard)


@lru_cache(maxsize=16)
def example_sound_of(record: str, number: int) -> RoundSound:
    """Return the samples of an example, by the number of its answer from 0."""
    examples = series_in(record).examples
    if number >= len(examples):
        raise MeldrinError(Code.ANSWER, "There is no such answer.")
    return _sound(examples[number].heard)


def _sound(heard: Playback | None) -> RoundSound:
    assert heard is not None  # a room has nothing to judge that does not sound
    return RoundSound(rate=SAMPLE_RATE, samples=samples_of(heard))


def tally_of(session: Session, row: RoundRow, *, now: datetime) -> Tally:
    """Return how many are in a round."""
    return tallies(session, [row.id], now=now).get(row.id, Tally(row.version, 0, 0))


def _question(series: Series, number: int) -> RoundQuestion:
    posed, help_now = series.posed(number), series.help(number)
    assert posed.heard is not None
    return RoundQuestion(
        question=posed.question,
        answers=[DrillAnswer(id=one.id, words=one.words) for one in posed.answers],
        order=posed.order,
        help=help_now,
        listen_for=[one.listen_for for one in posed.answers] if help_now != "ear" else [],
        water=_water(series.water(number)) if help_now == "water" else [],
        parts=stretches(posed.heard.parts),
        lasts_s=posed.heard.duration_s,
    )


def _truth(series: Series, number: int, counts: list[int]) -> RoundTruth:
    posed = series.posed(number)
    heard = posed.afterwards or posed.heard
    assert heard is not None
    return RoundTruth(
        right=posed.right,
        says=posed.says,
        tells=posed.tells,
        said=told_said(posed, counts),
        counts=counts,
        parts=stretches(heard.parts, told=True),
        difference=series.difference(number),
        above=series.above(number),
        water=_water(series.water(number)),
    )


def _lines(series: Series, counts: dict[int, list[int]]) -> list[RoundLine]:
    found = []
    for number, said in counts.items():
        posed = series.posed(number)
        found.append(
            RoundLine(
                number=number,
                says=posed.says,
                help=series.help(number),
                right=said[posed.right],
                of=sum(said),
            )
        )
    return found


def _water(found: tuple[Beating, ...]) -> list[RoundBeating]:
    return [RoundBeating.model_validate(one) for one in found]
