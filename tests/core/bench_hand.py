"""What the tests of the bench share: a hand that knows the pitch, instruments made to measure."""

import math
from collections.abc import Callable
from dataclasses import replace
from typing import Any

from meldrin.core.bench import (
    Action,
    Aid,
    Decide,
    Exercise,
    Finish,
    GoTo,
    Judge,
    Play,
    SetAid,
    State,
    TimedAction,
    Turn,
    matched_cents,
    opening,
    step,
)
from meldrin.core.changed import changed
from meldrin.core.methods import Step
from meldrin.core.scoring import Score, score
from meldrin.core.strings import cents_per_degree, tension_at_strain

SOUNDS_FOR_S = 3.5  # every string rings at least so long


def exercise(
    instrument: str = "guitar",
    method: str = "each",
    start: str = "one",
    seed: int = 7,
    *behaviours: str,
    **more: Any,
) -> Exercise:
    """A setup in few words."""
    more.setdefault("fresh", True)
    return Exercise(
        instrument,
        method,
        start,  # type: ignore[arg-type]
        seed,
        behaviours=frozenset(behaviours),  # type: ignore[arg-type]
        **more,
    )


def made_to_measure(state: State, **quirks: Any) -> State:
    """The same state on an instrument whose strings all have these quirks."""
    made = tuple(replace(one, **quirks) for one in state.rig.quirks)
    return changed(state, rig=replace(state.rig, quirks=made))


def run(state: State, *actions: Action, gap_s: float = 0.5) -> State:
    """Do one thing after the other."""
    for action in actions:
        state, _ = step(state, action, dt_s=gap_s)
    return state


class Hand:
    """A hand that knows the pitch: it plays an attempt exactly, but for what it is told to do."""

    def __init__(self, made: Exercise) -> None:
        self.exercise = made
        self.state: State = opening(made)
        self.log: list[TimedAction] = []
        self._sounded_s = 0.0
        self.do(SetAid("ear"))

    def do(self, action: Action, *, after_s: float = 0.5) -> None:
        at_s = self.state.time_s + after_s
        self.state, _ = step(self.state, action, dt_s=at_s - self.state.time_s)
        self.log.append(TimedAction(at_s, action))

    def sound(self) -> None:
        stage = self.state.current()
        assert stage is not None
        self._sounded_s = self.state.time_s
        self.do(Play(stage.strings, reference=stage.with_reference))

    def turn(self, number: int, cents: float) -> None:
        """Turn by about `cents`, as far as one turn goes."""
        string = self.state.rig.strings[number - 1]
        tension_n = tension_at_strain(string, self.state.strain(number))
        degrees = cents / cents_per_degree(string, tension_n=tension_n)
        self.do(Turn(number, max(-80.0, min(80.0, degrees))))

    def bring(self, stage: Step, *, to_cents: float, way: int) -> None:
        """Turn until the string is within 0.05 cents of a place, the last turn in a direction."""
        for _ in range(80):
            off = matched_cents(self.state, stage) - to_cents
            last = self.state.string(stage.string).last_turn
            if abs(off) < 0.05 and last == way:
                return
            if off * way > 0.0 or abs(off) < 0.05:
                self.turn(stage.string, -way * (12.0 + abs(off)))  # to the far side of it
            else:
                self.turn(stage.string, way * max(0.005, abs(off) * 0.7))
            if self.state.time_s - self._sounded_s > SOUNDS_FOR_S:
                self.sound()
        raise AssertionError("the hand did not arrive")

    def bring_silently(self, stage: Step) -> None:
        """Turn the string to its place without a sound."""
        for _ in range(80):
            off = matched_cents(self.state, stage)
            if abs(off) < 0.05:
                return
            self.turn(stage.string, -0.9 * off)

    def play(
        self,
        tune: Callable[["Hand", Step], None] | None = None,
        *,
        check: bool = True,
        aid: Aid = "ear",
    ) -> Score:
        """Play the whole plan, each step as `tune` does it."""
        if aid != "ear":
            self.do(SetAid(aid))
        for index, stage in enumerate(self.exercise.plan.stages):
            self.do(GoTo(index))
            if isinstance(stage, Step):
                (tune or perfect)(self, stage)
            elif check:
                self.sound()
                self.do(SetAid(self.state.aid), after_s=2.0)
        self.do(Finish())
        return score(self.exercise, self.log)


def perfect(hand: Hand, stage: Step) -> None:
    """Sound, decide, arrive from below, listen, and say that it is in tune."""
    hand.sound()
    touched = hand.state.string(stage.string).last_turn != 0
    if touched or abs(matched_cents(hand.state, stage)) > 1.0:  # what is right is left alone
        decide(hand, stage)
        hand.bring(stage, to_cents=0.0, way=1)
        hand.sound()
    hand.do(Judge("in_tune", 0.0), after_s=2.5)


def decide(hand: Hand, stage: Step) -> None:
    """Say rightly which way the string is out, the first time."""
    if any(one.stage == hand.state.stage for one in hand.state.decisions):
        return
    off = matched_cents(hand.state, stage)
    hand.do(Decide("low" if off < 0.0 else "high"))


def parts(result: Score) -> dict[str, float]:
    """The points of each part, those of technique by rule."""
    sums: dict[str, float] = {}
    for line in result.lines:
        name = line.rule or line.part
        sums[name] = sums.get(name, 0.0) + line.points
    return {part: round(points, 6) for part, points in sums.items()}


def lost(result: Score) -> dict[str, float]:
    """The points each part has not brought, of those it could; what is next to nothing left out."""
    missing: dict[str, float] = {}
    for line in result.lines:
        name = line.rule or line.part
        missing[name] = missing.get(name, 0.0) + line.out_of - line.points
    return {part: points for part, points in missing.items() if points > 0.02}


def sinh_drop(grip: float, head_m: float, total_m: float) -> float:
    """866 * 2 sinh(m) L_head/L: by how much a strong bend drops a string that came from above."""
    return 600.0 / math.log(2.0) * 2.0 * math.sinh(grip) * head_m / total_m
