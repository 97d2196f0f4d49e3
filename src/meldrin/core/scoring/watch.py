"""An attempt's list run once more with open eyes: what was heard, turned and said, and when."""

from collections.abc import Sequence
from dataclasses import dataclass, field

from meldrin.core.bench import (
    Go,
    Judge,
    Settle,
    Setup,
    Sound,
    State,
    TimedAction,
    Turn,
    heard,
    judged_cents,
    opening,
    pitch_cents,
    step,
)
from meldrin.core.methods import Step

LINGERS_S = 20.0  # a string that still rings was sounded no longer ago
RUN_GAP_S = 2.0  # turns closer together than this, with nothing between them, are one


@dataclass(frozen=True, slots=True)
class Run:
    """Turns of one string in one direction, one after the other: offsets in cents from where the
    stage wants it before and after, whether the string was audible when it began, the stage.
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
    """Everything seen. `began_cents[n - 1]`: how far string n was from its note at the start."""

    state: State
    began_cents: tuple[float, ...]
    runs: list[Run] = field(default_factory=list)
    sounded: list[Sounded] = field(default_factory=list)
    settled: list[tuple[float, int]] = field(default_factory=list)
    gone: list[tuple[float, int]] = field(default_factory=list)
    judged_far: list[tuple[float, int, int]] = field(default_factory=list)
    turns: int = 0
    ended_s: float = 0.0

    def listened(self, stage: int) -> bool:
        """Whether both sides of a stage were sounded in it (or the string a tuner reads)."""
        return any(one.stage == stage and one.pair for one in self.sounded)

    def brought_by_ear(self, stage: int, string: int) -> bool:
        """Whether the stage was listened to, and the string’s last turn too: while its pair rang,
        or before it was left.
        """
        runs = self.runs_of(string)
        if not runs:
            return self.listened(stage)
        last = runs[-1]
        return any(
            one.pair
            and string in one.strings
            and (one.at_s >= last.ended_s or (last.audible and last.began_s - one.at_s < LINGERS_S))
            for one in self.sounded
            if one.stage in (stage, last.stage)
        ) and self.listened(stage)

    def runs_of(self, string: int) -> list[Run]:
        """The runs of a string, the first one first."""
        return [run for run in self.runs if run.string == string]


def watched(setup: Setup, log: Sequence[TimedAction], *, far_cents: float) -> Watched:
    """Run the list once and return what was seen."""
    state = opening(setup)
    count = len(setup.plan.tuning.midis)
    seen = Watched(state, tuple(pitch_cents(state, n) for n in range(1, count + 1)))
    stages = {stage.string: stage for stage in setup.plan.steps}
    gathering: Run | None = None
    for entry in log:
        action, before = entry.action, state
        state, _ = step(state, action, dt_s=entry.at_s - state.time_s)
        if isinstance(action, Turn) and action.degrees != 0.0:
            seen.turns += 1
            run = _run(before, state, action, stages)
            if gathering is not None and _goes_on(gathering, run):
                run = Run(
                    run.string,
                    run.stage,
                    run.rising,
                    gathering.began_s,
                    run.ended_s,
                    gathering.before_cents,
                    run.after_cents,
                    gathering.audible,
                    max(gathering.highest_cents, run.highest_cents),
                )
                seen.runs.pop()
            seen.runs.append(run)
            gathering = run
            continue
        if not isinstance(action, Sound):
            gathering = None if isinstance(action, Go | Judge | Settle) else gathering
        match action:
            case Sound():
                gathering = None
                seen.sounded.append(_sounded(state, action))
            case Settle():
                seen.settled.append((state.time_s, action.string))
            case Go():
                seen.gone.append((state.time_s, action.stage))
            case Judge():
                far = _far_string(state, far_cents)
                if far is not None:
                    seen.judged_far.append((state.time_s, state.stage, far))
            case _:
                pass
    seen.state = state
    seen.ended_s = state.time_s
    return seen


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
    )


def _goes_on(last: Run, run: Run) -> bool:
    return (
        last.string == run.string
        and last.stage == run.stage
        and last.rising == run.rising
        and run.began_s - last.ended_s < RUN_GAP_S
    )


def _sounded(state: State, action: Sound) -> Sounded:
    stage = state.current()
    pair: tuple[int | None, ...] = ()
    both = False
    if stage is not None:
        pair = (stage.own.string, stage.other.string)
        by_tuner = isinstance(stage, Step) and stage.by_tuner
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


def _far_string(state: State, far_cents: float) -> int | None:
    """Return a string of the plan, other than this stage's, that is still far from its note."""
    own = state.rig.plan.stages[state.stage].own.string
    for stage in state.rig.plan.steps:
        if stage.string != own and abs(pitch_cents(state, stage.string)) > far_cents:
            return stage.string
    return None
