"""Simulated learners: a known ear and a known hand, playing through the same actions as a person.

They hear only what a person hears: whether the pair beats, how fast as far as their ear tells, and
whether a turn made it slower. They never read the offset.
"""

import random
from dataclasses import dataclass
from typing import Literal

from meldrin.core.bench import (
    Action,
    Finish,
    Go,
    Help,
    Judge,
    Setup,
    Sound,
    State,
    TimedAction,
    Turn,
    heard,
    opening,
    step,
)
from meldrin.core.errors import within
from meldrin.core.methods import Step
from meldrin.core.strings import cents_per_degree, tension_at_strain


@dataclass(frozen=True, slots=True)
class Ear:
    """`stops_at_hz`: beats slower than this are taken for still; `spread`: the relative error of
    a beat rate heard; `hand_deg`: the smallest turn of the knob; `from_below`: comes up to pitch.
    """

    stops_at_hz: float
    spread: float
    hand_deg: float
    from_below: bool

    def __post_init__(self) -> None:
        within(self.stops_at_hz, name="slowest beat heard", low=0.005, high=10.0, unit="Hz")
        within(self.spread, name="spread", low=0.0, high=1.0)
        within(self.hand_deg, name="smallest turn", low=0.1, high=30.0, unit="degrees")


def practise(setup: Setup, ear: Ear, *, seed: int) -> list[TimedAction]:
    """Return the actions of one whole attempt by this learner."""
    player = _Player(setup, ear, random.Random(seed))
    player.do(Help("ear"), after_s=1.0)
    for index, stage in enumerate(setup.plan.stages):
        player.do(Go(index), after_s=2.0)
        player.tune(stage) if isinstance(stage, Step) else player.sound_pair()
    player.do(Finish(), after_s=3.0)
    return player.log


class _Player:
    def __init__(self, setup: Setup, ear: Ear, draw: random.Random) -> None:
        self.log: list[TimedAction] = []
        self._state: State = opening(setup)
        self._ear = ear
        self._draw = draw

    def do(self, action: Action, *, after_s: float) -> None:
        at_s = self._state.time_s + after_s
        self._state, _ = step(self._state, action, dt_s=at_s - self._state.time_s)
        self.log.append(TimedAction(at_s, action))

    def sound_pair(self) -> float:
        """Sound the stage's pair and return the beat rate as this ear takes it, in Hz."""
        stage = self._state.current()
        pair = (stage.own.string, stage.other.string)
        strings = tuple(number for number in pair if number is not None)
        self.do(Sound(strings, reference=None in pair), after_s=1.5)
        now = heard(self._state)
        assert now is not None
        return now.beats_hz * (1.0 + self._ear.spread * self._draw.uniform(-1.0, 1.0))

    def tune(self, stage: Step) -> None:
        """Try a direction, keep it while the beats slow, and stop when they seem still."""
        way = 1.0
        beats = self.sound_pair()
        for _ in range(60):
            if beats <= self._ear.stops_at_hz:
                break
            before = beats
            self._turn(stage, way * self._wanted_deg(stage, beats))
            beats = self.sound_pair()
            if beats > before:
                way = -way
        if way < 0.0 and self._ear.from_below:
            back = 4.0 * self._ear.hand_deg
            self._turn(stage, -back)
            self._turn(stage, back)
            beats = self.sound_pair()
        self.do(self._belief(stage, beats, way), after_s=2.0)

    def _turn(self, stage: Step, degrees: float) -> None:
        noise = self._ear.hand_deg * self._draw.uniform(-0.3, 0.3)
        self.do(Turn(stage.string, max(-80.0, min(80.0, degrees + noise))), after_s=0.6)

    def _wanted_deg(self, stage: Step, beats: float) -> float:
        """Return the turn that would stop these beats if the direction is right."""
        string = self._state.setup.instrument.string(stage.string)
        tension_n = tension_at_strain(string, self._state.strain(stage.string))
        cents = beats / stage.beats_hz_per_cent
        wanted = 0.7 * cents / cents_per_degree(string, tension_n=tension_n)
        return max(self._ear.hand_deg, wanted)

    def _belief(self, stage: Step, beats: float, way: float) -> Judge:
        if beats <= self._ear.stops_at_hz:
            return Judge("still", 0.0)
        side: Literal["low", "high"] = "low" if way > 0.0 else "high"
        return Judge(side, min(50.0, round(beats / stage.beats_hz_per_cent)))
