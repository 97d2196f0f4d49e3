"""The whole state of an attempt at one moment."""

from dataclasses import dataclass, field, replace
from functools import lru_cache
from typing import Final, Literal

from meldrin.core.bench.actions import Aid, Decision, Mode, Pickup, Slower, TunerStep, Verdict
from meldrin.core.bench.exercise import Exercise
from meldrin.core.bench.fault import FaultKind, Remedy
from meldrin.core.bench.rig import Rig
from meldrin.core.changed import changed
from meldrin.core.methods import Check, Step
from meldrin.core.strings import String

NEVER_S: Final = -1.0


@dataclass(frozen=True)  # without slots: see `changed`
class StringState:
    """One string: the material in its path, the finger, and how its peg was turned.

    material_m: unstretched length between anchor and nut (or post, where the nut lets it slide).
    head_m: unstretched length between nut and post; 0 where it slides.
    fret: where the finger is; between two where it only touches.
    touched, hard: how the finger lies; light: with care, where the usual finger may be the fault.
    press: how deep a hard finger presses this time, against the usual.
    fine_m: what the fine tuner takes up beyond its middle.
    lost_deg: how much of the knob's lost motion is open.
    twist_deg: how far a peg that sticks is twisted without having moved.
    creep_cents: for each tenfold of time since `raised_s`, on its target.
    load_share: how much of that its strain asked for when it was last turned.
    raised_s: when it was last brought up, in the instrument's own time.
    lowered_cents, lowered_s: by how much it has been let down and not brought up again, and when.
    loose: turned without being pushed in, and the hand is still on it.
    moves: runs of turns in one direction.
    last_turn: +1 up, -1 down, 0 never turned.
    knob_deg: how far its peg's knob has been turned in all, up less down.
    turns, unheard: all its turns, and those up since it was last sounded.
    put_out: how many turns it had when it was last put out again; 0 for never.
    turned_s: when it was last turned.
    heard_s: until when it was last heard with its partner.
    seen: the aid that has shown most of it in this attempt, or since it was last put out.
    off: left off after it broke.
    """

    material_m: float
    head_m: float = 0.0
    fret: float = 0.0
    touched: bool = False
    hard: bool = False
    light: bool = False
    press: float = 1.0
    fine_m: float = 0.0
    lost_deg: float = 0.0
    twist_deg: float = 0.0
    creep_cents: float = 0.0
    load_share: float = 1.0
    raised_s: float = 0.0
    lowered_cents: float = 0.0
    lowered_s: float = 0.0
    loose: bool = False
    broken: bool = False
    moves: int = 0
    last_turn: int = 0
    knob_deg: float = 0.0
    turns: int = 0
    unheard: int = 0
    put_out: int = 0
    turned_s: float = NEVER_S
    heard_s: float = NEVER_S
    seen: Aid = "ear"
    off: bool = False


@dataclass(frozen=True)  # without slots: see `changed`
class Pitch:
    """Something that sounded (a string, or None for the reference) and from when until when it
    could be heard.
    """

    voice: int
    string: int | None
    since_s: float
    until_s: float


