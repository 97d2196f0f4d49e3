"""From drills and sittings to their shapes."""

import base64
from collections.abc import Sequence

import numpy as np

from meldrin.core.catalogue import Instrument, tuning_said
from meldrin.core.drills import (
    DRILLS,
    AnyDrill,
    DrillExercise,
    DrillResult,
    MarkedPeg,
    MeasuredDrill,
    Playback,
    Question,
    Sitting,
    Stretch,
    TunerShown,
    drill_of,
    opening,
    share_said,
    threshold_said,
    where_said,
)
from meldrin.core.drills.samples import samples_of as played_samples
from meldrin.core.methods.naming import string_label
from meldrin.server.drills.schemas import (
    DrillAnswer,
    DrillExample,
    DrillList,
    DrillOption,
    DrillPart,
    DrillQuestion,
    DrillScene,
    DrillTurn,
    HeardSoFar,
    JudgedTrial,
    MarkedPegPicture,
    PictureString,
    SittingLeft,
    SittingPage,
    SittingResult,
    SureOf,
    TrialTruth,
    TunerFrame,
    TunerPicture,
)
from meldrin.services.attempts import Record
from meldrin.services.drills import Left, SoFar


def list_of(so_far: Sequence[SoFar], left: Sequence[Left]) -> DrillList:
    """Return the drills, what has been heard so far, and what was left."""
    return DrillList(
        drills=[
            DrillOption(
                id=one.id,
                name=one.name,
                about=one.about,
                measured=isinstance(one, MeasuredDrill),
                intervals=list(one.intervals),
                interval=one.usual_interval,
            )
            for one in DRILLS.values()
        ],
        heard=[_heard_of(one) for one in so_far],
        left=[SittingLeft(id=one.id, drill=one.drill, name=one.name, at=one.at) for one in left],
    )


def _heard_of(one: SoFar) -> HeardSoFar:
    result, drill = one.result, drill_of(one.result.drill)
    threshold = result.threshold
    unit: str
    if isinstance(drill, MeasuredDrill) and threshold is not None:
        where, says, unit = (
            where_said(result.known_by),
            threshold_said(drill, threshold),
            drill.unit,
        )
    else:
        where, unit, says = "", "", share_said(result)
    return HeardSoFar(
        drill=result.drill,
        instrument=one.instrument,
        known_by=result.known_by,
        where=where,
        says=says,
        low=None if threshold is None else threshold.low,
        middle=None if threshold is None else threshold.middle,
        high=None if threshold is None else threshold.high,
        unit=unit,
        right=result.right,
        trials=len(result.trials),
        level=result.next_level,
        at=one.at,
    )


def page_of(record: Record, result: DrillResult | None) -> SittingPage:
    """Return a sitting; it tells nothing of a trial before all is over."""
    exercise: DrillExercise = record.exercise
    drill, made = drill_of(exercise.drill), exercise.instrument
    examples = () if result else opening(exercise).examples
    return SittingPage(
        id=record.summary.id,
        drill=drill.id,
        name=drill.name,
        about=drill.about,
        measured=isinstance(drill, MeasuredDrill),
        drawn=drill.drawn,
        examples=[
            DrillExample(
                words=one.words,
                listen_for=one.listen_for,
                parts=_parts_of(one.heard),
                picture=_picture_of(one.shown, made),
            )
            for one in examples
        ],
        instrument=exercise.instrument_id,
        instrument_name=made.short_name,
        string=exercise.string,
        string_name=string_label(
            made, exercise.string, tuning_said(made, exercise.tuning), naming=exercise.naming
        ),
        interval=exercise.interval,
        truth=exercise.truth,
        trials=exercise.trials,
        result=None if result is None else _result_of(drill, result),
    )


