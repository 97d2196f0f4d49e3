"""The reducer: one action, and the time since the last one, to the next state and its sound."""

from collections.abc import Iterable, Iterator
from typing import Final, assert_never

from meldrin.core import session
from meldrin.core.bench import actions as do
from meldrin.core.bench import (
    ageing,
    guiding,
    listening,
    naming,
    putting_out,
    sliding,
    turning,
    voices,
)
from meldrin.core.bench.actions import ACTIONS, Action, TimedAction
from meldrin.core.bench.exercise import EXERCISES, Exercise
from meldrin.core.bench.frame import laid
from meldrin.core.bench.limits import limits
from meldrin.core.bench.minute import played_a_minute
from meldrin.core.bench.observe import judged_cents
from meldrin.core.bench.opening import opening
from meldrin.core.bench.state import Decided, Judgement, State
from meldrin.core.changed import changed
from meldrin.core.errors import Code, MeldrinError, within
from meldrin.core.methods import Step
from meldrin.core.session import Played, Practice, Sounds

GLIDE_S: Final = 0.04  # a turn reaches the ear as a short glide, about one action at 20 a second
FINGER_GLIDE_S: Final = 0.012
LONGEST_S: Final = 24 * 3600.0
PRESS_SPREAD: Final = 0.25  # of a hard finger's depth, one time against the next
# The hand is off every peg; who plays a minute leaves them within that minute.
LEAVING: Final = (do.GoTo, do.Wait, do.Settle, do.Replace, do.Finish)
ENDING: Final = (do.Finish, do.MuteAll, do.LetGo)  # when the time is over


def step(state: State, action: Action, *, dt_s: float) -> tuple[State, Sounds]:
    """Return the state after `action`, done `dt_s` seconds after the last one, and what sounds.

    Raises:
        OutOfRange: for a time that runs backwards or past a day.
        MeldrinError: for what cannot be done (no such string, fret or stage; a string too slack or
            too tight; an attempt that is over); the state stays as it was.
    """
    within(dt_s, name="time since the last action", low=0.0, high=LONGEST_S, unit="s")
    if state.finished:
        raise MeldrinError(Code.FINISHED, "This attempt is finished; start a new one to go on.")
    now_s = state.time_s + dt_s
    limit_s = state.exercise.limit_s
    if limit_s and now_s > limit_s and not isinstance(action, ENDING):
        raise MeldrinError(Code.TIME_UP, "The time is over: finish.", limit_s=limit_s)
    state = listening.listened(state, now_s)
    still = state.ringing
    if any(voice.until_s <= now_s for voice in still):
        still = tuple(voice for voice in still if voice.until_s > now_s)
    before = changed(state, time_s=now_s, done=state.done + 1, ringing=still)
    state = _left_pegs(ageing.aged(before, seconds=dt_s), action)
    state, sounds = _done(state, action)
    moved = voices.retuned(before, state, glide_s=_glide_s(action))
    state, broke = voices.snapped(before, state)
    state = listening.seen(listening.remembered(before, state))
    return state, (*sounds, *moved, *broke)


def _left_pegs(state: State, action: Action) -> State:
    """Return the state with every peg let go that the hand leaves by this action: one that was not
    pushed in runs back, whether or not it was let go by itself.
    """
    turned = action.string if isinstance(action, do.Turn) else None
    if turned is None and not isinstance(action, LEAVING):
        return state
    for number, now in enumerate(state.strings, start=1):
        if now.loose and number != turned:
            state = turning.let_go(state, do.LetGo(number))
    return state


def _glide_s(action: Action) -> float:
    return FINGER_GLIDE_S if isinstance(action, do.Stop) else GLIDE_S


