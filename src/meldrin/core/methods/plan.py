"""A plan: what to sound in which order, which partials meet, where each string is led to."""

from dataclasses import dataclass, replace
from typing import Literal

from meldrin.core.catalogue import Chord, Instrument, Tuning
from meldrin.core.methods.naming import string_label
from meldrin.core.pitch import Naming, note_name
from meldrin.core.temperament import Temperament

__all__ = ["Check", "Plan", "Reference", "Side", "Step", "string_label"]

ReferenceKind = Literal["fork", "tone", "tones", "drone", "tuner", "itself"]


@dataclass(frozen=True, slots=True)
class Side:
    """One sounding side of a comparison: a string (None: the reference) stopped at `fret`
    (0: open), of which partial number `partial` is listened to.

    `node_fret` and `node_share` tell where the string is only touched, as a fret number and as a
    share of the string from its nut; both None where it is not. `hz` is the reference's pitch.
    """

    string: int | None
    fret: int
    partial: int
    node_fret: float | None = None
    node_share: float | None = None
    hz: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Stage:
    """One comparison of a plan: two sides that are played together, or one that a tuner reads.

    own: the side that is turned, or looked at.
    other: what it is compared with.
    target_cents: the size of the interval between the two notes aimed at.
    interval: its name in the method's words.
    meeting_hz: where the two partials meet.
    beats_hz: what they beat at when all is right.
    beats_hz_per_cent: beats a second for each cent away from still.
    title, instruction: what to do, in words.
    by_tuner: the pitch is read, not heard against another sound.
    """

    own: Side
    other: Side
    target_cents: float
    interval: str
    meeting_hz: float
    beats_hz: float
    beats_hz_per_cent: float
    title: str
    instruction: str
    by_tuner: bool = False

    @property
    def strings(self) -> tuple[int, ...]:
        """The strings that are played for it."""
        return tuple(one.string for one in (self.own, self.other) if one.string is not None)

    @property
    def with_reference(self) -> bool:
        """Whether the reference is played with them."""
        return self.other.string is None and not self.by_tuner


@dataclass(frozen=True, slots=True, kw_only=True)
class Step(Stage):
    """A stage in which string `own.string` is tuned, until the beat is what it should be.

    offset_cents: how far the own partial then lies above the other; 0 is still.
    seconds_to_hear: how long to listen: one whole beat at the target, or two cents away from it
        where it stands still.
    hears_cents: what the slowest beat is in cents that can be told while both sound; less than this
        nobody hears here, however good the ear. 0 where a tuner is read.
    caution: what to mind while this string is turned.
    aim_cents: how far from where it ends the string is left at its turn, 0 or below, because those
        turned later lift it.
    """

    offset_cents: float
    seconds_to_hear: float
    caution: str | None
    hears_cents: float = 0.0
    aim_cents: float = 0.0
    kind: Literal["step"] = "step"

    @property
    def string(self) -> int:
        """The number of the string that is tuned in this step."""
        assert self.own.string is not None
        return self.own.string


@dataclass(frozen=True, slots=True, kw_only=True)
class Check(Stage):
    """A stage that is only listened to, or read: `beats_hz` is what the targets leave on these very
    strings. `again`: it belongs to a second pass. `chord`: all that is played, where it is more
    than the two sides, which are those of it that should agree best. `sets_fret`: the movable fret
    of the own side is slid until its partial lies `offset_cents` above the other.
    """

    again: bool = False
    chord: Chord | None = None
    offset_cents: float = 0.0
    sets_fret: bool = False
    seconds_to_hear: None = None
    caution: None = None
    kind: Literal["check"] = "check"

    @property
    def strings(self) -> tuple[int, ...]:
        """The strings that are played for it, those of a chord from the last to the first."""
        if self.chord is None:
            return super(Check, self).strings
        return tuple(number for number, _ in reversed(self.chord.notes))


@dataclass(frozen=True, slots=True)
class Reference:
    """What the pitch is taken from: its kind, its note and its frequency.

    fork: an A; tone: one note of a pipe, piano, tuner or player; tones: one for every string;
    drone: a continuous tonic with its fifth; tuner: a reading; itself: a string that is trusted as
    it is, so that the hertz are those it would have.
    """

    kind: ReferenceKind
    midi: int
    hz: float


