"""One piece of advice: the habit that costs most, said as the next thing to try, and the exercise
in which it matters.
"""

import tomllib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cache
from importlib import resources
from typing import Any, Final

from meldrin.core.bench import FAULT, FREE, Aid, Behaviour, Exercise, StartKind
from meldrin.core.bench.guiding import next_string
from meldrin.core.bench.limits import limits
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.scoring.findings import Cap
from meldrin.core.scoring.line import Line
from meldrin.core.scoring.result import StringResult
from meldrin.core.scoring.rules import Rule
from meldrin.core.scoring.watch import Watched
from meldrin.core.words import capital, listed, whole_cents

SENT_ON_FROM: Final = 98.0  # points of 100: who has these is sent on, not polished
WORTH_SAYING: Final = 0.4  # points: for less there is nothing to mend
SHOWS_FROM: Final = 0.15  # the share of its own part that a habit spoils before it is one
MOST_NAMED: Final = 6  # strings in a sentence; more are counted
FINDINGS: Final = ("wrong_octave", "wrong_note", "not_turned")


@dataclass(frozen=True, slots=True)
class Advice:
    """What to change next, in a sentence, and the exercise that trains it (with a seed
    to be drawn), and what its button says. `habit`: what is to change, empty for nothing.
    `finer_cents`: the tolerance it asks for, where that is finer.
    """

    habit: str
    sentence: str
    exercise: Exercise
    button: str
    finer_cents: float | None = None


@dataclass(frozen=True, slots=True)
class Habit:
    """How a habit shows and what it drags along, and its cure; see the data file."""

    own: str
    rank: int
    drags: Mapping[str, float]
    sentence: str
    button: str
    names: tuple[str, ...] = ()
    start: StartKind | None = None
    behaviours: tuple[Behaviour, ...] = ()
    aid: Aid | None = None
    out_cents: float = 0.0


@cache
def habits() -> dict[str, Habit]:
    """Return the habits by name."""
    text = (resources.files("meldrin.core.scoring") / "habits.toml").read_text(encoding="utf-8")
    table = tomllib.loads(text)
    table.pop("format")
    return {name: _habit(name, row) for name, row in table.items()}


def _habit(name: str, row: dict[str, Any]) -> Habit:
    lists = {key: tuple(row.get(key, ())) for key in ("names", "behaviours")}
    row = {**row, **lists}
    try:
        return Habit(**row)
    except TypeError as error:
        raise MeldrinError(Code.HABITS, f"Habit {name}: {error}.") from error


def advice(
    exercise: Exercise,
    lines: Sequence[Line],
    caps: Sequence[Cap],
    results: Sequence[StringResult],
    rules: Sequence[Rule],
    seen: Watched | None,
) -> Advice:
    """Return the advice for the habit that explains most of what was lost.

    A wrong note comes first, or that nothing was turned, then strings that were never heard:
    nothing else helps before those.
    """
    worst = max(results, key=lambda result: abs(result.matched_cents))
    if exercise.method in (FREE, FAULT) or seen is None:
        # what goes with free play alone is left: a string that is trusted, a drone
        exercise = replace(exercise, method="each", aid=None, itself=False, source="")
        return Advice("", "Now follow a plan, and be told how it went.", exercise, "Follow a plan")
    if exercise.guided:
        return _one_more(exercise, worst)
    found = next((cap for cap in caps if cap.kind in FINDINGS), None)
    if found is not None:
        string = next((one for one in results if one.number == found.string), worst)
        return _advised(exercise, found.kind, string)
    left = [one.label for one in results if not one.heard]
    if left:
        which = listed(left) if len(left) <= MOST_NAMED else f"{len(left)} strings were left"
        sentence = f"Play every string with its partner after its last turn: {which}."
        return replace(_advised(exercise, "no_check", worst), habit="not_heard", sentence=sentence)
    causes = _causes(lines, caps, results, rules)
    habit = min(causes, key=lambda name: (habits()[name].rank, -causes[name]), default="")
    given, possible = sum(line.points for line in lines), sum(line.out_of for line in lines)
    if not habit or 100.0 * given / possible >= SENT_ON_FROM:
        return _sent_on(exercise, results)
    return _advised(exercise, habit, worst)


