"""The application: routes, who asks, static files, and the journal beside them."""

import asyncio
import contextlib
from collections.abc import AsyncIterator, Awaitable, Callable
from datetime import UTC, datetime
from pathlib import Path

from fastapi import FastAPI, Request, Response
from starlette.middleware.gzip import GZipMiddleware

from meldrin import __version__
from meldrin.core.errors import Code
from meldrin.server.attempts import routes as attempts
from meldrin.server.browser import same_origin
from meldrin.server.dependencies import Kept
from meldrin.server.instruments import routes as instruments
from meldrin.server.learner import routes as learner
from meldrin.server.names import routes as names
from meldrin.server.openapi import with_socket_messages
from meldrin.server.pages import add_pages
from meldrin.server.practices import routers
from meldrin.server.prepare import routes as prepare
from meldrin.server.problems import add_problem_handlers, problem, unexpected
from meldrin.server.realtime.journal import Journal
from meldrin.server.scores import routes as scores
from meldrin.services.results import Results
from meldrin.settings import Settings
from meldrin.store.engine import Sessions, open_engine

AREAS = (attempts, instruments, learner, names, prepare, scores)
POLICY = (
    "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:;"
    " connect-src 'self'; frame-ancestors 'none'; base-uri 'none'; form-action 'self'"
)


def create_app(
    settings: Settings,
    *,
    pages: Path | None,
    now: Callable[[], datetime] = lambda: datetime.now(UTC),
) -> FastAPI:
    """Return the application over the database of the settings; `pages` is the built web part."""
    engine = open_engine(settings.database_url)
    sessions = Sessions(engine, expire_on_commit=False)
    results = Results(sessions)

    @contextlib.asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        journal = Journal(sessions, now, results)
        app.state.kept = Kept(settings, sessions, results, journal, now)
        writing = asyncio.create_task(journal.run())
        yield
        writing.cancel()
        with contextlib.suppress(TimeoutError):
            await journal.close()
        engine.dispose()

    app = FastAPI(
        title="Meldrin",
        version=__version__,
        lifespan=lifespan,
        docs_url=None,
        redoc_url=None,
        generate_unique_id_function=lambda route: route.name,
    )
    add_problem_handlers(app)
    for router in (*(area.router for area in AREAS), *routers()):
        app.include_router(router)
    app.add_middleware(GZipMiddleware, minimum_size=800, compresslevel=6)

    @app.middleware("http")
    async def guard(
        request: Request, call_next: Callable[[Request], Awaitable[Response]]
    ) -> Response:
        if request.method not in ("GET", "HEAD") and not same_origin(
            request.headers.get("origin"), request.headers.get("host")
        ):
            return problem(
                403, Code.FOREIGN_ORIGIN, "Only this application’s pages may ask for that."
            )
        try:
            response = await call_next(request)
        except Exception as error:  # here, so that this answer has the headers too
            response = unexpected(request, error)
        response.headers["Content-Security-Policy"] = POLICY
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "same-origin"
        if request.url.path.startswith("/api/"):
            response.headers.setdefault("Cache-Control", "no-store")  # it is somebody’s
        return response

    with_socket_messages(app)
    if pages is not None:
        add_pages(app, pages)
    return app
