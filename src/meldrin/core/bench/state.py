"""The whole state of an attempt at one moment."""

from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING

from meldrin.core.bench.actions import Aid, Verdict
from meldrin.core.strings import strain_of

if TYPE_CHECKING:
    from meldrin.core.bench.setup import Setup
    from meldrin.core.methods import Check, Step


@dataclass(frozen=True, slots=True)
class StringState:
    """One string: the unstretched length in its path, the finger, and how its peg was turned.

    `moves` counts runs of turns in one direction; `last_turn` is +1 up, -1 down, 0 never turned.
    """

    unstretched_m: float
    fret: int = 0
    moves: int = 0
    last_turn: int = 0


@dataclass(frozen=True, slots=True)
class Ringing:
    """A voice that still sounds: of a string (None: the fork), as it was stopped, until when."""

    voice: int
    string: int | None
    fret: int
    partials: int
    until_s: float


@dataclass(frozen=True, slots=True)
class Judgement:
    """What was said of a stage's string, what was so at that moment, and the aid seen before."""

    stage: int
    verdict: Verdict
    cents: float
    was_cents: float
    aid: Aid


@dataclass(frozen=True, slots=True)
class State:
    """Immutable; `step` makes the next one. `aids_used[n]` are the aids seen during stage n."""

    setup: "Setup"
    strings: tuple[StringState, ...]
    time_s: float = 0.0
    stage: int = 0
    visited: frozenset[int] = frozenset()
    aid: Aid = "ripple"
    aids_used: frozenset[tuple[int, Aid]] = frozenset()
    ringing: tuple[Ringing, ...] = ()
    next_voice: int = 1
    judgements: tuple[Judgement, ...] = field(default=())
    finished: bool = False

    def string(self, number: int) -> StringState:
        """Return the state of the string with this number."""
        return self.strings[number - 1]

    def with_string(self, number: int, changed: StringState) -> "State":
        """Return the state with one string changed."""
        strings = (*self.strings[: number - 1], changed, *self.strings[number:])
        return replace(self, strings=strings)

    def strain(self, number: int) -> float:
        """Return the elastic strain of a string."""
        return strain_of(self.setup.instrument.string(number), self.string(number).unstretched_m)

    def current(self) -> "Step | Check":
        """Return the step or check of the plan that this stage is."""
        return self.setup.plan.stages[self.stage]

    def at_stage(self, stage: int) -> "State":
        """Return the state at another stage: every finger lifted but the one it wants."""
        touches = (self.setup.plan.stages[stage].own, self.setup.plan.stages[stage].other)
        frets = {touch.string: touch.fret for touch in touches}
        return replace(
            self,
            stage=stage,
            visited=self.visited | {stage},
            aids_used=self.aids_used | {(stage, self.aid)},
            strings=tuple(
                replace(string, fret=frets.get(number, 0))
                for number, string in enumerate(self.strings, start=1)
            ),
        )

    def judgement(self, stage: int) -> Judgement | None:
        """Return what was said of a stage, or None."""
        return next((said for said in self.judgements if said.stage == stage), None)
