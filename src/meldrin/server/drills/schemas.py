"""Drills over HTTP, and the messages of their line: two discriminated unions."""

from datetime import datetime
from typing import Annotated, Literal

from annotated_types import Ge, Le, MaxLen
from pydantic import Field, TypeAdapter

from meldrin.core.drills import FEWEST, MOST, USUAL, DrillAction, Interval, Sure, Truth
from meldrin.core.drills.sitting import MOST_STRINGS, Stage
from meldrin.server.realtime import messages as line
from meldrin.server.realtime.messages import Hello, Moved, Refused, Saved, Trouble
from meldrin.wire import Wire


class DrillAnswer(Wire):
    """What can be said, and what it sounds like."""

    id: str
    words: str
    listen_for: str


class DrillPart(Wire):
    """A stretch of what sounds, in seconds."""

    name: str
    begin_s: float
    end_s: float


class DrillOption(Wire):
    """A drill as it stands in a list."""

    id: str
    name: str
    about: str
    intervals: list[Interval]


class HeardSoFar(Wire):
    """What the newest sitting in a register told: in words, and between which thresholds."""

    drill: str
    known_by: str
    where: str
    says: str
    low: float
    middle: float
    high: float
    unit: str
    at: datetime


class DrillList(Wire):
    """Every drill, and what has been heard so far."""

    drills: list[DrillOption]
    heard: list[HeardSoFar]


class SittingWanted(Wire):
    """A sitting to begin: the drill, and the string it is played on."""

    drill: Annotated[str, MaxLen(20)]
    instrument: Annotated[str, MaxLen(40)] = "viola"
    tuning: Annotated[str, MaxLen(200)] = "standard"
    string: Annotated[int, Ge(1), Le(MOST_STRINGS)] = 1
    interval: Interval = "unison"
    truth: Truth = "pure"
    trials: Annotated[int, Ge(FEWEST), Le(MOST)] = USUAL


class SittingBegun(Wire):
    """The id of a sitting that has begun."""

    id: str


class JudgedTrial(Wire):
    """A trial, told: its truth in a sentence, what was said, and whether that was right."""

    says: str
    answer: int
    right: int
    sure: Sure
    difference: float
    listens: int


class SureOf(Wire):
    """Answers of one confidence, and how many of them were right."""

    sure: Sure
    answers: int
    right: int


class SittingResult(Wire):
    """What a sitting told. `brier`: the mean square error of what was said to be likely."""

    headline: str
    remarks: list[str]
    low: float | None
    middle: float | None
    high: float | None
    before: float | None
    unit: str
    trials: list[JudgedTrial]
    right: int
    calibration: list[SureOf]
    brier: float | None


class SittingPage(Wire):
    """A sitting: what is asked, and its result once it is over. Nothing of a trial."""

    id: str
    drill: str
    name: str
    about: str
    question: str
    answers: list[DrillAnswer]
    parts: list[DrillPart]
    instrument: str
    instrument_name: str
    string: int
    string_name: str
    interval: Interval
    truth: Truth
    trials: int
    result: SittingResult | None


class TrialTruth(Wire):
    """What a trial was, once it has been judged.

    answer: the right one, by its number; said: the one that was given.
    difference: on the drill's scale. listen_for: what tells the right answer.
    """

    answer: int
    said: int
    difference: float
    says: str
    listen_for: str


class DrillScene(Wire):
    """What may be known of a sitting: nothing of a trial before it is judged."""

    stage: Stage
    number: int
    trials: int
    listens: int
    last: bool
    truth: TrialTruth | None


class DrillAct(line.Act):
    """An action; `number` rises by any step, `at_s` is the time since the sitting began."""

    action: Annotated[DrillAction, Field(discriminator="kind")]


class DrillWelcome(Wire):
    """The answer to Hello: the last number that is kept, and the sitting as it stands."""

    kind: Literal["welcome"] = "welcome"
    number: int
    at_s: float
    scene: DrillScene


class DrillNow(Wire):
    """The answer to DrillAct: the sitting as it now stands."""

    kind: Literal["now"] = "now"
    number: int
    scene: DrillScene


class DrillSound(Wire):
    """What is to be played: 16-bit samples, little-endian, in base 64; for a drill always as many.

    trial: its number, or 0 for an example, whose answer `example` is.
    """

    kind: Literal["sound"] = "sound"
    trial: int
    example: int | None
    rate: int
    samples: str


FromBrowser = TypeAdapter[Hello | DrillAct](
    Annotated[Hello | DrillAct, Field(discriminator="kind")]
)
Reply = DrillWelcome | DrillNow | DrillSound | Saved | Refused | Trouble | Moved
ToBrowser = TypeAdapter[Reply](Annotated[Reply, Field(discriminator="kind")])
