"""The reducer: one action, and the time since the last one, to the next state and its sound."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Final, assert_never

from meldrin.core.bench import ageing, turning, voices
from meldrin.core.bench.actions import (
    Action,
    Damp,
    Doubt,
    Finish,
    Go,
    Help,
    Judge,
    LetGo,
    Mute,
    Replace,
    Settle,
    SetTuner,
    Sound,
    Stop,
    Turn,
    Wait,
)
from meldrin.core.bench.observe import judged_cents
from meldrin.core.bench.opening import opening
from meldrin.core.bench.setup import Setup
from meldrin.core.bench.state import Judgement, State
from meldrin.core.bench.voices import Sounds
from meldrin.core.errors import MeldrinError, within
from meldrin.core.methods import Step

GLIDE_S: Final = 0.04  # a turn reaches the ear as a short glide, about one action at 20 a second
FINGER_GLIDE_S: Final = 0.012
LONGEST_S: Final = 24 * 3600.0


@dataclass(frozen=True, slots=True)
class TimedAction:
    """An action and when it was done, in seconds since the attempt began."""

    at_s: float
    action: Action


def replay(setup: Setup, log: Iterable[TimedAction]) -> State:
    """Run a list of actions; the same list gives the same state to the last bit."""
    state = opening(setup)
    for entry in log:
        state, _ = step(state, entry.action, dt_s=entry.at_s - state.time_s)
    return state


def step(state: State, action: Action, *, dt_s: float) -> tuple[State, Sounds]:
    """Return the state after `action`, done `dt_s` seconds after the last one, and what sounds.

    Raises:
        OutOfRange: for a time that runs backwards or past a day.
        MeldrinError: for what cannot be done (no such string, fret or stage; a string too slack or
            too tight; an attempt that is over); the state stays as it was.
    """
    within(dt_s, name="time since the last action", low=0.0, high=LONGEST_S, unit="s")
    if state.finished:
        raise MeldrinError("finished", "This attempt is finished; start a new one to go on.")
    now_s = state.time_s + dt_s
    still = tuple(voice for voice in state.ringing if voice.until_s > now_s)
    before = state.but(time_s=now_s, ringing=still)
    state = ageing.aged(before, seconds=dt_s)
    state, sounds = _done(state, action)
    moved = voices.retuned(before, state, glide_s=_glide_s(action))
    state, broke = voices.snapped(before, state)
    return state, (*sounds, *moved, *broke)


def _glide_s(action: Action) -> float:
    return FINGER_GLIDE_S if isinstance(action, Stop) else GLIDE_S


def _done(state: State, action: Action) -> tuple[State, Sounds]:
    match action:
        case Sound():
            return voices.begun(state, action)
        case Stop():
            return _stop(state, action), ()
        case Turn():
            return turning.turned(state, action), ()
        case LetGo():
            return turning.let_go(state, action), ()
        case Settle():
            return _settle(state, action)
        case Replace():
            return turning.replaced(state, action), ()
        case Damp():
            return voices.silenced(state)
        case Mute():
            return _mute(state, action)
        case Wait():
            state, sounds = voices.silenced(state)
            return ageing.aged(state, seconds=action.seconds), sounds
        case Judge():
            return _judge(state, action), ()
        case Doubt():
            return _doubt(state, action), ()
        case SetTuner():
            return state.but(tuner_a4_hz=action.a4_hz, tuner_mode=action.mode), ()
        case Go():
            return _go(state, action)
        case Help():
            return _help(state, action), ()
        case Finish():
            state, sounds = voices.silenced(state)
            return state.but(finished=True), sounds
        case _:
            assert_never(action)


def _stop(state: State, action: Stop) -> State:
    instrument = state.rig.instrument
    string = instrument.string(action.string)
    if not action.touch:
        if not instrument.frets and action.fret:
            raise MeldrinError("fret", f"The {instrument.short_name} has no frets to press behind.")
        if action.fret > instrument.frets or 0 < action.fret <= string.nut_fret:
            raise MeldrinError(
                "fret",
                f"There is no fret {action.fret:g}; this string has frets {string.nut_fret + 1} to"
                f" {instrument.frets}.",
            )
    held = state.string(action.string).but(
        fret=float(action.fret),
        touched=action.touch and action.fret > 0.0,
        hard=action.hard,
    )
    ringing = tuple(
        # a finger laid on while it rings stops it there; lifting a light one leaves it as it is
        voice.but(fret=held.fret, hard=held.hard, touched=False)
        if voice.string == action.string and not held.touched and not voice.touched
        else voice
        for voice in state.ringing
    )
    return state.with_string(action.string, held).but(ringing=ringing)


def _settle(state: State, action: Settle) -> tuple[State, Sounds]:
    state = turning.settled(state, action)
    keep = tuple(voice.string for voice in state.ringing if voice.string != action.string)
    return voices.silenced(state, keep=(*keep, None)) if keep else voices.silenced(state)


def _mute(state: State, action: Mute) -> tuple[State, Sounds]:
    state = state.but(muted=action.on)
    stage = state.current()
    if not action.on or stage is None:
        return state, ()
    state, sounds = voices.silenced(state, keep=(stage.own.string, stage.other.string))
    return state, sounds


def _judge(state: State, action: Judge) -> State:
    stage = state.current()
    if not isinstance(stage, Step):
        raise MeldrinError("no_judgement", "Only a string that is tuned to something is judged.")
    said = Judgement(
        stage=state.stage,
        verdict=action.verdict,
        cents=0.0 if action.verdict == "still" else action.cents,
        was_cents=judged_cents(state, stage),
        # Who has looked at the level since the last judgement knows the answer, whatever is on now.
        aid=state.seen,
        at_s=state.time_s,
        turns=state.string(stage.string).turns,
    )
    return state.but(judgements=(*state.judgements, said), seen="ear").seeing()


def _doubt(state: State, action: Doubt) -> State:
    """A reference that is called wrong is put away, and a right one taken."""
    if not state.setup.tests_reference:
        raise MeldrinError("reference", "The reference of this exercise is not in question.")
    if state.doubted is not None:
        raise MeldrinError("reference", "You have said already what you think of the reference.")
    off = state.reference_cents if action.verdict == "still" else 0.0
    return state.but(doubted=action.verdict, reference_cents=off)


def _go(state: State, action: Go) -> tuple[State, Sounds]:
    stages = len(state.rig.plan.stages)
    if not 0 <= action.stage < stages:
        raise MeldrinError("no_such_stage", f"The plan has stages 1 to {stages}.")
    state, sounds = voices.silenced(state)
    return state.at_stage(action.stage), sounds


def _help(state: State, action: Help) -> State:
    used = state.aids_used | {(state.stage, action.aid)}
    return state.but(aid=action.aid, aids_used=used).seeing()