def _done(state: State, action: Action) -> tuple[State, Sounds]:
    match action:
        case do.Play():
            return voices.begun(state, action)
        case do.Stop():
            return _stop(state, action), ()
        case do.Turn():
            return guiding.watched(state, action, turning.turned(state, action)), ()
        case do.SlideFret():
            return sliding.slid(state, action), ()
        case do.LetGo():
            return turning.let_go(state, action), ()
        case do.Settle():
            return _settle(state, action)
        case do.Replace():
            return turning.replaced(state, action), ()
        case do.MuteAll():
            return voices.silenced(state)
        case do.MuteOthers():
            return _mute_others(state, action)
        case do.Wait():
            state, sounds = voices.silenced(state)
            return ageing.aged(state, seconds=action.seconds), sounds
        case do.Decide():
            return _decide(state, action), ()
        case do.Judge():
            return _judge(state, action), ()
        case do.Pace():
            return guiding.told(state, action), ()
        case do.PutOut():
            return putting_out.put_out(state)
        case do.LayChord():
            return naming.chord_laid(state, action), ()
        case do.NameOut():
            return naming.named(state, action), ()
        case do.FindFault():
            return naming.fault_found(state, action), ()
        case do.CheckWithTuner():
            return _check_with_tuner(state)
        case do.PlayAMinute():
            state, sounds = voices.silenced(state)
            return played_a_minute(state), sounds
        case do.Lay():
            return _laid(state, action), ()
        case do.LeaveOff():
            return turning.left_off(state, action), ()
        case do.JudgeReference():
            return _judge_reference(state, action), ()
        case do.SetTuner():
            return changed(
                state,
                tuner_a4_hz=action.a4_hz,
                tuner_mode=action.mode,
                tuner_pickup=action.pickup,
                tuner_step_cents=action.step_cents,
            ), ()
        case do.GoTo():
            return _go_to(state, action)
        case do.SetAid():
            return _set_aid(state, action), ()
        case do.Finish():
            state, sounds = voices.silenced(state)
            # it is taken up to be played, and that is how it counts
            return changed(laid(state, down=False), finished=True), sounds
        case _:
            assert_never(action)


def _laid(state: State, action: do.Lay) -> State:
    if not state.rig.on("lying"):
        raise MeldrinError(Code.ACTION, "This instrument is held all the time.")
    return laid(state, down=action.down)


def _stop(state: State, action: do.Stop) -> State:
    instrument = state.rig.instrument
    string = instrument.string(action.string)
    if not action.touch:
        if not instrument.frets and action.fret:
            raise MeldrinError(
                Code.FRET, f"The {instrument.short_name} has no frets to press behind."
            )
        if action.fret > instrument.frets or 0 < action.fret <= string.nut_fret:
            raise MeldrinError(
                Code.FRET,
                f"There is no fret {action.fret:g}; this string has frets {string.nut_fret + 1} to"
                f" {instrument.frets}.",
            )
    chance = 0.5
    # where the finger is the fault, it presses so unless it takes care
    fault, pressed = state.rig.fault, action.fret > 0 and not action.touch
    hard = action.hard
    if fault is not None and fault.kind == "finger":
        hard = pressed and not action.light
    if action.hard and state.rig.on("fretting"):  # no finger presses twice the same
        chance, state = turning.drawn(state)
    touched = changed(
        state.string(action.string),
        fret=float(action.fret),
        touched=action.touch and action.fret > 0.0,
        hard=hard,
        light=action.light,
        press=1.0 + PRESS_SPREAD * (2.0 * chance - 1.0),
    )
    ringing = tuple(
        # a finger laid on while it rings stops it there; lifting a light one leaves it as it is
        changed(voice, fret=touched.fret, hard=touched.hard, press=touched.press, touched=False)
        if voice.string == action.string and not touched.touched and not voice.touched
        else voice
        for voice in state.ringing
    )
    return changed(state.with_string(action.string, touched), ringing=ringing)


def _settle(state: State, action: do.Settle) -> tuple[State, Sounds]:
    state = turning.settled(state, action)
    keep = tuple(voice.string for voice in state.ringing if voice.string != action.string)
    return voices.silenced(state, keep=(*keep, None)) if keep else voices.silenced(state)


def _mute_others(state: State, action: do.MuteOthers) -> tuple[State, Sounds]:
    state = changed(state, muted=action.on)
    stage = state.current()
    if not action.on or stage is None:
        return state, ()
    state, sounds = voices.silenced(state, keep=(stage.own.string, stage.other.string))
    return state, sounds


def _decide(state: State, action: do.Decide) -> State:
    stage = state.current()
    if not isinstance(stage, Step):
        raise MeldrinError(Code.NO_JUDGEMENT, "Only a string that is tuned to something is judged.")
    if any(one.stage == state.stage for one in state.decisions):
        raise MeldrinError(Code.DECIDED, "That is said once, before the first turn.")
    was_cents = judged_cents(state, stage)
    aid = state.string(stage.string).seen
    said = Decided(state.stage, action.verdict, was_cents, state.time_s, aid)
    return changed(state, decisions=(*state.decisions, said))


