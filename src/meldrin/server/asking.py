"""Who asks, and from where."""

from collections.abc import Iterator
from typing import Annotated

from fastapi import Depends, Request, Response
from sqlalchemy.orm import Session
from starlette.requests import HTTPConnection

from meldrin.services.identity import learner_id, new_secret, welcome_guest

COOKIE = "meldrin_learner"
COOKIE_S = 400 * 24 * 3600  # the longest a browser keeps one


def open_session(request: Request) -> Iterator[Session]:
    """Yield a database session that ends with the request."""
    with request.app.state.sessions() as session:
        yield session


Store = Annotated[Session, Depends(open_session)]


def asker(request: Request, session: Store) -> int | None:
    """Return the learner who asks, or None for a newcomer."""
    return learner_id(session, request.cookies.get(COOKIE))


Asker = Annotated[int | None, Depends(asker)]


def guest(request: Request, response: Response, session: Store, learner: Asker) -> int:
    """Return the learner who asks; a newcomer becomes a guest, known by a cookie from now on."""
    if learner is not None:
        return learner
    secret = new_secret()
    made = welcome_guest(session, secret=secret, now=request.app.state.now())
    remember(request, response, secret)
    return made


Guest = Annotated[int, Depends(guest)]


def remember(connection: HTTPConnection, response: Response, secret: str) -> None:
    """Put the learner's secret into a cookie that scripts cannot read."""
    response.set_cookie(
        COOKIE,
        secret,
        max_age=COOKIE_S,
        httponly=True,
        samesite="lax",
        secure=connection.url.scheme in ("https", "wss"),
    )


def same_origin(origin: str | None, host: str | None) -> bool:
    """Return whether a request comes from this application's own pages, or from no page at all."""
    return origin is None or origin.split("://", 1)[-1] == host
