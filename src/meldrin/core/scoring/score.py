"""From an attempt's list of actions to its score, with the reason for every point."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from meldrin.core.bench import Judgement, Setup, State, TimedAction, matched_cents, pitch_cents
from meldrin.core.methods import Check, Step
from meldrin.core.scoring.advice import Advice, advice
from meldrin.core.scoring.judging import judged_lines, leaning_of
from meldrin.core.scoring.line import Line
from meldrin.core.scoring.manner import economy_line, safety_lines
from meldrin.core.scoring.rubric import Rubric, Tolerance, rubric
from meldrin.core.scoring.rules import Moment, Rule, rules_of
from meldrin.core.scoring.watch import Watched, watched
from meldrin.core.sound.references import VOICE_NAMES
from meldrin.core.words import capital, cents_said, how_far


@dataclass(frozen=True, slots=True)
class StringResult:
    """One string at the end, all in cents: against its target (`pitch_cents`), against what it is
    tuned to (`matched_cents`), and what was believed of that when it was last judged.
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
    """`points` of 100, None in free play; `strings` in the order of the plan; `closing_cents` is
    how much wider (narrower, if negative) the last check's pair lies than the plan leaves it, None
    without a check; `leaning_cents` how far the judgements lie above the truth on average.
    """

    points: float | None
    lines: tuple[Line, ...]
    strings: tuple[StringResult, ...]
    rules: tuple[Rule, ...]
    moments: tuple[Moment, ...]
    closing_cents: float | None
    leaning_cents: float | None
    well: str
    advice: Advice


def score(setup: Setup, log: Sequence[TimedAction]) -> Score:
    """Score an attempt by running its list of actions again.

    Raises:
        MeldrinError: when the list holds an action that the bench refuses.
    """
    rules = rubric()
    tolerance = rules.tolerances[setup.tolerance]
    seen = watched(setup, log, far_cents=rules.limits.far_cents)
    results = _results(setup, seen, tolerance)
    if not setup.plan.steps:
        return _free(setup, results)
    arrived = frozenset(
        result.number
        for result in results
        if result.listened and tolerance.share(result.matched_cents) > 0.0
    )
    reached = len(arrived) / len(results)
    technique = rules_of(setup, seen, rules, arrived=arrived)
    lines = [
        *_string_lines(setup, seen, results, tolerance, rules),
        *_closing_lines(seen, rules, tolerance, reached=reached),
        *judged_lines(setup, seen, rules, tolerance),
        *_reference_line(seen, rules),
        *_technique_lines(technique, seen, rules),
        economy_line(setup, seen, rules, reached=reached),
        *safety_lines(seen, rules, reached=reached),
    ]
    given, possible = sum(line.points for line in lines), sum(line.out_of for line in lines)
    moments = [
        moment
        for rule in technique
        for moment in rule.moments
        if not moment.kept and moment.at_s < seen.ended_s  # what was left out sounds nowhere
    ]
    moments += [
        Moment(line.at_s, False, line.sentence, line.string, "danger")
        for line in lines
        if line.part == "safety" and line.at_s is not None
    ]
    moments += _trusted_beats(seen, tolerance)
    return Score(
        points=round(100.0 * given / possible, 1),
        lines=tuple(lines),
        strings=results,
        rules=technique,
        moments=tuple(sorted(moments, key=lambda moment: moment.at_s)),
        closing_cents=_closing_cents(seen.state),
        leaning_cents=leaning_of(seen, rules, tolerance).leaning_cents,
        well=_well(lines),
        advice=advice(setup, lines, results),
    )


def _free(setup: Setup, results: tuple[StringResult, ...]) -> Score:
    return Score(
        points=None,
        lines=(),
        strings=results,
        rules=(),
        moments=(),
        closing_cents=None,
        leaning_cents=None,
        well="",
        advice=advice(setup, (), results),
    )


def _results(setup: Setup, seen: Watched, tolerance: Tolerance) -> tuple[StringResult, ...]:
    state, plan = seen.state, setup.plan
    found = []
    stages: list[tuple[int, int, Step | None]] = [
        (index, step.string, step) for index, step in enumerate(plan.steps)
    ] or [(-1, string.number, None) for string in setup.instrument.strings]
    for index, number, step in stages:
        judged = state.judged(index)
        runs = seen.runs_of(number)
        off = pitch_cents(state, number)
        found.append(
            StringResult(
                number=number,
                label=plan.label(number),
                listened=seen.brought_by_ear(index, number) if step else True,
                began_cents=seen.began_cents[number - 1],
                pitch_cents=off,
                matched_cents=off if step is None else matched_cents(state, step),
                judgement=judged[-1] if judged else None,
                moves=state.string(number).moves,
                overshoots=sum(
                    run.rising and run.before_cents < 0.0 < run.after_cents - tolerance.still_cents
                    for run in runs
                ),
                from_below=state.string(number).last_turn > 0,
            )
        )
    return tuple(found)


def _string_lines(
    setup: Setup,
    seen: Watched,
    results: Sequence[StringResult],
    tolerance: Tolerance,
    rules: Rubric,
) -> list[Line]:
    lines = []
    for result, step in zip(results, setup.plan.steps, strict=True):
        name, against = result.label, _against(setup, seen.state, step)
        out_of = rules.points.matched / len(results)
        placed_of = rules.points.placed / len(results)
        if not result.listened:
            text = capital(f"you did not sound {name} with {against}, so no ear brought it there.")
            lines.append(Line("matched", result.number, 0.0, out_of, text))
            lines.append(Line("placed", result.number, 0.0, placed_of, text))
            continue
        matched, placed = (
            tolerance.share(result.matched_cents),
            tolerance.share(result.pitch_cents),
        )
        text = (
            f"{name} against {against}: {how_far(result.matched_cents)}. {tolerance.worth(matched)}"
        )
        lines.append(Line("matched", result.number, matched * out_of, out_of, capital(text)))
        text = f"{name} against its target: {how_far(result.pitch_cents)}."
        if placed < matched and matched == 1.0:
            text += " It agrees with its neighbour, which was out itself."
        lines.append(Line("placed", result.number, placed * placed_of, placed_of, capital(text)))
    return lines


