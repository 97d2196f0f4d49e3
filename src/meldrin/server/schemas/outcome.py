"""The score of an attempt over HTTP, and the rubric it goes by."""

import math
from dataclasses import asdict
from typing import Literal

from meldrin.core.bench import Judgement
from meldrin.core.bench.actions import Aid, Verdict
from meldrin.core.scoring import RULE_TITLES, Moment, Score, StringResult, rubric
from meldrin.core.scoring.findings import Basis, CapKind
from meldrin.core.scoring.line import Part
from meldrin.server.schemas.exercise import Exercise, exercise_of
from meldrin.server.schemas.wire import Wire


class ScoreLine(Wire):
    """Points given, points possible, and the sentence why; `at_s` a moment that shows it."""

    part: Part
    rule: str
    string: int | None
    points: float
    out_of: float
    sentence: str
    at_s: float | None


class Believed(Wire):
    """What was said of a string, what was so at that moment (cents; null: too slack to tell), and
    the aid that gave most away before.
    """

    verdict: Verdict
    cents: float
    was_cents: float | None
    aid: Aid


class StringOutcome(Wire):
    """One string at the end, in the order of the plan; offsets in cents, null where it is slack or
    broken. `basis`: what the last word on it rested on.
    """

    number: int
    label: str
    heard: bool
    brought: bool
    basis: Basis
    began_cents: float | None
    pitch_cents: float | None
    matched_cents: float | None
    believed: Believed | None
    moves: int
    overshoots: int
    from_below: bool


class MarkedMoment(Wire):
    """A moment to go back to, with its name and a sentence."""

    at_s: float
    name: str
    sentence: str
    string: int | None


class AdviceOutcome(Wire):
    """The one thing to change next, and the exercise for it."""

    sentence: str
    button: str
    exercise: Exercise


class CapOutcome(Wire):
    """What the total is at most, and why."""

    kind: CapKind
    most: float
    sentence: str
    string: int | None


class AccuracyOutcome(Wire):
    """How far the strings are from their targets, in cents, at the end and at the start; null where
    strings are slack.
    """

    median_cents: float | None
    worst_cents: float | None
    worst: str
    began_median_cents: float | None
    began_worst_cents: float | None


class Outcome(Wire):
    """The score with its reasons; `points` null in free play."""

    points: float | None
    lines: list[ScoreLine]
    caps: list[CapOutcome]
    accuracy: AccuracyOutcome
    by_ear: int
    by_ear_of: int
    strings: list[StringOutcome]
    moments: list[MarkedMoment]
    closing_cents: float | None
    bias_cents: float | None
    well: str
    advice: AdviceOutcome


class RubricTolerance(Wire):
    """A level of exactness."""

    id: Literal["first", "settled", "together", "fine"]
    name: str
    full_cents: float
    nothing_cents: float
    in_tune_cents: float


class RubricPart(Wire):
    """A part of the score and the most points it brings."""

    part: Part
    points: float


class RubricPage(Wire):
    """How the score works, as data."""

    parts: list[RubricPart]
    tolerances: list[RubricTolerance]
    rules: list[str]
    limits: dict[str, float]
    most: dict[str, float]


def outcome_of(score: Score) -> Outcome:
    """Return the wire form of a score."""
    return Outcome(
        points=score.points,
        lines=[
            ScoreLine(
                part=line.part,
                rule=line.rule,
                string=line.string,
                points=line.points,
                out_of=line.out_of,
                sentence=line.sentence,
                at_s=line.at_s,
            )
            for line in score.lines
        ],
        caps=[CapOutcome(**asdict(cap)) for cap in score.caps],
        accuracy=AccuracyOutcome(
            median_cents=finite(score.accuracy.median_cents),
            worst_cents=finite(score.accuracy.worst_cents),
            worst=score.accuracy.worst,
            began_median_cents=finite(score.accuracy.began_median_cents),
            began_worst_cents=finite(score.accuracy.began_worst_cents),
        ),
        by_ear=score.by_ear,
        by_ear_of=score.judged_by_ear_of,
        strings=[_string(one) for one in score.strings],
        moments=[moment_of(moment) for moment in score.moments],
        closing_cents=None if score.closing_cents is None else finite(score.closing_cents),
        bias_cents=score.bias_cents,
        well=score.well,
        advice=AdviceOutcome(
            sentence=score.advice.sentence,
            button=score.advice.button,
            exercise=exercise_of(score.advice.exercise),
        ),
    )


def finite(cents: float) -> float | None:
    """Return an offset, or None for one that is none."""
    return cents if math.isfinite(cents) else None


def moment_of(moment: Moment) -> MarkedMoment:
    """Return the wire form of a moment."""
    return MarkedMoment(
        at_s=moment.at_s, name=moment.name, sentence=moment.sentence, string=moment.string
    )


def rubric_page() -> RubricPage:
    """Return the rubric in force."""
    rules = rubric()
    return RubricPage(
        parts=[
            RubricPart(part=part, points=points) for part, points in asdict(rules.points).items()
        ],
        tolerances=[
            RubricTolerance(id=name, **asdict(tolerance))
            for name, tolerance in rules.tolerances.items()
        ],
        rules=list(RULE_TITLES.values()),
        limits=asdict(rules.limits),
        most=asdict(rules.most),
    )


def _string(one: StringResult) -> StringOutcome:
    return StringOutcome(
        number=one.number,
        label=one.label,
        heard=one.heard,
        brought=one.brought,
        basis=one.basis,
        began_cents=finite(one.began_cents),
        pitch_cents=finite(one.pitch_cents),
        matched_cents=finite(one.matched_cents),
        believed=None if one.judgement is None else _believed(one.judgement),
        moves=one.moves,
        overshoots=one.overshoots,
        from_below=one.from_below,
    )


def _believed(said: Judgement) -> Believed:
    return Believed(
        verdict=said.verdict, cents=said.cents, was_cents=finite(said.was_cents), aid=said.aid
    )
