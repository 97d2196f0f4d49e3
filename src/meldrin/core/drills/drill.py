"""One kind of ear drill: what is asked, what can be answered, and what sounds."""

import math
import random
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Final, Literal, Protocol, get_args

from meldrin.core.beats import Interval
from meldrin.core.catalogue import Instrument, Tuning
from meldrin.core.drills.belief import Scale
from meldrin.core.pitch import Naming
from meldrin.core.sound.events import SoundEvent
from meldrin.core.sound.partials import PartialTable

Truth = Literal["pure", "equal"]
Order = Literal["upwards", "listed"]
# How far apart things are in a round with a class.
Size = Literal["large", "middle", "small"]
# How a sound is drawn once its truth is known: notes beside the first one; the beats of one pair,
# of two pairs beside each other, or one by one; or a block that tells nothing.
Drawn = Literal["notes", "beats", "pairs", "waves", "block"]
SAMPLE_RATE: Final = 24_000
LOW_BELOW_HZ: Final = 130.0
HIGH_FROM_HZ: Final = 350.0
EASIEST, HARDEST = 1, 3
EASY_TIMES: Final = 4.0  # the examples lie so far above the threshold that is expected
ALWAYS_PURE: Final = ("unison", "octave")


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
class Stretch:
    """A stretch of what sounds, by its name, which is shown while it plays. How far out of tune
    it is, and how fast it beats, is shown when the truth is known.
    """

    name: str
    begin_s: float
    end_s: float
    cents: float = 0.0
    beats_hz: float = 0.0


@dataclass(frozen=True, slots=True)
class Playback:
    """What is played, and its parts in order; the last one ends it.

    seed: what loudness, brightness and beginnings vary by; “” where they do not.
    cuts_s: where within its parts something may begin or end, so that what lies between two cuts
        is made as loud as in a trial where nothing does.
    """

    sounding: Sounding
    parts: tuple[Stretch, ...]
    seed: str = ""
    cuts_s: tuple[float, ...] = ()

    @property
    def events(self) -> tuple[tuple[float, SoundEvent], ...]:
        """What sounds, with its times."""
        return self.sounding.events

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
class Turned:
    """A string that is turned before the judgement, played by tables as on the bench.

    at: its table, by the steps up from where it began.
    afterwards: what is played once the truth is known, by the steps up the string was left.
    sizes: how many steps the turns have that there are, the smallest first; most: as many steps as
        it goes from where it began, either way.
    parts: of all that is played, in order; the string begins with the last one.
    before: what sounds before it, by when it begins and ends. along: what sounds with it.
    """

    at: Callable[[int], PartialTable]
    afterwards: Callable[[int], Playback]
    sizes: tuple[int, ...]
    most: int
    parts: tuple[Stretch, ...]
    before: tuple[tuple[PartialTable, float, float], ...] = ()
    along: tuple[PartialTable, ...] = ()

    @property
    def begins_s(self) -> float:
        """When the string begins to sound."""
        return self.parts[-1].begin_s


@dataclass(frozen=True, slots=True)
class Amount:
    """What is answered by an amount: a number that is said, or where a string is left, in steps.

    of: what it is told of: seconds, or beats a second.
    error: how far off an amount is, on the scale of the drill; within: as near as this is right.
    says: the truth in a sentence, beside an amount; said: the amount in words.
    """

    of: float
    error: Callable[[float], float]
    within: float
    says: Callable[[float], str]
    said: Callable[[float], str]


@dataclass(frozen=True, slots=True)
class Question:
    """A trial as it is put to the learner, with its truth.

    answers: what can be said; order: from the low side upwards, or as they are listed.
    right: the number of the right one, from 0. says: the truth in a sentence. tells: what tells it.
    heard: what is played, or None where it is judged by a picture or in the head.
    afterwards: what is played once the truth is known; None for the same again.
    turned: a string that is turned first. amount: what is answered by one, in place of `right`; the
        answers are those that are offered, whose ids are numbers, or none.
    how_sure: how it is asked how sure one is.
    """

    question: str
    answers: tuple[Answer, ...]
    right: int
    says: str
    tells: str
    heard: Playback | None = None
    shown: MarkedPeg | TunerShown | None = None
    afterwards: Playback | None = None
    order: Order = "listed"
    turned: Turned | None = None
    amount: Amount | None = None
    how_sure: str = "How sure are you?"

    @property
    def sounds(self) -> bool:
        """Whether there is something to listen to."""
        return self.heard is not None or self.turned is not None


