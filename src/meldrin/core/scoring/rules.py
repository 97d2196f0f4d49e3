"""The ten rules of turning that a teacher watches, each with the moments it was kept or broken."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Final, Literal, get_args

from meldrin.core.bench import Setup
from meldrin.core.methods import Plan, Step
from meldrin.core.scoring.rubric import Rubric
from meldrin.core.scoring.watch import Run, Watched
from meldrin.core.words import capital

RuleId = Literal[
    "sounding",
    "decide",
    "small",
    "from_below",
    "mute",
    "passes",
    "settle",
    "stroke",
    "check",
    "fifths",
]
RULE_IDS: Final = get_args(RuleId)
FAR_STARTS: Final = ("slack", "octave", "retune", "damp")
SOME_CENTS: Final = 2.0  # nearer than this there is no way to be wrong about


@dataclass(frozen=True, slots=True)
class Moment:
    """A moment of an attempt to go back to, in a sentence; `string` None for no one string."""

    at_s: float
    kept: bool
    sentence: str
    string: int | None = None
    name: str = ""


@dataclass(frozen=True, slots=True)
class Rule:
    """A rule with its moments; `share` of its points, from 0 to 1."""

    id: RuleId
    title: str
    share: float
    sentence: str
    moments: tuple[Moment, ...]


@dataclass(frozen=True, slots=True)
class _Case:
    """What every rule looks at: `arrived` are the numbers of the strings that came near enough."""

    setup: Setup
    seen: Watched
    rules: Rubric
    arrived: frozenset[int]

    @property
    def plan(self) -> Plan:
        return self.setup.plan

    def on(self, behaviour: str) -> bool:
        return behaviour in self.setup.behaviours

    def label(self, number: int) -> str:
        return self.plan.label(number)

    def turned(self) -> list[Step]:
        """The steps whose string arrived and was turned."""
        return [
            step
            for step in self.plan.steps
            if step.string in self.arrived and self.seen.runs_of(step.string)
        ]


def rules_of(
    setup: Setup, seen: Watched, rules: Rubric, *, arrived: frozenset[int]
) -> tuple[Rule, ...]:
    """Return the rules this exercise asks for, in a teacher's order.

    A rule counts only as far as the strings it is seen on arrived: without arriving there is no way
    of getting there to praise.
    """
    case = _Case(setup, seen, rules, arrived)
    found = []
    for rule_id, title, look in _LOOKS:
        seen_moments = look(case)
        if seen_moments is None:
            continue
        moments = [replace(one, sentence=capital(one.sentence)) for one in seen_moments]
        kept = sum(moment.kept for moment in moments)
        share = kept / len(moments) if moments else 0.0
        reached = len(arrived) / max(1, len(setup.plan.steps))
        found.append(
            Rule(
                id=rule_id,
                title=title,
                share=share * reached,
                sentence=_summary(moments, reached),
                moments=tuple(sorted(moments, key=lambda moment: moment.at_s)),
            )
        )
    return tuple(found)


def _summary(moments: Sequence[Moment], reached: float) -> str:
    if not moments:
        return "There was no moment to see it in."
    broken = [moment for moment in moments if not moment.kept]
    if not broken:
        text = "Kept throughout."
    elif len(broken) == len(moments):
        text = broken[0].sentence if len(broken) == 1 else f"{broken[0].sentence} So every time."
    else:
        text = f"Kept {len(moments) - len(broken)} of {len(moments)} times. {broken[0].sentence}"
    if reached == 0.0:
        return f"{text} No string arrived, so it brings no points."
    if reached < 1.0:
        return f"{text} It counts for the {reached:.0%} of the strings that arrived."
    return text


def _sounding(case: _Case) -> list[Moment] | None:
    found = []
    for run in case.seen.runs:
        label = case.label(run.string)
        if not _belongs(case, run):
            stage = case.plan.stages[run.stage]
            own = case.label(stage.own.string or 0)
            text = f"You turned {label} while tuning {own}: the wrong peg."
            found.append(Moment(run.began_s, False, text, run.string, "wrong peg"))
        elif not run.audible:
            text = f"You turned {label} while it was silent."
            found.append(Moment(run.began_s, False, text, run.string, "turned while silent"))
        else:
            found.append(
                Moment(run.began_s, True, f"You turned {label} while it sounded.", run.string)
            )
    return found


def _belongs(case: _Case, run: Run) -> bool:
    stage = case.plan.stages[run.stage]
    if isinstance(stage, Step):
        return run.string == stage.string
    return run.string in (stage.own.string, stage.other.string)


def _decide(case: _Case) -> list[Moment] | None:
    found = []
    for step in case.turned():
        label = case.label(step.string)
        runs = [run for run in case.seen.runs_of(step.string) if _belongs(case, run)]
        first = next((run for run in runs if abs(run.before_cents) > SOME_CENTS), None)
        if first is None:
            continue
        away = (first.before_cents > 0.0) == first.rising
        further = abs(first.after_cents) - abs(first.before_cents)
        wrong = away and further > case.rules.limits.wrong_way_cents
        if wrong and not _loosened_first(case, first, runs):
            text = f"{label} was {_side(first.before_cents)}, and you first turned it further off."
            found.append(Moment(first.began_s, False, text, step.string, "wrong way"))
        else:
            text = f"You turned {label} the right way, or soon heard that it was the wrong one."
            found.append(Moment(first.began_s, True, text, step.string))
    return found


def _loosened_first(case: _Case, first: Run, runs: list[Run]) -> bool:
    """Whether a low string was let down a little and tightened in the same go, as a peg that
    sticks wants it: with nothing listened to in between, and nearer after it.
    """
    after = next((run for run in runs if run.began_s > first.ended_s), None)
    if after is None or first.rising or not after.rising:
        return False
    heard_between = any(
        first.ended_s < one.at_s < after.began_s and first.string in one.strings
        for one in case.seen.sounded
    )
    return not heard_between and abs(after.after_cents) < abs(first.before_cents)


def _side(cents: float) -> str:
    return "low" if cents < 0.0 else "high"


def _small(case: _Case) -> list[Moment] | None:
    found = []
    for step in case.turned():
        label = case.label(step.string)
        over = [
            run
            for run in case.seen.runs_of(step.string)
            if run.rising
            and run.before_cents < 0.0
            and case.rules.limits.overshoot_cents
            < run.after_cents
            <= case.rules.limits.far_above_cents  # further is a matter of safety
        ]
        for run in over:
            text = f"{label} was turned {run.after_cents:.0f} cents past its pitch."
            found.append(Moment(run.ended_s, False, text, step.string, "overshoot"))
        if not over:
            at_s = case.seen.runs_of(step.string)[-1].ended_s
            found.append(Moment(at_s, True, f"{label} was never turned past it.", step.string))
    return found


def _from_below(case: _Case) -> list[Moment] | None:
    found = []
    for step in case.turned():
        last = case.seen.runs_of(step.string)[-1]
        label = case.label(step.string)
        if last.rising:
            text = f"{label} arrived from below, so no slack is left behind the nut."
            found.append(Moment(last.ended_s, True, text, step.string))
        else:
            text = (
                f"{label} arrived from above. Go clearly below and come up, or slack behind the"
                " nut lets it drop later."
            )
            found.append(Moment(last.ended_s, False, text, step.string, "arrived from above"))
    return found


def _mute(case: _Case) -> list[Moment] | None:
    sounded = [one for one in case.seen.sounded if one.pair]
    if not case.on("ringing") and not any(one.others_rang for one in sounded):
        return None
    return [
        Moment(
            one.at_s,
            not one.others_rang,
            "Other strings rang along and blurred the pitch."
            if one.others_rang
            else "The others were kept quiet.",
            None,
            "others rang" if one.others_rang else "",
        )
        for one in sounded
    ]


def _passes(case: _Case) -> list[Moment] | None:
    far = case.setup.start in FAR_STARTS
    if not (far or case.on("coupling") or case.on("creep")):
        return None
    found = []
    for at_s, stage, number in case.seen.judged_far[:1]:
        own = case.label(case.plan.stages[stage].own.string or 0)
        text = f"You polished {own} while {case.label(number)} was still far out."
        found.append(Moment(at_s, False, text, number, "polished too soon"))
    for step in case.turned():
        index = case.plan.steps.index(step)
        label = case.label(step.string)
        done_s = min(
            (said.at_s for said in case.seen.state.judged(index)),
            default=case.seen.runs_of(step.string)[-1].ended_s,
        )
        left_s = min((at for at, _ in case.seen.gone if at > done_s), default=done_s)
        later = [
            one
            for one in case.seen.sounded
            if one.pair
            and one.at_s > left_s
            and step.string in one.strings
            and (one.stage == index or one.stage >= len(case.plan.steps))
        ]
        if later or step is case.plan.steps[-1]:
            text = f"You went back to {label} after the others had moved it."
            found.append(Moment(later[-1].at_s if later else done_s, True, text, step.string))
        else:
            text = f"You did not go back to {label}, which every later turn has moved."
            found.append(Moment(case.seen.ended_s, False, text, step.string, "one pass only"))
    return found


def _settle(case: _Case) -> list[Moment] | None:
    if not (case.on("nut") or case.on("creep")):
        return None
    found = []
    for step in case.turned():
        label, first = case.label(step.string), case.seen.runs_of(step.string)[0].began_s
        pulls = [at for at, number in case.seen.settled if number == step.string and at > first]
        if pulls:
            text = f"You pulled {label} to settle it."
            found.append(Moment(pulls[0], True, text, step.string))
        else:
            text = f"{label} was not settled by a pull, and may drop later."
            found.append(Moment(case.seen.ended_s, False, text, step.string, "not settled"))
    return found


def _stroke(case: _Case) -> list[Moment] | None:
    found = []
    strengths = [one.strength for one in case.seen.sounded if one.pair]
    if strengths and max(strengths) - min(strengths) > case.rules.limits.stroke_swing:
        worst = max(case.seen.sounded, key=lambda one: one.strength)
        text = "Your strokes were now soft, now hard; a hard one starts sharp."
        found.append(Moment(worst.at_s, False, text, None, "uneven strokes"))
    elif strengths:
        found.append(Moment(case.seen.sounded[0].at_s, True, "You struck evenly."))
    hasty = 0
    judgements = case.seen.state.judgements
    for said in judgements:
        before = [o.at_s for o in case.seen.sounded if o.at_s <= said.at_s and o.pair]
        if before and said.at_s - before[-1] < case.rules.limits.attack_s:
            hasty += 1
            text = "You judged within the attack, before the pitch had settled."
            found.append(Moment(said.at_s, False, text, None, "read in the attack"))
    if judgements and not hasty:
        found.append(Moment(judgements[0].at_s, True, "You waited until the attack was over."))
    return found


def _check(case: _Case) -> list[Moment] | None:
    if not case.plan.checks:
        return None
    found = []
    for index in range(len(case.plan.steps), len(case.plan.stages)):
        title = case.plan.stages[index].title
        if case.seen.listened(index):
            at_s = max(one.at_s for one in case.seen.sounded if one.stage == index)
            found.append(Moment(at_s, True, f"You listened to “{title}”."))
        else:
            text = f"You left out “{title}”."
            found.append(Moment(case.seen.ended_s, False, text, None, "check left out"))
    return found


def _fifths(case: _Case) -> list[Moment] | None:
    if case.plan.method != "fifths":
        return None
    found = []
    for index, step in enumerate(case.plan.steps):
        if "fifth" not in step.interval or step.string not in case.arrived:
            continue
        runs = [run.ended_s for run in case.seen.runs if run.stage == index]
        last = max(runs, default=0.0)
        left = [at for at, stage in case.seen.gone if at > last and stage != index]
        until = min([*left, case.seen.ended_s])
        heard = [
            one.at_s
            for one in case.seen.sounded
            if one.stage == index and one.pair and last - 0.01 < one.at_s < until
        ]
        label = case.label(step.string)
        rang = [later - at for at, later in pairwise([*heard, until])]
        if max(rang, default=0.0) >= case.rules.limits.lock_s:
            found.append(
                Moment(
                    heard[0], True, f"You let {label}’s fifth ring until it locked.", step.string
                )
            )
        else:
            text = f"You left {label}’s fifth before it had time to lock."
            found.append(Moment(until, False, text, step.string, "left too soon"))
    return found or None


_Look = Callable[[_Case], list[Moment] | None]
_LOOKS: Final[tuple[tuple[RuleId, str, _Look], ...]] = (
    ("sounding", "Turn the right peg while it sounds", _sounding),
    ("decide", "Decide first, then turn", _decide),
    ("small", "Small turns, not past the pitch", _small),
    ("from_below", "Arrive from below", _from_below),
    ("mute", "Keep the others quiet", _mute),
    ("passes", "Coarse before fine, and round again", _passes),
    ("settle", "Settle each string", _settle),
    ("stroke", "Strike evenly, read after the attack", _stroke),
    ("check", "Check at the end", _check),
    ("fifths", "Let a fifth lock", _fifths),
)
RULE_TITLES: Final = {rule_id: title for rule_id, title, _ in _LOOKS}
