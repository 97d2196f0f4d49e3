"""From an attempt's list of actions to its score, with the reason for every point."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from meldrin.core.bench import Judgement, Setup, State, TimedAction, matched_cents
from meldrin.core.bench.observe import pitch_cents
from meldrin.core.methods import Step
from meldrin.core.methods.plan import string_label
from meldrin.core.scoring.advice import advice
from meldrin.core.scoring.rubric import Rubric, rubric
from meldrin.core.scoring.technique import Hand, watched
from meldrin.core.words import capital, how_far

Part = Literal["matched", "placed", "closed", "judged", "from_below", "overshoot"]


@dataclass(frozen=True, slots=True)
class Line:
    """Some points of a part, and why; `string` is None for what concerns them all."""

    part: Part
    string: int | None
    points: float
    out_of: float
    sentence: str


@dataclass(frozen=True, slots=True)
class StringResult:
    """One string at the end, all in cents: against its target (`pitch_cents`), against the string
    it is tuned to (`matched_cents`), and what was believed of that when it was judged.
    """

    number: int
    label: str
    listened: bool
    began_cents: float
    pitch_cents: float
    matched_cents: float
    judgement: Judgement | None
    moves: int
    overshoots: int
    from_below: bool


@dataclass(frozen=True, slots=True)
class Score:
    """`points` of 100; `strings` in the order of the plan; `closing_cents` is how much wider
    (narrower, if negative) the outer strings lie than the plan leaves them, None without a check.
    """

    points: float
    lines: tuple[Line, ...]
    strings: tuple[StringResult, ...]
    closing_cents: float | None
    advice: str


def score(setup: Setup, log: Sequence[TimedAction]) -> Score:
    """Score an attempt by running its list of actions again.

    Raises:
        MeldrinError: when the list holds an action that the bench refuses.
    """
    rules = rubric()
    seen = watched(setup, log, overshoot_cents=rules.limits.overshoot_cents)
    state = seen.state
    plan = setup.plan
    results: list[StringResult] = []
    lines: list[Line] = []
    for index, stage in enumerate(plan.steps):
        hand = seen.hands[stage.string - 1]
        result = _result(state, index, stage, hand)
        results.append(result)
        lines += _string_lines(setup, result, hand, stage, rules, count=len(plan.steps))
    closing = _closing_cents(state)
    if closing is not None:
        lines.append(_closing_line(closing, rules, checked=seen.checked))
    given = sum(line.points for line in lines)
    possible = sum(line.out_of for line in lines)
    return Score(
        points=round(100.0 * given / possible, 1),
        lines=tuple(lines),
        strings=tuple(results),
        closing_cents=closing,
        advice=advice(lines, results),
    )


def _result(state: State, index: int, stage: Step, hand: Hand) -> StringResult:
    return StringResult(
        number=stage.string,
        label=string_label(state.setup.instrument, stage.string),
        listened=hand.listened,
        began_cents=hand.began_cents,
        pitch_cents=pitch_cents(state, stage.string),
        matched_cents=matched_cents(state, stage),
        judgement=state.judgement(index),
        moves=hand.moves,
        overshoots=hand.overshoots,
        from_below=hand.last_turn > 0,
    )


def _string_lines(
    setup: Setup, result: StringResult, hand: Hand, stage: Step, rules: Rubric, *, count: int
) -> list[Line]:
    points = rules.points
    against = (
        "the fork"
        if stage.other.string is None
        else string_label(setup.instrument, stage.other.string)
    )

    def line(part: Part, share: float, sentence: str) -> Line:
        out_of = getattr(points, part) / count
        return Line(part, result.number, share * out_of, out_of, capital(sentence))

    matched = rules.share(result.matched_cents)
    placed = rules.share(result.pitch_cents)
    name = result.label
    if not hand.listened:
        unheard = f"you did not sound {name} with {against}, so no ear brought it there."
        parts: tuple[Part, ...] = ("matched", "placed", "judged", "from_below", "overshoot")
        return [line(part, 0.0, unheard) for part in parts]
    return [
        line(
            "matched",
            matched,
            f"{name} against {against}: {how_far(result.matched_cents)}." + _worth(matched, rules),
        ),
        line(
            "placed",
            placed,
            f"{name} against its target: {how_far(result.pitch_cents)}."
            + (
                " It agrees with its neighbour, which was out itself."
                if placed < matched and matched == 1.0
                else ""
            ),
        ),
        line("judged", *_judged(result, rules)),
        line("from_below", *_from_below(result, hand, rules)),
        line("overshoot", *_overshoot(result, hand, rules)),
    ]


def _worth(share: float, rules: Rubric) -> str:
    if share == 1.0:
        return f" Within {rules.limits.full_within_cents:g} cents: full points."
    if share == 0.0:
        return f" From {rules.limits.nothing_from_cents:g} cents on there are no points."
    return " The further out, the fewer points."


def _judged(result: StringResult, rules: Rubric) -> tuple[float, str]:
    said, name = result.judgement, result.label
    if said is None:
        return 0.0, f"you did not say how {name} sat."
    if said.aid == "level":
        return (
            0.0,
            f"the picture showed {name}’s height before you judged, so your ear was not asked.",
        )
    was = said.was_cents
    believed = "still" if said.verdict == "still" else f"{said.cents:g} cents {said.verdict}"
    so = f"you said {name} was {believed}; it was {how_far(was)}"
    limits = rules.limits
    fits = {
        "low": was < -(limits.still_within_cents - limits.judged_slack_cents),
        "still": abs(was) <= limits.still_within_cents + limits.judged_slack_cents,
        "high": was > limits.still_within_cents - limits.judged_slack_cents,
    }
    if not fits[said.verdict]:
        return 0.0, f"{so}."
    signed = {"low": -said.cents, "still": 0.0, "high": said.cents}[said.verdict]
    amount = rules.share(signed - was)
    if said.verdict == "still":
        return 0.5 + 0.5 * amount, f"{so}. {'Right' if amount == 1.0 else 'Just about right'}."
    close = "Right, and close" if amount == 1.0 else "The right side, but not by how much"
    return 0.5 + 0.5 * amount, f"{so}. {close}."


def _from_below(result: StringResult, hand: Hand, rules: Rubric) -> tuple[float, str]:
    name = result.label
    if hand.moves == 0:
        return _untouched(result, hand, rules)
    if rules.share(result.matched_cents) == 0.0:
        return 0.0, f"{name} did not arrive, from below or above."
    if result.from_below:
        return 1.0, f"{name} arrived from below, so no slack is left behind the nut."
    return 0.0, (
        f"{name} arrived from above. Go clearly below and come up,"
        " or slack behind the nut lets it drop later."
    )


def _overshoot(result: StringResult, hand: Hand, rules: Rubric) -> tuple[float, str]:
    name = result.label
    if hand.moves == 0:
        return _untouched(result, hand, rules)
    if rules.share(result.matched_cents) == 0.0:
        return 0.0, f"{name} did not arrive, so there was nothing to pass."
    if hand.overshoots == 0:
        return 1.0, f"{name} was never turned past its pitch on the way up."
    times = "once" if hand.overshoots == 1 else f"{hand.overshoots} times"
    return (0.5 if hand.overshoots == 1 else 0.0), (
        f"{name} was turned past its pitch {times}. Smaller turns near the end."
    )


def _untouched(result: StringResult, hand: Hand, rules: Rubric) -> tuple[float, str]:
    if abs(hand.began_cents) <= rules.limits.full_within_cents:
        return 1.0, f"{result.label} was right already and you left it alone."
    return 0.0, f"{result.label}’s peg was never turned."


def _closing_cents(state: State) -> float | None:
    plan = state.setup.plan
    if not plan.checks:
        return None
    check = plan.checks[-1]
    assert check.own.string is not None
    assert check.other.string is not None
    return pitch_cents(state, check.other.string) - pitch_cents(state, check.own.string)


def _closing_line(closing: float, rules: Rubric, *, checked: bool) -> Line:
    if not checked:
        sentence = "You did not sound the outer strings together, so the end was not checked."
        return Line("closed", None, 0.0, rules.points.closed, sentence)
    share = rules.share(closing)
    if abs(closing) < 0.05:
        how = "close exactly"
    else:
        how = f"lie {abs(closing):.1f} cents too {'wide' if closing > 0.0 else 'narrow'}"
    sentence = f"The outer strings, two octaves apart, {how}." + _worth(share, rules)
    return Line("closed", None, share * rules.points.closed, rules.points.closed, sentence)