@dataclass(frozen=True, slots=True)
class Example:
    """One of the answers as it sounds or looks where nobody can miss it."""

    words: str
    listen_for: str
    heard: Playback | None = None
    shown: MarkedPeg | TunerShown | None = None


@dataclass(frozen=True, slots=True)
class TrialSettings:
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


class EarModel(Protocol):
    """A simulated ear, as far as a drill asks for it.

    slowest_hz: the slowest beat that does not pass for still. spread: its error in a rate of
    beats, as a share of it.
    """

    @property
    def slowest_hz(self) -> float: ...
    @property
    def spread(self) -> float: ...

    def threshold_at(self, hz: float, /) -> float:
        """Return the smallest difference of two pitches whose side is heard, in cents."""

    def threshold_held(self, hz: float, held_s: float, /) -> float:
        """Return the same for a pitch that has been kept in mind over a silence."""


@dataclass(frozen=True, slots=True)
class RoundChoice:
    """What a class can judge at once: its words in the teacher's list, the interval, and what the
    round is called, where that is not the name of the drill. `place`: its place in that list.
    """

    words: str
    interval: Interval = "unison"
    name: str = ""
    place: int = 99


@dataclass(frozen=True, slots=True, kw_only=True)
class Drill:
    """What every drill has: its id, its name, and a few words for the list.

    drawn: how what sounds is drawn.
    in_rounds: what a class can judge of it at once; empty where it is for one alone.
    intervals: those it has to choose from.
    """

    id: str
    name: str
    about: str
    drawn: Drawn = "block"
    in_rounds: tuple[RoundChoice, ...] = ()
    intervals: tuple[Interval, ...] = ()

    @property
    def usual_interval(self) -> Interval:
        """The interval it begins with: the fifth, where it has that."""
        return "fifth" if "fifth" in self.intervals else next(iter(self.intervals), "unison")


@dataclass(frozen=True, slots=True, kw_only=True)
class MeasuredDrill(Drill):
    """A drill that measures a threshold.

    scale: what is measured, in `unit`.
    goals: the thresholds to aim at, one after the other: first what the widest tolerance of the
        bench asks of the ear, in the end what trained listeners hear. Judgements.
    heard_by: the threshold of a simulated ear, by the pitch of the string and the interval.
    trials: how many a sitting usually has.
    does: what somebody does with that much, in the words of a result: “hear”, “hold it within”.
    """

    scale: Scale
    unit: Literal["cents", "beats a second", "percent"]
    goals: tuple[float, ...]
    heard_by: Callable[[EarModel, float, Interval], float]
    does: str = "hear"
    trials: int = 12

    def goal(self, at: int) -> float:
        """Return the threshold that is aimed at in a step, from 0; after the last one, that."""
        return self.goals[min(at, len(self.goals) - 1)]

    def known_by(self, hz: float, interval: Interval, truth: Truth) -> str:
        """Return what the evidence of such trials is kept under: the register, and the interval
        with what counts as true.
        """
        name = "low" if hz < LOW_BELOW_HZ else "high" if hz >= HIGH_FROM_HZ else "middle"
        if not self.intervals:
            return name
        # equal temperament has no other unisons and octaves
        return f"{name} {interval} {'pure' if interval in ALWAYS_PURE else truth}"

    def put(self, asked: TrialSettings, draw: random.Random) -> Question:
        """Return the trial of a difference."""
        raise NotImplementedError


