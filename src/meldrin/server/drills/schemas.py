"""Drills over HTTP, and the messages of their line: two discriminated unions."""

from datetime import datetime
from typing import Annotated, Literal

from annotated_types import Ge, Le, MaxLen
from pydantic import Field, TypeAdapter

from meldrin.core.drills import (
    FEWEST,
    MOST,
    DrillAction,
    DrillExercise,
    Interval,
    Sure,
    Truth,
    drill_of,
)
from meldrin.core.drills.drill import Drawn
from meldrin.core.drills.sitting import MOST_STRINGS, Stage
from meldrin.core.pitch import Naming
from meldrin.core.sound.events import SoundEvent
from meldrin.server.realtime import messages as line
from meldrin.server.realtime.messages import Hello, Moved, Refused, Saved, Trouble
from meldrin.wire import Wire


class DrillAnswer(Wire):
    """What can be said."""

    id: str
    words: str


class DrillPart(Wire):
    """A stretch of what sounds, in seconds. `cents` out of tune and `beats_hz` are told with the
    truth, and are None before.
    """

    name: str
    begin_s: float
    end_s: float
    cents: float | None = None
    beats_hz: float | None = None


class PictureString(Wire):
    """A string as far as a picture of the head needs it; `length` is a share of the longest."""

    number: int
    course: int
    length: float
    side: Literal["treble", "bass"]


class MarkedPegPicture(Wire):
    """The head of the instrument: its strings from the first on, and whose peg is marked."""

    kind: Literal["peg"] = "peg"
    strings: list[PictureString]
    marked: int


class TunerFrame(Wire):
    """What a tuner shows at a moment: the name of a note, or "" for nothing, and cents."""

    at_s: float
    name: str
    cents: float


class TunerPicture(Wire):
    """A tuner: how it is set, and what it shows as time passes."""

    kind: Literal["tuner"] = "tuner"
    a4_hz: float
    mode: str
    frames: list[TunerFrame]


Picture = Annotated[MarkedPegPicture | TunerPicture, Field(discriminator="kind")]


class DrillExample(Wire):
    """One of the answers where nobody can miss it: to be heard, to be looked at, or both."""

    words: str
    listen_for: str
    parts: list[DrillPart]
    picture: Picture | None


class DrillTurn(Wire):
    """A string that is turned first: the steps of each turn there is, the smallest first, how many
    steps it goes either way, and when it begins to sound.
    """

    sizes: list[int]
    most: int
    begins_s: float


class DrillQuestion(Wire):
    """What a trial asks. `order`: answers go from the low side upwards, or as they are listed.

    parts: of what sounds; empty where there is nothing to hear.
    amount: it is answered by a number, to which the answers are the nearest, or, without any, by
        where the string is left.
    """

    question: str
    answers: list[DrillAnswer]
    order: Literal["upwards", "listed"]
    parts: list[DrillPart]
    picture: Picture | None
    turn: DrillTurn | None
    amount: bool
    how_sure: str


class DrillOption(Wire):
    """A drill as it stands in a list. `measured`: it tells a threshold, on a string; others a share
    of right answers, on an instrument. `interval`: the one it usually begins with.
    """

    id: str
    name: str
    about: str
    measured: bool
    intervals: list[Interval]
    interval: Interval


class HeardSoFar(Wire):
    """What the newest sitting in a register told: in words, between which thresholds, and how many
    answers were right. Where nothing is measured `where` is empty, and `level` says how hard the
    next one is.
    """

    drill: str
    instrument: str
    known_by: str
    where: str
    says: str
    low: float | None
    middle: float | None
    high: float | None
    unit: str
    right: int
    trials: int
    level: int
    at: datetime


class SittingLeft(Wire):
    """A sitting that was left before its end."""

    id: str
    drill: str
    name: str
    at: datetime


class DrillList(Wire):
    """Every drill, what has been heard so far, and what was left before its end."""

    drills: list[DrillOption]
    heard: list[HeardSoFar]
    left: list[SittingLeft]


class SittingWanted(Wire):
    """A sitting to begin: the drill, and the string it is played on. Without a number of trials it
    has as many as are usual for the drill.
    """

    drill: Annotated[str, MaxLen(20)]
    instrument: Annotated[str, MaxLen(40)] = "viola"
    tuning: Annotated[str, MaxLen(200)] = "standard"
    string: Annotated[int, Ge(1), Le(MOST_STRINGS)] = 1
    interval: Interval = "unison"
    truth: Truth = "pure"
    trials: Annotated[int, Ge(FEWEST), Le(MOST)] | None = None
    naming: Naming = "letters"

    def exercise(self, instrument_text: str = "") -> DrillExercise:
        """Return what the sitting begins with; what is known of the ear is still to come.

        Raises:
            MeldrinError: for settings that do not go together.
        """
        return DrillExercise(
            drill=self.drill,
            instrument_id=self.instrument,
            instrument_text=instrument_text,
            seed=0,
            string=self.string,
            tuning=self.tuning,
            interval=self.interval,
            truth=self.truth,
            trials=self.trials or drill_of(self.drill).trials,
            naming=self.naming,
        )


class SittingBegun(Wire):
    """The id of a sitting that has begun."""

    id: str


class JudgedTrial(Wire):
    """A trial, told: its truth in a sentence, what was said, and whether that was right."""

    says: str
    said: str
    is_right: bool
    sure: Sure
    difference: float
    listens: int


class SureOf(Wire):
    """Answers of one confidence, and how many of them were right."""

    sure: Sure
    answers: int
    right: int


class SittingResult(Wire):
    """What a sitting told. `brier`: the mean square error of what was said to be likely. Where
    nothing is measured there are no thresholds, and `next_level` says how hard the next one is.
    `rest`: slips towards the end ask for one.
    """

    headline: str
    remarks: list[str]
    low: float | None
    middle: float | None
    high: float | None
    before: float | None
    unit: str
    level: int
    next_level: int
    rest: bool
    trials: list[JudgedTrial]
    right: int
    calibration: list[SureOf]
    brier: float | None


class SittingPage(Wire):
    """A sitting: its examples, and its result once it is over. Nothing of a trial. `drawn`: how
    what sounds is drawn.
    """

    id: str
    drill: str
    name: str
    about: str
    measured: bool
    drawn: Drawn
    examples: list[DrillExample]
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

    answer: the right one, by its number; said: the one that was given; said_words: in words.
    difference: on the drill's scale, or None where nothing is measured.
    listen_for: what tells the right answer. parts: of what can now be heard.
    """

    answer: int
    said: int
    said_words: str
    difference: float | None
    says: str
    listen_for: str
    parts: list[DrillPart]


class DrillScene(Wire):
    """What may be known of a sitting: nothing of a trial before it is judged. `steps`: how many
    steps up its string has been turned.
    """

    stage: Stage
    number: int
    trials: int
    listens: int
    steps: int
    last: bool
    asked: DrillQuestion | None
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
    """The answer to DrillAct: the sitting as it now stands, and what sounds from now on where a
    string is turned.
    """

    kind: Literal["now"] = "now"
    number: int
    scene: DrillScene
    sounds: list[Annotated[SoundEvent, Field(discriminator="kind")]]


class DrillSound(Wire):
    """What is to be played: 16-bit samples, little-endian, in base 64; as many for every
    trial that asks the same.

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