def _judge(state: State, action: do.Judge) -> State:
    setting = state.sets_fret()
    if setting is not None:
        return sliding.fret_judged(state, setting, action)
    stage = state.current()
    if not isinstance(stage, Step):
        raise MeldrinError(Code.NO_JUDGEMENT, "Only a string that is tuned to something is judged.")
    now, said = state.string(stage.string), state.judged(state.stage)
    turned = now.turns != (said[-1].turns if said else 0)
    heard = now.heard_s > now.turned_s
    if said:
        heard = now.heard_s >= said[-1].at_s + limits().shortest_s
    if not turned and not heard:
        raise MeldrinError(Code.NOT_HEARD, "Play it with its partner first; then say how it is.")
    judgement = Judgement(
        stage=state.stage,
        verdict=action.verdict,
        cents=0.0 if action.verdict == "in_tune" else action.cents,
        was_cents=judged_cents(state, stage),
        aid=now.seen,
        at_s=state.time_s,
        turns=now.turns,
        heard=state.heard_since_turned(stage.string),
    )
    state = changed(state, judgements=(*state.judgements, judgement))
    if state.exercise.answers_at_once and guiding.truth_of(state, judgement) != "in_tune":
        state = listening.shown(state, stage.string, "level")  # it tells the side, as a level does
    return state


def _check_with_tuner(state: State) -> tuple[State, Sounds]:
    """Every string is seen from now on; what was said before stays as it was."""
    steps = state.rig.plan.steps
    said = {judgement.stage for judgement in state.judgements}
    left = [
        state.rig.plan.label(step.string)
        for index, step in enumerate(steps)
        if index not in said and not state.string(step.string).off
    ]
    if left:
        raise MeldrinError(Code.NOT_YET, f"First say how each string is. Still open: {left[0]}.")
    state, sounds = voices.silenced(state)
    for number in range(1, len(state.strings) + 1):
        state = listening.shown(state, number, "tuner")
    return changed(state, checked_s=state.time_s), sounds


def _judge_reference(state: State, action: do.JudgeReference) -> State:
    """A reference that is called wrong is put away, and a right one taken."""
    if not state.exercise.tests_reference:
        raise MeldrinError(Code.REFERENCE, "The reference of this exercise is not in question.")
    if state.reference_verdict is not None:
        raise MeldrinError(Code.REFERENCE, "You have said already what you think of the reference.")
    off = state.reference_cents if action.verdict == "in_tune" else 0.0
    return changed(state, reference_verdict=action.verdict, reference_cents=off)


def _go_to(state: State, action: do.GoTo) -> tuple[State, Sounds]:
    stages = len(state.rig.plan.stages)
    if not 0 <= action.stage < stages:
        raise MeldrinError(Code.NO_SUCH_STAGE, f"The plan has stages 1 to {stages}.")
    state, sounds = voices.silenced(state)
    return state.at_stage(action.stage), sounds


def _set_aid(state: State, action: do.SetAid) -> State:
    allowed = state.exercise.aids
    if allowed and action.aid not in allowed:
        raise MeldrinError(Code.AID, "This help may not be taken in this exercise.")
    return changed(state, aid=action.aid)


BENCH: Final = Practice[Exercise, State, Action](
    kind="bench",
    opening=opening,
    step=step,
    ends=lambda action: isinstance(action, do.Finish),
    exercises=EXERCISES,
    actions=ACTIONS,
)


def played(
    exercise: Exercise,
    log: Iterable[TimedAction],
    *,
    strict: bool = False,
    begin: State | None = None,
) -> Iterator[Played[State, Action]]:
    """Yield every action of a list as it was played at the bench; see `meldrin.core.session`."""
    return session.played(BENCH, exercise, log, strict=strict, begin=begin)


def replay(exercise: Exercise, log: Iterable[TimedAction], *, strict: bool = True) -> State:
    """Return the state a list of actions ends in; the same list, the same state to the last bit."""
    state = opening(exercise)
    for one in played(exercise, log, strict=strict):
        state = one.after
    return state