@dataclass(frozen=True, slots=True)
class Plan:
    """Steps in their order, and what exact execution leads to.

    `ideal_hz[n - 1]`: where the method wants string n, as if strings were flexible;
    `targets_hz[n - 1]`: the pitch (first partial, open) that exact execution gives on these very
    strings. A score marks against the second: still means right. `trusted`: the string taken as it
    is, 0 for none; targets then count from it. `near_first`: far strings that the first step asks
    to bring near, though they are not its own. `naming`: what notes are called.
    """

    method: str
    instrument: Instrument
    tuning: Tuning
    temperament: Temperament
    reference: Reference
    a4_hz: float
    ideal_hz: tuple[float, ...]
    targets_hz: tuple[float, ...]
    steps: tuple[Step, ...]
    checks: tuple[Check, ...]
    trusted: int = 0
    near_first: tuple[int, ...] = ()
    naming: Naming = "letters"

    @property
    def begun(self) -> int:
        """The string that all others follow: the trusted one, else the first that is tuned."""
        return self.trusted or self.steps[0].string

    @property
    def stages(self) -> tuple[Step | Check, ...]:
        """Steps and checks in the order they are gone through."""
        return (*self.steps, *self.checks)

    def without_stages(self, method: str) -> "Plan":
        """Return the same targets with no order to follow."""
        return replace(self, method=method, steps=(), checks=())

    def gone_through_twice(self) -> "Plan":
        """Return the same plan with a second pass before the closing checks: every comparison once
        more, in its order, since each string that was turned has moved the others.
        """
        if len(self.steps) < 2:
            return self
        sides = {(step.own, step.other) for step in self.steps}
        closing = [one for one in self.checks if one.chord or (one.own, one.other) not in sides]
        again = [self._again(step, first=step is self.steps[0]) for step in self.steps]
        return replace(self, checks=(*again, *closing))

    def _again(self, step: Step, *, first: bool) -> Check:
        check = self._check_of(step)
        why = " Each string you turned has moved the others; touch up what has moved."
        return replace(
            check,
            title=f"Again: {step.title}",
            instruction=check.instruction + (why if first else ""),
            again=True,
        )

    def only(self, number: int) -> "Plan":
        """Return the plan for one string that is out among others that are right: its step, and
        what it is checked against.
        """
        checks = [
            one
            for one in self.checks
            if number in (one.own.string, one.other.string) and not one.sets_fret
        ]
        if not checks:
            checks = [self._check_of(one) for one in self.steps if one.other.string == number]
        steps = tuple(one for one in self.steps if one.string == number)
        return replace(self, steps=steps, checks=tuple(checks[:2]))

    def _check_of(self, step: Step) -> Check:
        """Return a comparison of the plan as a check: the same two sides, nothing to turn."""
        sides = [touch for touch in (step.other, step.own) if touch.string is not None]
        names = [self._side(touch) for touch in sides]
        if step.other.string is None:
            kind = self.reference.kind
            names.insert(0, f"the {kind}" if kind in ("fork", "drone") else "its own note")
        labels = [self.label(touch.string or 0) for touch in sides]
        sound = "still" if step.beats_hz < 0.05 else f"at about {step.beats_hz:.1f} beats a second"
        instruction = f"Play {' with '.join(names)}. They should be {sound}."
        if step.by_tuner:
            instruction = f"Play {names[-1]} and read the tuner once more, when it rests."
        return Check(
            own=step.own,
            other=step.other,
            target_cents=step.target_cents,
            interval=step.interval,
            meeting_hz=step.meeting_hz,
            beats_hz=step.beats_hz,
            beats_hz_per_cent=step.beats_hz_per_cent,
            title=f"Check: {' with '.join(labels)}",
            instruction=instruction,
            by_tuner=step.by_tuner,
        )

    def _side(self, touch: Side) -> str:
        label = self.label(touch.string or 0)
        if touch.node_fret is not None:
            return f"the harmonic of {label}"
        return f"{label} at fret {touch.fret}" if touch.fret else f"the open {label}"

    def label(self, number: int) -> str:
        """Return what players call the string in this tuning."""
        return string_label(self.instrument, number, self.tuning, naming=self.naming)

    def note(self, midi: int, *, flats: bool = False) -> str:
        """Return what a note is called."""
        return note_name(midi, naming=self.naming, tonic=self.tuning.tonic, flats=flats)
