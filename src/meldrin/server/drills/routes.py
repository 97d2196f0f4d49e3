"""Drills: list them, begin a sitting, open it, and its line."""

from datetime import datetime

from fastapi import APIRouter, WebSocket
from sqlalchemy.orm import Session
from starlette.concurrency import run_in_threadpool

from meldrin.core.errors import Code, MeldrinError
from meldrin.server.dependencies import Asker, Guest, Now, Process, Route, Store
from meldrin.server.drills.present import list_of, page_of
from meldrin.server.drills.schemas import DrillList, SittingBegun, SittingPage, SittingWanted
from meldrin.server.drills.seat import DrillSeat
from meldrin.server.realtime.line import serve_line
from meldrin.services import attempts
from meldrin.services.actor import Actor
from meldrin.services.drills import PRACTICE, begin_sitting, left, so_far
from meldrin.services.instruments import text_for
from meldrin.services.limits import use

router = APIRouter(prefix="/api", tags=["drills"], route_class=Route)


@router.get("/drills")
def list_drills(session: Store, actor: Asker, now: Now) -> DrillList:
    """Every ear drill, what the learner has heard so far, and the sittings that were left."""
    return list_of(so_far(session, actor), left(session, actor, now=now))


@router.post("/drills", status_code=201)
def start_sitting(wanted: SittingWanted, session: Store, actor: Guest, now: Now) -> SittingBegun:
    """Begin a sitting; a newcomer becomes a guest by it."""
    use(session, actor, "attempts", now=now)
    exercise = wanted.exercise(text_for(session, actor, wanted.instrument))
    return SittingBegun(id=begin_sitting(session, actor, exercise, now=now).id)


@router.get("/drills/{sitting_id}")
async def open_sitting(
    sitting_id: str, session: Store, actor: Asker, process: Process, now: Now
) -> SittingPage:
    """A sitting, and its result once it is over."""
    record = await run_in_threadpool(_sitting, session, actor, sitting_id, now)
    result = None
    if record.summary.finished_at is not None:
        async with process.turns.turn(actor):
            result = await run_in_threadpool(process.results.of, record)
    return await run_in_threadpool(page_of, record, result)


@router.websocket("/drills/{sitting_id}/line")
async def sit(sitting_id: str, socket: WebSocket, process: Process) -> None:
    """The line of a sitting: see the messages DrillsFromBrowser and DrillsToBrowser."""
    await serve_line(socket, sitting_id, DrillSeat(), process=process)


def _sitting(session: Session, actor: Actor, sitting_id: str, now: datetime) -> attempts.Record:
    record = attempts.look_at_attempt(session, actor, sitting_id, now=now)
    session.close()
    if record.summary.practice != PRACTICE:
        raise MeldrinError(Code.NO_SUCH_ATTEMPT, "There is no such sitting among yours.")
    return record
