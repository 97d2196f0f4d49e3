"""One line between a tab and an attempt: it takes the attempt over, numbers and keeps what is done,
refuses what cannot be taken, and says when all is on disk. What is practised is its seat's matter.
"""

import asyncio
import contextlib
import json
import logging
import time
import uuid
from collections import deque
from collections.abc import AsyncIterator, Callable, Sequence
from datetime import datetime
from functools import partial
from typing import Any, Protocol, TypeVar

from fastapi import WebSocket, WebSocketDisconnect
from pydantic import BaseModel, TypeAdapter, ValidationError
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session
from starlette.concurrency import run_in_threadpool
from starlette.websockets import WebSocketDisconnected

from meldrin.core.errors import Code, MeldrinError
from meldrin.core.session import Timed
from meldrin.server.browser import COOKIE, address_of, same_origin
from meldrin.server.edge.traffic import ACTIONS, Traffic
from meldrin.server.invalid import sentence
from meldrin.server.problems import STORE_AWAY
from meldrin.server.realtime.journal import Journal
from meldrin.server.realtime.messages import (
    MOST_NUMBER,
    Act,
    Hello,
    Moved,
    Refused,
    Saved,
    Trouble,
)
from meldrin.server.realtime.pace import HELLO_COST, Pace
from meldrin.services.actor import Actor
from meldrin.services.attempts import Numbered, Record, take_over
from meldrin.services.identity import actor_of
from meldrin.services.limits import leave_place, take_place, use
from meldrin.store.engine import Pools, Sessions, in_transaction
from meldrin.wire import text_of

T = TypeVar("T")
MOST_ACTIONS = 20_000
MOST_BYTES = 4_096
READS_WITHIN_S = 20.0  # a tab that does not read what it is told for so long is gone
FOREIGN, AWAY, UNREAD, FULL = 4403, 4503, 4408, 4429
YIELDS_AFTER_S = 0.003
CLOSES_WITHIN_S = 1.0  # who reads nothing does not read that either
Say = Callable[[BaseModel], None]
LOG = logging.getLogger("meldrin.line")


class Seat(Protocol):
    """One tab at one kind of practice.

    practice: its kind. messages: what a tab may say, told apart by `kind`.
    """

    @property
    def practice(self) -> str: ...

    @property
    def messages(self) -> TypeAdapter[Any]: ...

    @property
    def time_s(self) -> float:
        """When the last action was, in seconds since the attempt began."""

    def sit(self, record: Record) -> None:
        """Take an attempt as it stands; may take a while, and runs beside the loop."""

    def welcome(self, number: int) -> BaseModel:
        """Return what a tab is told that has just come; `number` is the last one that is kept."""

    def act(self, number: int, at_s: float, action: Any, say: Say) -> BaseModel:
        """Do an action and return the answer; `say` is for what follows later.

        Raises:
            MeldrinError: for what cannot be done; nothing has changed then.
        """

    def hear(self, message: Any, say: Say) -> None:
        """Take another of one's own messages."""


class Process(Protocol):
    """What a line needs of the process that serves it."""

    @property
    def name(self) -> str: ...

    @property
    def journal(self) -> Journal: ...

    @property
    def pools(self) -> Pools: ...

    @property
    def traffic(self) -> Traffic: ...

    @property
    def now(self) -> Callable[[], datetime]: ...


async def serve_line(socket: WebSocket, attempt_id: str, seat: Seat, *, process: Process) -> None:
    """Serve one tab at an attempt until it goes."""

    def come(session: Session) -> tuple[Actor, int | None]:
        """Return who comes, and the place that this line takes of those each learner has."""
        now = process.now()
        actor = actor_of(session, socket.cookies.get(COOKIE), now=now)
        if actor.learner is None:  # has no attempt to play, and hears so
            return actor, None
        use(session, actor, "lines", now=now)
        return actor, take_place(session, actor, process=process.name, now=now)

    async with admitted(socket, process, come) as came:
        if came is None:
            return
        actor, place = came
        try:
            line = Line(socket, seat, process.journal, process.pools.requests, actor=actor)
            await line.serve(attempt_id)
        finally:
            if place is not None:
                await asyncio.shield(run_in_threadpool(_goes, actor, place, process))


