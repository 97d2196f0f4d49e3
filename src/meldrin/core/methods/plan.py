"""A plan: what to sound in which order, which partials meet, where each string is led to."""

from dataclasses import dataclass, replace
from typing import Literal

from meldrin.core.catalogue import Instrument, Tuning
from meldrin.core.methods.naming import string_label
from meldrin.core.temperament import Temperament

__all__ = ["Check", "Plan", "Reference", "Step", "Touch", "string_label"]

ReferenceKind = Literal["fork", "tone", "tones", "drone", "tuner"]


@dataclass(frozen=True, slots=True)
class Touch:
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


@dataclass(frozen=True, slots=True)
class Step:
    """Tune string `own.string` against `other` until their beat is what it should be.

    `target_cents`: the size of the interval between the two notes aimed at, `interval` its name in
    the school's words. `offset_cents`: how far the own partial then lies above the other, 0 still;
    `beats_hz`: what that beats at, for flexible strings; `meeting_hz`: where they meet.
    `beats_hz_per_cent`: beats a second one cent away from still; `seconds_to_hear`: how long to
    listen: one whole beat at the target, or two cents away from it where it stands still.
    `by_tuner`: the pitch is read, not heard against another sound.
    """

    own: Touch
    other: Touch
    target_cents: float
    interval: str
    offset_cents: float
    meeting_hz: float
    beats_hz: float
    beats_hz_per_cent: float
    seconds_to_hear: float
    title: str
    instruction: str
    caution: str | None
    by_tuner: bool

    @property
    def string(self) -> int:
        """The number of the string that is tuned in this step."""
        assert self.own.string is not None
        return self.own.string


@dataclass(frozen=True, slots=True)
class Check:
    """Two strings sounded together at the end; `beats_hz` is what the targets leave on these very
    strings, `target_cents` the interval's size, `beats_hz_per_cent` what one cent more would add.
    """

    own: Touch
    other: Touch
    target_cents: float
    interval: str
    meeting_hz: float
    beats_hz: float
    beats_hz_per_cent: float
    title: str
    instruction: str


@dataclass(frozen=True, slots=True)
class Reference:
    """What the pitch is taken from: its kind, its note and its frequency.

    fork: an A; tone: one note of a pipe, piano, tuner or player; tones: one for every string;
    drone: a continuous tonic with its fifth; tuner: a reading.
    """

    kind: ReferenceKind
    midi: int
    hz: float


@dataclass(frozen=True, slots=True)
class Plan:
    """Steps in their order, and what exact execution leads to.

    `ideal_hz[n - 1]`: where the school wants string n, as if strings were flexible;
    `targets_hz[n - 1]`: the pitch (first partial, open) that exact execution gives on these very
    strings. A score marks against the second: still means right.
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

    @property
    def stages(self) -> tuple[Step | Check, ...]:
        """Steps and checks in the order they are gone through."""
        return (*self.steps, *self.checks)

    def without_stages(self, method: str) -> "Plan":
        """Return the same targets with no order to follow."""
        return replace(self, method=method, steps=(), checks=())

    def label(self, number: int) -> str:
        """Return what players call the string in this tuning."""
        return string_label(self.instrument, number, self.tuning)
