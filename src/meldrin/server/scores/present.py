"""From scores and the rubric to their shapes."""

from dataclasses import asdict

from meldrin.core.bench import Judgement
from meldrin.core.bench.limits import Tolerance
from meldrin.core.scoring import RULE_TITLES, Score, StringResult, rubric
from meldrin.core.scoring.headline import headline
from meldrin.core.scoring.rules import first_moments
from meldrin.server.exercises import settings_of
from meldrin.server.scores.schemas import (
    Believed,
    MarkedMoment,
    RubricPage,
    RubricPart,
    RubricTolerance,
    ScoreAccuracy,
    ScoreAdvice,
    ScoreCap,
    ScoreLine,
    ScorePage,
    ScoreSides,
    ScoreString,
)


def score_of(score: Score, *, tolerance: Tolerance) -> ScorePage:
    """Return a score with its reasons."""
    in_tune_cents = rubric().tolerances[tolerance].in_tune_cents
    return ScorePage(
        headline=score.found or headline(score.strings, in_tune_cents=in_tune_cents),
        points=score.points,
        lines=[ScoreLine.model_validate(line) for line in score.lines],
        caps=[ScoreCap.model_validate(cap) for cap in score.caps],
        accuracy=ScoreAccuracy.model_validate(score.accuracy),
        by_ear=score.by_ear,
        by_ear_of=score.judged_by_ear_of,
        strings=[_string(one) for one in score.strings],
        moments=[MarkedMoment.model_validate(one) for one in first_moments(score.moments)],
        closing_cents=score.closing_cents,
        bias_cents=score.bias_cents,
        well=score.well,
        chord=score.chord,
        practice=score.practice,
        sides=ScoreSides.model_validate(score.sides),
        finer_cents=score.advice.finer_cents,
        advice=ScoreAdvice(
            sentence=score.advice.sentence,
            button=score.advice.button,
            exercise=settings_of(score.advice.exercise),
        ),
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


def _string(one: StringResult) -> ScoreString:
    same = {name: getattr(one, name) for name in ScoreString.model_fields if name != "believed"}
    return ScoreString(**same, believed=_believed(one.judgement))


def _believed(said: Judgement | None) -> Believed | None:
    return None if said is None else Believed.model_validate(said)