@contextlib.asynccontextmanager
async def admitted(
    socket: WebSocket, process: Process, come: Callable[[Session], T]
) -> AsyncIterator[T | None]:
    """Let a line in, as far as its pages and its address allow; gives what `come` found of who
    comes, or None for a line that was sent away with a reason.
    """
    if not same_origin(socket.headers.get("origin"), socket.headers.get("host")):
        await socket.close(FOREIGN)
        yield None
        return
    await socket.accept()
    address = address_of(socket)
    try:
        process.traffic.line_from(address)
    except MeldrinError as error:
        await send_away(socket, error)
        yield None
        return
    try:
        came: T | None = None
        try:
            came = await run_in_threadpool(in_transaction, process.pools.requests, come)
        except MeldrinError as error:
            await send_away(socket, error)
        except SQLAlchemyError as error:
            LOG.warning("a line could not begin: %s", str(error).splitlines()[0])
            with contextlib.suppress(WebSocketDisconnect, RuntimeError):
                await socket.close(AWAY)
        yield came
    finally:
        process.traffic.line_ends(address)


def _goes(actor: Actor, place: int, process: Process) -> None:
    with contextlib.suppress(SQLAlchemyError):  # the place is free again when its time is over
        leave = partial(leave_place, actor=actor, place=place, process=process.name)
        in_transaction(process.pools.requests, leave)


async def send_away(socket: WebSocket, error: MeldrinError) -> None:
    """Say why nothing comes of a line, and close it."""
    refused = Refused(number=None, code=error.code, message=error.message)
    with contextlib.suppress(WebSocketDisconnect, RuntimeError):
        await socket.send_text(text_of(refused))
        await socket.close(FULL)


