"""The rules of turning that a teacher watches, each with the moments it was kept or broken.

Every rule is asked only where it is in the learner's hands: nothing is marked that the plan, the
start or the instrument demands.
"""

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Final, Literal, get_args

from meldrin.core.bench import Behaviour, Exercise, matched_cents, pitch_cents
from meldrin.core.bench.exercise import FAR_STARTS
from meldrin.core.bench.frame import laid
from meldrin.core.bench.turning import PULL_CENTS, bent
from meldrin.core.methods import Plan, Step
from meldrin.core.scoring.rubric import Rubric
from meldrin.core.scoring.watch import Run, Watched
from meldrin.core.words import capital, whole_cents

RuleId = Literal[
    "sounding",
    "peg",
    "decide",
    "small",
    "from_below",
    "mute",
    "passes",
    "settle",
    "stroke",
    "attack",
    "time",
    "check",
    "taken_up",
]
RULE_IDS: Final = get_args(RuleId)
MOST_MOMENTS: Final = 100
WRONG_PEGS: Final = 3  # turned so often, the rule is lost
SINKS_CENTS: Final = 1.1  # of its creep, a new string left high sinks back in ten minutes


@dataclass(frozen=True, slots=True)
class Moment:
    """A moment of an attempt to go back to, in a sentence; `string` None for no one string.
    `worth`: how far the rule was kept then, 0 to 1.
    """

    at_s: float
    worth: float
    sentence: str
    string: int | None = None
    name: str = ""

    @property
    def kept(self) -> bool:
        """Whether there is nothing to say against it."""
        return self.worth == 1.0


def first_moments(found: Sequence[Moment]) -> tuple[Moment, ...]:
    """Return the first hundred moments of each kind: an attempt of hours may have thousands."""
    counts: Counter[str] = Counter()
    kept = []
    for moment in found:
        counts[moment.name] += 1
        if counts[moment.name] <= MOST_MOMENTS:
            kept.append(moment)
    return tuple(kept)


@dataclass(frozen=True, slots=True)
class Rule:
    """A rule with its moments; `share` of it that was kept, from 0 to 1."""

    id: RuleId
    title: str
    share: float
    sentence: str
    moments: tuple[Moment, ...]


@dataclass(frozen=True, slots=True)
class _Case:
    """What every rule looks at."""

    exercise: Exercise
    plan: Plan
    seen: Watched
    rules: Rubric

    def on(self, behaviour: Behaviour) -> bool:
        return behaviour in self.exercise.behaviours

    def label(self, number: int) -> str:
        return self.plan.label(number)

    def turned(self) -> list[Step]:
        """The steps whose string was turned, and is still on."""
        state = self.seen.state
        return [
            step
            for step in self.plan.steps
            if not state.string(step.string).broken and self.own_runs(step)
        ]

    def own_runs(self, step: Step) -> list[Run]:
        """The turns of a string while it, and no other, was to be turned."""
        return [run for run in self.seen.runs_of(step.string) if self.belongs(run)]

    def belongs(self, run: Run) -> bool:
        """Whether a stage has this string to be turned."""
        stage = self.plan.stages[run.stage]
        if isinstance(stage, Step):
            return run.string == stage.string
        return run.string in stage.strings


def rules_of(exercise: Exercise, seen: Watched, rules: Rubric) -> tuple[Rule, ...]:
    """Return the rules this exercise asks for, in a teacher's order."""
    case = _Case(exercise, exercise.plan, seen, rules)
    found = []
    for rule_id, title, look in _LOOKS:
        seen_moments = look(case)
        if seen_moments is None:
            continue
        moments = [replace(one, sentence=capital(one.sentence)) for one in seen_moments]
        kept = sum(moment.worth for moment in moments)
        share = kept / len(moments) if moments else 0.0
        if rule_id == "peg":
            wrong = sum(not moment.kept for moment in moments)
            share = max(0.0, 1.0 - wrong / WRONG_PEGS) if moments else 0.0
        found.append(
            Rule(
                id=rule_id,
                title=title,
                share=share,
                sentence=_summary(moments),
                moments=tuple(sorted(moments, key=lambda moment: moment.at_s)),
            )
        )
    return tuple(found)


def _summary(moments: Sequence[Moment]) -> str:
    if not moments:
        return "There was no moment to see it in."
    broken = [moment for moment in moments if not moment.kept]
    if not broken:
        return "Kept throughout."
    if len(broken) == len(moments):
        each = "" if len(broken) == 1 else " The same each time."
        return f"{broken[0].sentence}{each}"
    return f"Kept {len(moments) - len(broken)} of {len(moments)} times. {broken[0].sentence}"


