"""What one process is doing: figures for a monitor, and whether it has more to do than it can.

A loop that has too much to do comes late to everything. So it measures by how much it is late, and
while that is more than a player would stand, what is new is sent away with a sentence; what has
begun goes on. Where no more than a class is here, it is the machine that is slow: to send one of
them away would help nobody, and nobody is.
"""

import asyncio
import contextlib
import time
from collections.abc import AsyncIterator
from dataclasses import dataclass, field
from typing import Final

from limits import RateLimitItemPerHour, RateLimitItemPerMinute
from limits.storage import MemoryStorage
from limits.strategies import FixedWindowRateLimiter
from prometheus_client import Counter, Gauge, Histogram

from meldrin.core.errors import Code, MeldrinError
from meldrin.services.actor import Actor

LOOKS_EVERY_S: Final = 0.1
LATE_S: Final = 0.2
REMEMBERS: Final = 0.9  # of its lateness from one look to the next, so that one pause is not it
A_CLASS: Final = 30  # lines and requests under way, of one process
MOST_LINES: Final = 400  # of one process
# A school behind one address: 300 devices that all open the page in one minute ask 6,000 times.
FROM_ONE_ADDRESS: Final = RateLimitItemPerMinute(30_000)
NEW_FROM_ONE_ADDRESS: Final = RateLimitItemPerHour(6_000)
LINES_FROM_ONE_ADDRESS: Final = 1_500
BUSY: Final = "Too many are here just now. Try again in a minute; nothing is lost."
CROWDED: Final = "Too much comes from your network at once. Wait a minute and try again."

REQUESTS = Counter("meldrin_requests", "Requests answered", ["method", "route", "status"])
TOOK = Histogram("meldrin_request_seconds", "How long answers took", ["route"])
LINES = Gauge("meldrin_lines", "Lines that are open", multiprocess_mode="livesum")
ACTIONS = Counter("meldrin_actions", "Actions taken")
UNSAVED = Gauge("meldrin_unsaved_actions", "Actions not on disk yet", multiprocess_mode="livesum")
SAVES = Histogram("meldrin_save_seconds", "How long a commit of actions took")
LATE = Gauge("meldrin_loop_late_seconds", "How late the loop comes", multiprocess_mode="livemax")
SENT_AWAY = Counter("meldrin_sent_away", "What was sent away, by why", ["why"])


@dataclass
class Traffic:
    """The traffic of one process. late_s: by how much its loop comes late, on the whole; lines and
    requests: how many are under way.
    """

    late_s: float = 0.0
    lines: int = 0
    requests: int = 0
    by_address: dict[str, int] = field(default_factory=dict)
    _counts: FixedWindowRateLimiter = field(
        default_factory=lambda: FixedWindowRateLimiter(MemoryStorage())
    )

    async def watch(self) -> None:
        """Measure how late the loop comes, until cancelled."""
        while True:
            due = time.monotonic() + LOOKS_EVERY_S
            await asyncio.sleep(LOOKS_EVERY_S)
            late_s = time.monotonic() - due
            self.late_s = REMEMBERS * self.late_s + (1.0 - REMEMBERS) * late_s
            LATE.set(self.late_s)

    @property
    def busy(self) -> bool:
        """Whether there is more to do than can be done in time, and more than a class here."""
        return self.late_s > LATE_S and self.lines + self.requests > A_CLASS

    def request_from(self, address: str) -> None:
        """Count a request.

        Raises:
            MeldrinError: code ``too_many``.
        """
        if not self._counts.hit(FROM_ONE_ADDRESS, address):
            raise _crowded()

    def guest_from(self, address: str) -> None:
        """Count a newcomer who becomes a guest.

        Raises:
            MeldrinError: code ``too_many``.
        """
        if not self._counts.hit(NEW_FROM_ONE_ADDRESS, "new", address):
            raise _crowded()

    def line_from(self, address: str) -> None:
        """Count a line that opens; `line_ends` follows.

        Raises:
            MeldrinError: code ``busy`` or ``too_many``.
        """
        if self.busy or self.lines >= MOST_LINES:
            SENT_AWAY.labels("busy").inc()
            raise MeldrinError(Code.BUSY, BUSY)
        if self.by_address.get(address, 0) >= LINES_FROM_ONE_ADDRESS:
            raise _crowded()
        self.lines += 1
        self.by_address[address] = self.by_address.get(address, 0) + 1
        LINES.inc()

    def line_ends(self, address: str) -> None:
        """Count a line that has ended."""
        self.lines -= 1
        LINES.dec()
        left = self.by_address.pop(address) - 1
        if left:
            self.by_address[address] = left


class Turns:
    """Long computations, one after the other: a few at once in this process, one for each learner.

    Waiting costs no thread, and who asks for ten at once waits for himself.
    """

    def __init__(self, *, at_once: int = 2, most: int = 24, within_s: float = 30.0) -> None:
        self._free = asyncio.Semaphore(at_once)
        self._most = most
        self._within_s = within_s
        self._asked = 0
        self._own: dict[object, tuple[asyncio.Lock, int]] = {}

    @contextlib.asynccontextmanager
    async def turn(self, actor: Actor) -> AsyncIterator[None]:
        """Wait for a turn, and have it until the end of the block.

        Raises:
            MeldrinError: code ``busy``, where too many wait, or too long.
        """
        who: object = actor if actor.learner is not None else object()  # nobody yet
        lock, asked = self._own.get(who, (asyncio.Lock(), 0))
        if self._asked >= self._most or asked >= self._most // 4:
            SENT_AWAY.labels("turns").inc()
            raise MeldrinError(Code.BUSY, BUSY)
        self._count(who, lock, 1)
        try:
            async with contextlib.AsyncExitStack() as stack:
                try:
                    async with asyncio.timeout(self._within_s):
                        await stack.enter_async_context(lock)
                        await stack.enter_async_context(self._free)
                except TimeoutError:
                    raise MeldrinError(Code.BUSY, BUSY) from None
                yield
        finally:
            self._count(who, lock, -1)

    def _count(self, who: object, lock: asyncio.Lock, more: int) -> None:
        self._asked += more
        asked = self._own.get(who, (lock, 0))[1] + more
        if asked:
            self._own[who] = (lock, asked)
        else:
            del self._own[who]


def _crowded() -> MeldrinError:
    SENT_AWAY.labels("address").inc()
    return MeldrinError(Code.TOO_MANY, CROWDED)
