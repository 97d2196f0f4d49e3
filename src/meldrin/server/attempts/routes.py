"""Attempts: list, start, open, play back, take along, bring in, erase."""

from typing import Annotated

from fastapi import APIRouter, Body, Query, Response
from fastapi.responses import StreamingResponse

from meldrin.core.errors import Code, MeldrinError
from meldrin.reports.attempt_record import attempt_text, read_attempt
from meldrin.reports.attempt_wav import attempt_wav
from meldrin.server.attempts.present import page_of, replay_of, sources_of, summary_of
from meldrin.server.attempts.schemas import (
    AttemptFilter,
    AttemptPage,
    AttemptSummary,
    ReplayPage,
    SourceOption,
)
from meldrin.server.dependencies import Asker, Guest, Now, Process, Store
from meldrin.server.exercises import ExerciseSettings
from meldrin.services import attempts as service
from meldrin.services.exercises import drawn
from meldrin.services.instruments import text_for
from meldrin.services.replays import frames_of

router = APIRouter(prefix="/api", tags=["attempts"])
MOST_FILE_BYTES = 8_000_000


@router.get("/attempts")
def list_attempts(
    wanted: Annotated[AttemptFilter, Query()], session: Store, actor: Asker
) -> list[AttemptSummary]:
    """The learner's attempts, the newest first; none for a newcomer."""
    chosen = service.Filter(**wanted.model_dump())
    return [summary_of(one) for one in service.list_attempts(session, actor, chosen)]


@router.post("/attempts", status_code=201)
def start_attempt(
    wanted: ExerciseSettings, session: Store, actor: Guest, now: Now
) -> AttemptSummary:
    """Begin an attempt; a newcomer becomes a guest by it."""
    exercise = drawn(wanted.exercise(text_for(session, actor, wanted.instrument)))
    return summary_of(service.start_attempt(session, actor, exercise, now=now))


@router.post("/attempts/import", status_code=201)
def import_attempt(
    file: Annotated[str, Body(media_type="text/plain", max_length=MOST_FILE_BYTES)],
    session: Store,
    actor: Guest,
    now: Now,
) -> AttemptSummary:
    """Bring in an attempt from a file that was saved before."""
    found = read_attempt(file)
    made = min(found.made or now, now)
    summary = service.import_attempt(
        session, actor, found.exercise, found.log, made=made, earlier=found.earlier
    )
    return summary_of(summary)


@router.get("/attempts/{attempt_id}")
def open_attempt(attempt_id: str, session: Store, actor: Asker, process: Process) -> AttemptPage:
    """An attempt with its plan, and its score once it is finished."""
    record = _at_the_bench(service.open_attempt(session, actor, attempt_id))
    session.close()  # a score that is not there yet takes a moment
    finished = record.summary.finished_at is not None
    return page_of(record, process.results.of(record) if finished else None)


@router.get("/attempts/{attempt_id}/replay")
def replay_attempt(attempt_id: str, session: Store, actor: Asker) -> ReplayPage:
    """Every moment of a finished attempt, with what sounded and how the strings stood."""
    record = _finished(service.open_attempt(session, actor, attempt_id))
    return replay_of(frames_of(record.exercise, record.timed))


@router.get("/attempts/{attempt_id}/sound.wav", response_class=StreamingResponse)
def attempt_sound(attempt_id: str, session: Store, actor: Asker) -> StreamingResponse:
    """The sound of a finished attempt as a WAV file."""
    record = _finished(service.open_attempt(session, actor, attempt_id))
    parts = attempt_wav(record.exercise, record.timed)
    return StreamingResponse(parts, media_type="audio/wav", headers=_named("wav"))


@router.get("/attempts/{attempt_id}/attempt.json", response_class=Response)
def attempt_file(attempt_id: str, session: Store, actor: Asker) -> Response:
    """A finished attempt as a file of open JSON, to be taken along and brought in again."""
    record = _finished(service.open_attempt(session, actor, attempt_id))
    text = attempt_text(record.exercise, record.timed, made=record.summary.created_at)
    return Response(text, media_type="application/json", headers=_named("json"))


@router.delete("/attempts/{attempt_id}", status_code=204)
def erase_attempt(attempt_id: str, session: Store, actor: Asker) -> None:
    """Erase an attempt for good."""
    service.erase_attempt(session, actor, attempt_id)


@router.get("/sources")
def list_sources(
    wanted: Annotated[ExerciseSettings, Query()], session: Store, actor: Asker
) -> list[SourceOption]:
    """What can sound the reference of an exercise, the usual one first."""
    return sources_of(drawn(wanted.exercise(text_for(session, actor, wanted.instrument))))


def _at_the_bench(record: service.Record) -> service.Record:
    if record.summary.practice != "bench":
        raise MeldrinError(Code.NO_SUCH_ATTEMPT, "This attempt was not made at the bench.")
    return record


def _finished(record: service.Record) -> service.Record:
    _at_the_bench(record)
    if record.summary.finished_at is None:
        raise MeldrinError(Code.UNFINISHED, "Finish the attempt first; it plays back afterwards.")
    return record


def _named(ending: str) -> dict[str, str]:
    return {"content-disposition": f'attachment; filename="meldrin-attempt.{ending}"'}
