"""What was said against the truth: each judgement, and whether they lean to one side."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Final

from meldrin.core.bench import Exercise, Judgement
from meldrin.core.bench.limits import Exactness
from meldrin.core.methods import Step
from meldrin.core.scoring.line import Line, Tuned
from meldrin.core.scoring.rubric import Rubric
from meldrin.core.scoring.watch import Watched
from meldrin.core.words import capital, cents_said, how_far

FEWEST: Final = 3  # judgements, to speak of a bias
FARTHEST_CENTS: Final = 60.0  # a string further out is only low or high
SHOWING: Final = ("level", "tuner")


@dataclass(frozen=True, slots=True)
class Bias:
    """How far what was said lies above the truth, on average (None for too few judgements), and
    the share of those judgements that named the right side.
    """

    cents: float | None
    right_share: float


def judgement_lines(
    exercise: Exercise, seen: Watched, rules: Rubric, exactness: Exactness, *, tuned: Tuned
) -> list[Line]:
    """Return a line for every string, and one for the bias of them all where it can be told."""
    lines = []
    steps = exercise.plan.steps
    out_of = rules.points.judgement / len(steps)
    for index, step in enumerate(steps):
        share, sentence, at_s = _of_step(exercise, seen, exactness, index, step)
        lines.append(
            Line(
                "judgement",
                step.string,
                share * out_of,
                out_of,
                capital(sentence),
                at_s=at_s,
                broken=1.0 - share,
            )
        )
    if sum(not step.by_tuner for step in steps) >= FEWEST:  # else there is too little to go by
        lines.append(_bias_line(seen, rules, exactness, tuned=tuned))
    return lines


def _of_step(
    exercise: Exercise, seen: Watched, exactness: Exactness, index: int, step: Step
) -> tuple[float, str, float | None]:
    label = exercise.plan.label(step.string)
    said = [_as_aimed(one, step) for one in seen.judged(index)]
    if not said:
        return 0.0, f"you did not say how {label} was.", None
    marks = [_mark(one, step, exactness) for one in said]
    firsts = [
        mark
        for mark, one, before in zip(marks, said, [None, *said[:-1]], strict=True)
        if before is None or before.turns != one.turns
    ]
    share = 0.5 * marks[-1] + 0.5 * sum(firsts) / len(firsts)
    worst = min(range(len(said)), key=lambda n: marks[n])
    sentence = _sentence(said[worst], step, label, marks[worst])
    if len(said) > 1:
        sentence = f"you judged {label} {len(said)} times; {sentence}"
    return share, sentence, said[worst].at_s


def _mark(said: Judgement, step: Step, exactness: Exactness) -> float:
    """Return what a judgement is worth: 1 where it is the truth, smoothly less beside it.

    Nothing where the string was not heard, or where the picture had shown the answer.
    """
    if not said.heard or (said.aid in SHOWING and not step.by_tuner):
        return 0.0
    was, signed = said.was_cents, signed_cents(said)
    if abs(was) > FARTHEST_CENTS and signed * was > 0.0:
        return 1.0  # so far out the side is all there is to say
    return exactness.agreement(signed - was)


def _as_aimed(said: Judgement, step: Step) -> Judgement:
    """Return a judgement as the plan means it: a string left at its aim may be called in tune."""
    nearer = abs(said.was_cents - step.aim_cents) < abs(said.was_cents)
    if said.verdict != "in_tune" or not nearer:
        return said
    return replace(said, was_cents=said.was_cents - step.aim_cents)


def _sentence(said: Judgement, step: Step, label: str, mark: float) -> str:
    if not said.heard:
        return f"you said how {label} was without hearing it after its last turn."
    if said.aid in SHOWING and not step.by_tuner:
        what = "the picture" if said.aid == "level" else "the tuner"
        return f"{what} had shown where {label} was, so your ear was not asked."
    believed = (
        "in tune" if said.verdict == "in_tune" else f"{cents_said(said.cents)} {said.verdict}"
    )
    text = f"you said {label} was {believed}; it was {how_far(said.was_cents)}."
    return f"{text} Right." if mark > 0.99 else text


def signed_cents(said: Judgement) -> float:
    """Return what was said as cents above the right pitch."""
    return {"low": -said.cents, "in_tune": 0.0, "high": said.cents}[said.verdict]


def right_side(said: Judgement, exactness: Exactness, slack_cents: float) -> bool:
    """Whether low, in tune or high was right; near the limit of in tune, both answers are."""
    was, band = said.was_cents, exactness.in_tune_cents
    return {
        "low": was < -(band - slack_cents),
        "in_tune": abs(was) <= band + slack_cents,
        "high": was > band - slack_cents,
    }[said.verdict]


def bias_of(seen: Watched, rules: Rubric, exactness: Exactness) -> Bias:
    """Return the bias of all judgements that were heard and not shown, of strings not far out."""
    steps = seen.state.rig.plan.steps
    counted = _counted(
        [_as_aimed(one, step) for index, step in enumerate(steps) for one in seen.judged(index)]
    )
    if len(counted) < FEWEST:
        return Bias(None, 0.0)
    errors = [signed_cents(said) - said.was_cents for said in counted]
    slack = rules.limits.in_tune_slack_cents
    right = [said for said in counted if right_side(said, exactness, slack)]
    return Bias(sum(errors) / len(errors), len(right) / len(counted))


def _counted(judgements: Sequence[Judgement]) -> list[Judgement]:
    """Return what tells of a bias. A string far out counts as if it were just so far out, or the
    worst judgements would cost nothing; on its right side it tells nothing of cents.
    """
    found = []
    for said in judgements:
        if not said.heard or said.aid in SHOWING:
            continue
        was = max(-FARTHEST_CENTS, min(FARTHEST_CENTS, said.was_cents))
        if was == said.was_cents or signed_cents(said) * was <= 0.0:
            found.append(replace(said, was_cents=was))
    return found


def _bias_line(seen: Watched, rules: Rubric, exactness: Exactness, *, tuned: Tuned) -> Line:
    out_of = rules.points.bias
    found = bias_of(seen, rules, exactness)
    if found.cents is None:
        text = f"You judged fewer than {FEWEST} strings by ear, so no bias can be told."
        return Line("bias", None, 0.0, out_of, text, broken=1.0)
    share = exactness.share(2.0 * found.cents) * found.right_share
    if abs(found.cents) < 0.5:
        text = "Your judgements lean neither low nor high."
    else:
        side = "higher" if found.cents > 0.0 else "lower"
        text = f"On average you heard strings {cents_said(abs(found.cents))} {side} than they were."
    if found.right_share < 1.0:
        text += f" {found.right_share:.0%} of your judgements named the right side."
    return tuned.line("bias", None, share, out_of, text)
