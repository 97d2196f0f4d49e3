"""The bench socket: a tab takes an attempt over, acts, and is told the new scene and its sound."""

import asyncio
import contextlib
import json
import time
import uuid

from fastapi import WebSocket, WebSocketDisconnect
from pydantic import ValidationError
from sqlalchemy.exc import SQLAlchemyError

from meldrin.core.bench import CheckWithTuner, State, TimedAction, opening, played, step
from meldrin.core.bench.feel import felt
from meldrin.core.bench.tuner import Sounding, tuner_check, tuner_reading
from meldrin.core.errors import Code, MeldrinError
from meldrin.server.journal import Journal
from meldrin.server.problems import STORE_AWAY, sentence
from meldrin.server.schemas.bench import (
    MOST_NUMBER,
    Act,
    FromBrowser,
    Hello,
    Listen,
    Moved,
    Now,
    Refused,
    Reply,
    Saved,
    Trouble,
    Welcome,
    checked,
    scene_of,
    shown,
)
from meldrin.services.attempts import Numbered, Record, take_over
from meldrin.store.engine import Sessions

MOST_PER_S = 120.0  # a held key sends 20 a second; several times that is no hand
MOST_BURST = 600.0  # what a browser kept while the line was down comes in one go
MOST_ACTIONS = 20_000
MOST_BYTES = 4_096


