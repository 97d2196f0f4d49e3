"""Instruments, plans, rankings, fitness and retuning over HTTP."""

from collections.abc import Mapping
from typing import Annotated, Any, Literal

from pydantic import Field

from meldrin.core.choose import Company, HowFar, Noise, Purpose, Ranked, Situation, Source
from meldrin.core.fitness import Fitness, Question, Verdict
from meldrin.core.methods.plan import ReferenceKind
from meldrin.core.methods.wanted import ForkAt, Order
from meldrin.core.pitch import HIGHEST_A4_HZ, LOWEST_A4_HZ
from meldrin.core.temperament import MOST_FIFTH_CENTS
from meldrin.server.schemas.wire import Wire
from meldrin.services.prepare import Asked, TemperamentName, offsets_said, strings_said

Method = Literal["each", "unison", "fifths", "harmonics", "drone", "tuner", "mixed"]
EarName = Literal["beginner", "practised", "trained"]
Name = Annotated[str, Field(max_length=40)]
Notes = Annotated[str, Field(max_length=200)]
A4 = Annotated[float, Field(ge=LOWEST_A4_HZ, le=HIGHEST_A4_HZ)]


class PlanAsked(Wire):
    """What plan is asked for; `offsets` as string:cents pairs, such as ``6:-2,1:1.5``; `piece`: the
    intervals to be made pure, such as ``3-2,6-3:1`` (string 6 with string 3 at fret 1); `far`: the
    strings known to be far out, such as ``6, 1``; `sounded`: a pipe, a piano or a player gives the
    note, not a fork.
    """

    instrument: Name
    tuning: Name = "standard"
    notes: Notes | None = None
    method: Method | None = None
    a4_hz: A4 = 440.0
    temperament: TemperamentName = "own"
    fifth_cents: Annotated[float, Field(ge=-MOST_FIFTH_CENTS, le=MOST_FIFTH_CENTS)] = 0.0
    tonic: Annotated[str, Field(max_length=4)] | None = None
    share: Annotated[float, Field(ge=0.0, le=1.0)] = 0.5
    offsets: Annotated[str, Field(max_length=400)] = ""
    reason: Annotated[str, Field(max_length=120)] = ""
    start: int | None = None
    itself: bool = False
    sounded: bool = False
    order: Order = "usual"
    fork_at: ForkAt = "open"
    second_pass: bool = False
    far: Annotated[str, Field(max_length=60)] = ""
    piece: Annotated[str, Field(max_length=60)] = ""
    ear: EarName = "practised"

    def asked(self) -> Asked:
        """Return it as the service takes it."""
        fields: dict[str, Any] = self.model_dump(exclude={"offsets"})
        fields["offsets_cents"] = offsets_said(self.offsets)
        fields["far"] = strings_said(self.far)
        fields["notes"], fields["tonic"] = self.notes or None, self.tonic or None
        return Asked(**fields)


class RankingAsked(Wire):
    """The answers that rank the methods, and for which instrument and tuning."""

    instrument: Name
    tuning: Name = "standard"
    notes: Notes | None = None
    tonic: Annotated[str, Field(max_length=4)] | None = None
    company: Company = "alone"
    noise: Noise = "quiet"
    source: Source = "fork"
    how_far: HowFar = "hair"
    purpose: Purpose = "learn"

    def asked(self) -> Asked:
        """Return the instrument and tuning asked for."""
        return Asked(
            instrument=self.instrument,
            tuning=self.tuning,
            notes=self.notes or None,
            tonic=self.tonic or None,
        )

    def situation(self) -> Situation:
        """Return the answers."""
        return Situation(self.company, self.noise, self.source, self.how_far, self.purpose)


class RetuningAsked(Wire):
    """From which tuning to which, each an id of the catalogue or a line of notes."""

    instrument: Name
    before: Notes = "standard"
    after: Notes
    a4_hz: A4 = 440.0


class FitnessAsked(Wire):
    """Answers by question; those left out are not looked at."""

    instrument: Name
    answers: Annotated[dict[str, str | float], Field(max_length=20)]


class CatalogueString(Wire):
    """A string as it is made; `written` is what players write for its number."""

    number: int
    written: str
    course: int
    note: str
    role: Literal["playing", "drone", "sympathetic"]
    scale_mm: float
    material: str
    peg: str
    fine_tuner: str | None


class CatalogueTuning(Wire):
    """A tuning; its notes are read from the last string to the first."""

    id: str
    name: str
    notes: str
    about: str


class CatalogueInstrument(Wire):
    """An instrument with its strings and tunings."""

    id: str
    name: str
    kind: Literal["plucked", "bowed"]
    fretting: Literal["fixed", "movable", "none"]
    frets: int
    strings: list[CatalogueString]
    tunings: list[CatalogueTuning]


class PlanReference(Wire):
    """What the pitch is taken from."""

    kind: ReferenceKind
    note: str
    hz: float


