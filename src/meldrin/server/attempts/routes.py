"""Attempts: list, start, open, play back, take along, bring in, erase."""

from collections.abc import Iterator
from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Body, Depends, Query, Response
from fastapi.responses import StreamingResponse
from sqlalchemy.orm import Session
from starlette.concurrency import run_in_threadpool

from meldrin.core.bench.exercise import MOST_SEED
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.scoring import Score
from meldrin.reports.attempt_record import attempt_text, read_attempt
from meldrin.reports.attempt_wav import attempt_wav
from meldrin.server.attempts.present import music_of, page_of, replay_of, sources_of, summary_of
from meldrin.server.attempts.schemas import (
    AttemptFilter,
    AttemptList,
    AttemptPage,
    AttemptSummary,
    AttemptTitle,
    MusicPiece,
    ReplayPage,
    SourceOption,
)
from meldrin.server.dependencies import Asker, Counts, Guest, Now, Process, Route, Store
from meldrin.server.exercises import ExerciseSettings
from meldrin.services import attempts as service
from meldrin.services.actor import Actor
from meldrin.services.exercises import drawn
from meldrin.services.instruments import text_for
from meldrin.services.limits import use

router = APIRouter(prefix="/api", tags=["attempts"], route_class=Route)
MOST_FILE_BYTES = 8_000_000


@router.get("/attempts")
def list_attempts(
    wanted: Annotated[AttemptFilter, Query()], session: Store, actor: Asker
) -> AttemptList:
    """The learner's attempts, the newest first; none for a newcomer."""
    chosen = service.Filter(**wanted.model_dump(exclude={"after", "most"}))
    page = service.list_attempts(session, actor, chosen, after=wanted.after, most=wanted.most)
    return AttemptList(attempts=[summary_of(one) for one in page.attempts], after=page.after)


@router.post("/attempts", status_code=201)
def start_attempt(
    wanted: ExerciseSettings,
    session: Store,
    actor: Guest,
    now: Now,
    seed: Annotated[int | None, Query(ge=0, lt=MOST_SEED)] = None,
) -> AttemptSummary:
    """Begin an attempt; a newcomer becomes a guest by it. With a `seed` its strings begin as they
    do with that seed on any machine, else at random.
    """
    use(session, actor, "attempts", now=now)
    exercise = drawn(wanted.exercise(text_for(session, actor, wanted.instrument)), seed=seed)
    return summary_of(service.start_attempt(session, actor, exercise, now=now))


@router.patch("/attempts/{attempt_id}")
def name_attempt(
    attempt_id: str, wanted: AttemptTitle, session: Store, actor: Asker
) -> AttemptSummary:
    """Give an attempt a name of one's own, or take it away with an empty one."""
    return summary_of(service.name_attempt(session, actor, attempt_id, title=wanted.title))


@router.post("/attempts/import", status_code=201)
async def import_attempt(
    file: Annotated[str, Body(media_type="text/plain", max_length=MOST_FILE_BYTES)],
    session: Store,
    actor: Guest,
    now: Now,
    process: Process,
) -> AttemptSummary:
    """Bring in an attempt from a file that was saved before."""

    def bring() -> service.Summary:
        use(session, actor, "imports", now=now)
        found = read_attempt(file)
        made = min(found.made or now, now)
        return service.import_attempt(
            session, actor, found.exercise, found.log, made=made, earlier=found.earlier
        )

    async with process.turns.turn(actor):
        return summary_of(await run_in_threadpool(bring))


@router.get("/attempts/{attempt_id}")
async def open_attempt(
    attempt_id: str, session: Store, actor: Asker, process: Process, now: Now
) -> AttemptPage:
    """An attempt with its plan, and its score once it is finished."""
    record, score = await run_in_threadpool(_with_score, session, actor, attempt_id, process, now)
    scored_here = record.summary.finished_at is not None and not record.summary.earlier
    if score is None and scored_here:
        async with process.turns.turn(actor):
            score = await run_in_threadpool(process.results.of, record)
    row = None
    if score is not None and score.counts_in_a_row and record.by is None:
        row = await run_in_threadpool(process.results.in_a_row, actor)
    return await run_in_threadpool(page_of, record, score, row=row)


@router.get("/attempts/{attempt_id}/replay")
async def replay_attempt(
    attempt_id: str,
    session: Store,
    actor: Asker,
    process: Process,
    now: Now,
    begin: Annotated[int, Query(ge=0, le=1_000_000)] = 0,
) -> ReplayPage:
    """Moments of a finished attempt, with what sounded and how the strings stood: those of its
    actions from `begin` on, as many as one page holds.
    """

    def play() -> ReplayPage:
        record = _finished(session, actor, attempt_id, now)
        log = record.timed
        return replay_of(process.replays.stretch(record.key, record.exercise, log, begin=begin))

    async with process.turns.turn(actor):
        return await run_in_threadpool(play)


@router.get("/attempts/{attempt_id}/music")
async def music(
    attempt_id: str, session: Store, actor: Asker, process: Process, now: Now
) -> list[MusicPiece]:
    """Music on the strings as they were and as they are now, once every string has been judged."""

    def play() -> list[MusicPiece]:
        record = _at_the_bench(session, actor, attempt_id, now)
        return music_of(record.exercise, record.timed)

    async with process.turns.turn(actor):
        return await run_in_threadpool(play)


@router.get(
    "/attempts/{attempt_id}/sound.wav",
    response_class=StreamingResponse,
    responses={200: {"content": {"audio/wav": {}}}},
    dependencies=[Depends(Counts("downloads"))],
)
async def attempt_sound(
    attempt_id: str, session: Store, actor: Asker, process: Process, now: Now
) -> StreamingResponse:
    """The sound of a finished attempt as a WAV file."""

    def play() -> Iterator[bytes]:
        record = _finished(session, actor, attempt_id, now)
        return attempt_wav(record.exercise, record.timed)

    async with process.turns.turn(actor):
        parts = await run_in_threadpool(play)
    return StreamingResponse(parts, media_type="audio/wav", headers=_named("wav"))


@router.get(
    "/attempts/{attempt_id}/attempt.json",
    response_class=Response,
    responses={200: {"content": {"application/json": {}}}},
    dependencies=[Depends(Counts("downloads"))],
)
def attempt_file(attempt_id: str, session: Store, actor: Asker, now: Now) -> Response:
    """A finished attempt as a file of open JSON, to be taken along and brought in again."""
    record = _finished(session, actor, attempt_id, now)
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


def _with_score(
    session: Session, actor: Actor, attempt_id: str, process: Process, now: datetime
) -> tuple[service.Record, Score | None]:
    record = _at_the_bench(session, actor, attempt_id, now)
    score: Score | None = process.results.kept(record)
    return record, score


def _at_the_bench(session: Session, actor: Actor, attempt_id: str, now: datetime) -> service.Record:
    """Return an attempt, and let go of the connection: what follows takes longer."""
    record = service.look_at_attempt(session, actor, attempt_id, now=now)
    session.close()
    if record.summary.practice != "bench":
        raise MeldrinError(Code.NO_SUCH_ATTEMPT, "This attempt was not made at the bench.")
    return record


def _finished(session: Session, actor: Actor, attempt_id: str, now: datetime) -> service.Record:
    record = _at_the_bench(session, actor, attempt_id, now)
    if record.summary.finished_at is None:
        raise MeldrinError(Code.UNFINISHED, "Finish the attempt first; it plays back afterwards.")
    return record


def _named(ending: str) -> dict[str, str]:
    return {"content-disposition": f'attachment; filename="meldrin-attempt.{ending}"'}