class BenchSeat:
    """One tab at one attempt."""

    def __init__(
        self, socket: WebSocket, journal: Journal, sessions: Sessions, *, learner: int | None
    ) -> None:
        self.key = 0
        self.holder = ""
        self._socket = socket
        self._journal = journal
        self._sessions = sessions
        self._learner = learner
        self._state: State | None = None
        self._sounding = Sounding()
        self._reading: asyncio.Task[None] | None = None
        self._checking: asyncio.Task[None] | None = None
        self._number = 0
        self._count = 0
        self._out: asyncio.Queue[Reply] = asyncio.Queue()
        self._told_unsaved = False
        self._allowance, self._allowed_at = MOST_BURST, time.monotonic()

    def saved(self, number: int) -> None:
        """Called by the journal: actions up to `number` are on disk."""
        self._told_unsaved = False
        self._out.put_nowait(Saved(number=number))

    def moved(self) -> None:
        """Called by the journal: another tab has the attempt."""
        self._state = None
        self._out.put_nowait(Moved(message="This attempt goes on in another tab."))

    def unsaved(self) -> None:
        """Called by the journal: the database is away; said once until it is back."""
        if not self._told_unsaved:
            self._told_unsaved = True
            self._out.put_nowait(
                Trouble(
                    message="Your turns cannot be saved for the moment. Go on: they are kept"
                    " here and saved as soon as it works again."
                )
            )

    async def serve(self, public_id: str) -> None:
        """Talk with the tab until it goes; bad messages are answered and change nothing."""
        await self._socket.accept()
        sending = asyncio.create_task(self._send())
        try:
            while True:
                text = await self._socket.receive_text()
                await self._take(public_id, text)
        except (WebSocketDisconnect, KeyError):  # KeyError: a binary frame, which we do not speak
            pass
        finally:
            sending.cancel()

    async def _send(self) -> None:
        with contextlib.suppress(WebSocketDisconnect, RuntimeError):  # gone: `serve` notices it
            while True:
                reply = await self._out.get()
                await self._socket.send_text(reply.model_dump_json())

    async def _take(self, public_id: str, text: str) -> None:
        number: int | None = None
        try:
            if len(text) > MOST_BYTES:
                raise MeldrinError(Code.TOO_LONG, "The message is too long.")
            message = FromBrowser.validate_json(text, strict=True)
            if isinstance(message, Hello):
                await self._hello(public_id, message)
            elif isinstance(message, Listen):
                self._listen(message)
            else:
                number = message.number
                self._act(message)
        except ValidationError as error:
            self._refuse(_number_in(text), Code.INVALID, sentence(error))
        except MeldrinError as error:
            self._refuse(number, error.code, error.message)
        except SQLAlchemyError:
            self._refuse(number, Code.STORE_AWAY, STORE_AWAY)

    def _refuse(self, number: int | None, code: Code, message: str) -> None:
        self._out.put_nowait(Refused(number=number, code=code, message=message))

    async def _hello(self, public_id: str, hello: Hello) -> None:
        holder = f"{hello.tab[:31]}.{uuid.uuid4().hex}"
        record, state, sounding = await asyncio.to_thread(self._take_over, public_id, holder)
        self._journal.forget(self)
        self.key, self.holder = record.key, holder
        self._state, self._sounding = state, sounding
        self._number = record.log[-1].number if record.log else 0
        self._count = len(record.log)
        # Nothing sounds in a tab that has just come: its own speaker has played none of it.
        scene = scene_of(state).model_copy(update={"pair": None})
        self._out.put_nowait(Welcome(number=self._number, at_s=state.time_s, scene=scene))

    def _take_over(self, public_id: str, holder: str) -> tuple[Record, State, Sounding]:
        with self._sessions() as session:
            record = take_over(session, public_id, learner=self._learner, holder=holder)
        state, sounding = opening(record.setup), Sounding()
        for one in played(record.setup, record.timed):
            state = one.after
            sounding.add(one.sounds, state=state)
        return record, state, sounding

    def _listen(self, message: Listen) -> None:
        """Let the tuner listen beside the playing; one reading at a time."""
        state = self._state
        if state is None or state.aid != "tuner" or state.finished:
            return
        if self._reading is not None and not self._reading.done():
            return
        at_s = max(message.at_s, state.time_s)
        events = list(self._sounding.events)

        async def read() -> None:
            found = await asyncio.to_thread(
                tuner_reading, state, events, at_s=at_s, flats=message.flats
            )
            self._out.put_nowait(shown(at_s, found))

        self._reading = asyncio.create_task(read())

    def _act(self, message: Act) -> None:
        if self._state is None:
            raise MeldrinError(
                Code.NOT_HERE, "This tab does not hold the attempt; say hello first."
            )
        if message.number <= self._number:
            return  # sent twice over a broken line, and kept the first time
        self._spend()
        if self._count >= MOST_ACTIONS:
            raise MeldrinError(Code.TOO_MANY, "This attempt has grown too long; finish it.")
        # A reloaded page may count its seconds a little behind; time never runs backwards here.
        at_s = max(message.at_s, self._state.time_s)
        before = self._state
        state, sounds = step(before, message.action, dt_s=at_s - before.time_s)
        self._state, self._number, self._count = state, message.number, self._count + 1
        self._sounding.add(sounds, state=state)
        self._journal.put(self, Numbered(message.number, TimedAction(at_s, message.action)))
        scene = scene_of(state, felt=felt(before, message.action, state))
        self._out.put_nowait(Now(number=message.number, scene=scene, sounds=list(sounds)))
        if isinstance(message.action, CheckWithTuner):
            self._checking = asyncio.create_task(self._check(state))

    async def _check(self, state: State) -> None:
        """Read every string with the tuner, beside the playing."""
        self._out.put_nowait(checked(await asyncio.to_thread(tuner_check, state)))

    def _spend(self) -> None:
        now = time.monotonic()
        self._allowance += (now - self._allowed_at) * MOST_PER_S
        self._allowance, self._allowed_at = min(self._allowance, MOST_BURST), now
        if self._allowance < 1.0:
            raise MeldrinError(Code.TOO_MANY, "That is faster than a hand can turn; wait a moment.")
        self._allowance -= 1.0


def _number_in(text: str) -> int | None:
    """Return the number of a message that is otherwise bad, so that the tab can let go of it."""
    try:
        number = json.loads(text)["number"]
    except (ValueError, TypeError, KeyError, RecursionError):
        return None
    return number if isinstance(number, int) and 0 < number <= MOST_NUMBER else None
