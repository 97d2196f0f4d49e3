"""What routes are given: a database session, who asks, the time, and what the process keeps."""

from collections.abc import Callable, Coroutine, Iterator
from dataclasses import dataclass
from datetime import datetime
from functools import partial
from typing import Annotated, Any

import tenacity
from fastapi import Depends, Request, Response
from fastapi.routing import APIRoute
from sqlalchemy.orm import Session
from starlette.requests import HTTPConnection

from meldrin.server.browser import COOKIE, address_of, device_of, remember
from meldrin.server.edge.traffic import Traffic, Turns
from meldrin.server.realtime.hub import Hub
from meldrin.server.realtime.journal import Journal
from meldrin.services.actor import Actor
from meldrin.services.identity import actor_of, new_secret, welcome_guest
from meldrin.services.limits import Limited, use
from meldrin.services.replays import Replays
from meldrin.services.results import Results
from meldrin.settings import Settings
from meldrin.store.engine import MOST_TRIES, Pools, was_second


@dataclass(frozen=True, slots=True)
class ProcessState:
    """What one process keeps for all requests; `name` is its own."""

    name: str
    settings: Settings
    pools: Pools
    results: Results
    journal: Journal
    traffic: Traffic
    turns: Turns
    replays: Replays
    hub: Hub
    now: Callable[[], datetime]


def kept(connection: HTTPConnection) -> ProcessState:
    """Return what the process keeps."""
    found: ProcessState = connection.app.state.kept
    return found


Process = Annotated[ProcessState, Depends(kept)]


def open_session(process: Process) -> Iterator[Session]:
    """Yield a database session that ends before the answer is sent, which may take long."""
    with process.pools.requests() as session:
        yield session


Store = Annotated[Session, Depends(open_session, scope="function")]


def moment(process: Process) -> datetime:
    """Return the time of the request."""
    return process.now()


Now = Annotated[datetime, Depends(moment)]


def asker(request: Request, session: Store, now: Now) -> Actor:
    """Return whoever asks."""
    found = actor_of(session, request.cookies.get(COOKIE), now=now)
    session.rollback()  # so that who waits for a turn holds no connection
    return found


Asker = Annotated[Actor, Depends(asker)]


def guest(
    request: Request, response: Response, session: Store, actor: Asker, process: Process, now: Now
) -> Actor:
    """Return whoever asks; a newcomer becomes a guest, known by a cookie from now on."""
    if actor.learner is not None:
        return actor
    process.traffic.guest_from(address_of(request))
    secret = new_secret()
    made = welcome_guest(session, secret=secret, now=now, device=device_of(request))
    remember(request, response, secret)
    return made


Guest = Annotated[Actor, Depends(guest)]


class Counts:
    """A dependency that counts a use of what is limited."""

    def __init__(self, what: Limited) -> None:
        self._what = what

    def __call__(self, session: Store, actor: Asker, now: Now) -> None:
        """Count one; refused past the limit."""
        use(session, actor, self._what, now=now)


class Route(APIRoute):
    """A route that is begun again where its transaction met another one that was first."""

    def get_route_handler(self) -> Callable[[Request], Coroutine[Any, Any, Response]]:
        """Return the usual handler, tried a few times."""
        handle = super().get_route_handler()
        trying = partial(
            tenacity.AsyncRetrying,
            retry=tenacity.retry_if_exception(was_second),
            stop=tenacity.stop_after_attempt(MOST_TRIES),
            wait=tenacity.wait_random_exponential(multiplier=0.005, max=0.3),
            reraise=True,
        )

        async def again(request: Request) -> Response:
            return await trying()(handle, request)

        return again
