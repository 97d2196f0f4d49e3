"""The edge of the application: who may ask at all, how much may come, how long it may take, and
what stands on every answer.
"""

import asyncio
import logging
import time
import uuid
from typing import Final

import structlog
from starlette.datastructures import Headers, MutableHeaders
from starlette.exceptions import HTTPException
from starlette.requests import Request
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from meldrin.core.errors import Code, MeldrinError
from meldrin.server.browser import address_of, same_origin
from meldrin.server.edge.traffic import BUSY, REQUESTS, SENT_AWAY, TOOK, Traffic
from meldrin.server.problems import problem, refusal, too_large, unexpected

POLICY: Final = (
    "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:;"
    " connect-src 'self'; frame-ancestors 'none'; base-uri 'none'; form-action 'self'"
)
HEADERS: Final = {
    "Content-Security-Policy": POLICY,
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Permissions-Policy": "camera=(), geolocation=(), microphone=()",
}
WITHIN_S: Final = 60.0  # from the first byte of a request to the last of its answer
STREAMS_WITHIN_S: Final = 1800.0  # of a file that goes on for long, to a slow reader
STREAMED: Final = ".wav"
MOST_BYTES: Final = 64_000
MOST_BYTES_AT: Final = {"/api/attempts/import": 8_000_000, "/api/instruments": 400_000}
STAYS_OPEN: Final = "/api/health"  # a monitor is told even when it is too much for everybody else
LOG = logging.getLogger("meldrin.request")


class Edge:
    """A piece of ASGI around the application."""

    def __init__(self, app: ASGIApp, *, traffic: Traffic) -> None:
        self._app = app
        self._traffic = traffic

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request through; lines pass by."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        request = Request(scope)
        number = uuid.uuid4().hex[:12]
        scope.setdefault("state", {})["request_id"] = number
        begun, status, began_to_answer = time.perf_counter(), 0, False
        headers = {"X-Request-Id": number, **HEADERS}
        path = scope["path"]
        if scope["scheme"] == "https":
            headers["Strict-Transport-Security"] = "max-age=15552000"

        async def told(message: Message) -> None:
            nonlocal status, began_to_answer
            if message["type"] == "http.response.start":
                status, began_to_answer = message["status"], True
                found = MutableHeaders(scope=message)
                for name, value in headers.items():
                    found[name] = value
                if path.startswith("/api/"):
                    found.setdefault("Cache-Control", "no-store")  # it is somebody’s
            await send(message)

        most = MOST_BYTES_AT.get(path, MOST_BYTES)
        within_s = STREAMS_WITHIN_S if path.endswith(STREAMED) else WITHIN_S
        self._traffic.requests += 1
        with structlog.contextvars.bound_contextvars(request=number):
            try:
                self._admit(request, most)
                async with asyncio.timeout(within_s):
                    await self._app(scope, _counted(receive, most), told)
            except MeldrinError as error:
                await refusal(error)(scope, receive, told)
            except HTTPException as error:
                await too_large(error.detail)(scope, receive, told)
            except TimeoutError:
                if began_to_answer:  # it ends in the middle, which is how a reader learns of it
                    raise
                slow = "That took too long. Try again; nothing is lost."
                await problem(503, Code.TOO_SLOW, slow)(scope, receive, told)
            except Exception as error:
                if began_to_answer:
                    raise
                await unexpected(request, error)(scope, receive, told)
            finally:
                self._traffic.requests -= 1
                took = time.perf_counter() - begun
                route = getattr(scope.get("route"), "path", "pages")
                REQUESTS.labels(request.method, route, status).inc()
                TOOK.labels(route).observe(took)
                LOG.info(
                    "request",
                    extra={
                        "method": request.method,
                        "path": path,
                        "status": status,
                        "ms": round(1000 * took, 1),
                    },
                )

    def _admit(self, request: Request, most: int) -> None:
        headers = request.headers
        if request.method not in ("GET", "HEAD") and not same_origin(
            headers.get("origin"), headers.get("host")
        ):
            raise MeldrinError(
                Code.FOREIGN_ORIGIN, "Only this application’s pages may ask for that."
            )
        if _length(headers) > most:
            raise _too_much(most)
        if request.url.path.startswith(STAYS_OPEN):
            return
        self._traffic.request_from(address_of(request))
        if self._traffic.busy and request.url.path.startswith("/api/"):
            SENT_AWAY.labels("busy").inc()
            raise MeldrinError(Code.BUSY, BUSY)


def _counted(receive: Receive, most: int) -> Receive:
    """Return `receive`, refusing a body over a number of bytes as it arrives."""
    come = 0

    async def counted() -> Message:
        nonlocal come
        message = await receive()
        come += len(message.get("body", b""))
        if come > most:
            raise _too_much(most)
        return message

    return counted


def _length(headers: Headers) -> int:
    said = headers.get("content-length", "0")
    return int(said) if said.isascii() and said.isdigit() else 0


def _too_much(most: int) -> HTTPException:
    size = f"{most // 1_000_000} MB" if most >= 1_000_000 else f"{most // 1000} kB"
    return HTTPException(413, f"That is too large; at most {size} are taken")
