"""Players who stand what a browser stands: they keep what is not saved, and come back with it."""

import asyncio
import contextlib
import json
import random
import time
from collections.abc import Sequence
from dataclasses import dataclass, field

import websockets

from meldrin.server.browser import COOKIE

AGAIN_S = 0.2
SAVED_WITHIN_S = 60.0  # after the last fault, however slow the machine


@dataclass
class Player:
    """One tab at one attempt, over any of several servers.

    acknowledged: numbers that the server said are on disk.
    refused: numbers that it will not take.
    connected: how often it has come, the first time too.
    ended: set to let it stop when all is saved.
    longest_s: from an action to its being saved.
    patient_s: how long it waits for a sign of life before it comes again.
    """

    addresses: list[str]
    attempt: str
    secret: str
    script: Sequence[dict[str, object]]
    per_s: float = 5.0
    number: int = 0
    outbox: dict[int, str] = field(default_factory=dict)
    acknowledged: set[int] = field(default_factory=set)
    refused: set[int] = field(default_factory=set)
    connected: int = 0
    ended: bool = False
    longest_s: float = 0.0
    patient_s: float = 4.0
    _sent_s: dict[int, float] = field(default_factory=dict)
    _at: int = 0

    async def play(self) -> None:
        """Play until `ended`, and then until all is saved."""
        begun_s = time.monotonic()
        while not self.ended or self.outbox:
            with contextlib.suppress(OSError, TimeoutError, websockets.WebSocketException):
                await self._sit(begun_s)
            self._at += 1  # the next server
            await asyncio.sleep(AGAIN_S)

    async def _sit(self, begun_s: float) -> None:
        address = self.addresses[self._at % len(self.addresses)]
        url = f"{address.replace('http', 'ws', 1)}/api/attempts/{self.attempt}/bench"
        async with websockets.connect(
            url,
            additional_headers={"Cookie": f"{COOKIE}={self.secret}"},
            compression=None,
            open_timeout=5,
            close_timeout=1,
            ping_interval=2,
            ping_timeout=self.patient_s,
            proxy=None,
        ) as line:
            await line.send(json.dumps({"kind": "hello", "tab": f"player-{self.attempt[:16]}"}))
            welcome = json.loads(await asyncio.wait_for(line.recv(), 10))
            if welcome["kind"] != "welcome":
                return
            self.connected += 1
            self._saved(welcome["number"])
            for text in list(self.outbox.values()):
                await line.send(text)
            hearing = asyncio.create_task(self._hear(line))
            try:
                while not hearing.done() and (not self.ended or self.outbox):
                    if not self.ended:
                        await line.send(self._next(begun_s))
                    await asyncio.sleep(random.expovariate(self.per_s))
            finally:
                hearing.cancel()
                await asyncio.gather(hearing, return_exceptions=True)

    def _next(self, begun_s: float) -> str:
        self.number += 1
        action = self.script[self.number % len(self.script)]
        at_s = round(time.monotonic() - begun_s, 3)
        message = {"kind": "act", "number": self.number, "at_s": at_s, "action": action}
        text = self.outbox[self.number] = json.dumps(message)
        self._sent_s[self.number] = time.monotonic()
        return text

    async def _hear(self, line: websockets.ClientConnection) -> None:
        async for text in line:
            message = json.loads(text)
            match message["kind"]:
                case "saved":
                    self._saved(message["number"])
                case "refused" if message["number"] is not None:
                    self.refused.add(message["number"])
                    self.outbox.pop(message["number"], None)
                case "refused" | "moved":
                    return

    def _saved(self, number: int) -> None:
        for one in [one for one in self.outbox if one <= number]:
            del self.outbox[one]
            self.acknowledged.add(one)
            self.longest_s = max(self.longest_s, time.monotonic() - self._sent_s.pop(one))