@dataclass(frozen=True, slots=True, kw_only=True)
class ThresholdDrill(MeasuredDrill):
    """A drill whose trials are placed by what has been answered.

    question: what is asked of every trial.
    answers: from the low side to the high one, or from no to yes.
    for_unison: the question and the answers where the interval is a unison.
    parts: of what sounds, in order; the last one ends it.
    sounding: makes what is played; the draw is for what must differ from trial to trial and says
        nothing of the answer.
    turned: makes a string that is turned first, in place of `sounding`.
    said: the truth of a trial in a sentence.
    sizes: how far apart the first question of a round is and the last one, on the scale: from what
        nobody in a class misses to what its best ears tell. A judgement.
    water: what beats where a round shows the water: a string with a fork, the two notes of the
        last part, or nothing that could be drawn.
    """

    question: str
    answers: tuple[Answer, ...]
    said: Callable[[float, Interval], str]
    sounding: Callable[[TrialSettings, random.Random], Sounding] | None = None
    parts: tuple[Stretch, ...] = ()
    turned: Callable[[TrialSettings, random.Random], Turned] | None = None
    for_unison: tuple[str, tuple[Answer, ...]] | None = None
    sizes: Mapping[Size, tuple[float, float]] = field(default_factory=dict)
    water: Literal["", "fork", "notes"] = ""

    def __post_init__(self) -> None:
        if self.in_rounds and set(self.sizes) != set(get_args(Size)):
            raise ValueError(f"{self.id} is judged by a class, and needs all sizes")

    def asks(self, interval: Interval) -> tuple[str, tuple[Answer, ...]]:
        """Return the question and the answers."""
        if interval == "unison" and self.for_unison:
            return self.for_unison
        return self.question, self.answers

    def put(self, asked: TrialSettings, draw: random.Random) -> Question:
        """Return the trial of a difference."""
        right = self.right(asked.difference)
        question, answers = self.asks(asked.interval)
        return Question(
            question=question,
            answers=answers,
            right=right,
            says=self.said(asked.difference, asked.interval),
            tells=answers[right].listen_for,
            heard=Playback(self.sounding(asked, draw), self.parts) if self.sounding else None,
            turned=self.turned(asked, draw) if self.turned else None,
            order="upwards",
        )

    def right(self, difference: float) -> int:
        """Return the answer, from 0, that is right for a difference."""
        if self.scale.judged in ("whether", "side"):
            return int(difference > 0.0)
        return 1 + (difference > 0.0) - (difference < 0.0)

    def shown_first(self, asked: TrialSettings, threshold: float, seed: str) -> tuple[Example, ...]:
        """Return one example of each answer, well above the threshold."""
        scale = self.scale
        size = min(scale.high, max(EASY_TIMES * threshold, EASY_TIMES * scale.low))
        places = {"whether": (0.0, 1.0), "side": (-1.0, 1.0)}.get(scale.judged, (-1.0, 0.0, 1.0))
        found = []
        for at, (place, answer) in enumerate(
            zip(places, self.asks(asked.interval)[1], strict=True)
        ):
            posed = self.put(
                replace(asked, difference=size * place), random.Random(f"{seed} example {at}")
            )
            heard = posed.turned.afterwards(0) if posed.turned else posed.heard
            found.append(Example(answer.words, answer.listen_for, heard))
        return tuple(found)


@dataclass(frozen=True, slots=True, kw_only=True)
class MatchDrill(MeasuredDrill):
    """A drill that is answered by an amount: what is measured is how far off it usually is.

    posed: makes a trial. examples: what is heard first.
    remarks: what else a sitting tells, by what each trial was told of, how far off it was, and how
        often the string was turned.
    deaf_from: who always says the same comes as near as this, on the scale; infinite where that is
        no use.
    """

    posed: Callable[[TrialSettings, random.Random], Question]
    examples: Callable[[TrialSettings], tuple[Example, ...]]
    remarks: Callable[[Sequence[tuple[float, float, int]]], list[str]]
    deaf_from: float = math.inf

    def put(self, asked: TrialSettings, draw: random.Random) -> Question:
        """Return a trial."""
        return self.posed(asked, draw)


@dataclass(frozen=True, slots=True, kw_only=True)
class QuestionDrill(Drill):
    """A drill with a share of right answers, at one of three levels.

    posed: makes a trial of its level and number.
    examples: one for each kind of answer, on this instrument.
    differ: no question comes twice in a sitting.
    """

    posed: Callable[[TrialSettings, random.Random], Question]
    examples: Callable[[TrialSettings], tuple[Example, ...]]
    trials: int = 12
    differ: bool = False

    def put(self, asked: TrialSettings, draw: random.Random) -> Question:
        """Return a trial of its level and number."""
        return self.posed(asked, draw)
