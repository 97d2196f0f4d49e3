"""The whole state of an attempt at one moment."""

from collections.abc import Callable, Hashable
from dataclasses import dataclass, field, fields
from functools import cache
from operator import attrgetter
from typing import Any, Final, Self, cast

from meldrin.core.bench.actions import Aid, Mode, Verdict
from meldrin.core.bench.rig import Rig
from meldrin.core.bench.setup import Setup
from meldrin.core.methods import Check, Step

# dataclasses.replace looks every field up by name; a step makes some twenty new states and strings,
# so they are rebuilt from a tuple of all their values instead, four times as fast.


class _Changed:
    """Lets a frozen dataclass be rebuilt with some fields changed."""

    __slots__ = ()

    def but(self, **changes: Any) -> Self:
        """Return the same with these fields changed; a field there is none of is a KeyError."""
        get, place = _layout(cast("Hashable", type(self)))
        values = list(get(self))
        for name, value in changes.items():
            values[place[name]] = value
        return type(self)(*values)


@cache
def _layout(made: Any) -> tuple[Callable[[Any], tuple[Any, ...]], dict[str, int]]:
    names = [column.name for column in fields(made)]
    return attrgetter(*names), {name: index for index, name in enumerate(names)}


AIDS: Final[tuple[Aid, ...]] = ("ear", "ripple", "tuner", "level")  # by how much they give away


@dataclass(frozen=True, slots=True)
class StringState(_Changed):
    """One string: the material in its path, the finger, and how its peg was turned.

    `material_m` is the unstretched length of what lies between anchor and nut (and post, where the
    nut lets it slide freely), `head_m` that between nut and post, 0 where it slides. `fret` may lie
    between two where a finger only touches. `fine_m`: what the fine tuner takes up beyond its
    middle. `lost_deg`: how much of the knob's lost motion is open; `twist_deg`: how far a peg that
    sticks is twisted without having moved. `creep_cents` for each tenfold of time since `raised_s`,
    in the instrument's own time; `lowered_cents`: by how much it has been let down, at `lowered_s`,
    and not brought up again. `loose`: turned without being pushed in, the hand still on it. `moves`
    counts runs of turns in one direction; `last_turn` is +1 up, -1 down, 0 never turned. `turns`:
    all its turns, `unheard` those up since it was last sounded.
    """

    material_m: float
    head_m: float = 0.0
    fret: float = 0.0
    touched: bool = False
    hard: bool = False
    fine_m: float = 0.0
    lost_deg: float = 0.0
    twist_deg: float = 0.0
    creep_cents: float = 0.0
    raised_s: float = 0.0
    lowered_cents: float = 0.0
    lowered_s: float = 0.0
    loose: bool = False
    broken: bool = False
    moves: int = 0
    last_turn: int = 0
    turns: int = 0
    unheard: int = 0


@dataclass(frozen=True, slots=True)
class Ringing(_Changed):
    """A voice that still sounds, from when until when, with how many partials.

    Of a string as it was stopped, or of the reference (`string` None) at `hz`. `touched`: rings on
    from a node; `bowed`: its partials are harmonic; `along`: it only rings along with others;
    `audible_s`: until when it is loud enough to listen to.
    """

    voice: int
    string: int | None
    partials: int
    since_s: float
    until_s: float
    audible_s: float
    fret: float = 0.0
    touched: bool = False
    hard: bool = False
    bowed: bool = False
    along: bool = False
    hz: float = 0.0


@dataclass(frozen=True, slots=True)
class Judgement:
    """What was said of a stage's string and when, what was so at that moment (cents from where the
    plan wants it), the aid that gave most away since the last time it was asked, and how many
    turns the string had had.
    """

    stage: int
    verdict: Verdict
    cents: float
    was_cents: float
    aid: Aid
    at_s: float = 0.0
    turns: int = 0


@dataclass(frozen=True, slots=True)
class Snap:
    """A string that broke: which, when, how far above its note, and how many turns up it took
    since it was last heard.
    """

    string: int
    at_s: float
    cents_above: float
    unheard: int


