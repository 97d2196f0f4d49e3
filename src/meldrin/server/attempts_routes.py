"""Attempts: list, start, open, erase, and the bench socket."""

from fastapi import APIRouter, Request, WebSocket
from sqlalchemy.exc import SQLAlchemyError
from starlette.concurrency import run_in_threadpool

from meldrin.server.asking import COOKIE, Asker, Guest, Store, same_origin
from meldrin.server.bench_socket import BenchSeat
from meldrin.server.schemas.attempts import (
    AttemptPage,
    AttemptSummary,
    NewAttempt,
    page_of,
    summary_of,
)
from meldrin.services import attempts as service
from meldrin.services.identity import learner_id
from meldrin.store.engine import Sessions

router = APIRouter(prefix="/api/attempts", tags=["attempts"])


@router.get("")
def list_attempts(session: Store, learner: Asker) -> list[AttemptSummary]:
    """The learner's attempts, the newest first; none for a newcomer."""
    if learner is None:
        return []
    return [summary_of(one) for one in service.list_attempts(session, learner=learner)]


@router.post("", status_code=201)
def start_attempt(
    wanted: NewAttempt, request: Request, session: Store, learner: Guest
) -> AttemptSummary:
    """Begin an attempt; a newcomer becomes a guest by it."""
    begun = service.start_attempt(
        session,
        learner=learner,
        instrument=wanted.instrument,
        method=wanted.method,
        start=wanted.start,
        a4_hz=wanted.a4_hz,
        now=request.app.state.now(),
    )
    return summary_of(begun)


@router.get("/{attempt_id}")
def open_attempt(attempt_id: str, session: Store, learner: Asker) -> AttemptPage:
    """An attempt with its plan, and its outcome once it is finished."""
    return page_of(service.open_attempt(session, attempt_id, learner=learner))


@router.delete("/{attempt_id}", status_code=204)
def erase_attempt(attempt_id: str, session: Store, learner: Asker) -> None:
    """Erase an attempt for good."""
    service.erase_attempt(session, attempt_id, learner=learner)


@router.websocket("/{attempt_id}/bench")
async def bench(attempt_id: str, socket: WebSocket) -> None:
    """The bench of an attempt: see the messages FromBrowser and ToBrowser."""
    if not same_origin(socket.headers.get("origin"), socket.headers.get("host")):
        await socket.close(4403)
        return
    sessions: Sessions = socket.app.state.sessions

    def who() -> int | None:
        with sessions() as session:
            return learner_id(session, socket.cookies.get(COOKIE))

    try:
        learner = await run_in_threadpool(who)
    except SQLAlchemyError:
        await socket.close(4503)
        return
    seat = BenchSeat(socket, socket.app.state.journal, sessions, learner=learner)
    await seat.serve(attempt_id)
