"""How long a connection may take to say what it wants."""

import asyncio
from asyncio.transports import BaseTransport
from typing import Any, Final

from uvicorn.protocols.http.httptools_impl import HttpToolsProtocol

ASKS_WITHIN_S: Final = 15.0


class Patient(HttpToolsProtocol):
    """Speaks HTTP, and hangs up on who has not said within some seconds what it wants."""

    def __init__(self, *args: Any, **more: Any) -> None:
        super().__init__(*args, **more)
        self._asking: asyncio.TimerHandle | None = None

    def connection_made(self, transport: BaseTransport) -> None:
        """Begin to wait for the first request."""
        super().connection_made(transport)  # type: ignore[arg-type]
        self._wait()

    def on_message_begin(self) -> None:
        """Begin to wait for the rest of what a request says of itself."""
        super().on_message_begin()
        self._wait()

    def on_headers_complete(self) -> None:
        """Stop waiting: what follows is the application's matter."""
        self._stop_waiting()
        super().on_headers_complete()

    def connection_lost(self, exc: Exception | None) -> None:
        """Stop waiting: nothing comes any more."""
        self._stop_waiting()
        super().connection_lost(exc)

    def _wait(self) -> None:
        self._stop_waiting()
        self._asking = self.loop.call_later(ASKS_WITHIN_S, self._hang_up)

    def _stop_waiting(self) -> None:
        if self._asking is not None:
            self._asking.cancel()
            self._asking = None

    def _hang_up(self) -> None:
        if not self.transport.is_closing():
            self.transport.abort()
