"""Attempts, plans and results over HTTP."""

from datetime import datetime
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from meldrin.core.bench import Setup
from meldrin.core.bench.actions import Aid, Verdict
from meldrin.core.bench.setup import StartKind
from meldrin.core.methods import Check, Step
from meldrin.core.methods.plan import string_label
from meldrin.core.pitch import HIGHEST_A4_HZ, LOWEST_A4_HZ, note_name
from meldrin.core.scoring import Score
from meldrin.core.scoring.score import Part
from meldrin.services.attempts import Record, Summary, result


class Wire(BaseModel):
    """The root of all messages: unknown fields are refused, numbers are finite."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False, frozen=True)


class NewAttempt(Wire):
    """What to start."""

    instrument: Annotated[str, Field(max_length=40)] = "guitar"
    method: Literal["unison"] = "unison"
    start: StartKind = "hair"
    a4_hz: Annotated[float, Field(ge=LOWEST_A4_HZ, le=HIGHEST_A4_HZ)] = 440.0


class AttemptSummary(Wire):
    """An attempt in a list; `points` of 100 once it is finished."""

    id: str
    instrument_name: str
    method: str
    start: StartKind
    a4_hz: float
    created_at: datetime
    finished_at: datetime | None
    points: float | None


class PlanSide(Wire):
    """One side of a comparison; string null is the fork, fret 0 the open string."""

    string: int | None
    fret: int
    partial: int


class PlanStage(Wire):
    """A step (a string is tuned) or a check (two strings are listened to)."""

    kind: Literal["step", "check"]
    own: PlanSide
    other: PlanSide
    meeting_hz: float
    seconds_to_hear: float | None
    title: str
    instruction: str
    caution: str | None


class PlanString(Wire):
    """A string by the players' own number; strings come from the lowest pitch to the highest."""

    number: int
    label: str
    note: str


class ScoreLine(Wire):
    """Points given, points possible, and the sentence why."""

    part: Part
    string: int | None
    points: float
    out_of: float
    sentence: str


class Believed(Wire):
    """What was said of a string, what was so at that moment (cents), and the aid that was on."""

    verdict: Verdict
    cents: float
    was_cents: float
    aid: Aid


class StringOutcome(Wire):
    """One string at the end, in the order of the plan; all offsets in cents."""

    number: int
    label: str
    listened: bool
    began_cents: float
    pitch_cents: float
    matched_cents: float
    believed: Believed | None
    moves: int
    overshoots: int
    from_below: bool


class Outcome(Wire):
    """The score with its reasons."""

    points: float
    lines: list[ScoreLine]
    strings: list[StringOutcome]
    closing_cents: float | None
    advice: str


class AttemptPage(Wire):
    """An attempt opened: its plan, and its outcome once it is finished."""

    summary: AttemptSummary
    frets: int
    strings: list[PlanString]
    stages: list[PlanStage]
    outcome: Outcome | None


def summary_of(summary: Summary) -> AttemptSummary:
    """Return the wire form of a list entry."""
    setup = summary.setup
    return AttemptSummary(
        id=summary.id,
        instrument_name=setup.instrument.name,
        method=setup.method,
        start=setup.start,
        a4_hz=setup.a4_hz,
        created_at=summary.created_at,
        finished_at=summary.finished_at,
        points=summary.points,
    )


def page_of(record: Record) -> AttemptPage:
    """Return the wire form of an opened attempt; it tells nothing of an unfinished one's score."""
    setup = record.summary.setup
    finished = record.summary.finished_at is not None
    return AttemptPage(
        summary=summary_of(record.summary),
        frets=setup.instrument.frets,
        strings=_strings(setup),
        stages=[_stage(stage) for stage in setup.plan.stages],
        outcome=_outcome(result(record)) if finished else None,
    )


def _strings(setup: Setup) -> list[PlanString]:
    order = sorted(setup.instrument.strings, key=lambda string: (string.midi, -string.number))
    return [
        PlanString(
            number=string.number,
            label=string_label(setup.instrument, string.number),
            note=note_name(string.midi),
        )
        for string in order
    ]


def _stage(stage: Step | Check) -> PlanStage:
    step = isinstance(stage, Step)
    return PlanStage(
        kind="step" if step else "check",
        own=PlanSide(string=stage.own.string, fret=stage.own.fret, partial=stage.own.partial),
        other=PlanSide(
            string=stage.other.string, fret=stage.other.fret, partial=stage.other.partial
        ),
        meeting_hz=stage.meeting_hz,
        seconds_to_hear=stage.seconds_to_hear if isinstance(stage, Step) else None,
        title=stage.title,
        instruction=stage.instruction,
        caution=stage.caution if isinstance(stage, Step) else None,
    )


def _outcome(score: Score) -> Outcome:
    return Outcome(
        points=score.points,
        lines=[
            ScoreLine(
                part=line.part,
                string=line.string,
                points=line.points,
                out_of=line.out_of,
                sentence=line.sentence,
            )
            for line in score.lines
        ],
        strings=[
            StringOutcome(
                number=string.number,
                label=string.label,
                listened=string.listened,
                began_cents=string.began_cents,
                pitch_cents=string.pitch_cents,
                matched_cents=string.matched_cents,
                believed=None
                if string.judgement is None
                else Believed(
                    verdict=string.judgement.verdict,
                    cents=string.judgement.cents,
                    was_cents=string.judgement.was_cents,
                    aid=string.judgement.aid,
                ),
                moves=string.moves,
                overshoots=string.overshoots,
                from_below=string.from_below,
            )
            for string in score.strings
        ],
        closing_cents=score.closing_cents,
        advice=score.advice,
    )
