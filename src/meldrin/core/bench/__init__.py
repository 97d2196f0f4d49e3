"""The simulated instrument: a pure reducer, step(state, action, dt) -> state and sound events.

An attempt is its Exercise and the list of its timed actions; everything else is computed from them.
"""

from meldrin.core.bench.actions import (
    ACTIONS,
    Action,
    Aid,
    CheckWithTuner,
    Decide,
    FindFault,
    Finish,
    GoTo,
    Judge,
    JudgeReference,
    Lay,
    LayChord,
    LeaveOff,
    LetGo,
    MuteAll,
    MuteOthers,
    NameOut,
    Pace,
    Play,
    PlayAMinute,
    PutOut,
    Replace,
    SetAid,
    Settle,
    SetTuner,
    SlideFret,
    Stop,
    TimedAction,
    Turn,
    Verdict,
    Wait,
)
from meldrin.core.bench.exercise import (
    BEHAVIOURS,
    EXERCISES,
    FAULT,
    FREE,
    Behaviour,
    Exercise,
    StartKind,
    with_instrument,
    with_start,
)
from meldrin.core.bench.limits import Tolerance
from meldrin.core.bench.observe import PairBeat, heard, judged_cents, matched_cents, pitch_cents
from meldrin.core.bench.opening import begins, foreseen_cents, opening
from meldrin.core.bench.spot import Spot, came_to, spot_at
from meldrin.core.bench.state import Decided, Judgement, Minute, Ringing, Snap, State, StringState
from meldrin.core.bench.step import BENCH, played, replay, step
