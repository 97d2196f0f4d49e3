"""Attempts and their replays."""

from datetime import datetime
from typing import Annotated, Literal

from annotated_types import Ge, Le, MaxLen

from meldrin.core.bench.fault import FaultKind
from meldrin.core.catalogue.instrument import Fretting
from meldrin.core.sound.references import Source
from meldrin.core.strings import PegSide, Role, Way
from meldrin.reports.plan import PlanStage
from meldrin.server.bench.schemas import BenchAction, BenchSound
from meldrin.server.exercises import ExerciseSettings
from meldrin.server.scores.schemas import ScorePage
from meldrin.services.attempts import MOST_LISTED, AttemptState
from meldrin.wire import Wire


class BriefResult(Wire):
    """What a list shows of a result: the help that gave most away (“read” where the plan reads a
    tuner, “none” where nothing was judged), how far off the strings were in the middle and at
    worst (cents, null where slack) and which that was, how many of how many were tuned by ear
    alone, how often low or high was named rightly, and the share of technique that was right (0 to
    1; null where it was not looked at).
    """

    aid: Literal["ear", "ripple", "tuner", "level", "read", "none"]
    median_cents: float | None
    worst_cents: float | None
    worst: str
    by_ear: int
    by_ear_of: int
    technique: float | None
    sides_right: int
    sides_of: int


class AttemptTitle(Wire):
    """A name of one's own for an attempt; empty for none."""

    title: Annotated[str, MaxLen(60)]


class AttemptSummary(Wire):
    """An attempt in a list.

    name: what its exercise is called; title: what its learner calls it, or null.
    exercise: its settings at the bench; null for another practice, or where its record cannot be
        read, so that it can only be erased.
    points: of 100 once it is finished and scored; null in free play.
    earlier: it was scored by an earlier version, and keeps those points.
    """

    id: str
    practice: str
    exercise: ExerciseSettings | None
    name: str
    title: str | None
    instrument_name: str
    tuning_name: str
    created_at: datetime
    finished_at: datetime | None
    points: float | None
    brief: BriefResult | None
    earlier: bool


class AttemptFilter(Wire):
    """Which attempts to list."""

    practice: Annotated[str | None, MaxLen(20)] = None
    instrument: Annotated[str | None, MaxLen(40)] = None
    tuning: Annotated[str | None, MaxLen(200)] = None
    method: Annotated[str | None, MaxLen(20)] = None
    start: Annotated[str | None, MaxLen(20)] = None
    state: AttemptState | None = None
    after: Annotated[str | None, MaxLen(32)] = None
    most: Annotated[int, Ge(1), Le(MOST_LISTED)] = MOST_LISTED


class AttemptList(Wire):
    """Some attempts, the newest first. More come with `after`, null where these are the last."""

    attempts: list[AttemptSummary]
    after: str | None


class BenchPeg(Wire):
    """A peg: whether friction holds it, what players call it, its side as one looks at the strings,
    and which way it tightens as one looks at the end of its knob.
    """

    friction: bool
    words: str
    side: PegSide
    tightens: Way


class BenchString(Wire):
    """A string at the bench; they come from the lowest pitch to the highest.

    written: what players write for its number.
    turns: small, large and winding turns of its peg in degrees; `fine_turns` those of its fine
        tuner.
    length: of what speaks, as a share of the longest string; it ends at the bridge.
    thick_mm: its diameter.
    wound: whether wire is wound around it.
    peg: where it is and which way it tightens.
    """

    number: int
    written: str
    label: str
    note: str
    course: int
    role: Role
    length: float
    thick_mm: float
    wound: bool
    peg: BenchPeg
    turns: list[float]
    fine_turns: list[float] | None
    first_fret: int


class BenchChord(Wire):
    """A chord to end with: the strings that are played, by number, and whether the drone sounds
    with it.
    """

    name: str
    strings: list[int]
    drone: bool


class BenchReference(Wire):
    """What sounds the reference, in a word; whether it may be wrong and is to be checked."""

    source: Source
    words: str
    sounds: bool
    in_question: bool


class GuidedString(Wire):
    """A guided string: what it is to agree with, in a sentence, and the string that comes next, if
    any.
    """

    pair: str
    next_string: int | None


class AttemptPage(Wire):
    """An attempt opened: its plan, and its score once it is finished; none where an earlier
    version scored it. `faults`: what may be wrong with the instrument, where that is the question.
    `seed`: what its start was drawn with, told once it is finished. `by`: the pupil whose it is,
    where their teacher looks at it; null for one's own. `in_a_row`: how many starts with few
    strings have been won by ear in a row, of how many (`in_a_row_of`); null where the score does
    not ask for them. `guided`: null where no teacher stands beside it. `tolerance_cents`: how near
    a string is to come, to either side.
    """

    summary: AttemptSummary
    exercise: ExerciseSettings
    title: str
    short_name: str
    bowed: bool
    frets: int
    fretting: Fretting
    reference: BenchReference
    strings: list[BenchString]
    chords: list[BenchChord]
    faults: list[FaultKind]
    stages: list[PlanStage]
    score: ScorePage | None
    seed: int | None
    by: str | None
    in_a_row: int | None
    in_a_row_of: int
    guided: GuidedString | None
    tolerance_cents: float


class MusicPiece(Wire):
    """Something to hear on the strings as they were and as they are now, from its first moment on;
    `lasts_s`: until it has died away.
    """

    id: Literal["chord", "tune"]
    name: str
    was: list[BenchSound]
    now: list[BenchSound]
    lasts_s: float


class SourceOption(Wire):
    """Something that can sound a reference, and its words."""

    source: Source
    words: str


class ReplayPair(Wire):
    """The two partials that met at a moment, and how: their voices, their places from 1, the beat
    and what it should be (Hz).
    """

    own_voice: int
    own_partial: int
    other_voice: int
    other_partial: int
    beats_hz: float
    wanted_hz: float


class ReplayFrame(Wire):
    """What was done at a moment, at which stage, what sounded from then on, and how the string that
    is looked at stood (cents).
    """

    at_s: float
    stage: int
    action: BenchAction
    sounds: list[BenchSound]
    pair: ReplayPair | None
    string: int | None
    voice: int | None
    cents: float | None


class ReplayPage(Wire):
    """A stretch of an attempt, which lasts `duration_s` in all; the next one begins with action
    `next`, null where this is the last.
    """

    duration_s: float
    frames: list[ReplayFrame]
    next: int | None
