"""The line of the bench."""

from fastapi import APIRouter, WebSocket

from meldrin.server.bench.seat import BenchSeat
from meldrin.server.dependencies import Process
from meldrin.server.realtime.line import serve_line

router = APIRouter(prefix="/api")


@router.websocket("/attempts/{attempt_id}/bench")
async def bench(attempt_id: str, socket: WebSocket, process: Process) -> None:
    """The bench of an attempt: see the messages BenchFromBrowser and BenchToBrowser."""
    await serve_line(socket, attempt_id, BenchSeat(), process=process)
