"""What was believed against what was so: each judgement, and whether they lean to one side."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from meldrin.core.bench import Judgement, Setup
from meldrin.core.methods import Step
from meldrin.core.scoring.line import Line
from meldrin.core.scoring.rubric import Rubric, Tolerance
from meldrin.core.scoring.watch import Watched
from meldrin.core.words import capital, cents_said, how_far

FEWEST: Final = 3  # judgements, to speak of a leaning
FARTHEST_CENTS: Final = 60.0  # a string further out is only low or high
SHOWING: Final = ("level", "tuner")


@dataclass(frozen=True, slots=True)
class Leaning:
    """How far what was said lies above what was so, on average (None for too few judgements), and
    how many of those judgements named the right side.
    """

    leaning_cents: float | None
    right_share: float


def judged_lines(setup: Setup, seen: Watched, rules: Rubric, tolerance: Tolerance) -> list[Line]:
    """Return a line for every string and one for the leaning of them all."""
    lines = []
    out_of = rules.points.judged / len(setup.plan.steps)
    for index, step in enumerate(setup.plan.steps):
        share, sentence, at_s = _of_step(setup, seen, rules, tolerance, index, step)
        lines.append(
            Line("judged", step.string, share * out_of, out_of, capital(sentence), at_s=at_s)
        )
    lines.append(_leaning_line(seen, rules, tolerance))
    return lines


def _of_step(
    setup: Setup, seen: Watched, rules: Rubric, tolerance: Tolerance, index: int, step: Step
) -> tuple[float, str, float | None]:
    label = setup.plan.label(step.string)
    said = seen.state.judged(index)
    if not said:
        return 0.0, f"you did not say how {label} sat.", None
    if not seen.listened(index):
        return 0.0, f"you said how {label} sat without having sounded it.", said[-1].at_s
    marks = [_mark(one, step, rules, tolerance) for one in said]
    share = sum(mark for mark, _ in marks) / len(marks)
    worst = min(range(len(said)), key=lambda n: marks[n][0])
    sentence = _sentence(said[worst], label, marks[worst][1])
    if len(said) > 1:
        sentence = f"{label} was judged {len(said)} times; {sentence}"
    return share, sentence, said[worst].at_s


def _mark(said: Judgement, step: Step, rules: Rubric, tolerance: Tolerance) -> tuple[float, str]:
    """Return the share of a judgement and the words for it: the side is half, the size the rest."""
    if said.aid in SHOWING and not step.by_tuner:
        return 0.0, "shown"
    if not _fits(said, rules, tolerance):
        return 0.0, "wrong"
    if said.verdict == "still":
        return 1.0, "right"
    if abs(said.was_cents) > FARTHEST_CENTS:
        return 1.0, "far"
    share = tolerance.share(_signed(said) - said.was_cents)
    return 0.5 + 0.5 * share, "close" if share == 1.0 else "side"


def _fits(said: Judgement, rules: Rubric, tolerance: Tolerance) -> bool:
    """Whether the side said is right; near the limit of still, both answers are."""
    was, still, slack = said.was_cents, tolerance.still_cents, rules.limits.judged_slack_cents
    return {
        "low": was < -(still - slack),
        "still": abs(was) <= still + slack,
        "high": was > still - slack,
    }[said.verdict]


WORDS: Final = {
    "wrong": "",
    "right": " Right.",
    "far": " Right; so far out the side is all there is to say.",
    "close": " Right, and close.",
    "side": " The right side, but not by how much.",
}


def _sentence(said: Judgement, label: str, how: str) -> str:
    if how == "shown":
        what = "the picture" if said.aid == "level" else "the tuner"
        return f"{what} showed how {label} sat before you said it, so your ear was not asked."
    believed = "still" if said.verdict == "still" else f"{cents_said(said.cents)} {said.verdict}"
    return f"you said {label} was {believed}; it was {how_far(said.was_cents)}.{WORDS[how]}"


def _signed(said: Judgement) -> float:
    return {"low": -said.cents, "still": 0.0, "high": said.cents}[said.verdict]


def leaning_of(seen: Watched, rules: Rubric, tolerance: Tolerance) -> Leaning:
    """Return the leaning of all judgements by ear that were not far out."""
    counted = _counted(seen.state.judgements)
    if len(counted) < FEWEST:
        return Leaning(None, 0.0)
    errors = [_signed(said) - said.was_cents for said in counted]
    right = [said for said in counted if _fits(said, rules, tolerance)]
    return Leaning(sum(errors) / len(errors), len(right) / len(counted))


def _counted(judgements: Sequence[Judgement]) -> list[Judgement]:
    return [
        said for said in judgements if said.aid != "level" and abs(said.was_cents) <= FARTHEST_CENTS
    ]


def _leaning_line(seen: Watched, rules: Rubric, tolerance: Tolerance) -> Line:
    out_of = rules.points.leaning
    found = leaning_of(seen, rules, tolerance)
    if found.leaning_cents is None:
        text = f"Fewer than {FEWEST} judgements by ear: no leaning can be told."
        return Line("leaning", None, 0.0, out_of, text)
    lean = found.leaning_cents
    share = tolerance.share(2.0 * lean) * found.right_share
    if abs(lean) < 0.5:
        text = "Your judgements lean neither low nor high."
    else:
        side = "higher" if lean > 0.0 else "lower"
        text = f"On average you believed strings {cents_said(abs(lean))} {side} than they were."
    if found.right_share < 1.0:
        text += f" It counts for the {found.right_share:.0%} that named the right side."
    return Line("leaning", None, share * out_of, out_of, text)
