"""One tab at a drill: what it does and hears."""

import asyncio
from collections.abc import Callable
from typing import Any, Final

from pydantic import BaseModel, TypeAdapter

from meldrin.core.drills import (
    SAMPLE_RATE,
    DrillAction,
    HearExample,
    HearTrial,
    JudgeTrial,
    NextTrial,
    Playback,
    Sitting,
    StartTrials,
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
        self._made: dict[str, asyncio.Task[str]] = {}
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
        """Go through the sitting's list up to where it stands, and get ready what comes next."""
        state = self._state = sat(record.exercise, record.timed)
        if state.stage == "examples":
            _ = state.examples, step(state, StartTrials(), dt_s=0.0)[0].posed

    def welcome(self, number: int) -> BaseModel:
        """Return the sitting; the sound of its trial is asked for by hearing it."""
        return DrillWelcome(number=number, at_s=self.time_s, scene=scene_of(self.state))

    def act(self, number: int, at_s: float, action: DrillAction, say: Say) -> BaseModel:
        """Do an action; what it makes sound follows."""
        before = self.state
        self._state, sounds = step(before, action, dt_s=at_s - before.time_s)
        state = self._state
        if isinstance(action, HearExample):
            made = self._samples(f"example {action.answer}", _example(state, action.answer))
            self._say(made, 0, action.answer, say)
        elif isinstance(action, HearTrial) and state.heard is not None:
            self._say(self._trial(state), state.number, None, say)
        elif isinstance(action, JudgeTrial) and not state.is_last:
            following, _ = step(state, NextTrial(), dt_s=0.0)
            if following.heard is not None:
                self._trial(following)
        return DrillNow(number=number, scene=scene_of(state), sounds=list(sounds))

    def hear(self, message: Any, say: Say) -> None:
        """Take nothing but actions."""

    def _trial(self, state: Sitting) -> asyncio.Task[str]:
        """Return the samples of a trial; those of earlier ones are let go."""
        name = f"{state.stage} {state.number}"
        if name not in self._made:
            near = {f"{at} {state.number - back}" for at in ("asked", "told") for back in (0, 1)}
            self._made = {
                one: made
                for one, made in self._made.items()
                if one in near or one.startswith("example")
            }
        return self._samples(name, lambda: state.heard)

    def _samples(self, name: str, heard: Callable[[], Playback | None]) -> asyncio.Task[str]:
        """Return samples that are made once, however often they are heard."""

        def made() -> str:
            found = heard()
            return "" if found is None else samples_of(found)

        if name not in self._made:
            self._made[name] = asyncio.create_task(asyncio.to_thread(made))
        return self._made[name]

    def _say(self, samples: asyncio.Task[str], trial: int, example: int | None, say: Say) -> None:
        async def told() -> None:
            say(DrillSound(trial=trial, example=example, rate=SAMPLE_RATE, samples=await samples))

        task = asyncio.create_task(told())
        self._saying.add(task)
        task.add_done_callback(self._saying.discard)


def _example(state: Sitting, number: int) -> Callable[[], Playback | None]:
    return lambda: state.examples[number].heard