class LeftString(Wire):
    """A string as the plan leaves it: the method's ideal, and what it gives on these strings."""

    number: int
    course: int
    label: str
    written: str
    role: Literal["playing", "drone", "sympathetic"]
    note: str
    frequency_hz: float
    sounding_hz: float
    equal_cents: float
    stiff_cents: float
    tension_n: float
    breaking_share: float


class SoundedSide(Wire):
    """One side of a comparison; string null is the reference at `hz`. `node` is a fret number, or
    a share of the string on a bare fingerboard, where it is only touched.
    """

    string: int | None
    fret: int | None
    partial: int
    node: float | None
    hz: float | None


class PlannedStep(Wire):
    """One string to tune; the first side is the one turned."""

    index: int
    string: int
    sound: list[SoundedSide]
    target_cents: float
    interval: str
    meeting_hz: float
    beats_hz: float
    beats_hz_per_cent: float
    seconds_to_hear: float
    title: str
    instruction: str
    caution: str | None


class PlannedCheck(Wire):
    """Two sounds to listen to at the end."""

    index: int
    sound: list[SoundedSide]
    target_cents: float
    interval: str
    meeting_hz: float
    beats_hz: float
    beats_hz_per_cent: float
    title: str
    instruction: str


class PlanInterval(Wire):
    """Two open strings as the plan leaves them, against equal temperament and against pure."""

    lower: int
    upper: int
    name: str
    cents: float
    against_equal_cents: float
    against_pure_cents: float
    sour: bool


class ExpectedString(Wire):
    """One string's expected error against its target."""

    number: int
    sd_cents: float
    bias_cents: float


class PlanExtraCheck(Wire):
    """The check that tells most; `lower` null: the upper string against a note of its own."""

    lower: int | None
    upper: int
    partials: list[int]
    fret: int | None
    interval: str
    sd_cents: float


class PlanExpected(Wire):
    """What to expect of the plan by this ear, and by other orders of work."""

    ear: EarName
    comparison_sd_cents: float
    strings: list[ExpectedString]
    order_sd_cents: float
    chain_sd_cents: float
    star_sd_cents: float
    harmonics_sd_cents: float | None
    end_to_end_sd_cents: float
    end_to_end_bias_cents: float
    extra_check: PlanExtraCheck | None


class PlanPage(Wire):
    """A plan: steps, checks, what it leaves, what to expect. The same as its JSON file.

    `chosen`: the temperament is made of offsets that somebody chose.
    """

    instrument: str
    instrument_name: str
    tuning: str
    tuning_name: str
    method: Method
    a4_hz: float
    temperament: str
    chosen: bool
    reference: PlanReference
    strings: list[LeftString]
    steps: list[PlannedStep]
    closes: list[PlannedCheck]
    intervals: list[PlanInterval]
    expected: PlanExpected
    marked_against: str
    marked_words: str


class RankedMethod(Wire):
    """A method with its reasons, the fittest first; `serves` false: why it cannot."""

    method: Method
    name: str
    about: str
    serves: bool
    points: float
    reasons: list[str]


class RetunedString(Wire):
    """One string of a retuning; cents against its new note."""

    number: int
    label: str
    from_note: str
    to_note: str
    semitones: int
    tension_before_n: float
    tension_after_n: float
    breaking_share: float
    aim_cents: float
    drift_cents: float


class RetuningPage(Wire):
    """A retuning, string by string."""

    strings: list[RetunedString]
    load_before_n: float
    load_after_n: float
    load_change_n: float
    order: list[int]
    cautions: list[str]


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
    verdict: Verdict
    sentence: str


class FitnessPage(Wire):
    """The advice on the whole, and what each answer means."""

    verdict: Verdict
    advice: str
    findings: list[FitnessFinding]


def ranked_of(rows: tuple[Ranked, ...]) -> list[RankedMethod]:
    """Return the wire form of a ranking."""
    return [
        RankedMethod.model_validate(
            {
                "method": row.method,
                "name": row.name,
                "about": row.about,
                "serves": row.serves,
                "points": row.points,
                "reasons": list(row.reasons),
            }
        )
        for row in rows
    ]


def retuning_of(record: Mapping[str, Any]) -> RetuningPage:
    """Return the wire form of a retuning's record."""
    strings = [
        {**{key: value for key, value in row.items() if key not in ("from", "to")},
         "from_note": row["from"], "to_note": row["to"]}
        for row in record["strings"]
    ]  # fmt: skip
    return RetuningPage.model_validate({**record, "strings": strings})


def question_of(question: Question) -> FitnessQuestion:
    """Return the wire form of a question."""
    return FitnessQuestion(
        id=question.id,
        title=question.title,
        how=question.how,
        options=[FitnessOption(value=value, words=words) for value, words in question.options],
        unit=question.unit,
        low=question.low,
        high=question.high,
    )


def fitness_of(found: Fitness) -> FitnessPage:
    """Return the wire form of the findings."""
    return FitnessPage(
        verdict=found.verdict,
        advice=found.advice,
        findings=[
            FitnessFinding(question=one.question, verdict=one.verdict, sentence=one.sentence)
            for one in found.findings
        ],
    )
