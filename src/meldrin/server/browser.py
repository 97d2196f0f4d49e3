"""What tells one browser from another, and our own pages from others."""

from fastapi import Response
from starlette.requests import HTTPConnection

COOKIE = "meldrin_learner"
COOKIE_S = 400 * 24 * 3600  # the longest a browser keeps one


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
