"""One kind of ear drill: what is asked, what can be answered, and what sounds."""

import random
from collections.abc import Callable
from dataclasses import dataclass
from typing import Final, Literal

from meldrin.core.catalogue import Instrument, Tuning
from meldrin.core.drills.belief import Scale
from meldrin.core.pitch import Naming
from meldrin.core.sound.events import SoundEvent

Interval = Literal["unison", "octave", "fifth", "fourth", "third"]
Truth = Literal["pure", "equal"]
Order = Literal["upwards", "listed"]
SAMPLE_RATE: Final = 24_000
LOW_BELOW_HZ: Final = 130.0
HIGH_FROM_HZ: Final = 350.0
EASIEST, HARDEST = 1, 3


@dataclass(frozen=True, slots=True)
class Answer:
    """What can be said: its id, its words, and what tells it."""

    id: str
    words: str
    listen_for: str = ""


@dataclass(frozen=True, slots=True)
class Sounding:
    """What is played for a trial: events with their times. How long it lasts is of the drill, and
    so are the times, so that neither tells anything.
    """

    events: tuple[tuple[float, SoundEvent], ...]


@dataclass(frozen=True, slots=True)
class Part:
    """A stretch of what sounds, by its name: so much is shown while it plays. How far out of tune
    it is, and how fast it beats, is shown when the truth is known.
    """

    name: str
    begin_s: float
    end_s: float
    cents: float = 0.0
    beats_hz: float = 0.0


@dataclass(frozen=True, slots=True)
class Heard:
    """What is played, and its parts in order; the last one ends it."""

    sounding: Sounding
    parts: tuple[Part, ...]

    @property
    def duration_s(self) -> float:
        """How long it lasts."""
        return self.parts[-1].end_s


@dataclass(frozen=True, slots=True)
class MarkedPeg:
    """A picture to judge by: the head of the instrument, where the peg of this string is marked."""

    string: int


@dataclass(frozen=True, slots=True)
class TunerShown:
    """A picture to judge by: what a tuner shows as time passes.

    frames: (time in s, name of the note or "" for nothing, cents), in order.
    """

    a4_hz: float
    mode: str
    frames: tuple[tuple[float, str, float], ...]


@dataclass(frozen=True, slots=True)
class Posed:
    """A trial as it is put to the learner, with its truth.

    answers: what can be said; order: from the low side upwards, or as they are listed.
    right: the number of the right one, from 0. says: the truth in a sentence. tells: what tells it.
    heard: what is played, or None where it is judged by a picture or in the head.
    afterwards: what is played once the truth is known; None for the same again.
    """

    question: str
    answers: tuple[Answer, ...]
    right: int
    says: str
    tells: str
    heard: Heard | None = None
    shown: MarkedPeg | TunerShown | None = None
    afterwards: Heard | None = None
    order: Order = "listed"


@dataclass(frozen=True, slots=True)
class Example:
    """One of the answers as it sounds or looks where nobody can miss it."""

    words: str
    listen_for: str
    heard: Heard | None = None
    shown: MarkedPeg | TunerShown | None = None


@dataclass(frozen=True, slots=True)
class Asked:
    """What a trial is made from.

    difference: on the scale of its drill; 0 for none.
    hz: the pitch of the string it is played on.
    interval, truth: of two notes played together, where the drill has them.
    level: how hard it is, from 1, where the drill has no threshold; number: of the trial, from 0.
    """

    instrument: Instrument
    string: int
    hz: float
    difference: float
    interval: Interval = "unison"
    truth: Truth = "pure"
    tuning: Tuning | None = None
    naming: Naming = "letters"
    level: int = EASIEST
    number: int = 0


@dataclass(frozen=True, slots=True)
class Drill:
    """What every drill has: its id, its name, and a few words for the list."""

    id: str
    name: str
    about: str


@dataclass(frozen=True, slots=True)
class ThresholdDrill(Drill):
    """A drill that measures a threshold.

    question: what is asked of every trial.
    answers: from the low side to the high one, or from no to yes.
    scale: what is measured, in `unit`.
    parts: of what sounds, in order; the last one ends it.
    sounding: makes what is played; the draw is for what must differ from trial to trial and says
        nothing of the answer.
    said: the truth of a trial in a sentence.
    intervals: those it has to choose from.
    """

    question: str
    answers: tuple[Answer, ...]
    scale: Scale
    unit: Literal["cents", "beats a second", "percent"]
    parts: tuple[Part, ...]
    sounding: Callable[[Asked, random.Random], Sounding]
    said: Callable[[float, Interval], str]
    intervals: tuple[Interval, ...] = ()

    def posed(self, asked: Asked, draw: random.Random) -> Posed:
        """Return the trial of a difference."""
        right = self.right(asked.difference)
        return Posed(
            question=self.question,
            answers=self.answers,
            right=right,
            says=self.said(asked.difference, asked.interval),
            tells=self.answers[right].listen_for,
            heard=Heard(self.sounding(asked, draw), self.parts),
            order="upwards",
        )

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


@dataclass(frozen=True, slots=True)
class QuestionDrill(Drill):
    """A drill with a share of right answers, at one of three levels.

    posed: makes a trial of its level and number.
    examples: one for each kind of answer, on this instrument.
    """

    posed: Callable[[Asked, random.Random], Posed]
    examples: Callable[[Asked], tuple[Example, ...]]
