"""One tab at the bench: what it does, hears and sees."""

import asyncio
from typing import Any, Final

from pydantic import BaseModel, TypeAdapter

from meldrin.core.bench import Action, CheckWithTuner, State, opening, played, step
from meldrin.core.bench.feel import felt
from meldrin.core.bench.tuner import Sounding, tuner_check, tuner_reading
from meldrin.server.bench.present import checked, shown
from meldrin.server.bench.scene import Seen, seen_of
from meldrin.server.bench.schemas import FromBrowser, Listen, Now, Welcome
from meldrin.server.realtime.line import Say
from meldrin.services.attempts import Record


class BenchSeat:
    """A `Seat` at the bench."""

    practice: Final = "bench"
    messages: TypeAdapter[Any] = FromBrowser

    def __init__(self) -> None:
        self._state: State | None = None
        self._seen: Seen | None = None  # what the tab was told last
        self._sounding = Sounding()
        self._reading: asyncio.Task[None] | None = None
        self._checking: asyncio.Task[None] | None = None

    @property
    def state(self) -> State:
        """The bench as it stands, once an attempt has been taken."""
        assert self._state is not None
        return self._state

    @property
    def time_s(self) -> float:
        """When the last action was."""
        return self.state.time_s

    def sit(self, record: Record) -> None:
        """Play the attempt's list up to where it stands."""
        state, sounding = opening(record.exercise), Sounding()
        for one in played(record.exercise, record.timed):
            state = one.after
            sounding.add(one.sounds, state=state)
        self._state, self._sounding = state, sounding

    def welcome(self, number: int) -> BaseModel:
        """Return the scene. Nothing sounds in a tab that has just come: its own speaker has played
        none of it.
        """
        seen = seen_of(self.state)
        seen.fields["pair"] = None
        self._seen = seen
        return Welcome(number=number, at_s=self.time_s, scene=seen.scene)

    def act(self, number: int, at_s: float, action: Action, say: Say) -> BaseModel:
        """Do an action, and return what has changed and what sounds."""
        before, seen = self.state, self._seen
        assert seen is not None  # every tab is welcomed first
        state, sounds = step(before, action, dt_s=at_s - before.time_s)
        self._state = state
        self._sounding.add(sounds, state=state)
        if isinstance(action, CheckWithTuner):
            self._checking = asyncio.create_task(self._check(state, say))
        self._seen = seen_of(state, felt=felt(before, action, state), before=seen)
        changes = seen.changes_to(self._seen)
        return Now.made(kind="now", number=number, changes=changes, sounds=sounds)

    def hear(self, message: Listen, say: Say) -> None:
        """Let the tuner listen beside the playing; one reading at a time."""
        state = self.state
        if state.aid != "tuner" or state.finished:
            return
        if self._reading is not None and not self._reading.done():
            return
        at_s = max(message.at_s, state.time_s)
        events = list(self._sounding.events)

        async def read() -> None:
            found = await asyncio.to_thread(
                tuner_reading, state, events, at_s=at_s, flats=message.flats
            )
            say(shown(state, at_s, found, flats=message.flats))

        self._reading = asyncio.create_task(read())

    async def _check(self, state: State, say: Say) -> None:
        """Read every string with the tuner, beside the playing."""
        say(checked(state, await asyncio.to_thread(tuner_check, state)))
