"""From an attempt's list of actions to its score, with the reason for every point."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from statistics import median

from meldrin.core.bench import (
    FAULT,
    Action,
    CheckWithTuner,
    Exercise,
    Judge,
    State,
    TimedAction,
    Turn,
    matched_cents,
    pitch_cents,
)
from meldrin.core.bench.limits import Exactness
from meldrin.core.methods import Check, Step
from meldrin.core.scoring.advice import Advice, advice, habits
from meldrin.core.scoring.chord import said_of_chord
from meldrin.core.scoring.fault import fault_headline, fault_lines, next_fault
from meldrin.core.scoring.findings import Cap, basis_of, caps_of, of_few, why_not_by_ear
from meldrin.core.scoring.judging import bias_of, judgement_lines
from meldrin.core.scoring.line import Line, Tuned
from meldrin.core.scoring.manner import economy_line, holding_lines, safety_lines
from meldrin.core.scoring.result import StringResult
from meldrin.core.scoring.rubric import Rubric, rubric
from meldrin.core.scoring.rules import RULE_IDS, Moment, Rule, rules_of
from meldrin.core.scoring.sides import NO_SIDES, Sides, sides_of
from meldrin.core.scoring.watch import Watched, watched
from meldrin.core.sound.references import SOURCE_NAMES
from meldrin.core.words import capital, cents_said, how_far, whole_cents


@dataclass(frozen=True, slots=True)
class Accuracy:
    """How far the strings of the plan are from their targets, in cents: the middle and the worst
    one, at the start and at the end; infinite where strings are slack.
    """

    median_cents: float
    worst_cents: float
    worst: str
    began_median_cents: float
    began_worst_cents: float


@dataclass(frozen=True, slots=True)
class Score:
    """The result of an attempt.

    points: of 100, or None in free play.
    caps: what the total is at most, and why.
    strings: in the order of the plan.
    by_ear, judged_by_ear_of: how many strings of how many were tuned by ear alone; those that the
        plan reads from a tuner are not counted.
    practice: why no string is called “by ear”, in a sentence; empty where it may be.
    counts_in_a_row: a start that nobody knew, of so few strings that one lucky turn could do it.
    sides: how often low or high was named rightly before the first turn.
    closing_cents: how much wider the pair of the last check lies than the plan has it (negative:
        narrower), or None without a check.
    bias_cents: how far the judgements lie above the truth on average, or None without one.
    well: what went well, in a sentence.
    found: what was wrong with the instrument and whether it was found, in a sentence; empty where
        that was not the question.
    chord: what was said after the chord and whether it was so, in a sentence; empty where nothing
        was.
    """

    points: float | None
    lines: tuple[Line, ...]
    caps: tuple[Cap, ...]
    strings: tuple[StringResult, ...]
    accuracy: Accuracy
    by_ear: int
    judged_by_ear_of: int
    rules: tuple[Rule, ...]
    moments: tuple[Moment, ...]
    closing_cents: float | None
    bias_cents: float | None
    well: str
    advice: Advice
    chord: str = ""
    found: str = ""
    practice: str = ""
    sides: Sides = NO_SIDES
    counts_in_a_row: bool = False


def score(exercise: Exercise, log: Sequence[TimedAction]) -> Score:
    """Score an attempt by playing its list of actions again.

    Where strings were mended after the check with the tuner, or one string alone after the answer
    that came at once, the better of the two counts: how they stood before, or what they are worth
    with that help.
    """
    whole = _scored(exercise, log)
    told = next((n for n, one in enumerate(log) if _tells(exercise, one.action)), None)
    if told is None or whole.points is None:
        return whole
    if not any(isinstance(one.action, Turn) for one in log[told:]):
        return whole
    before = _scored(exercise, log[: told + 1])
    return before if (before.points or 0.0) > whole.points else whole


def _tells(exercise: Exercise, action: Action) -> bool:
    if isinstance(action, Judge):
        return exercise.answers_at_once and len(exercise.plan.steps) == 1
    return isinstance(action, CheckWithTuner)


def _scored(exercise: Exercise, log: Sequence[TimedAction]) -> Score:
    rules = rubric()
    exactness = rules.tolerances[exercise.tolerance]
    seen = watched(exercise, log)
    results = _results(exercise, seen, exactness)
    accuracy = _accuracy(results)
    if exercise.method == FAULT:
        return _of_fault(exercise, log, seen.state, results, accuracy)
    if not exercise.plan.steps:
        return _free(exercise, results, accuracy)
    brought = frozenset(one.number for one in results if one.brought)
    tuned = Tuned(len(brought), len(results))
    technique = rules_of(exercise, seen, rules)
    lines = [
        *_string_lines(exercise, seen, results, exactness, rules),
        *_closing_lines(seen, rules, exactness),
        *judgement_lines(exercise, seen, rules, exactness, tuned=tuned),
        *_reference_line(seen, rules),
        *_technique_lines(technique, seen, rules, tuned),
        economy_line(exercise, seen, rules, tuned=tuned),
        *safety_lines(seen, rules, tuned=tuned),
        *holding_lines(exercise, seen, rules, exactness, brought=brought),
    ]
    caps = caps_of(exercise, seen, rules, [one.basis for one in results])
    practice = why_not_by_ear(exercise, caps)
    advised = advice(exercise, lines, caps, results, technique, seen)
    given, possible = sum(line.points for line in lines), sum(line.out_of for line in lines)
    most = min((cap.most for cap in caps), default=100.0)
    return Score(
        points=round(min(100.0 * given / possible, most), 1),
        lines=tuple(lines),
        caps=tuple(caps),
        strings=results,
        accuracy=accuracy,
        by_ear=0 if practice else sum(one.basis == "ear" for one in results),
        judged_by_ear_of=sum(not step.by_tuner for step in exercise.plan.steps),
        rules=technique,
        moments=_moments(technique, lines, seen, exactness),
        closing_cents=_closing_cents(seen.state),
        bias_cents=bias_of(seen, rules, exactness).cents,
        well=_well(lines, caps, rules, advised.habit),
        advice=advised,
        chord=_chord(seen.state),
        practice=practice,
        counts_in_a_row=of_few(exercise),
        sides=sides_of(seen, exactness),
    )


def _chord(state: State) -> str:
    return said_of_chord(state, state.named[-1]) if state.named else ""


def _of_fault(
    exercise: Exercise,
    log: Sequence[TimedAction],
    state: State,
    results: tuple[StringResult, ...],
    accuracy: Accuracy,
) -> Score:
    lines = fault_lines(exercise, log, state)
    return replace(
        _free(exercise, results, accuracy),
        points=round(sum(line.points for line in lines), 1),
        lines=tuple(lines),
        found=fault_headline(state),
        advice=next_fault(exercise, lines),
    )


def _free(exercise: Exercise, results: tuple[StringResult, ...], accuracy: Accuracy) -> Score:
    return Score(
        points=None,
        lines=(),
        caps=(),
        strings=results,
        accuracy=accuracy,
        by_ear=0,
        judged_by_ear_of=0,
        rules=(),
        moments=(),
        closing_cents=None,
        bias_cents=None,
        well="",
        advice=advice(exercise, (), (), results, (), None),
    )


def _results(exercise: Exercise, seen: Watched, exactness: Exactness) -> tuple[StringResult, ...]:
    state, plan, band = seen.state, exercise.plan, exactness.in_tune_cents
    found = []
    stages: list[tuple[int, int, Step | None]] = [
        (index, step.string, step) for index, step in enumerate(plan.steps)
    ] or [(-1, string.number, None) for string in exercise.instrument.strings]
    for index, number, step in stages:
        judged = seen.judged(index)
        off = pitch_cents(state, number)
        matched = off if step is None else matched_cents(state, step)
        heard = step is None or state.heard_since_turned(number)
        found.append(
            StringResult(
                number=number,
                label=plan.label(number),
                heard=heard,
                brought=heard and abs(matched) <= exactness.full_cents,
                basis="none" if step is None else basis_of(exercise, seen, index),
                began_cents=seen.began_cents[number - 1],
                pitch_cents=off,
                matched_cents=matched,
                judgement=judged[-1] if judged else None,
                moves=state.string(number).moves,
                overshoots=sum(
                    run.rising and run.before_cents < 0.0 and run.after_cents > band
                    for run in seen.runs_of(number)
                ),
                from_below=state.string(number).last_turn > 0,
            )
        )
    return tuple(found)


def _accuracy(results: Sequence[StringResult]) -> Accuracy:
    ends = [abs(one.pitch_cents) for one in results]
    begins = [abs(one.began_cents) for one in results]
    worst = max(results, key=lambda one: abs(one.pitch_cents))
    return Accuracy(median(ends), max(ends), worst.label, median(begins), max(begins))


def _string_lines(
    exercise: Exercise,
    seen: Watched,
    results: Sequence[StringResult],
    exactness: Exactness,
    rules: Rubric,
) -> list[Line]:
    lines = []
    for result, step in zip(results, exercise.plan.steps, strict=True):
        name, against = result.label, _against(exercise, seen.state, step)
        match_of = rules.points.match / len(results)
        pitch_of = rules.points.pitch / len(results)
        if not result.heard:
            text = capital(f"you did not play {name} with {against} after its last turn.")
            if step.by_tuner:
                text = capital(f"you did not play {name} after its last turn.")
            lines.append(Line("match", result.number, 0.0, match_of, text, broken=1.0))
            lines.append(Line("pitch", result.number, 0.0, pitch_of, text, broken=1.0))
            continue
        match = exactness.share(result.matched_cents)
        pitch = exactness.share(result.pitch_cents)
        text = f"{name} against {against}: {how_far(result.matched_cents)}."
        if match == 0.0:
            text += f" From {whole_cents(exactness.nothing_cents)} on it earns nothing."
        elif match < 1.0:
            text += f" Within {whole_cents(exactness.full_cents)} it earns all."
        lines.append(
            Line(
                "match", result.number, match * match_of, match_of, capital(text), broken=1 - match
            )
        )
        trusted = exercise.plan.trusted
        counted = f", counted from {exercise.plan.label(trusted)}" if trusted else ""
        if exercise.start == "group":
            counted = f" by the group’s A of {exercise.plays_at_hz:.0f} Hz"
        text = f"{name} against its target{counted}: {how_far(result.pitch_cents)}."
        if pitch < match and match == 1.0:
            text += " It agrees with its partner, which was out itself."
        lines.append(
            Line(
                "pitch", result.number, pitch * pitch_of, pitch_of, capital(text), broken=1 - pitch
            )
        )
    return lines


def _against(exercise: Exercise, state: State, step: Step) -> str:
    if step.by_tuner:
        return "its reading"
    if step.other.string is not None:
        return exercise.plan.label(step.other.string)
    return (
        "a right reference" if exercise.tests_reference else f"the {SOURCE_NAMES[state.rig.source]}"
    )


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


def _closing_lines(seen: Watched, rules: Rubric, exactness: Exactness) -> list[Line]:
    """Say how each check closes; it earns nothing before its strings have been heard."""
    state = seen.state
    checks = state.rig.plan.checks
    lines = []
    for check in checks:
        out_of = rules.points.closing / len(checks)
        name = check.title.partition(": ")[2]
        sides = [one.string for one in (check.own, check.other) if one.string is not None]
        unheard = [n for n in sides if not state.heard_since_turned(n)]
        wide = _wide_cents(state, check)
        sides_of_still = ("too wide", "too narrow")
        if check.sets_fret:
            wide = matched_cents(state, check)
            name, sides_of_still = f"fret {check.own.fret}, {name}", ("high", "low")
        if unheard:
            label = state.rig.plan.label(unheard[0])
            text = f"{name}: {label} was not heard after its last turn."
            lines.append(Line("closing", None, 0.0, out_of, capital(text), broken=1.0))
            continue
        if math.isinf(wide):
            how = "cannot be compared, with a slack string"
        elif abs(wide) < 0.05:
            how = "exactly as the plan leaves it"
        else:
            how = f"{cents_said(abs(wide))} {sides_of_still[wide < 0.0]}"
        share = exactness.share(wide)
        text = f"{name}: {how}." if check.sets_fret else f"{name}, {check.interval}: {how}."
        lines.append(
            Line("closing", None, share * out_of, out_of, capital(text), broken=1.0 - share)
        )
    return lines


def _reference_line(seen: Watched, rules: Rubric) -> list[Line]:
    state = seen.state
    if not state.exercise.tests_reference:
        return []
    out_of, rig = rules.points.reference, state.rig
    if rig.plan.reference.kind == "tuner":
        was, now, a4 = rig.tuner_a4_hz, state.tuner_a4_hz, state.exercise.a4_hz
        if now == a4:
            done = "was right" if was == a4 else f"stood at {was:g} Hz, and you set it to {a4:g}"
            return [Line("reference", None, out_of, out_of, f"The tuner {done}.")]
        text = f"The tuner stood at {now:g} Hz, so every string followed it away from {a4:g}."
        return [Line("reference", None, 0.0, out_of, text, broken=1.0)]
    off, said = rig.reference_cents, state.reference_verdict
    what = f"The {SOURCE_NAMES[rig.source]} was {'right' if off == 0.0 else how_far(off)}"
    truth = "in_tune" if off == 0.0 else "low" if off < 0.0 else "high"
    if said is None:
        share = 0.5 if off == 0.0 and state.judgements else 0.0
        text = f"{what}, and you did not check it."
        return [Line("reference", None, share * out_of, out_of, text, broken=1.0 - share)]
    share = 1.0 if said == truth else 0.5 if "in_tune" not in (said, truth) else 0.0
    words = "right" if said == "in_tune" else said
    text = f"{what}; you said it was {words}."
    return [Line("reference", None, share * out_of, out_of, text, broken=1.0 - share)]


def _technique_lines(
    technique: Sequence[Rule], seen: Watched, rules: Rubric, tuned: Tuned
) -> list[Line]:
    out_of = rules.points.technique / max(1, len(technique))
    lines = []
    for rule in technique:
        broken_s = [m.at_s for m in rule.moments if not m.kept and m.at_s < seen.ended_s]
        lines.append(
            tuned.line(
                "technique",
                None,
                rule.share,
                out_of,
                f"{rule.title}. {rule.sentence}",
                rule=rule.id,
                at_s=min(broken_s, default=None),
            )
        )
    return lines


def _moments(
    technique: Sequence[Rule], lines: Sequence[Line], seen: Watched, exactness: Exactness
) -> tuple[Moment, ...]:
    """Return the moments to go back to; what was left out sounds nowhere."""
    moments = [
        moment
        for rule in technique
        for moment in rule.moments
        if not moment.kept and moment.at_s < seen.ended_s
    ]
    moments += [
        Moment(line.at_s, 0.0, line.sentence, line.string, "danger")
        for line in lines
        if line.part == "safety" and line.at_s is not None
    ]
    for said in seen.state.judgements:
        if said.verdict == "in_tune" and abs(said.was_cents) > exactness.full_cents:
            number = seen.state.rig.plan.stages[said.stage].own.string
            label = seen.state.rig.plan.label(number or 1)
            text = f"You called {label} in tune; it was {how_far(said.was_cents)}."
            moments.append(Moment(said.at_s, 0.0, text, number, "called in tune"))
    return tuple(sorted(moments, key=lambda moment: moment.at_s))


WELL = {
    "match": "The strings agree well with what you tuned them to.",
    "pitch": "Every string is where the plan wants it.",
    "closing": "The checks at the end agree.",
    "judgement": "What you heard was so.",
    "bias": "Your judgements lean neither low nor high.",
    "reference": "You knew what your reference was worth.",
    "technique": "You turned as a good player turns.",
    "economy": "You needed few turns and little time.",
    "safety": "No string was ever in danger.",
    "holding": "What you tuned holds when it is played.",
}


def _corrected(habit: str) -> set[str]:
    """Return the parts that the advice for a habit is about."""
    if not habit or habit not in habits():
        return set()
    made = habits()[habit]
    own = {"technique" if made.own in RULE_IDS else made.own}
    return own | {part for part, weight in made.drags.items() if weight >= 1.0}


def _well(lines: Sequence[Line], caps: Sequence[Cap], rules: Rubric, habit: str) -> str:
    """Return what went best: the part with the largest share, the weightiest of equals. A part
    that help has given is no praise, nor is one that the advice is about, nor anything where the
    strings came little nearer.
    """
    best = ""
    best_key = (0.0, 0.0)
    if any(cap.most <= rules.most.not_turned or cap.kind == "luck" for cap in caps):
        return ""
    shown = any(cap.kind == "help" for cap in caps)
    corrected = _corrected(habit)
    for part, sentence in WELL.items():
        if part in corrected or (part == "match" and "pitch" in corrected):
            continue
        if shown and part in ("match", "pitch", "closing", "judgement", "bias"):
            continue
        out_of = sum(line.out_of for line in lines if line.part == part)
        got = sum(line.points for line in lines if line.part == part)
        if out_of and (round(got / out_of, 3), out_of) > best_key:
            best_key, best = (round(got / out_of, 3), out_of), sentence
    return best if best_key[0] >= 0.5 else "You made a start; the next one goes further."
