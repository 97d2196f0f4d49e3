"""Plans, rankings and fitness over HTTP. Answers that files share are in `reports`."""

from dataclasses import fields
from typing import Annotated

from annotated_types import MaxLen
from pydantic import Field

from meldrin.core.fitness import Remedy
from meldrin.core.methods import Situation
from meldrin.core.sound.events import SoundEvent
from meldrin.core.strings import Way
from meldrin.services.prepare import A4, Asked, Name, TuningAsked
from meldrin.wire import Wire, model_of

AnySound = Annotated[SoundEvent, Field(discriminator="kind")]


class PlanAsked(model_of(Asked)):  # type: ignore[misc]
    """The plan that is asked for; without a method the fittest."""

    def asked(self) -> Asked:
        """Return it as the service takes it."""
        return Asked(**{one.name: getattr(self, one.name) for one in fields(Asked)})


class ChordAsked(PlanAsked):
    """A chord of the tuning, and the plan that it is to be heard by."""

    chord: Annotated[str, MaxLen(40)]


class ChordSound(Wire):
    """A chord as it sounds once a plan has been followed exactly."""

    name: str
    sounds: list[AnySound]


class RankingAsked(model_of(TuningAsked, Situation)):  # type: ignore[misc]
    """The answers that rank the methods, and for which instrument and tuning."""

    def asked(self) -> TuningAsked:
        """Return the instrument and tuning asked for."""
        return TuningAsked(**{one.name: getattr(self, one.name) for one in fields(TuningAsked)})

    def situation(self) -> Situation:
        """Return the answers."""
        return Situation(**{one.name: getattr(self, one.name) for one in fields(Situation)})


class RetuningAsked(Wire):
    """From which tuning to which, each an id of the catalogue or a line of notes."""

    instrument: Name
    before: Annotated[str, MaxLen(200)] = "standard"
    after: Annotated[str, MaxLen(200)]
    a4_hz: A4 = 440.0


class FitnessAsked(Wire):
    """Answers by question; those left out are not looked at."""

    instrument: Name
    answers: Annotated[dict[str, str | float], MaxLen(20)]


class RankedMethod(Wire):
    """A method with its reasons, the fittest first; `serves` false: why it cannot."""

    method: str
    name: str
    about: str
    serves: bool
    points: float
    reasons: list[str]


class FitnessOption(Wire):
    """One answer to choose."""

    value: str
    words: str


class FitnessQuestion(Wire):
    """One thing to look at; no options: a number in `unit`."""

    id: str
    title: str
    how: str
    options: list[FitnessOption]
    unit: str
    low: float
    high: float


class FitnessFinding(Wire):
    """What an answer means."""

    question: str
    remedy: Remedy
    sentence: str


class FitnessPage(Wire):
    """The advice on the whole, and what each answer means."""

    remedy: Remedy
    advice: str
    findings: list[FitnessFinding]


class BeforePart(Wire):
    """A part of what to know before the first turn."""

    title: str
    sentences: list[str]


class BeforeString(Wire):
    """One string on the card: its name, its note, where its peg is, and which way that tightens as
    one looks at the end of its knob. `written`: what players write for its number.
    """

    number: int
    written: str
    label: str
    note: str
    where: str
    tightens: Way


class BeforePage(Wire):
    """What to know before tuning an instrument."""

    title: str
    strings: list[BeforeString]
    parts: list[BeforePart]