def _against(setup: Setup, state: State, step: Step) -> str:
    if step.by_tuner:
        return "its reading"
    if step.other.string is not None:
        return setup.plan.label(step.other.string)
    return "a right reference" if setup.tests_reference else f"the {VOICE_NAMES[state.rig.voice]}"


def _closing_cents(state: State) -> float | None:
    checks = state.rig.plan.checks
    return None if not checks else _wide_cents(state, checks[-1])


def _wide_cents(state: State, check: Check) -> float:
    """Return how much wider than wanted a check's pair lies."""
    off = matched_cents(state, check)
    own, other = check.own.string, check.other.string
    targets = state.rig.plan.targets_hz
    own_higher = own is None or other is None or targets[own - 1] >= targets[other - 1]
    return off if own_higher else -off


def _closing_lines(
    seen: Watched, rules: Rubric, tolerance: Tolerance, *, reached: float
) -> list[Line]:
    """Say how each check closes. Without strings that arrived there is nothing to close."""
    state = seen.state
    checks = state.rig.plan.checks
    lines = []
    for check in checks:
        out_of = rules.points.closed / len(checks)
        wide = _wide_cents(state, check)
        share = tolerance.share(wide) * reached
        if math.isinf(wide):
            how = "cannot be compared, with a slack string"
        elif abs(wide) < 0.05:
            how = "lies exactly as the plan leaves it"
        else:
            how = f"lies {cents_said(abs(wide))} too {'wide' if wide > 0.0 else 'narrow'}"
        text = f"{check.title.partition(': ')[2]}, {check.interval}, {how}."
        text = f"{text} {tolerance.worth(tolerance.share(wide))}"
        lines.append(Line("closed", None, share * out_of, out_of, capital(text)))
    return lines


def _reference_line(seen: Watched, rules: Rubric) -> list[Line]:
    state = seen.state
    if not state.setup.tests_reference:
        return []
    out_of, rig = rules.points.reference, state.rig
    if rig.plan.reference.kind == "tuner":
        was, now, a4 = rig.tuner_a4_hz, state.tuner_a4_hz, state.setup.a4_hz
        if now == a4:
            done = "was right" if was == a4 else f"stood at {was:g} Hz, and you set it to {a4:g}"
            return [Line("reference", None, out_of, out_of, f"The tuner {done}.")]
        text = f"The tuner stood at {now:g} Hz, so every string followed it away from {a4:g}."
        return [Line("reference", None, 0.0, out_of, text)]
    off, said = rig.reference_cents, state.doubted
    what = f"The {VOICE_NAMES[rig.voice]} was {'right' if off == 0.0 else how_far(off)}"
    truth = "still" if off == 0.0 else "low" if off < 0.0 else "high"
    if said is None:
        share = 1.0 if off == 0.0 and state.judgements else 0.0
        text = f"{what}, and you did not check it."
        return [Line("reference", None, share * out_of * 0.5, out_of, text)]
    right = said == truth
    words = "right" if said == "still" else said
    share = 1.0 if right else 0.5 if "still" not in (said, truth) else 0.0
    return [Line("reference", None, share * out_of, out_of, f"{what}; you said it was {words}.")]


def _technique_lines(technique: Sequence[Rule], seen: Watched, rules: Rubric) -> list[Line]:
    out_of = rules.points.technique / max(1, len(technique))
    return [
        Line(
            "technique",
            None,
            rule.share * out_of,
            out_of,
            f"{rule.title}. {rule.sentence}",
            rule=rule.id,
            at_s=next((m.at_s for m in rule.moments if not m.kept and m.at_s < seen.ended_s), None),
        )
        for rule in technique
    ]


def _trusted_beats(seen: Watched, tolerance: Tolerance) -> list[Moment]:
    """Return the moments a string was called still that was not."""
    found = []
    for said in seen.state.judgements:
        if said.verdict == "still" and abs(said.was_cents) > tolerance.full_cents:
            number = seen.state.rig.plan.stages[said.stage].own.string
            label = seen.state.rig.plan.label(number or 1)
            text = f"You called {label} still; it was {how_far(said.was_cents)}."
            found.append(Moment(said.at_s, False, text, number, "trusted a beat"))
    return found


WELL = {
    "matched": "The strings stand well against what you tuned them to.",
    "placed": "Every string lies where the plan wants it.",
    "closed": "The end meets the beginning.",
    "judged": "What you believed was so.",
    "leaning": "Your judgements lean neither low nor high.",
    "reference": "You knew what your reference was worth.",
    "technique": "You turned as a good player turns.",
    "economy": "You needed few turns and little time.",
    "safety": "No string was ever in danger.",
}


def _well(lines: Sequence[Line]) -> str:
    """Return what went best: the part with the largest share, the weightiest of equals."""
    best = ""
    best_key = (0.0, 0.0)
    for part, sentence in WELL.items():
        out_of = sum(line.out_of for line in lines if line.part == part)
        got = sum(line.points for line in lines if line.part == part)
        if out_of and (round(got / out_of, 3), out_of) > best_key:
            best_key, best = (round(got / out_of, 3), out_of), sentence
    return best if best_key[0] >= 0.5 else "You made a start; the next one goes further."
