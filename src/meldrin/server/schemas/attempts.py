"""Attempts and their plans over HTTP."""

from dataclasses import asdict
from datetime import datetime
from typing import Literal

from meldrin.core.bench import Setup
from meldrin.core.bench.rig import rig_of
from meldrin.core.bench.turning import turn_sizes_deg
from meldrin.core.methods import Check, Step, Touch
from meldrin.core.pitch import note_name
from meldrin.core.scoring import Score
from meldrin.core.sound.references import VOICE_NAMES
from meldrin.core.strings import String
from meldrin.server.schemas.exercise import Exercise, exercise_of
from meldrin.server.schemas.outcome import Outcome, outcome_of
from meldrin.server.schemas.wire import Wire
from meldrin.services.attempts import Record, Summary


class BriefResult(Wire):
    """What a list shows of a result: the help that gave most away (“read” where the plan reads a
    tuner, “none” where nothing was judged), how far off the strings were in the middle and at
    worst (cents, null where slack), and how many of how many were judged by ear alone.
    """

    aid: Literal["ear", "ripple", "tuner", "level", "read", "none"]
    median_cents: float | None
    worst_cents: float | None
    worst: str
    by_ear: int
    by_ear_of: int


class AttemptSummary(Wire):
    """An attempt in a list; `points` of 100 once it is finished and scored, null in free play.

    `exercise` is null where the attempt's record cannot be read; then it can only be erased.
    `earlier`: it was scored by an earlier version, and keeps those points.
    """

    id: str
    exercise: Exercise | None
    instrument_name: str
    tuning_name: str
    created_at: datetime
    finished_at: datetime | None
    points: float | None
    brief: BriefResult | None
    earlier: bool


class PlanSide(Wire):
    """One side of a comparison; string null is the reference, fret 0 the open string. `node_fret`:
    where it is only touched, as a fret number; `node_share`: the same as a share of the string.
    """

    string: int | None
    fret: int
    partial: int
    node_fret: float | None
    node_share: float | None


class PlanStage(Wire):
    """A step (a string is tuned) or a check (two strings are listened to)."""

    kind: Literal["step", "check"]
    own: PlanSide
    other: PlanSide
    by_tuner: bool
    interval: str
    meeting_hz: float
    beats_hz: float
    seconds_to_hear: float | None
    title: str
    instruction: str
    caution: str | None


class BenchString(Wire):
    """A string at the bench; they come from the lowest pitch to the highest. `written`: what
    players write for its number. `turns`: small, large and winding turns of its peg in degrees,
    `fine_turns` those of its fine tuner.
    """

    number: int
    written: str
    label: str
    note: str
    course: int
    role: Literal["playing", "drone", "sympathetic"]
    friction_peg: bool
    turns: list[float]
    fine_turns: list[float] | None
    first_fret: int


class BenchReference(Wire):
    """What sounds the reference, in a word; whether it may be wrong and is to be checked."""

    voice: str
    words: str
    sounds: bool
    in_question: bool


class AttemptPage(Wire):
    """An attempt opened: its plan, and its outcome once it is finished; none where an earlier
    version scored it.
    """

    summary: AttemptSummary
    exercise: Exercise
    short_name: str
    bowed: bool
    frets: int
    fretting: Literal["fixed", "movable", "none"]
    reference: BenchReference
    strings: list[BenchString]
    stages: list[PlanStage]
    outcome: Outcome | None


class VoiceOption(Wire):
    """Something that can sound a reference, and its words."""

    voice: str
    words: str


class Voices(Wire):
    """What can sound a plan's reference, the usual one first."""

    voices: list[VoiceOption]


def summary_of(summary: Summary) -> AttemptSummary:
    """Return the wire form of a list entry."""
    setup, brief = summary.setup, summary.brief
    return AttemptSummary(
        id=summary.id,
        exercise=None if setup is None else exercise_of(setup),
        instrument_name="" if setup is None else setup.instrument.name,
        tuning_name="" if setup is None else setup.tuning_in.name,
        created_at=summary.created_at,
        finished_at=summary.finished_at,
        points=summary.points,
        brief=None if brief is None else BriefResult(**asdict(brief)),
        earlier=summary.earlier,
    )


def page_of(record: Record, score: Score | None) -> AttemptPage:
    """Return the wire form of an opened attempt; it tells nothing of an unfinished one's score."""
    setup = record.setup
    instrument, rig = setup.instrument, rig_of(setup)
    return AttemptPage(
        summary=summary_of(record.summary),
        exercise=exercise_of(setup),
        short_name=instrument.short_name,
        bowed=instrument.kind == "bowed",
        frets=instrument.frets,
        fretting=instrument.fretting,
        reference=BenchReference(
            voice=rig.voice,
            words=VOICE_NAMES[rig.voice],
            sounds=rig.plan.reference.kind not in ("tuner", "itself"),
            in_question=setup.tests_reference,
        ),
        strings=_strings(setup),
        stages=[_stage(stage) for stage in setup.plan.stages],
        outcome=None if score is None else outcome_of(score),
    )


def voices_page(setup: Setup) -> Voices:
    """Return what can sound the reference of an exercise."""
    return Voices(voices=[VoiceOption(voice=v, words=VOICE_NAMES[v]) for v in setup.voices])


def _strings(setup: Setup) -> list[BenchString]:
    tuning = setup.tuning_in
    order = sorted(setup.instrument.strings, key=lambda s: (tuning.midi(s.number), -s.number))
    return [_string(setup, string) for string in order]


def _string(setup: Setup, string: String) -> BenchString:
    odd = rig_of(setup).quirks[string.number - 1]
    turns = turn_sizes_deg(string, sticking=odd.stick_deg > 0.0, smallest_deg=odd.hand_deg)
    fine = None
    if string.fine is not None:
        fine = list(turn_sizes_deg(string, fine=True, smallest_deg=odd.hand_fine_deg))
    return BenchString(
        number=string.number,
        written=string.label or str(string.number),
        label=setup.plan.label(string.number),
        note=note_name(setup.tuning_in.midi(string.number)),
        course=string.course,
        role=string.role,
        friction_peg=string.peg.kind.startswith("friction"),
        turns=list(turns),
        fine_turns=fine,
        first_fret=string.nut_fret + 1,
    )


def _stage(stage: Step | Check) -> PlanStage:
    step = stage if isinstance(stage, Step) else None
    return PlanStage(
        kind="step" if step else "check",
        own=_side(stage.own),
        other=_side(stage.other),
        by_tuner=stage.by_tuner,
        interval=stage.interval,
        meeting_hz=stage.meeting_hz,
        beats_hz=stage.beats_hz,
        seconds_to_hear=step.seconds_to_hear if step else None,
        title=stage.title,
        instruction=stage.instruction,
        caution=step.caution if step else None,
    )


def _side(touch: Touch) -> PlanSide:
    return PlanSide(
        string=touch.string,
        fret=touch.fret,
        partial=touch.partial,
        node_fret=touch.node_fret,
        node_share=touch.node_share,
    )
