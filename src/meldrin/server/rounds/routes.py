"""Rounds with a class over HTTP: begun, moved, joined, judged; and the line that tells of them."""

from typing import Annotated

from annotated_types import Ge, Le
from fastapi import APIRouter, Depends, WebSocket
from sqlalchemy.orm import Session

from meldrin.core.errors import Code, MeldrinError
from meldrin.core.people import join_code_said
from meldrin.core.rounds import Judged
from meldrin.server.browser import COOKIE
from meldrin.server.dependencies import Asker, Counts, Guest, Now, Process, Route, Store
from meldrin.server.realtime.hub import Screen
from meldrin.server.realtime.line import admitted
from meldrin.server.rounds.present import (
    example_sound_of,
    page_of,
    row_of,
    seats_of,
    sound_of,
    tally_of,
)
from meldrin.server.rounds.schemas import (
    CodeOpens,
    RoundAnswer,
    RoundJoin,
    RoundMove,
    RoundPage,
    RoundRowPage,
    RoundSeats,
    RoundSound,
    RoundWanted,
)
from meldrin.services import rounds as service
from meldrin.services.identity import actor_of
from meldrin.services.instruments import text_for
from meldrin.services.studios import taught

router = APIRouter(prefix="/api", tags=["rounds"], route_class=Route)


@router.post("/studios/{studio_id}/rounds", status_code=201)
def begin_round(
    studio_id: str, wanted: RoundWanted, session: Store, actor: Asker, now: Now
) -> RoundPage:
    """Begin a round; its code is for the wall."""
    taught(session, actor, studio_id)
    sitting, exercise = wanted.sitting, None
    if sitting is not None:
        exercise = sitting.exercise(text_for(session, actor, sitting.instrument))
    row = service.begin_round(
        session,
        actor,
        studio_id,
        exercise=exercise,
        show=wanted.show,
        count=wanted.count,
        size=wanted.size,
        fading=wanted.fading,
        each_plays=wanted.each_plays,
        now=now,
    )
    return page_of(session, row, tally_of(session, row, now=now))


@router.get("/studios/{studio_id}/rounds")
def list_rounds(studio_id: str, session: Store, actor: Asker) -> list[RoundRowPage]:
    """The rounds of a studio, the one moved last first."""
    studio = taught(session, actor, studio_id)
    return [row_of(row) for row in service.rounds_in(session, studio)]


@router.get("/studios/{studio_id}/rounds/{round_id}")
def lead_round(studio_id: str, round_id: str, session: Store, actor: Asker, now: Now) -> RoundPage:
    """A round for the one who leads it."""
    row = service.round_taught(session, actor, studio_id, round_id)
    return page_of(session, row, tally_of(session, row, now=now))


@router.post("/studios/{studio_id}/rounds/{round_id}/moves")
def move_round(
    studio_id: str, round_id: str, wanted: RoundMove, session: Store, actor: Asker, now: Now
) -> RoundPage:
    """Move a round on."""
    row = service.move_on(
        session, actor, studio_id, round_id, wanted.move, version=wanted.version, now=now
    )
    return page_of(session, row, tally_of(session, row, now=now))


@router.delete("/studios/{studio_id}/rounds/{round_id}", status_code=204)
def erase_round(studio_id: str, round_id: str, session: Store, actor: Asker, now: Now) -> None:
    """Erase a round; what is in the records of pupils stays there."""
    service.erase_round(session, actor, studio_id, round_id, now=now)


@router.get("/studios/{studio_id}/rounds/{round_id}/examples/{number}")
def hear_example(
    studio_id: str,
    round_id: str,
    number: Annotated[int, Ge(0), Le(9)],
    session: Store,
    actor: Asker,
) -> RoundSound:
    """How one of the answers sounds where nobody can miss it."""
    row = service.round_taught(session, actor, studio_id, round_id)
    session.close()
    return example_sound_of(row.record, number)


@router.get("/codes/{code}")
def look_at_code(code: str, session: Store) -> CodeOpens:
    """What a code on the wall opens."""
    said = join_code_said(code)
    kind = service.what_opens(session, said)
    if kind is None:
        raise MeldrinError(Code.NO_SUCH_ROUND, "This code opens nothing now. Ask for a new one.")
    return CodeOpens(kind=kind)


@router.post("/rounds/join")
def join_round(wanted: RoundJoin, session: Store, actor: Guest, now: Now) -> RoundSeats:
    """Sit down in a round by its code; a newcomer becomes a guest by it."""
    row = service.take_seats(session, actor, wanted.code, places=wanted.places, now=now)
    return seats_of(session, actor, row, tally_of(session, row, now=now))


@router.get("/rounds/{round_id}")
def watch_round(round_id: str, session: Store, actor: Asker, now: Now) -> RoundSeats:
    """A round for those who judge in it, with what they have said."""
    row = service.round_watched(session, actor, round_id)
    return seats_of(session, actor, row, tally_of(session, row, now=now))


@router.post("/rounds/{round_id}/answers", status_code=204)
def answer_round(round_id: str, wanted: RoundAnswer, session: Store, actor: Asker) -> None:
    """Say what one hears; it may be changed until the truth is told."""
    said = Judged(wanted.number, wanted.answer, wanted.sure)
    service.answer(session, actor, round_id, said, place=wanted.place)


@router.get("/rounds/{round_id}/sound", dependencies=[Depends(Counts("downloads"))])
def hear_round(round_id: str, session: Store, actor: Asker) -> RoundSound:
    """What is asked or told just now, for a device that plays it."""
    row = service.round_to_play(session, actor, round_id)
    session.close()
    return sound_of(row.record, row.number, row.stage == "told")


@router.websocket("/rounds/{round_id}/line")
async def watch_line(round_id: str, socket: WebSocket, process: Process) -> None:
    """How a round stands, each time that has changed: RoundScene. There is nothing to say to it."""

    def come(session: Session) -> Screen:
        actor = actor_of(session, socket.cookies.get(COOKIE), now=process.now())
        row = service.round_watched(session, actor, round_id)
        return Screen(socket, row.id, list(service.own_seats(session, actor, row).values()))

    async with admitted(socket, process, come) as screen:
        if screen is not None:
            await process.hub.serve(screen)