@dataclass(frozen=True)  # without slots: see `changed`
class Ringing:
    """A voice that sounds.

    string: whose it is, or None for the reference at `hz`.
    partials: how many it has.
    since_s, until_s: from when until when it sounds.
    audible_s: until when it is loud enough to listen to.
    fret, touched, hard, press: how the string was fingered when it was played.
    bowed: whether its partials are harmonic.
    along: whether it only rings along with others.
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
    press: float = 1.0
    bowed: bool = False
    along: bool = False
    hz: float = 0.0


@dataclass(frozen=True, slots=True)
class Judgement:
    """What was said of a stage's string and when, the truth at that moment (cents from where the
    plan wants it), the aid that had shown most of it, how many turns the string had had, and
    whether it had been heard since the last of them.
    """

    stage: int
    verdict: Verdict
    cents: float
    was_cents: float
    aid: Aid
    at_s: float = 0.0
    turns: int = 0
    heard: bool = True


@dataclass(frozen=True, slots=True)
class Decided:
    """What was said of a stage's string before its first turn, the truth (cents), and the aid that
    had shown most of it.
    """

    stage: int
    verdict: Decision
    was_cents: float
    at_s: float
    aid: Aid = "ear"


@dataclass(frozen=True, slots=True)
class Named:
    """Which string of a chord was said to be out, 0 for none, and which way; the string that then
    was furthest out, by how many cents, and when it was said.
    """

    string: int
    verdict: Verdict
    furthest: int
    was_cents: float
    at_s: float
    stage: int


@dataclass(frozen=True, slots=True)
class Found:
    """What was said to be wrong, on which string (0: on all), what to do about it, and when."""

    fault: FaultKind
    string: int
    remedy: Remedy
    at_s: float


@dataclass(frozen=True, slots=True)
class FretSet:
    """What was said of a fret at its stage, the truth (cents above where it agrees), and when."""

    stage: int
    fret: int
    verdict: Verdict
    was_cents: float
    at_s: float


@dataclass(frozen=True, slots=True)
class Minute:
    """A minute of playing: when it ended, how many turns all strings had had, and by how much each
    one then moved (cents, string 1 first).
    """

    at_s: float
    turns: int
    moved_cents: tuple[float, ...]


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
class Taught:
    """What a teacher beside a guided string has seen.

    first_cents: how far it was from its partner before the first turn.
    wrong_turns: how many turns in a row have taken it further away.
    said, truth: what was said of the wobble, or None, and what was so; at_turns: after how many.
    """

    first_cents: float
    wrong_turns: int = 0
    said: Slower | None = None
    truth: Literal["same", "slower", "faster"] = "same"
    at_turns: int = 0


@dataclass(frozen=True)  # without slots: see `changed`
class State:
    """The whole state of an attempt at one moment; `step` makes the next one.

    tuner_a4_hz, tuner_mode, tuner_pickup, tuner_step_cents: how the tuner is set.
    reference_cents: by how much the reference is out.
    reference_verdict: what was said of it, or None.
    time_s: runs with the list of actions.
    done: how many actions have been done.
    world_s: the instrument's own time, up to which it has aged; waits make it longer.
    owed_s: what has passed since then.
    give_m: how far every path has shortened because the frame gives, against all strings on target.
    swell_m: how far damp wood lengthens the paths; negative where it is dry.
    lying: whether the instrument lies, and is not held as it is played.
    frets_cents: how far each fret lies from its place, from fret 1 on; empty where they stand firm.
    frets_set: what was said of the frets that were set.
    slid_s: when the fret of this stage was last slid, or its stage begun.
    draws: how many random numbers have been drawn.
    stage, visited: where in the plan it is, and where it has been.
    ringing, next_voice: what sounds, and the number of the next voice.
    pitches: what has lately sounded, the newest last.
    judgements, decisions: what was said after tuning, and before the first turn.
    minutes: what each minute of playing moved.
    checked_s: when all strings were checked with the tuner, or None.
    named: which string was said to be out of a chord.
    found: what was said to be wrong with the instrument, or None.
    snaps: strings that broke.
    taught: what a teacher beside a guided string has seen, or None before its first turn.
    """

    rig: Rig = field(compare=False, repr=False)
    exercise: Exercise
    strings: tuple[StringState, ...]
    tuner_a4_hz: float
    tuner_mode: Mode = "chromatic"
    tuner_pickup: Pickup = "microphone"
    tuner_step_cents: TunerStep = 0
    reference_cents: float = 0.0
    reference_verdict: Verdict | None = None
    time_s: float = 0.0
    done: int = 0
    world_s: float = 0.0
    owed_s: float = 0.0
    give_m: float = 0.0
    swell_m: float = 0.0
    lying: bool = False
    frets_cents: tuple[float, ...] = ()
    frets_set: tuple[FretSet, ...] = ()
    slid_s: float = 0.0
    draws: int = 0
    stage: int = 0
    visited: frozenset[int] = frozenset()
    aid: Aid = "ripple"
    muted: bool = False
    ringing: tuple[Ringing, ...] = ()
    next_voice: int = 1
    pitches: tuple[Pitch, ...] = ()
    judgements: tuple[Judgement, ...] = ()
    decisions: tuple[Decided, ...] = ()
    minutes: tuple[Minute, ...] = ()
    checked_s: float | None = None
    named: tuple[Named, ...] = ()
    found: Found | None = None
    snaps: tuple[Snap, ...] = ()
    taught: Taught | None = None
    finished: bool = False

    def string(self, number: int) -> StringState:
        """Return the state of the string with this number."""
        return self.strings[number - 1]

    def with_string(self, number: int, string: StringState) -> "State":
        """Return the state with one string changed."""
        strings = (*self.strings[: number - 1], string, *self.strings[number:])
        return changed(self, strings=strings)

    def path_m(self, number: int) -> float:
        """Return the length of a string's path from anchor to nut (or post) as the frame stands."""
        own_m = self.rig.quirks[number - 1].path_m + self.strings[number - 1].fine_m
        return own_m - self.give_m + self.longer_m

    @property
    def longer_m(self) -> float:
        """How much longer every path is by damp wood, and by how the instrument lies."""
        return self.swell_m + (self.rig.lying_m if self.lying else 0.0)

    def strain(self, number: int) -> float:
        """Return the elastic strain of a string's speaking length; negative where it is slack."""
        now = self.strings[number - 1]
        return -1.0 if now.broken else self.path_m(number) / now.material_m - 1.0

    def fretted(self, number: int) -> String:
        """Return a string as it runs over the frets where they now lie."""
        return over_frets(self.rig, number, self.frets_cents)

    def current(self) -> Step | Check | None:
        """Return the step or check of the plan that this stage is; None in free play."""
        stages = self.rig.plan.stages
        return stages[self.stage] if stages else None

    def at_stage(self, stage: int) -> "State":
        """Return the state at another stage: every finger lifted but those it wants."""
        wanted = self.rig.plan.stages[stage]
        by_string = {touch.string: touch for touch in (wanted.own, wanted.other)}
        chord = wanted.chord if isinstance(wanted, Check) else None
        strings = []
        for number, now in enumerate(self.strings, start=1):
            string, touch = now, by_string.get(number)
            fret, touched = 0.0, False
            if touch is not None:
                touched = touch.node_fret is not None
                fret = float(touch.fret) if touch.node_fret is None else touch.node_fret
            elif chord is not None:
                fret = float(chord.fret_of(number))
            if (string.fret, string.touched, string.hard) != (fret, touched, False):
                string = changed(string, fret=fret, touched=touched, hard=False)
            strings.append(string)
        return changed(
            self,
            stage=stage,
            visited=self.visited | {stage},
            slid_s=self.time_s,
            pitches=(),  # what another stage compared is no partner here
            strings=tuple(strings),
        )

    def sets_fret(self) -> Check | None:
        """Return this stage where it is one in which a fret is set."""
        stage = self.current()
        return stage if isinstance(stage, Check) and stage.sets_fret else None

    @property
    def fret_heard(self) -> bool:
        """Whether the fretted string has been heard with its partner since its fret was slid."""
        number = self.rig.plan.stages[self.stage].own.string
        return number is not None and self.string(number).heard_s > self.slid_s

    @property
    def judged_stages(self) -> set[int]:
        """The stages of which something was said."""
        return {one.stage for one in self.judgements} | {one.stage for one in self.frets_set}

    def judged(self, stage: int) -> tuple[Judgement, ...]:
        """Return what was said of a stage, the first time first."""
        return tuple(said for said in self.judgements if said.stage == stage)

    def heard_since_turned(self, number: int) -> bool:
        """Whether a string has been heard with its partner since its last turn."""
        now = self.string(number)
        return now.heard_s > now.turned_s


@lru_cache(maxsize=1024)  # within a step the same is asked for several times
def over_frets(rig: Rig, number: int, frets_cents: tuple[float, ...]) -> String:
    """Return a string as it runs over frets that lie so far from their places; empty for none."""
    string = rig.strings[number - 1]
    if not frets_cents:
        return string
    right = string.fret_cents or (0.0,)  # and so on from the octave
    off = tuple(right[place % len(right)] + out for place, out in enumerate(frets_cents))
    return replace(string, fret_cents=off)