def _result_of(drill: AnyDrill, result: DrillResult) -> SittingResult:
    threshold = result.threshold
    return SittingResult(
        headline=result.headline,
        remarks=list(result.remarks),
        low=None if threshold is None else threshold.low,
        middle=None if threshold is None else threshold.middle,
        high=None if threshold is None else threshold.high,
        before=None if result.before is None else result.before.middle,
        unit=drill.unit if isinstance(drill, MeasuredDrill) else "",
        level=result.level,
        next_level=result.next_level,
        rest=result.rest,
        trials=[
            JudgedTrial(
                says=one.says,
                said=one.said,
                is_right=one.is_right,
                sure=one.sure,
                difference=one.difference,
                listens=one.listens,
            )
            for one in result.trials
        ],
        right=result.right,
        calibration=[
            SureOf(sure=one.sure, answers=one.answers, right=one.right)
            for one in result.calibration
        ],
        brier=result.brier,
    )


def scene_of(state: Sitting) -> DrillScene:
    """Return what may be known of a sitting."""
    asked = truth = None
    if state.stage in ("asked", "told"):
        asked = _question_of(state.posed, state.exercise.instrument)
    if state.stage == "told":
        trial, posed = state.trials[-1], state.posed
        truth = TrialTruth(
            answer=trial.right,
            said=trial.answer,
            said_words=trial.said,
            difference=trial.difference
            if state.belief and posed.heard and not posed.amount
            else None,
            says=trial.says,
            listen_for=posed.tells,
            parts=_parts_of(state.heard, told=True),
        )
    return DrillScene(
        stage=state.stage,
        number=state.number,
        trials=state.exercise.trials,
        listens=state.listens,
        steps=state.steps,
        last=state.is_last,
        asked=asked,
        truth=truth,
    )


def _question_of(posed: Question, made: Instrument) -> DrillQuestion:
    return DrillQuestion(
        question=posed.question,
        answers=[DrillAnswer(id=one.id, words=one.words) for one in posed.answers],
        order=posed.order,
        parts=stretches(posed.turned.parts) if posed.turned else _parts_of(posed.heard),
        picture=_picture_of(posed.shown, made),
        turn=posed.turned
        and DrillTurn(
            sizes=list(posed.turned.sizes),
            most=posed.turned.most,
            begins_s=posed.turned.begins_s,
        ),
        amount=posed.amount is not None,
        how_sure=posed.how_sure,
    )


def _parts_of(heard: Playback | None, *, told: bool = False) -> list[DrillPart]:
    return [] if heard is None else stretches(heard.parts, told=told)


def stretches(parts: Sequence[Stretch], *, told: bool = False) -> list[DrillPart]:
    """Return the stretches of what sounds; what each is like only when that is told."""
    return [
        DrillPart(
            name=one.name,
            begin_s=one.begin_s,
            end_s=one.end_s,
            cents=one.cents if told else None,
            beats_hz=one.beats_hz if told else None,
        )
        for one in parts
    ]


def _picture_of(
    shown: MarkedPeg | TunerShown | None, made: Instrument
) -> MarkedPegPicture | TunerPicture | None:
    match shown:
        case MarkedPeg():
            playing = [one for one in made.strings if one.role != "sympathetic"]
            longest = max(one.scale_m for one in playing)
            strings = [
                PictureString(
                    number=one.number,
                    course=one.course,
                    length=one.scale_m / longest,
                    side=one.peg.side,
                )
                for one in playing
            ]
            return MarkedPegPicture(strings=strings, marked=shown.string)
        case TunerShown():
            frames = [TunerFrame(at_s=at, name=name, cents=c) for at, name, c in shown.frames]
            return TunerPicture(a4_hz=shown.a4_hz, mode=shown.mode, frames=frames)
        case None:
            return None


def samples_of(heard: Playback) -> str:
    """Render what is played, as many samples for every trial that asks the same."""
    samples = played_samples(heard)
    return base64.b64encode(np.round(samples * 32767.0).astype("<i2").tobytes()).decode()
