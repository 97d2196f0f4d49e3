"""What tells one browser from another, and our own pages from others."""

from fastapi import Response
from starlette.requests import HTTPConnection

from meldrin.services.identity import Device

COOKIE = "meldrin_learner"
OWN_COOKIE = "meldrin_own"  # a guest’s, who looks as the demo’s pupil meanwhile
SHARED_COOKIE = "meldrin_shared"  # of a device that pupils share
COOKIE_S = 400 * 24 * 3600  # the longest a browser keeps one


def remember(
    connection: HTTPConnection, response: Response, secret: str, *, name: str = COOKIE
) -> None:
    """Put the learner's secret into a cookie that scripts cannot read."""
    response.set_cookie(
        name,
        secret,
        max_age=COOKIE_S,
        httponly=True,
        samesite="lax",
        secure=connection.url.scheme in ("https", "wss"),
    )


def device_of(connection: HTTPConnection) -> Device:
    """Return what kind of device asks, as far as its browser says; nothing more of it is kept."""
    said = connection.headers.get("user-agent", "")
    if "iPad" in said or "Tablet" in said or ("Android" in said and "Mobile" not in said):
        return "tablet"
    return "phone" if "Mobile" in said else "computer"


def same_origin(origin: str | None, host: str | None) -> bool:
    """Return whether a request comes from this application's own pages, or from no page at all."""
    return origin is None or origin.split("://", 1)[-1] == host


def address_of(connection: HTTPConnection) -> str:
    """Return where a request comes from, as the proxy that is trusted says."""
    return connection.client.host if connection.client else "nowhere"
