"""Whether the server lives, whether it can keep what is played, and its figures."""

import ipaddress
import time
from typing import Final

from fastapi import APIRouter, Request, Response
from prometheus_client import CONTENT_TYPE_LATEST, generate_latest

from meldrin.core.errors import Code, MeldrinError
from meldrin.server.browser import address_of
from meldrin.server.dependencies import Process, ProcessState, Route
from meldrin.server.edge.metrics import registry
from meldrin.services.health import trouble_with
from meldrin.wire import Wire

router = APIRouter(prefix="/api", tags=["health"], route_class=Route)
ASKS_EVERY_S: Final = 1.0  # whoever asks more often is told the same again


class Health(Wire):
    """`live`: it answers. `ready`: it can write; otherwise `trouble` says what is the matter."""

    live: bool
    ready: bool
    trouble: str | None


class Looked:
    """What was found when somebody last looked."""

    def __init__(self) -> None:
        self._at_s = -ASKS_EVERY_S
        self._trouble: str | None = None

    def trouble(self, process: ProcessState) -> str | None:
        """Return what is the matter, as found within the last second."""
        if time.monotonic() - self._at_s >= ASKS_EVERY_S:
            self._trouble = trouble_with(
                process.pools.background,
                process=process.name,
                now=process.now(),
                folder=process.settings.folder,
            )
            self._at_s = time.monotonic()
        return self._trouble


@router.get("/health/live")
async def live() -> Health:
    """Whether the process answers; says nothing of the database."""
    return Health(live=True, ready=False, trouble=None)


@router.get("/health", responses={503: {"model": Health}})
def health(process: Process, response: Response, request: Request) -> Health:
    """Whether it answers, and whether what is played can be read and written."""
    return ready(process, response, request)


@router.get("/health/ready", responses={503: {"model": Health}})
def ready(process: Process, response: Response, request: Request) -> Health:
    """Whether what is played can be read and written."""
    looked: Looked = request.app.state.looked
    trouble = looked.trouble(process)
    if trouble is not None:
        response.status_code = 503
    return Health(live=True, ready=trouble is None, trouble=trouble)


@router.get("/metrics", response_class=Response, responses={200: {"content": {"text/plain": {}}}})
def metrics(request: Request) -> Response:
    """Figures of all processes for a monitor on this machine."""
    if not _is_here(address_of(request)):
        raise MeldrinError(Code.NO_SUCH_PAGE, "There is no such address.")
    return Response(generate_latest(registry()), media_type=CONTENT_TYPE_LATEST)


def _is_here(address: str) -> bool:
    try:
        return ipaddress.ip_address(address).is_loopback
    except ValueError:
        return False
