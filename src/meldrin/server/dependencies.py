"""What routes are given: a database session, who asks, the time, and what the process keeps."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import datetime
from typing import Annotated

from fastapi import Depends, Request, Response
from sqlalchemy.orm import Session
from starlette.requests import HTTPConnection

from meldrin.server.browser import COOKIE, remember
from meldrin.server.realtime.journal import Journal
from meldrin.services.actor import Actor
from meldrin.services.identity import actor_of, new_secret, welcome_guest
from meldrin.services.results import Results
from meldrin.settings import Settings
from meldrin.store.engine import Sessions


@dataclass(frozen=True, slots=True)
class Kept:
    """What one process keeps for all requests."""

    settings: Settings
    sessions: Sessions
    results: Results
    journal: Journal
    now: Callable[[], datetime]


def kept(connection: HTTPConnection) -> Kept:
    """Return what the process keeps."""
    found: Kept = connection.app.state.kept
    return found


Process = Annotated[Kept, Depends(kept)]


def open_session(process: Process) -> Iterator[Session]:
    """Yield a database session that ends with the request."""
    with process.sessions() as session:
        yield session


Store = Annotated[Session, Depends(open_session)]


def moment(process: Process) -> datetime:
    """Return the time of the request."""
    return process.now()


Now = Annotated[datetime, Depends(moment)]


def asker(request: Request, session: Store) -> Actor:
    """Return whoever asks."""
    return actor_of(session, request.cookies.get(COOKIE))


Asker = Annotated[Actor, Depends(asker)]


def guest(request: Request, response: Response, session: Store, actor: Asker, now: Now) -> Actor:
    """Return whoever asks; a newcomer becomes a guest, known by a cookie from now on."""
    if actor.learner is not None:
        return actor
    secret = new_secret()
    made = welcome_guest(session, secret=secret, now=now)
    remember(request, response, secret)
    return made


Guest = Annotated[Actor, Depends(guest)]