@dataclass(frozen=True, slots=True)
class State(_Changed):
    """Immutable; `step` makes the next one.

    `time_s` runs with the list of actions; `world_s` is the instrument's own time, which waits make
    longer, up to which it has aged; `owed_s` has passed since. `give_m`: how far every string's
    path has shortened because the frame gives, against what it gives with all strings on their
    targets; `swell_m`: how far damp (or, negative, dry) wood lengthens them. `doubted`: what was
    said of the reference. `aids_used`: (stage, aid) pairs; `seen`: the aid that gave most away
    while something sounded, since the last judgement of this stage.
    """

    rig: Rig = field(compare=False, repr=False)
    setup: Setup
    strings: tuple[StringState, ...]
    tuner_a4_hz: float
    tuner_mode: Mode = "chromatic"
    reference_cents: float = 0.0
    doubted: Verdict | None = None
    time_s: float = 0.0
    world_s: float = 0.0
    owed_s: float = 0.0
    give_m: float = 0.0
    swell_m: float = 0.0
    draws: int = 0
    stage: int = 0
    visited: frozenset[int] = frozenset()
    aid: Aid = "ripple"
    seen: Aid = "ear"
    aids_used: frozenset[tuple[int, Aid]] = frozenset()
    muted: bool = False
    ringing: tuple[Ringing, ...] = ()
    next_voice: int = 1
    judgements: tuple[Judgement, ...] = ()
    snaps: tuple[Snap, ...] = ()
    finished: bool = False

    def string(self, number: int) -> StringState:
        """Return the state of the string with this number."""
        return self.strings[number - 1]

    def with_string(self, number: int, changed: StringState) -> "State":
        """Return the state with one string changed."""
        strings = (*self.strings[: number - 1], changed, *self.strings[number:])
        return self.but(strings=strings)

    def path_m(self, number: int) -> float:
        """Return the length of a string's path from anchor to nut (or post) as the frame stands."""
        own_m = self.rig.quirks[number - 1].path_m + self.strings[number - 1].fine_m
        return own_m - self.give_m + self.swell_m

    def strain(self, number: int) -> float:
        """Return the elastic strain of a string's speaking length; negative where it is slack."""
        now = self.strings[number - 1]
        return -1.0 if now.broken else self.path_m(number) / now.material_m - 1.0

    def current(self) -> Step | Check | None:
        """Return the step or check of the plan that this stage is; None in free play."""
        stages = self.rig.plan.stages
        return stages[self.stage] if stages else None

    def at_stage(self, stage: int) -> "State":
        """Return the state at another stage: every finger lifted but those it wants."""
        wanted = self.rig.plan.stages[stage]
        by_string = {touch.string: touch for touch in (wanted.own, wanted.other)}
        strings = []
        for number, now in enumerate(self.strings, start=1):
            string, touch = now, by_string.get(number)
            fret, touched = 0.0, False
            if touch is not None:
                touched = touch.node_fret is not None
                fret = float(touch.fret) if touch.node_fret is None else touch.node_fret
            if (string.fret, string.touched, string.hard) != (fret, touched, False):
                string = string.but(fret=fret, touched=touched, hard=False)
            strings.append(string)
        return self.but(
            stage=stage,
            visited=self.visited | {stage},
            seen="ear",
            aids_used=self.aids_used | {(stage, self.aid)},
            strings=tuple(strings),
        )

    def seeing(self) -> "State":
        """Return the state with its aid seen, if anything sounds that it could show."""
        if not any(voice.audible_s >= self.time_s for voice in self.ringing):
            return self
        most = max(self.seen, self.aid, key=AIDS.index)
        return self if most == self.seen else self.but(seen=most)

    def judged(self, stage: int) -> tuple[Judgement, ...]:
        """Return what was said of a stage, the first time first."""
        return tuple(said for said in self.judgements if said.stage == stage)