def _one_more(exercise: Exercise, only: StringResult) -> Advice:
    """Return what comes after a guided string: the next one, or the same once more."""
    after = next_string(exercise)
    if not only.brought or after is None:
        sentence = "Listen until the wobble stops, and only then say it."
        return Advice("", sentence, replace(exercise, out_cents=0.0), "The same once more")
    label = exercise.plan.label(after)
    more = replace(exercise, out_string=after, out_cents=0.0)
    return Advice("", f"Now {label}, the same way.", more, f"One more: {label}")


def _causes(
    lines: Sequence[Line],
    caps: Sequence[Cap],
    results: Sequence[StringResult],
    rules: Sequence[Rule],
) -> dict[str, float]:
    """Return by habit the points that are put down to it: what its own rule or part lost, and its
    share of the parts it drags along. Only habits that show, and cost something, are there.
    """
    lost: dict[str, float] = {}
    out_of: dict[str, float] = {}
    for line in lines:
        name = line.rule or line.part
        lost[name] = lost.get(name, 0.0) + line.broken * line.out_of
        out_of[name] = out_of.get(name, 0.0) + line.out_of
    out_of["shown"] = 100.0 - min((cap.most for cap in caps if cap.kind == "help"), default=100.0)
    shown = any(one.basis in ("level", "tuner") for one in results)
    lost["shown"] = out_of["shown"] if shown else 0.0
    silent = sum(one.judgement is None for one in results) / len(results)
    lost["not_said"], out_of["not_said"] = silent, 1.0
    by_id = {rule.id: rule for rule in rules}
    causes = {}
    for name, habit in habits().items():
        if habit.own in FINDINGS or not out_of.get(habit.own):
            continue
        share = lost[habit.own] / out_of[habit.own]
        rule = by_id.get(habit.own)  # type: ignore[call-overload]
        if rule is not None and not rule.moments:
            continue  # what was never done shows no habit
        if rule is not None and habit.names:
            broken = sum(moment.name in habit.names for moment in rule.moments)
            share = broken / len(rule.moments)
        dragged = sum(weight * lost.get(part, 0.0) for part, weight in habit.drags.items())
        cost = share * out_of[habit.own] + (1.0 if habit.own == "match" else share) * dragged
        if share >= (0.0 if habit.own == "match" else SHOWS_FROM) and cost >= WORTH_SAYING:
            causes[name] = cost
    return causes


def _sent_on(exercise: Exercise, results: Sequence[StringResult]) -> Advice:
    """Return the next harder thing for who has nothing to mend."""
    helped = any(one.basis in ("ripple", "level", "tuner") for one in results)
    exercise = replace(exercise, start="month", came_from="", out_string=0, out_cents=0.0)
    if helped:
        sentence = "That went well. Next time take the picture away and do it by ear alone."
        return Advice("", sentence, replace(exercise, aid="ear"), "The same by ear alone")
    tighter = {"first": "settled", "settled": "together", "together": "fine"}
    if exercise.tolerance in tighter:
        exercise = replace(exercise, aid="ear", tolerance=tighter[exercise.tolerance])  # type: ignore[arg-type]
        cents = limits().tolerances[exercise.tolerance].full_cents
        said = whole_cents(cents)
        sentence = f"That went well. Ready for {said}?"
        return Advice("", sentence, exercise, f"By ear, within {said}", finer_cents=cents)
    sentence = "Nothing to mend. Try it on another instrument, or by another method."
    return Advice("", sentence, replace(exercise, aid="ear"), "Once more by ear")


def _advised(exercise: Exercise, name: str, worst: StringResult) -> Advice:
    habit = habits()[name]
    return Advice(
        habit=name,
        sentence=capital(habit.sentence.format(worst=worst.label)),
        exercise=advised_exercise(exercise, name, string=worst.number),
        button=capital(habit.button.format(worst=worst.label)),
    )


def advised_exercise(exercise: Exercise, name: str, *, string: int = 1) -> Exercise:
    """Return the exercise in which a habit matters; it puts this string out, if it puts out one."""
    habit = habits()[name]
    start = habit.start or exercise.start
    alone = start == "one"
    return replace(
        exercise,
        start=start,
        came_from=exercise.came_from if start == "retune" else "",
        behaviours=exercise.behaviours | set(habit.behaviours),
        out_string=string if alone else 0,
        out_cents=habit.out_cents if alone else 0.0,
        aid=habit.aid or exercise.aid,
    )
