"""From attempts to their shapes."""

from collections.abc import Sequence

from meldrin.core.bench import Exercise, TimedAction, opening, replay
from meldrin.core.bench.fault import possible
from meldrin.core.bench.guiding import next_string, pair_words
from meldrin.core.bench.limits import limits
from meldrin.core.bench.music import pieces
from meldrin.core.bench.rig import rig_of
from meldrin.core.bench.turning import turn_sizes_deg
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.names import exercise_title
from meldrin.core.practice import IN_A_ROW
from meldrin.core.scoring import Score
from meldrin.core.sound.references import SOURCE_NAMES
from meldrin.core.strings import String
from meldrin.core.units import mm_of_m
from meldrin.reports.plan import stages_of
from meldrin.server.attempts.schemas import (
    AttemptPage,
    AttemptSummary,
    BenchChord,
    BenchPeg,
    BenchReference,
    BenchString,
    BriefResult,
    GuidedString,
    MusicPiece,
    ReplayFrame,
    ReplayPage,
    ReplayPair,
    SourceOption,
)
from meldrin.server.exercises import settings_of
from meldrin.server.scores.present import score_of
from meldrin.services.attempts import Record, Summary
from meldrin.services.replays import MOST_FRAMES, Frame, Stretch


def summary_of(summary: Summary) -> AttemptSummary:
    """Return a list entry."""
    exercise = summary.exercise if isinstance(summary.exercise, Exercise) else None
    return AttemptSummary(
        id=summary.id,
        practice=summary.practice,
        exercise=None if exercise is None else settings_of(exercise),
        name=summary.name,
        title=summary.title,
        instrument_name="" if exercise is None else exercise.instrument.name,
        tuning_name="" if exercise is None else exercise.tuning_in.name,
        created_at=summary.created_at,
        finished_at=summary.finished_at,
        points=summary.points,
        brief=None if summary.brief is None else BriefResult.model_validate(summary.brief),
        earlier=summary.earlier,
    )


def page_of(record: Record, score: Score | None, *, row: int | None = None) -> AttemptPage:
    """Return an opened attempt; it tells nothing of an unfinished one's score."""
    exercise: Exercise = record.exercise
    instrument, rig = exercise.instrument, rig_of(exercise)
    return AttemptPage(
        summary=summary_of(record.summary),
        exercise=settings_of(exercise),
        title=exercise_title(exercise),
        short_name=instrument.short_name,
        bowed=instrument.kind == "bowed",
        frets=instrument.frets,
        fretting=instrument.fretting,
        tolerance_cents=limits().tolerances[exercise.tolerance].full_cents,
        reference=BenchReference(
            source=rig.source,
            words=SOURCE_NAMES[rig.source],
            sounds=rig.plan.reference.kind not in ("tuner", "itself"),
            in_question=exercise.tests_reference,
        ),
        strings=strings_of(exercise),
        chords=[
            BenchChord(
                name=one.name,
                strings=[number for number, _ in reversed(one.notes)],
                drone=one.drone,
            )
            for one in instrument.chords_in(exercise.tuning_in)
        ],
        faults=list(possible(instrument)) if rig.fault else [],
        stages=stages_of(exercise.plan.stages),
        score=None if score is None else score_of(score, tolerance=exercise.tolerance),
        seed=None if record.summary.finished_at is None else exercise.seed,
        by=record.by,
        in_a_row=row,
        in_a_row_of=IN_A_ROW,
        guided=_guided(exercise),
    )


def sources_of(exercise: Exercise) -> list[SourceOption]:
    """Return what can sound the reference of an exercise, the usual one first."""
    return [SourceOption(source=one, words=SOURCE_NAMES[one]) for one in exercise.sources]


def replay_of(stretch: Stretch) -> ReplayPage:
    """Return a stretch of a replay."""
    following = stretch.begin + MOST_FRAMES
    return ReplayPage(
        duration_s=stretch.duration_s,
        frames=[_frame(frame) for frame in stretch.frames],
        next=following if following < stretch.actions else None,
    )


def _frame(frame: Frame) -> ReplayFrame:
    level = frame.level
    return ReplayFrame(
        at_s=frame.at_s,
        stage=frame.stage,
        action=frame.action,
        sounds=list(frame.sounds),
        pair=None if frame.pair is None else ReplayPair.model_validate(frame.pair),
        string=None if level is None else level.string,
        voice=None if level is None else level.voice,
        cents=None if level is None else level.cents,
    )


def strings_of(exercise: Exercise) -> list[BenchString]:
    """Return the strings of an exercise, from the lowest pitch to the highest."""
    tuning = exercise.tuning_in
    order = sorted(exercise.instrument.strings, key=lambda s: (tuning.midi(s.number), -s.number))
    return [_string(exercise, string) for string in order]


def _string(exercise: Exercise, string: String) -> BenchString:
    odd = rig_of(exercise).quirks[string.number - 1]
    turns = turn_sizes_deg(string, sticking=odd.stick_deg > 0.0, smallest_deg=odd.hand_deg)
    fine = None
    if string.fine is not None:
        fine = list(turn_sizes_deg(string, fine=True, smallest_deg=odd.hand_fine_deg))
    return BenchString(
        number=string.number,
        written=string.written,
        label=exercise.plan.label(string.number),
        note=exercise.plan.note(exercise.tuning_in.midi(string.number)),
        course=string.course,
        role=string.role,
        length=string.scale_m / max(one.scale_m for one in exercise.instrument.strings),
        thick_mm=mm_of_m(string.outer_m),
        wound=string.outer_m > string.core_m,
        peg=BenchPeg(
            friction=string.peg.kind == "friction peg",
            words=string.peg.word,
            side=string.peg.side,
            tightens=string.peg.tightens,
        ),
        turns=list(turns),
        fine_turns=fine,
        first_fret=string.nut_fret + 1,
    )


def _guided(exercise: Exercise) -> GuidedString | None:
    if not exercise.guided:
        return None
    return GuidedString(pair=pair_words(exercise), next_string=next_string(exercise))


def music_of(exercise: Exercise, log: Sequence[TimedAction]) -> list[MusicPiece]:
    """Return the wire form of the music before and after.

    Raises:
        MeldrinError: ``not_yet`` while a string of the plan has not been judged.
    """
    state = replay(exercise, log, strict=False)
    said = {one.stage for one in state.judgements}
    if not state.finished and any(n not in said for n in range(len(exercise.plan.steps))):
        raise MeldrinError(Code.NOT_YET, "First say how each string is; then hear it.")
    return [
        MusicPiece(
            id=one.id, name=one.name, was=list(one.was), now=list(one.now), lasts_s=one.lasts_s
        )
        for one in pieces(opening(exercise), state)
    ]
