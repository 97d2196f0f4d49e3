"""The application: its routes behind its edge, the page, and what works beside them."""

import asyncio
import contextlib
import logging
import threading
import time
import uuid
from collections.abc import AsyncIterator, Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Final

from fastapi import FastAPI
from sqlalchemy.exc import SQLAlchemyError
from starlette.middleware.gzip import GZipMiddleware
from starlette.middleware.trustedhost import TrustedHostMiddleware

from meldrin import __version__
from meldrin.server.accounts import routes as accounts
from meldrin.server.attempts import routes as attempts
from meldrin.server.dependencies import ProcessState
from meldrin.server.edge.edge import Edge
from meldrin.server.edge.traffic import Traffic, Turns
from meldrin.server.ensembles import routes as ensembles
from meldrin.server.health import routes as health
from meldrin.server.instruments import routes as instruments
from meldrin.server.learner import routes as learner
from meldrin.server.names import routes as names
from meldrin.server.openapi import with_socket_messages
from meldrin.server.pages import add_pages
from meldrin.server.path import routes as path
from meldrin.server.practices import routers
from meldrin.server.prepare import routes as prepare
from meldrin.server.problems import PROBLEMS, add_problem_handlers
from meldrin.server.realtime.hub import Hub
from meldrin.server.realtime.journal import Journal
from meldrin.server.remarks import routes as remarks
from meldrin.server.rounds import routes as rounds
from meldrin.server.rounds.present import scene_of
from meldrin.server.scores import routes as scores
from meldrin.server.shows import routes as shows
from meldrin.server.studios import routes as studios
from meldrin.server.tablets import routes as tablets
from meldrin.server.tasks import routes as tasks
from meldrin.server.today import routes as today
from meldrin.services.limits import LINE_LASTS, keep_places
from meldrin.services.replays import Replays
from meldrin.services.results import Results
from meldrin.services.upkeep import tidy
from meldrin.settings import Settings
from meldrin.store.engine import Pools, in_transaction

AREAS = (
    accounts,
    attempts,
    ensembles,
    health,
    instruments,
    learner,
    names,
    prepare,
    remarks,
    rounds,
    scores,
    shows,
    studios,
    tablets,
    tasks,
    path,
    today,
)
TIDIES_EVERY_S: Final = 3600.0
KEEPS_EVERY_S: Final = LINE_LASTS.total_seconds() / 3
ENDS_WITHIN_S: Final = 0.2
LOG = logging.getLogger("meldrin.server")


def create_app(
    settings: Settings,
    *,
    pages: Path | None,
    now: Callable[[], datetime] = lambda: datetime.now(UTC),
) -> FastAPI:
    """Return the application over the database of the settings; `pages` is the built web part."""
    pools, traffic = Pools.of(settings.database_url), Traffic()
    results = Results(pools.background)

    @contextlib.asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        journal = Journal(pools.journal, now, results)
        hub = Hub(pools.requests, now, scene_of)
        kept = ProcessState(
            uuid.uuid4().hex,
            settings,
            pools,
            results,
            journal,
            traffic,
            Turns(),
            Replays(),
            hub,
            now,
        )
        app.state.kept, app.state.looked = kept, health.Looked()
        ended = threading.Event()
        beside = [asyncio.create_task(work) for work in (journal.run(), traffic.watch(), hub.run())]
        keeping = [
            asyncio.create_task(work)
            for work in (_keep_places(kept, ended), _keep_house(kept, ended))
        ]
        yield
        ended.set()  # what they do is done to its end: it holds connections
        await asyncio.gather(*keeping, return_exceptions=True)
        for task in beside:
            task.cancel()
        await asyncio.gather(*beside, return_exceptions=True)
        with contextlib.suppress(TimeoutError):
            await journal.close()
        pools.close()

    app = FastAPI(
        title="Meldrin",
        version=__version__,
        lifespan=lifespan,
        docs_url=None,
        redoc_url=None,
        generate_unique_id_function=lambda route: route.name,
        responses=PROBLEMS,
    )
    add_problem_handlers(app)
    for router in (*(area.router for area in AREAS), *routers()):
        app.include_router(router)
    app.add_middleware(GZipMiddleware, minimum_size=800, compresslevel=6)
    if settings.hosts:
        app.add_middleware(
            TrustedHostMiddleware, allowed_hosts=settings.hosts.split(","), www_redirect=False
        )
    app.add_middleware(Edge, traffic=traffic)
    with_socket_messages(app)
    if pages is not None:
        add_pages(app, pages)
    return app


async def _keep_places(kept: ProcessState, ended: threading.Event) -> None:
    """Say again and again that the lines of this process are still there."""
    while not await _pause(KEEPS_EVERY_S, ended):
        with contextlib.suppress(SQLAlchemyError):  # then the next time
            await asyncio.to_thread(
                in_transaction,
                kept.pools.background,
                lambda session: keep_places(session, process=kept.name, now=kept.now()),
            )


async def _keep_house(kept: ProcessState, ended: threading.Event) -> None:
    """Score what was left unscored, and erase what is over, now and then."""
    keep, background = timedelta(days=kept.settings.keep_days), kept.pools.background
    while True:
        try:
            await asyncio.to_thread(kept.results.catch_up, ended)
            gone = await asyncio.to_thread(tidy, background, keep=keep, now=kept.now(), ended=ended)
            if gone:
                LOG.info("%d guests who have long been gone are erased", gone)
        except SQLAlchemyError as error:
            LOG.warning("not tidied up: %s", str(error).splitlines()[0])
        if await _pause(TIDIES_EVERY_S, ended):
            return


async def _pause(seconds: float, ended: threading.Event) -> bool:
    """Wait, but not past the end; return whether it has come."""
    until_s = time.monotonic() + seconds
    while not ended.is_set() and time.monotonic() < until_s:
        await asyncio.sleep(min(ENDS_WITHIN_S, seconds))
    return ended.is_set()
