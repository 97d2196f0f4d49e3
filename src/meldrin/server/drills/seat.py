"""One tab at a drill: what it does and hears."""

import asyncio
from collections.abc import Callable
from functools import partial
from typing import Any, Final

from pydantic import BaseModel, TypeAdapter

from meldrin.core.drills import (
    SAMPLE_RATE,
    DrillAction,
    HearExample,
    HearTrial,
    JudgeTrial,
    NextTrial,
    Sitting,
    Sounding,
    sat,
    step,
)
from meldrin.server.drills.present import samples_of, scene_of
from meldrin.server.drills.schemas import DrillNow, DrillSound, DrillWelcome, FromBrowser
from meldrin.server.realtime.line import Say
from meldrin.services.attempts import Record


class DrillSeat:
    """A `Seat` at a drill.

    The samples of a trial are made beside the loop, those of the next one already while the truth
    of this one is shown: when they come tells nothing.
    """

    practice: Final = "drills"
    messages: TypeAdapter[Any] = FromBrowser

    def __init__(self) -> None:
        self._state: Sitting | None = None
        self._made: dict[int, asyncio.Task[str]] = {}
        self._examples: dict[int, asyncio.Task[str]] = {}
        self._saying: set[asyncio.Task[None]] = set()

    @property
    def state(self) -> Sitting:
        """The sitting as it stands, once an attempt has been taken."""
        assert self._state is not None
        return self._state

    @property
    def time_s(self) -> float:
        """When the last action was."""
        return self.state.time_s

    def sit(self, record: Record) -> None:
        """Go through the sitting's list up to where it stands."""
        self._state = sat(record.exercise, record.timed)

    def welcome(self, number: int) -> BaseModel:
        """Return the sitting; the sound of its trial is asked for by hearing it."""
        return DrillWelcome(number=number, at_s=self.time_s, scene=scene_of(self.state))

    def act(self, number: int, at_s: float, action: DrillAction, say: Say) -> BaseModel:
        """Do an action; what it makes sound follows."""
        before = self.state
        self._state, _ = step(before, action, dt_s=at_s - before.time_s)
        state = self._state
        if isinstance(action, HearExample):
            self._say(self._example(state, action.answer), 0, action.answer, say)
        elif isinstance(action, HearTrial):
            self._say(self._trial(state), state.number, None, say)
        elif isinstance(action, JudgeTrial) and not state.is_last:
            self._trial(step(state, NextTrial(), dt_s=0.0)[0])
        return DrillNow(number=number, scene=scene_of(state))

    def hear(self, message: Any, say: Say) -> None:
        """Take nothing but actions."""

    def _trial(self, state: Sitting) -> asyncio.Task[str]:
        """Return the samples of a trial, made once; those of earlier ones are let go."""
        number = state.number
        if number not in self._made:
            self._made = {at: task for at, task in self._made.items() if at >= number - 1}
            self._made[number] = asyncio.create_task(self._render(state, state.sounding))
        return self._made[number]

    def _example(self, state: Sitting, answer: int) -> asyncio.Task[str]:
        """Return the samples of an example, made once, however often it is heard."""
        if answer not in self._examples:
            made = partial(state.example, answer)
            self._examples[answer] = asyncio.create_task(self._render(state, made))
        return self._examples[answer]

    async def _render(self, state: Sitting, made: Callable[[], Sounding]) -> str:
        return await asyncio.to_thread(lambda: samples_of(state.drill, made()))

    def _say(self, samples: asyncio.Task[str], trial: int, example: int | None, say: Say) -> None:
        async def told() -> None:
            say(DrillSound(trial=trial, example=example, rate=SAMPLE_RATE, samples=await samples))

        task = asyncio.create_task(told())
        self._saying.add(task)
        task.add_done_callback(self._saying.discard)
