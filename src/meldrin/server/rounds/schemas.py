"""The shapes of rounds with a class."""

from datetime import datetime
from typing import Annotated, Literal

from annotated_types import Ge, Le, MaxLen

from meldrin.core.drills import Sure
from meldrin.core.drills.drill import Drawn, Order
from meldrin.core.rounds import FEWEST, MOST, Beating, Help, Size
from meldrin.server.drills.schemas import DrillAnswer, DrillPart, SittingWanted
from meldrin.services.rounds import MOST_PLACES, Move, Stage
from meldrin.wire import Wire, model_of

Place = Annotated[int, Ge(1), Le(MOST_PLACES)]
Question = Annotated[int, Ge(1), Le(MOST)]


class RoundWanted(Wire):
    """A round to begin: a drill's trials, or the sides of a comparison."""

    sitting: SittingWanted | None = None
    show: Annotated[str, MaxLen(20)] = ""
    count: Annotated[int, Ge(FEWEST), Le(MOST)] = 8
    size: Size = "middle"
    fading: bool = True
    each_plays: bool = False


class RoundMove(Wire):
    """A move, from the version of the round that is seen."""

    move: Move
    version: Annotated[int, Ge(0), Le(10_000)]


class RoundBeating(model_of(Beating)):  # type: ignore[misc]
    """A stretch of what sounds in which two notes beat, and how fast."""


class RoundQuestion(Wire):
    """What is asked. `listen_for`: a line for each answer, where words help, else none. `water`:
    how fast it beats, where the water helps.
    """

    question: str
    answers: list[DrillAnswer]
    order: Order
    help: Help
    listen_for: list[str]
    water: list[RoundBeating]
    parts: list[DrillPart]
    lasts_s: float


class RoundTruth(Wire):
    """What was right, from 0, and how often each answer was given; nobody's name is here.

    above: how far above its line the water stands, where it has sides.
    """

    right: int
    says: str
    tells: str
    said: str
    counts: list[int]
    parts: list[DrillPart]
    difference: float | None
    above: float | None
    water: list[RoundBeating]


class RoundLine(Wire):
    """A question when all is over: the truth, and how many of how many said it."""

    number: int
    says: str
    help: Help
    right: int
    of: int


class RoundScene(Wire):
    """How a round stands, for every screen. `here`: how many judge in it now; `drawn`: how what
    sounds is drawn.
    """

    id: str
    version: int
    stage: Stage
    name: str
    drawn: Drawn
    studio: str
    number: int
    count: int
    plays: int
    each_plays: bool
    here: int
    answered: int
    question: RoundQuestion | None
    truth: RoundTruth | None
    lines: list[RoundLine]


class RoundExample(Wire):
    """One of the answers, as it sounds where nobody can miss it."""

    words: str
    listen_for: str


class RoundPage(Wire):
    """A round for the one who leads it."""

    scene: RoundScene
    code: str | None
    examples: list[RoundExample]


class RoundRowPage(Wire):
    """A round in a list."""

    id: str
    name: str
    stage: Stage
    number: int
    count: int
    moved: datetime


class RoundJoin(Wire):
    """The code on the wall, and how many judge at this browser."""

    code: Annotated[str, MaxLen(20)]
    places: Place = 1


class RoundSaid(Wire):
    """What somebody said to a question: the answer from 0."""

    number: int
    answer: int
    sure: Sure | None


class RoundPlace(Wire):
    """Somebody at this browser: what they have said, and when all is over what that tells."""

    place: int
    said: list[RoundSaid]
    says: str | None


class RoundSeats(Wire):
    """A round for those who judge at one browser."""

    scene: RoundScene
    places: list[RoundPlace]


class RoundAnswer(Wire):
    """An answer to a question."""

    number: Question
    place: Place = 1
    answer: Annotated[int, Ge(0), Le(9)]
    sure: Sure | None = None


class RoundSound(Wire):
    """What is to be played: 16-bit samples, little-endian, in base 64."""

    rate: int
    samples: str


class CodeOpens(Wire):
    """What a code on the wall opens; the id of a round is told to those who sit down in it."""

    kind: Literal["exercise", "round"]