def _sounding(case: _Case) -> list[Moment] | None:
    found = []
    for run in case.seen.runs:
        label = case.label(run.string)
        if not case.belongs(run):
            continue  # that is the rule of the right peg
        if run.audible:
            text = f"you turned {label} while it sounded."
            found.append(Moment(run.began_s, 1.0, text, run.string))
        else:
            text = f"you turned {label} while it was silent."
            found.append(Moment(run.began_s, 0.0, text, run.string, "turned while silent"))
    return found


def _peg(case: _Case) -> list[Moment] | None:
    found = []
    for run in case.seen.runs:
        if run.stage == 0 and run.string in case.plan.near_first:
            continue  # the plan asks for it
        label = case.label(run.string)
        if case.belongs(run):
            found.append(Moment(run.began_s, 1.0, f"you turned {label}.", run.string))
        else:
            own = case.label(case.plan.stages[run.stage].own.string or 0)
            word = case.exercise.instrument.string(run.string).peg.word
            text = f"you turned {label} while tuning {own}: the wrong {word}."
            found.append(Moment(run.began_s, 0.0, text, run.string, f"wrong {word}"))
    return found


def _decide(case: _Case) -> list[Moment] | None:
    if not case.exercise.decides:
        return None
    return [_decided(case, step) for step in case.turned()]


def _decided(case: _Case, step: Step) -> Moment:
    """Return what the first turn of a string was worth: half for who cannot tell, as for a guess
    that is right half of the time.
    """
    label, index = case.label(step.string), case.plan.steps.index(step)
    runs = case.own_runs(step)
    first = runs[0]
    state = case.seen.state
    decided = next(
        (one for one in state.decisions if one.stage == index and one.at_s <= first.began_s), None
    )
    judged = next((one for one in state.judged(index) if one.at_s <= first.began_s), None)
    if decided is None and judged is None:
        text = f"you turned {label} before saying whether it was low or high."
        return Moment(first.began_s, 0.0, text, step.string, "turned before deciding")
    said = decided.verdict if decided else judged.verdict if judged else "unsure"
    was = decided.was_cents if decided else judged.was_cents if judged else 0.0
    if said in ("unsure", "in_tune"):
        text = f"you could not tell whether {label} was low or high."
        return Moment(first.began_s, 0.5, text, step.string, "could not tell")
    # of a string that is within the tolerance already, either side will do
    near = case.rules.tolerances[case.exercise.tolerance].full_cents
    if abs(was) > near and (said == "low") != (was < 0.0):
        text = f"you said {label} was {said}; it was {_side(was)}."
        return Moment(first.began_s, 0.0, text, step.string, "wrong side")
    moved = first.after_cents - first.before_cents
    against = first.rising == (said == "high")
    far = abs(moved) > case.rules.limits.wrong_way_cents
    if against and far and not _loosened_first(case, first, runs):
        text = f"you said {label} was {said}, and first turned it the other way."
        return Moment(first.began_s, 0.0, text, step.string, "wrong way")
    return Moment(first.began_s, 1.0, f"you said {label} was {said}, and it was.", step.string)


def _loosened_first(case: _Case, first: Run, runs: list[Run]) -> bool:
    """Whether a low string was let down a little and tightened in the same go, as a peg that
    sticks wants it: with nothing listened to in between.
    """
    after = next((run for run in runs if run.began_s > first.ended_s), None)
    if after is None or first.rising or not after.rising:
        return False
    return not any(
        first.ended_s < one.at_s < after.began_s and first.string in one.strings
        for one in case.seen.sounded
    )


def _side(cents: float) -> str:
    return "low" if cents < 0.0 else "high"


def _small(case: _Case) -> list[Moment] | None:
    found = []
    for step in case.turned():
        label, runs = case.label(step.string), case.own_runs(step)
        most = case.rules.limits.overshoot_cents + _may_sink(case, step.string)
        over = [
            run
            for run in runs
            if run.rising
            and run.before_cents < 0.0
            # further is a matter of safety
            and most < run.after_cents <= case.rules.limits.far_above_cents
        ]
        for run in over:
            text = f"{label} was turned {whole_cents(round(run.after_cents))} past its pitch."
            found.append(Moment(run.ended_s, 0.0, text, step.string, "overshoot"))
        if not over:
            text = f"{label} was never turned past its pitch."
            found.append(Moment(runs[-1].ended_s, 1.0, text, step.string))
    return found


def _may_sink(case: _Case, number: int) -> float:
    """Return by how much a new string may be left high, since it sinks by itself."""
    odd = case.seen.state.rig.quirks[number - 1]
    new = case.exercise.start not in ("month", "damp")
    return SINKS_CENTS * odd.fresh_creep_cents if new else 0.0


