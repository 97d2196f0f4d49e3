"""A plan: what to sound in which order, which partials meet, where each string is led to."""

from dataclasses import dataclass

from meldrin.core.catalogue import Instrument
from meldrin.core.pitch import note_name


@dataclass(frozen=True, slots=True)
class Touch:
    """One sounding side of a comparison: a string (None: the reference) stopped at `fret`
    (0: open), of which partial number `partial` is listened to.
    """

    string: int | None
    fret: int
    partial: int


@dataclass(frozen=True, slots=True)
class Step:
    """Tune string `own.string` against `other` until the beat at `meeting_hz` stands still.

    `beats_hz_per_cent`: beats a second one cent away from still; `seconds_to_hear`: how long one
    beat lasts two cents away, and so how long to listen before calling it still.
    """

    own: Touch
    other: Touch
    meeting_hz: float
    beats_hz_per_cent: float
    seconds_to_hear: float
    title: str
    instruction: str
    caution: str | None

    @property
    def string(self) -> int:
        """The number of the string that is tuned in this step."""
        assert self.own.string is not None
        return self.own.string


@dataclass(frozen=True, slots=True)
class Check:
    """Two strings sounded together at the end; `beats_hz` is what stiffness leaves at the targets,
    `cents` the interval it is expected at (1200 an octave).
    """

    own: Touch
    other: Touch
    cents: float
    meeting_hz: float
    beats_hz: float
    title: str
    instruction: str


@dataclass(frozen=True, slots=True)
class Plan:
    """Steps in their order; `targets_hz[n - 1]` is the pitch (first partial, open) of string n
    that exact execution leads to, on these very strings.
    """

    method: str
    a4_hz: float
    targets_hz: tuple[float, ...]
    steps: tuple[Step, ...]
    checks: tuple[Check, ...]

    @property
    def stages(self) -> tuple[Step | Check, ...]:
        """Steps and checks in the order they are gone through."""
        return (*self.steps, *self.checks)


def string_label(instrument: Instrument, number: int) -> str:
    """Return what players call the string: its letter, with high or low where two share one.

    Of two strings with the same letter the one with the higher pitch is the high one.
    """
    midi = instrument.string(number).midi
    letter = note_name(midi)[:-1]
    same = [string.midi for string in instrument.strings if string.midi % 12 == midi % 12]
    if len(set(same)) < 2:
        return letter
    if midi == max(same):
        return f"high {letter}"
    return f"low {letter}" if midi == min(same) else f"middle {letter}"
