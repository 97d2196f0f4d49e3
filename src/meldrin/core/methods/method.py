"""What a method of tuning is: its names, its plan, and what speaks for and against it."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from meldrin.core.beats import Interval
from meldrin.core.errors import Code, one_of
from meldrin.core.methods.plan import Plan
from meldrin.core.methods.wanted import Order, Wanted

Company = Literal["alone", "others"]
Noise = Literal["quiet", "noisy"]
AtHand = Literal["nothing", "fork", "notes", "drone", "tuner"]
HowFar = Literal["hair", "out", "slack"]
Purpose = Literal["learn", "practice", "stage", "recording"]


@dataclass(frozen=True, slots=True)
class Situation:
    """The answers. `at_hand`: what can give a note; `how_far`: slightly or clearly out, slack.

    Raises:
        MeldrinError: code ``answer``, for an unknown answer.
    """

    company: Company = "alone"
    noise: Noise = "quiet"
    at_hand: AtHand = "fork"
    how_far: HowFar = "hair"
    purpose: Purpose = "learn"

    def __post_init__(self) -> None:
        for value, kind in (
            (self.company, Company),
            (self.noise, Noise),
            (self.at_hand, AtHand),
            (self.how_far, HowFar),
            (self.purpose, Purpose),
        ):
            one_of(kind, value, name="an answer", code=Code.ANSWER)


Condition = Callable[[Situation, Wanted], bool]


@dataclass(frozen=True, slots=True)
class Reason:
    """What speaks for a method, or with negative points against it, where it applies. The points
    are judgements of what teachers advise; they only order the list.
    """

    points: float
    sentence: str
    applies: Condition


@dataclass(frozen=True, slots=True)
class Method:
    """A method of tuning.

    id: its name in commands and addresses.
    name, about: its name on screen, and how it goes in a few words.
    how: the name inside a sentence, such as “by fifths”.
    plan: from what is wanted to a plan; it raises MeldrinError with code ``method`` where the
        method cannot serve.
    reasons: what speaks for and against it.
    instead: its place, from 1, among those offered where another cannot serve.
    orders: the orders the strings may be taken in.
    from_trusted: whether it can start from one string that is trusted as it is.
    from_fork: whether it begins with one string from a fork.
    drills: those with a threshold that train the ear for it, each with its interval or None, the
        most useful first. What is compared one after the other needs pitch; what sounds together
        needs beats, and intervals need their own width.
    questions: the drills without a threshold that serve it.
    sets_frets: whether it can set frets that move.
    has_tonic: whether its notes are told from a tonic.
    """

    id: str
    name: str
    about: str
    how: str
    plan: Callable[[Wanted], Plan]
    reasons: tuple[Reason, ...] = ()
    instead: int = 99
    orders: tuple[Order, ...] = ("usual",)
    from_trusted: bool = False
    from_fork: bool = False
    drills: tuple[tuple[str, Interval | None], ...] = (("beating", None), ("higher", None))
    questions: tuple[str, ...] = ("which", "whole", "alone")
    sets_frets: bool = False
    has_tonic: bool = False


def reason(points: float, sentence: str, where: Condition | None = None, **answers: str) -> Reason:
    """Return a reason that applies for these answers, and where the condition holds.

    answers: of a `Situation`, by name; several that will do are parted by spaces.

    Raises:
        MeldrinError: code ``answer``, for an unknown answer.
    """
    for name, said in answers.items():
        for one in said.split():
            Situation(**{name: one})  # type: ignore[arg-type]

    def applies(situation: Situation, wanted: Wanted) -> bool:
        answered = all(getattr(situation, name) in said.split() for name, said in answers.items())
        return answered and (where is None or where(situation, wanted))

    return Reason(points, sentence, applies)


def bowed(_: Situation, wanted: Wanted) -> bool:
    """Whether the instrument is bowed."""
    return wanted.instrument.kind == "bowed"


def low(_: Situation, wanted: Wanted) -> bool:
    """Whether the lowest string is below C2."""
    return min(wanted.tuning.midis) < 36


def sympathetic(_: Situation, wanted: Wanted) -> bool:
    """Whether some strings only ring along."""
    return any(string.role == "sympathetic" for string in wanted.instrument.strings)


def not_sympathetic(situation: Situation, wanted: Wanted) -> bool:
    """Whether every string is played."""
    return not sympathetic(situation, wanted)


def chords(situation: Situation, wanted: Wanted) -> bool:
    """Whether chords are heard by others."""
    return situation.purpose in ("stage", "recording") and wanted.instrument.kind == "plucked"
