"""An attempt's list played once more: what was heard, turned and pulled, and when."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

from meldrin.core.bench import (
    Action,
    Exercise,
    GoTo,
    Judge,
    Judgement,
    Play,
    PlayAMinute,
    PutOut,
    Settle,
    State,
    TimedAction,
    Turn,
    heard,
    judged_cents,
    matched_cents,
    opening,
    pitch_cents,
    played,
)
from meldrin.core.changed import changed
from meldrin.core.methods import Step
from meldrin.core.session import Played

RUN_GAP_S = 2.0  # turns closer together than this, with nothing between them, are one


@dataclass(frozen=True, slots=True)
class Run:
    """Turns of one string in one direction, one after the other: offsets in cents from where the
    stage wants it before and after, whether the string was audible when it began, the stage, and
    whether the instrument lay.
    """

    string: int
    stage: int
    rising: bool
    began_s: float
    ended_s: float
    before_cents: float
    after_cents: float
    audible: bool
    highest_cents: float
    lying: bool = False


@dataclass(frozen=True, slots=True)
class Sounded:
    """A moment something was made to sound: its stage, whether both sides of that sounded then,
    whether strings outside of it rang as well, and the strength of the stroke.
    """

    at_s: float
    stage: int
    strings: tuple[int, ...]
    pair: bool
    others_rang: bool
    strength: float


@dataclass(slots=True)
class Watched:
    """Everything that was seen of an attempt.

    began_cents: how far each string was from its note at the start, string 1 first.
    match_began_cents: how far it was from its partner, by the steps of the plan.
        Both count from when it was last put out again.
    spent_s: how long was spent on strings before they were put out again; again_s: when one last
        was.
    unpushed: strings whose peg was last turned without being pushed in.
    """

    state: State
    began_cents: list[float]
    match_began_cents: list[float]
    runs: list[Run] = field(default_factory=list)
    sounded: list[Sounded] = field(default_factory=list)
    settled: list[tuple[float, int]] = field(default_factory=list)
    gone: list[tuple[float, int]] = field(default_factory=list)
    unpushed: set[int] = field(default_factory=set)
    turns: int = 0
    spent_s: float = 0.0
    again_s: float = 0.0
    ended_s: float = 0.0

    def heard_in(self, stage: int) -> bool:
        """Whether both sides of a stage sounded together in it (or the string a tuner reads)."""
        return any(one.stage == stage and one.pair for one in self.sounded)

    def judged(self, stage: int) -> tuple[Judgement, ...]:
        """What was said of a stage before all strings were checked with the tuner; where an answer
        came at once, what was said first.
        """
        checked_s = self.state.checked_s
        said = self.state.judged(stage)
        if self.state.exercise.answers_at_once:
            said = said[:1]
        return said if checked_s is None else tuple(one for one in said if one.at_s <= checked_s)

    def runs_of(self, string: int) -> list[Run]:
        """The runs of a string, the first one first."""
        return [run for run in self.runs if run.string == string]


def watched(exercise: Exercise, log: Sequence[TimedAction]) -> Watched:
    """Play the list once and return what was seen."""
    state = opening(exercise)
    count = len(exercise.plan.tuning.midis)
    seen = Watched(
        state,
        [pitch_cents(state, n) for n in range(1, count + 1)],
        [matched_cents(state, step) for step in exercise.plan.steps],
    )
    stages = {stage.string: stage for stage in exercise.plan.steps}
    gathering: Run | None = None
    tuned: State | None = None  # as the strings were before a minute that nothing was turned after
    for one in played(exercise, log):
        gathering = _noted(seen, one, stages, gathering)
        seen.state = one.after
        if isinstance(one.entry.action, PlayAMinute):
            tuned = tuned or one.before
        elif isinstance(one.entry.action, Turn | Settle):
            tuned = None
    seen.ended_s = seen.state.time_s
    if tuned is not None:  # what the minute moved is a matter of holding, and of nothing else
        seen.state = changed(
            seen.state,
            strings=tuned.strings,
            give_m=tuned.give_m,
            swell_m=tuned.swell_m,
            lying=tuned.lying,
        )
    return seen


def _noted(
    seen: Watched, one: Played[State, Action], stages: dict[int, Step], gathering: Run | None
) -> Run | None:
    """Note one action, and return the run of turns that the next one may go on with."""
    action, after = one.entry.action, one.after
    match action:
        case Turn() if action.degrees != 0.0:
            seen.turns += 1
            (seen.unpushed.discard if action.pushed else seen.unpushed.add)(action.string)
            run = _run(one.before, after, action, stages)
            if gathering is not None and _goes_on(gathering, run):
                highest = max(gathering.highest_cents, run.highest_cents)
                run = replace(
                    gathering,
                    ended_s=run.ended_s,
                    after_cents=run.after_cents,
                    highest_cents=highest,
                )
                seen.runs.pop()
            seen.runs.append(run)
            return run
        case Play():
            seen.sounded.append(_sounded(after, action))
            return None
        case Settle():
            seen.settled.append((after.time_s, action.string))
            return None
        case GoTo():
            seen.gone.append((after.time_s, action.stage))
            return None
        case Judge():
            return None
        case PutOut():
            _begin_again(seen, one)
            return None
        case _:
            return gathering


def _begin_again(seen: Watched, one: Played[State, Action]) -> None:
    """Count a string that was put out again from there: how far out it is, its turns, its time."""
    after = one.after
    step = after.rig.plan.steps[after.stage]
    seen.runs = [run for run in seen.runs if run.string != step.string]
    seen.began_cents[step.string - 1] = pitch_cents(after, step.string)
    seen.match_began_cents[after.stage] = matched_cents(after, step)
    since_s = max((at for at, _ in seen.gone), default=0.0)
    seen.spent_s += after.time_s - max(since_s, seen.again_s)
    seen.again_s = after.time_s


def _run(before: State, after: State, action: Turn, stages: dict[int, Step]) -> Run:
    stage = stages.get(action.string)
    if stage is None:
        cents = (pitch_cents(before, action.string), pitch_cents(after, action.string))
    else:
        # against the reference as it sounded: a hand can go by nothing else
        cents = (judged_cents(before, stage), judged_cents(after, stage))
    audible = any(
        voice.string == action.string and not voice.along and voice.audible_s >= after.time_s
        for voice in before.ringing
    )
    return Run(
        string=action.string,
        stage=after.stage,
        rising=action.degrees > 0.0,
        began_s=after.time_s,
        ended_s=after.time_s,
        before_cents=cents[0],
        after_cents=cents[1],
        audible=audible,
        highest_cents=pitch_cents(after, action.string),
        lying=after.lying,
    )


def _goes_on(last: Run, run: Run) -> bool:
    return (
        last.string == run.string
        and last.stage == run.stage
        and last.rising == run.rising
        and run.began_s - last.ended_s < RUN_GAP_S
    )


def _sounded(state: State, action: Play) -> Sounded:
    stage = state.current()
    pair: tuple[int | None, ...] = ()
    both = False
    if stage is not None:
        pair = (stage.own.string, stage.other.string)
        by_tuner = stage.by_tuner
        both = stage.own.string in action.strings if by_tuner else heard(state) is not None
    strings = [n for n in pair if n is not None]
    others = any(
        voice.string is not None
        and voice.string not in strings
        and (voice.along or voice.audible_s > state.time_s)
        for voice in state.ringing
    )
    return Sounded(
        at_s=state.time_s,
        stage=state.stage,
        strings=action.strings,
        pair=both,
        others_rang=others and stage is not None,
        strength=action.strength,
    )