class Line:
    """One tab at one attempt, as its socket and as the journal sees it."""

    def __init__(
        self,
        socket: WebSocket,
        seat: Seat,
        journal: Journal,
        sessions: Sessions,
        *,
        actor: Actor,
    ) -> None:
        self.key = 0
        self.holder = ""
        self.practice = seat.practice
        self._socket = socket
        self._seat = seat
        self._journal = journal
        self._sessions = sessions
        self._actor = actor
        self._seated = False
        self._number = 0
        self._count = 0
        self._out: deque[BaseModel] = deque()
        self._telling = asyncio.Lock()
        self._taking = False
        self._later: asyncio.Task[None] | None = None
        self._told_unsaved = False
        self._pace = Pace(now_s=time.monotonic())
        self._unread = False
        self._serving: asyncio.Task[object] | None = None

    def saved(self, number: int) -> None:
        """Called by the journal: actions up to `number` are on disk."""
        self._told_unsaved = False
        self._say(Saved(number=number))

    def moved(self) -> None:
        """Called by the journal: another tab has the attempt."""
        self._seated = False
        self._say(Moved(message="This attempt goes on in another tab."))

    def unsaved(self) -> None:
        """Called by the journal: the database is away; said once until it is back."""
        if not self._told_unsaved:
            self._told_unsaved = True
            self._say(
                Trouble(
                    message="Your turns cannot be saved for the moment. Go on: they are kept"
                    " here and saved as soon as it works again."
                )
            )

    def set_aside(self, numbers: Sequence[int]) -> None:
        """Called by the journal: these actions cannot be kept. The tab comes back with hello, and
        goes on from what is on disk.
        """
        for number in numbers:
            self._refuse(number, Code.NOT_KEPT, "This turn could not be kept. Do it again.")
        self._refuse(None, Code.STORE_AWAY, "Going back to what is kept.")

    async def serve(self, public_id: str) -> None:
        """Talk with the tab until it goes; bad messages are answered and change nothing."""
        self._serving = asyncio.current_task()
        try:
            await self._talk(public_id)
        except asyncio.CancelledError:
            if not self._unread or self._serving is None:
                raise
            # by `_tell`: it comes back with hello, and is told how things stand
            self._serving.uncancel()
            with contextlib.suppress(TimeoutError, WebSocketDisconnect, RuntimeError):
                async with asyncio.timeout(CLOSES_WITHIN_S):
                    await self._socket.close(UNREAD)
        finally:
            self._serving = None  # the journal may still say what it has saved
            if self._later is not None:
                self._later.cancel()

    async def _talk(self, public_id: str) -> None:
        with contextlib.suppress(WebSocketDisconnect, WebSocketDisconnected, KeyError):
            # KeyError: a binary frame, which we do not speak
            held_s = 0.0
            while True:
                text = await self._socket.receive_text()
                await self._paced(1.0)
                begun_s = time.thread_time()
                self._taking = True
                await self._take(public_id, text)
                self._taking = False
                took_s = time.thread_time() - begun_s
                self._pace.took(took_s)
                held_s += took_s
                await self._tell()
                if held_s > YIELDS_AFTER_S:  # what came in one piece would be taken in one go
                    held_s = 0.0
                    await asyncio.sleep(0)

    def _say(self, reply: BaseModel) -> None:
        """Have a reply told: after the message that is being taken, or else as soon as can be."""
        if self._serving is None:
            return
        self._out.append(reply)
        if not self._taking and (self._later is None or self._later.done()):
            self._later = asyncio.create_task(self._tell())

    async def _tell(self) -> None:
        """Send what is to be said. A tab that does not read holds this up, and with it whatever it
        does next, until its time is over.
        """
        if not self._out:
            return
        try:
            async with self._telling, asyncio.timeout(READS_WITHIN_S):
                while self._out:
                    await self._socket.send_text(text_of(self._out.popleft()))
        except (WebSocketDisconnect, RuntimeError):
            self._out.clear()  # gone: `_talk` notices it
        except TimeoutError:
            if self._serving is not None:
                self._unread = True
                self._serving.cancel()

    async def _take(self, public_id: str, text: str) -> None:
        number: int | None = None
        try:
            if len(text) > MOST_BYTES:
                raise MeldrinError(Code.TOO_LONG, "The message is too long.")
            message = self._seat.messages.validate_json(text)
            if isinstance(message, Hello):
                await self._hello(public_id, message)
            elif isinstance(message, Act):
                number = message.number
                self._act(message)
            elif self._seated:
                self._seat.hear(message, self._say)
        except ValidationError as error:
            self._refuse(_number_in(text), Code.INVALID, sentence(error))
        except MeldrinError as error:
            self._refuse(number, error.code, error.message)
        except SQLAlchemyError:
            self._refuse(number, Code.STORE_AWAY, STORE_AWAY)

    def _refuse(self, number: int | None, code: Code, message: str) -> None:
        self._say(Refused(number=number, code=code, message=message))

    async def _hello(self, public_id: str, hello: Hello) -> None:
        await self._paced(HELLO_COST)
        holder = f"{hello.tab[:31]}.{uuid.uuid4().hex}"
        record = await asyncio.to_thread(self._take_over, public_id, holder)
        self._journal.forget(self)
        self.key, self.holder = record.key, holder
        self._seated = True
        self._number = record.log[-1].number if record.log else 0
        self._count = len(record.log)
        self._say(self._seat.welcome(self._number))

    def _take_over(self, public_id: str, holder: str) -> Record:
        take = partial(take_over, actor=self._actor, public_id=public_id, holder=holder)
        record = in_transaction(self._sessions, take)
        if record.summary.practice != self.practice:
            raise MeldrinError(Code.NO_SUCH_ATTEMPT, "There is no such attempt among yours.")
        self._seat.sit(record)
        return record

    def _act(self, message: Act) -> None:
        if not self._seated:
            raise MeldrinError(
                Code.NOT_HERE, "This tab does not hold the attempt; say hello first."
            )
        if message.number <= self._number:
            return  # sent twice over a broken line, and kept the first time
        if self._count >= MOST_ACTIONS:
            raise MeldrinError(Code.TOO_MANY, "This attempt has grown too long; finish it.")
        # A reloaded page may count its seconds a little behind; time never runs backwards here.
        at_s = max(message.at_s, self._seat.time_s)
        action = message.action  # type: ignore[attr-defined]  # each practice adds its own
        reply = self._seat.act(message.number, at_s, action, self._say)
        self._number, self._count = message.number, self._count + 1
        self._journal.put(self, Numbered(message.number, Timed(at_s, action)))
        ACTIONS.inc()
        self._say(reply)

    async def _paced(self, cost: float) -> None:
        wait_s = self._pace.wait_s(cost, now_s=time.monotonic())
        if wait_s > 0:
            await asyncio.sleep(wait_s)


def _number_in(text: str) -> int | None:
    """Return the number of a message that is otherwise bad, so that the tab can let go of it."""
    try:
        number = json.loads(text)["number"]
    except (ValueError, TypeError, KeyError, RecursionError):
        return None
    return number if isinstance(number, int) and 0 < number <= MOST_NUMBER else None