def _from_below(case: _Case) -> list[Moment] | None:
    """Ask what is left behind the nut and in the machine: from above and pulled until it holds is
    as good as from below, and a last touch upwards takes out nothing.
    """
    if not (case.on("nut") or case.on("pegs")):
        return None
    found = []
    for step in case.turned():
        odd = case.seen.state.rig.quirks[step.string - 1]
        if not (odd.grip or odd.backlash_deg):
            continue
        label, last = case.label(step.string), case.own_runs(step)[-1]
        pulled = any(n == step.string and at > last.ended_s for at, n in case.seen.settled)
        if _holds(case, step.string):
            text = f"{label} holds: you {'pulled it' if pulled else 'came up to it from below'}."
            found.append(Moment(last.ended_s, 1.0, text, step.string))
            continue
        where = "behind the nut" if odd.grip else "in the machine"
        text = (
            f"{label} came from above and still has slack {where}. Come up from clearly below, or"
            " pull until it holds."
        )
        found.append(Moment(last.ended_s, 0.0, text, step.string, "came from above"))
    return found or None


def _holds(case: _Case, number: int) -> bool:
    state = case.seen.state
    pulled = bent(state, number, cents=PULL_CENTS)
    drops = pitch_cents(state, number) - pitch_cents(pulled, number)
    play = state.string(number).lost_deg
    return drops <= case.rules.limits.holds_cents and play < 1e-6


def _mute(case: _Case) -> list[Moment] | None:
    if case.exercise.instrument.kind == "bowed" or not case.on("ringing"):
        return None
    found = []
    for one in case.seen.sounded:
        if not one.pair:
            continue
        if one.others_rang:
            text = "other strings rang along and blurred the pitch."
            found.append(Moment(one.at_s, 0.0, text, None, "others rang"))
        else:
            found.append(Moment(one.at_s, 1.0, "you kept the others quiet."))
    return found


def _passes(case: _Case) -> list[Moment] | None:
    """Ask for a second look at what others have moved since."""
    steps = case.turned()
    far = case.exercise.start in FAR_STARTS
    if len(case.plan.steps) < 2 or not (far or case.on("coupling") or case.on("creep")):
        return None
    found = []
    for step in steps:
        index = case.plan.steps.index(step)
        label = case.label(step.string)
        done_s = min(
            (said.at_s for said in case.seen.state.judged(index)),
            default=case.own_runs(step)[-1].ended_s,
        )
        moved_s = [
            run.ended_s
            for run in case.seen.runs
            if run.string != step.string and run.began_s > done_s
        ]
        # a check that is heard and left as it is was no second look
        full = case.rules.tolerances[case.exercise.tolerance].full_cents
        agrees = abs(matched_cents(case.seen.state, step)) <= full
        if not moved_s and agrees:
            text = f"{label} came last."
            found.append(Moment(done_s, 1.0, text, step.string))
            continue
        left_s = min((at for at, _ in case.seen.gone if at > done_s), default=done_s)
        later = [
            one
            for one in case.seen.sounded
            if one.at_s > left_s
            and step.string in one.strings
            and (one.stage == index or (one.stage >= len(case.plan.steps) and agrees))
        ]
        if later:
            text = f"you went back to {label}."
            found.append(Moment(later[-1].at_s, 1.0, text, step.string))
        else:
            why = "the frame gives" if case.on("coupling") else "strings move each other"
            if case.on("creep") and not case.on("coupling"):
                why = "new strings sink"
            text = f"you did not go back to {label}, and {why}."
            if not moved_s:
                text = f"{label} came last, and you did not go back to it."
            found.append(Moment(case.seen.ended_s, 0.0, text, step.string, "one pass only"))
    return found


def _settle(case: _Case) -> list[Moment] | None:
    if not (case.on("nut") or case.on("creep")):
        return None
    found = []
    for step in case.turned():
        odd = case.seen.state.rig.quirks[step.string - 1]
        if not (odd.grip or odd.fresh_creep_cents):
            continue
        label, first = case.label(step.string), case.own_runs(step)[0].began_s
        pulls = [at for at, number in case.seen.settled if number == step.string and at > first]
        if pulls:
            text = f"you pulled {label} to settle it."
            found.append(Moment(pulls[0], 1.0, text, step.string))
        else:
            text = f"you did not pull {label} to settle it, so it may drop later."
            found.append(Moment(case.seen.ended_s, 0.0, text, step.string, "not settled"))
    return found or None


def _stroke(case: _Case) -> list[Moment] | None:
    strengths = [one.strength for one in case.seen.sounded if one.pair]
    if len(strengths) < 2:
        return None
    if max(strengths) - min(strengths) > case.rules.limits.stroke_swing:
        worst = max(case.seen.sounded, key=lambda one: one.strength)
        text = "your strokes were now soft, now hard; a hard one starts sharp."
        return [Moment(worst.at_s, 0.0, text, None, "uneven strokes")]
    return [Moment(case.seen.sounded[0].at_s, 1.0, "you struck evenly.")]


