"""Attempts: list, start, open, play back, take along, bring in, erase, and the bench socket."""

from typing import Annotated

from fastapi import APIRouter, Body, Query, Request, Response, WebSocket
from fastapi.responses import StreamingResponse
from sqlalchemy.exc import SQLAlchemyError
from starlette.concurrency import run_in_threadpool

from meldrin.core.errors import Code, MeldrinError
from meldrin.reports.attempt_record import attempt_text, read_attempt
from meldrin.reports.attempt_wav import attempt_wav
from meldrin.server.asking import COOKIE, Asker, Guest, Store, same_origin
from meldrin.server.bench_socket import BenchSeat
from meldrin.server.schemas.attempts import (
    AttemptPage,
    AttemptSummary,
    Voices,
    page_of,
    summary_of,
    voices_page,
)
from meldrin.server.schemas.exercise import Exercise
from meldrin.server.schemas.outcome import RubricPage, rubric_page
from meldrin.server.schemas.replay import ReplayPage, replay_of
from meldrin.services import attempts as service
from meldrin.services.identity import learner_id
from meldrin.services.replays import frames_of
from meldrin.services.results import Results
from meldrin.store.engine import Sessions

router = APIRouter(prefix="/api", tags=["attempts"])
MOST_FILE_BYTES = 8_000_000


@router.get("/attempts")
def list_attempts(session: Store, learner: Asker) -> list[AttemptSummary]:
    """The learner's attempts, the newest first; none for a newcomer."""
    if learner is None:
        return []
    return [summary_of(one) for one in service.list_attempts(session, learner=learner)]


@router.post("/attempts", status_code=201)
def start_attempt(
    wanted: Exercise, request: Request, session: Store, learner: Guest
) -> AttemptSummary:
    """Begin an attempt; a newcomer becomes a guest by it."""
    setup, now = wanted.setup(), request.app.state.now()
    return summary_of(service.start_attempt(session, setup, learner=learner, now=now))


@router.post("/attempts/import", status_code=201)
def import_attempt(
    file: Annotated[str, Body(media_type="text/plain", max_length=MOST_FILE_BYTES)],
    request: Request,
    session: Store,
    learner: Guest,
) -> AttemptSummary:
    """Bring in an attempt from a file that was saved before."""
    found = read_attempt(file)
    now = request.app.state.now()
    summary = service.import_attempt(
        session,
        found.setup,
        found.log,
        made=min(found.made or now, now),
        learner=learner,
        earlier=found.earlier,
    )
    return summary_of(summary)


@router.get("/attempts/{attempt_id}")
def open_attempt(attempt_id: str, request: Request, session: Store, learner: Asker) -> AttemptPage:
    """An attempt with its plan, and its outcome once it is finished."""
    record = service.open_attempt(session, attempt_id, learner=learner)
    session.close()  # a score that is not there yet takes a moment
    results: Results = request.app.state.results
    finished = record.summary.finished_at is not None
    return page_of(record, results.of(record) if finished else None)


@router.get("/attempts/{attempt_id}/replay")
def replay_attempt(attempt_id: str, session: Store, learner: Asker) -> ReplayPage:
    """Every moment of a finished attempt, with what sounded and what was so."""
    record = _finished(service.open_attempt(session, attempt_id, learner=learner))
    return replay_of(frames_of(record.setup, record.timed))


@router.get("/attempts/{attempt_id}/sound.wav", response_class=StreamingResponse)
def attempt_sound(attempt_id: str, session: Store, learner: Asker) -> StreamingResponse:
    """The sound of a finished attempt as a WAV file."""
    record = _finished(service.open_attempt(session, attempt_id, learner=learner))
    parts = attempt_wav(record.setup, record.timed)
    return StreamingResponse(parts, media_type="audio/wav", headers=_named("wav"))


@router.get("/attempts/{attempt_id}/attempt.json", response_class=Response)
def attempt_file(attempt_id: str, session: Store, learner: Asker) -> Response:
    """A finished attempt as a file of open JSON, to be taken along and brought in again."""
    record = _finished(service.open_attempt(session, attempt_id, learner=learner))
    text = attempt_text(record.setup, record.timed, made=record.summary.created_at)
    return Response(text, media_type="application/json", headers=_named("json"))


@router.delete("/attempts/{attempt_id}", status_code=204)
def erase_attempt(attempt_id: str, session: Store, learner: Asker) -> None:
    """Erase an attempt for good."""
    service.erase_attempt(session, attempt_id, learner=learner)


@router.get("/rubric")
def show_rubric() -> RubricPage:
    """How the score works."""
    return rubric_page()


@router.get("/voices")
def list_voices(wanted: Annotated[Exercise, Query()]) -> Voices:
    """What can sound the reference of an exercise."""
    return voices_page(wanted.setup())


def _finished(record: service.Record) -> service.Record:
    if record.summary.finished_at is None:
        raise MeldrinError(Code.UNFINISHED, "Finish the attempt first; it plays back afterwards.")
    return record


def _named(ending: str) -> dict[str, str]:
    return {"content-disposition": f'attachment; filename="meldrin-attempt.{ending}"'}


@router.websocket("/attempts/{attempt_id}/bench")
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
