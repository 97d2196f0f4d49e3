"""A plan as a document: the same for the API, the file, the PDF, the command and the bench."""

from dataclasses import dataclass
from typing import Literal

from meldrin.core.budget import Expected
from meldrin.core.methods import METHODS, Check, Plan, Side, Step
from meldrin.core.methods.outcome import intervals, outcome
from meldrin.core.methods.plan import ReferenceKind
from meldrin.core.strings import Role
from meldrin.core.temperament import Temperament
from meldrin.core.words import cents_said
from meldrin.reports.shape import document

MARKED = "The score counts from what the method gives on these very strings: still means right."


@dataclass(frozen=True, slots=True)
class PlanSide:
    """One side of a comparison; string null is the reference, at `hz`.

    `fret`: 0 for the open string, null where no finger presses. `node_fret` and `node_share`: where
    the string is only touched, as a fret number and as a share of the string from its nut.
    """

    string: int | None
    fret: int | None
    partial: int
    node_fret: float | None
    node_share: float | None
    hz: float | None


@dataclass(frozen=True, slots=True)
class PlanStage:
    """A step, in which `own.string` is tuned, or a check, in which two sides are listened to.

    strings, with_reference: what is played for it.
    chord: the name of the chord they make, or null.
    by_tuner: it is read, not heard.
    sets_fret: the movable fret of the own side is slid until it agrees.
    target_cents: the size of the interval.
    meeting_hz: where the two sides meet.
    beats_hz: how fast they beat when all is right.
    beats_hz_per_cent: how much faster for each cent off.
    seconds_to_hear: how long to listen; null in a check.
    """

    kind: Literal["step", "check"]
    index: int
    own: PlanSide
    other: PlanSide
    strings: list[int]
    chord: str | None
    with_reference: bool
    by_tuner: bool
    sets_fret: bool
    target_cents: float
    interval: str
    meeting_hz: float
    beats_hz: float
    beats_hz_per_cent: float
    seconds_to_hear: float | None
    title: str
    instruction: str
    caution: str | None


@dataclass(frozen=True, slots=True)
class PlanReference:
    """What the pitch is taken from."""

    kind: ReferenceKind
    note: str
    hz: float


@dataclass(frozen=True, slots=True)
class PlanString:
    """A string at the end of the plan: the method's ideal, and what it gives on these strings.

    `written`: what players write for its number.
    """

    number: int
    course: int
    label: str
    written: str
    role: Role
    note: str
    frequency_hz: float
    sounding_hz: float
    equal_cents: float
    stiff_cents: float
    tension_n: float
    breaking_share: float


@dataclass(frozen=True, slots=True)
class PlanInterval:
    """Two open strings at the end of the plan, against equal temperament and against pure."""

    lower: int
    upper: int
    name: str
    cents: float
    against_equal_cents: float
    against_pure_cents: float
    sour: bool


@dataclass(frozen=True, slots=True)
class ExpectedString:
    """One string's expected error against its target."""

    number: int
    sd_cents: float
    bias_cents: float


@dataclass(frozen=True, slots=True)
class ExtraCheck:
    """The most useful check; `lower` null: the upper string against a note of its own."""

    lower: int | None
    upper: int
    partials: list[int]
    fret: int | None
    interval: str
    sd_cents: float


@dataclass(frozen=True, slots=True)
class PlanExpected:
    """What to expect of the plan by this ear, and by other orders of work."""

    ear: str
    comparison_sd_cents: float
    strings: list[ExpectedString]
    order_sd_cents: float
    chain_sd_cents: float
    star_sd_cents: float
    harmonics_sd_cents: float | None
    end_to_end_sd_cents: float
    end_to_end_bias_cents: float
    extra_check: ExtraCheck | None


@dataclass(frozen=True, slots=True)
class PlanPage:
    """A plan: steps, checks, the result, what to expect.

    `chosen`: the temperament is made of offsets that somebody chose. `chords`: names of those that
    can be played in this tuning. `care`: what to mind before the first turn.
    """

    instrument: str
    instrument_name: str
    tuning: str
    tuning_name: str
    method: str
    method_name: str
    a4_hz: float
    temperament: str
    chosen: bool
    reference: PlanReference
    strings: list[PlanString]
    steps: list[PlanStage]
    checks: list[PlanStage]
    intervals: list[PlanInterval]
    chords: list[str]
    expected: PlanExpected
    marked_against: str
    marked_words: str
    care: str


def plan_page(plan: Plan, expect: Expected) -> PlanPage:
    """Return a plan as a document, with what to expect of it."""
    return PlanPage(
        instrument=plan.instrument.id,
        instrument_name=plan.instrument.name,
        tuning=plan.tuning.id,
        tuning_name=plan.tuning.name,
        method=plan.method,
        method_name=METHODS[plan.method].name,
        a4_hz=plan.a4_hz,
        temperament=temperament_words(plan),
        chosen=plan.temperament.kind == "custom",
        reference=document(PlanReference, plan.reference, note=plan.note(plan.reference.midi)),
        strings=[
            document(
                PlanString,
                one,
                course=string.course,
                role=string.role,
                written=string.written,
                note=plan.note(plan.tuning.midi(one.number)),
            )
            for one, string in zip(outcome(plan), plan.instrument.strings, strict=True)
        ],
        steps=stages_of(plan.steps),
        checks=stages_of(plan.checks),
        intervals=[document(PlanInterval, one) for one in intervals(plan)],
        chords=[one.name for one in plan.instrument.chords_in(plan.tuning)],
        expected=_expected(expect),
        marked_against="stiff_cents",
        marked_words=MARKED,
        care=_care(plan),
    )


def _care(plan: Plan) -> str:
    pegs = {string.peg.kind for string in plan.instrument.strings}
    push = " Push each peg in while you turn it." if "friction peg" in pegs else ""
    return f"With a child an adult is beside. Eyes and face away from the strings.{push}"


def stages_of(stages: tuple[Step | Check, ...]) -> list[PlanStage]:
    """Return steps or checks, or both, as documents numbered from 1."""
    return [
        document(
            PlanStage,
            stage,
            index=index,
            own=_side(stage.own),
            other=_side(stage.other),
            chord=stage.chord.name if isinstance(stage, Check) and stage.chord else None,
            sets_fret=isinstance(stage, Check) and stage.sets_fret,
        )
        for index, stage in enumerate(stages, start=1)
    ]


def temperament_words(plan: Plan) -> str:
    """Return the temperament in a few words."""
    own = plan.temperament
    if plan.method == "harmonics" and own.kind == "fifths" and not own.fifth_cents:
        return "pure intervals"
    return _temperament(own)


def _temperament(own: Temperament) -> str:
    match own.kind:
        case "equal":
            return "equal temperament"
        case "fifths" if own.fifth_cents == 0.0:
            return "pure fifths"
        case "fifths":
            way = "wider" if own.fifth_cents > 0.0 else "narrower"
            return f"fifths {cents_said(abs(own.fifth_cents))} {way} than pure"
        case "just":
            return "just over the tonic"
        case "custom":
            return f"chosen offsets: {own.reason}"


def _side(side: Side) -> PlanSide:
    pressed = side.string is not None and side.node_fret is None
    return document(PlanSide, side, fret=side.fret if pressed else None)


def _expected(expect: Expected) -> PlanExpected:
    extra = expect.extra_check
    return document(
        PlanExpected,
        expect,
        ear=expect.ear.id,
        comparison_sd_cents=expect.ear.beats_sd_cents,
        strings=[document(ExpectedString, one) for one in expect.strings],
        extra_check=None if extra is None else document(ExtraCheck, extra),
    )