def _attack(case: _Case) -> list[Moment] | None:
    judgements = case.seen.state.judgements
    if not judgements:
        return None
    found = []
    for said in judgements:
        own = case.plan.stages[said.stage].own.string
        before = [
            one.at_s
            for one in case.seen.sounded
            if one.at_s <= said.at_s and (own in one.strings or one.pair)
        ]
        if before and said.at_s - before[-1] < case.rules.limits.attack_s:
            text = "you judged within the first moment of the note, before the pitch had settled."
            found.append(Moment(said.at_s, 0.0, text, own, "read in the attack"))
        else:
            found.append(Moment(said.at_s, 1.0, "you let the note settle first."))
    return found


def _time(case: _Case) -> list[Moment] | None:
    """Ask whether a pair was left to beat for long enough to be judged, up to some seconds."""
    found = []
    for index, step in enumerate(case.plan.steps):
        if step.by_tuner or step.string not in [one.string for one in case.turned()]:
            continue
        judged = case.seen.state.judged(index)
        runs = [run.ended_s for run in case.own_runs(step) if run.stage == index]
        last = max(runs, default=0.0)
        left = [at for at, stage in case.seen.gone if at > last and stage != index]
        ends = [said.at_s for said in judged[-1:] if said.at_s > last]
        until = min([*left, *ends, case.seen.ended_s])
        heard = [
            one.at_s
            for one in case.seen.sounded
            if one.stage == index
            and (one.pair or step.string in one.strings)
            and last - 0.01 < one.at_s < until
        ]
        label = case.label(step.string)
        wanted = min(case.rules.limits.longest_wait_s, step.seconds_to_hear)
        rang = [later - at for at, later in pairwise([*(heard or [last]), until])]
        if max(rang, default=0.0) >= wanted - 0.05:
            text = f"you let {label} ring long enough to hear a slow beat."
            found.append(Moment(until, 1.0, text, step.string))
        else:
            text = f"you left {label} before a slow beat could be heard."
            found.append(Moment(until, 0.0, text, step.string, "left too soon"))
    return found or None


def _check(case: _Case) -> list[Moment] | None:
    found = []
    for index, stage in enumerate(case.plan.checks, start=len(case.plan.steps)):
        if stage.again:
            continue  # that is the second pass, and has its own rule
        gone = list(stage.strings)
        if any(case.seen.state.string(n).broken for n in gone):
            continue
        title = stage.title
        if case.seen.heard_in(index):
            at_s = max(one.at_s for one in case.seen.sounded if one.stage == index)
            found.append(Moment(at_s, 1.0, f"you listened to “{title}”."))
        else:
            text = f"you left out “{title}”."
            found.append(Moment(case.seen.ended_s, 0.0, text, None, "check left out"))
    return found or None


_Look = Callable[[_Case], list[Moment] | None]


def _taken_up(case: _Case) -> list[Moment] | None:
    """Ask for the last turn of each string while the instrument was held, where that is heard."""
    if not case.on("lying"):
        return None
    up, down = (laid(case.seen.state, down=one) for one in (False, True))
    found = []
    for step in case.turned():
        label, last = case.label(step.string), case.own_runs(step)[-1]
        sharper = pitch_cents(down, step.string) - pitch_cents(up, step.string)
        if sharper <= case.rules.limits.holds_cents:
            continue
        if last.lying:
            text = f"you tuned {label} while the instrument lay."
            found.append(Moment(last.ended_s, 0.0, text, step.string, "tuned lying down"))
        else:
            text = f"you tuned {label} held as you play."
            found.append(Moment(last.ended_s, 1.0, text, step.string))
    return found or None


_LOOKS: Final[tuple[tuple[RuleId, str, _Look], ...]] = (
    ("sounding", "Turn while it sounds", _sounding),
    ("peg", "Turn the string you mean", _peg),
    ("decide", "Decide first, then turn", _decide),
    ("small", "Small turns, not past the pitch", _small),
    ("from_below", "Leave no slack behind", _from_below),
    ("mute", "Keep the others quiet", _mute),
    ("passes", "Go round again", _passes),
    ("settle", "Pull to settle each string", _settle),
    ("stroke", "Strike evenly", _stroke),
    ("attack", "Let the note settle, then judge", _attack),
    ("time", "Give a slow beat time", _time),
    ("check", "Check at the end", _check),
    ("taken_up", "Take it up, then tune", _taken_up),
)
RULE_TITLES: Final = {rule_id: title for rule_id, title, _ in _LOOKS}
