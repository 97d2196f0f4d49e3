"""One kind of ear drill: what is asked, what can be answered, and what sounds."""

import random
from collections.abc import Callable
from dataclasses import dataclass
from typing import Final, Literal

from meldrin.core.catalogue import Instrument
from meldrin.core.drills.belief import Scale
from meldrin.core.sound.events import SoundEvent

Interval = Literal["unison", "octave", "fifth", "fourth", "third"]
Truth = Literal["pure", "equal"]
SAMPLE_RATE: Final = 24_000
LOW_BELOW_HZ: Final = 130.0
HIGH_FROM_HZ: Final = 350.0


@dataclass(frozen=True, slots=True)
class Answer:
    """What can be said: its id, its words, and what it sounds like."""

    id: str
    words: str
    listen_for: str


@dataclass(frozen=True, slots=True)
class Sounding:
    """What is played for a trial: events with their times. How long it lasts is of the drill, and
    so are the times, so that neither tells anything.
    """

    events: tuple[tuple[float, SoundEvent], ...]


@dataclass(frozen=True, slots=True)
class Asked:
    """What a trial is made from.

    difference: on the scale of its drill; 0 for none.
    hz: the pitch of the string it is played on.
    interval, truth: of two notes played together, where the drill has them.
    """

    instrument: Instrument
    string: int
    hz: float
    difference: float
    interval: Interval = "unison"
    truth: Truth = "pure"


@dataclass(frozen=True, slots=True)
class Part:
    """A stretch of what sounds, by its name: so much is shown while it plays."""

    name: str
    begin_s: float
    end_s: float


@dataclass(frozen=True, slots=True)
class Drill:
    """A drill with a threshold.

    about: a few words for the list. question: what is asked of every trial.
    answers: from the low side to the high one, or from no to yes.
    scale: what is measured, in `unit`.
    parts: of what sounds, in order; the last one ends it.
    intervals: those it has to choose from.
    sounding: makes what is played; the draw is for what must differ from trial to trial and says
        nothing of the answer.
    said: the truth of a trial in a sentence.
    """

    id: str
    name: str
    about: str
    question: str
    answers: tuple[Answer, ...]
    scale: Scale
    unit: Literal["cents", "beats a second", "percent"]
    parts: tuple[Part, ...]
    sounding: Callable[[Asked, random.Random], Sounding]
    said: Callable[[float, Interval], str]
    intervals: tuple[Interval, ...] = ()

    @property
    def duration_s(self) -> float:
        """How long every trial sounds."""
        return self.parts[-1].end_s

    def right(self, difference: float) -> int:
        """Return the answer, from 0, that is right for a difference."""
        if self.scale.judged == "whether":
            return int(difference > 0.0)
        return 1 + (difference > 0.0) - (difference < 0.0)

    def known_by(self, hz: float, interval: Interval, truth: Truth) -> str:
        """Return what the evidence of such trials is kept under: the register, and the interval
        with what counts as true.
        """
        name = "low" if hz < LOW_BELOW_HZ else "high" if hz >= HIGH_FROM_HZ else "middle"
        return f"{name} {interval} {truth}" if self.intervals else name
