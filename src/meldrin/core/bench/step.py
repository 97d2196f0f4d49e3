"""The reducer: one action, and the time since the last one, to the next state and its sound."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Final, assert_never

from meldrin.core.bench.actions import (
    Action,
    Damp,
    Finish,
    Go,
    Help,
    Judge,
    Sound,
    Stop,
    Turn,
)
from meldrin.core.bench.observe import matched_cents
from meldrin.core.bench.setup import Setup, opening
from meldrin.core.bench.state import Judgement, Ringing, State, StringState
from meldrin.core.errors import MeldrinError, within
from meldrin.core.methods import Step
from meldrin.core.sound.events import Release, Retune, SoundEvent, Start
from meldrin.core.sound.partials import (
    PartialTable,
    fork,
    plucked_string,
    string_partials_hz,
)
from meldrin.core.strings import (
    WARNING_SHARE,
    breaking_share,
    design_tension_n,
    strain_of,
    tension_at_strain,
    wound,
)

STRUM_S: Final = 0.03
GLIDE_S: Final = 0.04  # a turn reaches the ear as a short glide, about one action at 20 a second
FINGER_GLIDE_S: Final = 0.012
DAMP_FADE_S: Final = 0.035
REPLUCK_FADE_S: Final = 0.012
SLACK_SHARE: Final = 0.05  # of normal tension; below it a real string flaps and the model ends
LONGEST_S: Final = 24 * 3600.0

Sounds = tuple[SoundEvent, ...]


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
    state = replace(state, time_s=now_s, ringing=still)
    match action:
        case Sound():
            return _sound(state, action)
        case Stop():
            return _stop(state, action)
        case Turn():
            return _turn(state, action)
        case Damp():
            return _silenced(state, fade_s=DAMP_FADE_S)
        case Judge():
            return _judge(state, action), ()
        case Go():
            return _go(state, action)
        case Help():
            return _help(state, action), ()
        case Finish():
            state, sounds = _silenced(state, fade_s=DAMP_FADE_S)
            return replace(state, finished=True), sounds
        case _:
            assert_never(action)


def _sound(state: State, action: Sound) -> tuple[State, Sounds]:
    instrument = state.setup.instrument
    tables: list[tuple[int | None, int, PartialTable]] = []
    if action.reference:
        tables.append((None, 0, fork(a4_hz=state.setup.a4_hz)))
    for number in sorted(action.strings, key=lambda n: instrument.string(n).midi):
        fret = state.string(number).fret
        table = plucked_string(
            instrument.string(number),
            instrument.losses,
            strain=state.strain(number),
            fret=fret,
            strength=action.strength,
        )
        tables.append((number, fret, table))
    sources = {source for source, _, _ in tables}
    events: list[SoundEvent] = [
        Release(voice.voice, REPLUCK_FADE_S) for voice in state.ringing if voice.string in sources
    ]
    ringing = [voice for voice in state.ringing if voice.string not in sources]
    for place, (source, fret, table) in enumerate(tables):
        voice = state.next_voice + place
        count = len(table.frequencies_hz)
        until_s = state.time_s + table.lasts_s()
        events.append(Start(voice, table, delay_s=place * STRUM_S))
        ringing.append(Ringing(voice, source, fret, count, until_s))
    state = replace(state, ringing=tuple(ringing), next_voice=state.next_voice + len(tables))
    return state, tuple(events)


def _stop(state: State, action: Stop) -> tuple[State, Sounds]:
    instrument = state.setup.instrument
    instrument.string(action.string)
    if not 0 <= action.fret <= instrument.frets:
        raise MeldrinError(
            "fret", f"There is no fret {action.fret}; this neck has frets 1 to {instrument.frets}."
        )
    held = replace(state.string(action.string), fret=action.fret)
    state = state.with_string(action.string, held)
    ringing = tuple(
        replace(voice, fret=action.fret) if voice.string == action.string else voice
        for voice in state.ringing
    )
    state = replace(state, ringing=ringing)
    return state, _retuned(state, action.string, glide_s=FINGER_GLIDE_S)


def _turn(state: State, action: Turn) -> tuple[State, Sounds]:
    string = state.setup.instrument.string(action.string)
    if action.degrees == 0.0:
        return state, ()
    before = state.string(action.string)
    unstretched_m = wound(string, before.unstretched_m, knob_deg=action.degrees)
    tension_n = tension_at_strain(string, strain_of(string, unstretched_m))
    if action.degrees > 0.0 and breaking_share(string, tension_n=tension_n) > WARNING_SHARE:
        raise MeldrinError(
            "too_tight",
            f"Stop: string {action.string} would be above {WARNING_SHARE:.0%} of what breaks it."
            " Turn your face away and slacken it.",
            string=action.string,
        )
    if action.degrees < 0.0 and tension_n < SLACK_SHARE * design_tension_n(string):
        raise MeldrinError(
            "too_slack",
            f"String {action.string} hangs slack already; tighten it.",
            string=action.string,
        )
    way = 1 if action.degrees > 0.0 else -1
    turned = StringState(
        unstretched_m=unstretched_m,
        fret=before.fret,
        moves=before.moves + (way != before.last_turn),
        last_turn=way,
    )
    state = state.with_string(action.string, turned)
    return state, _retuned(state, action.string, glide_s=GLIDE_S)


def _judge(state: State, action: Judge) -> State:
    stage = state.current()
    if not isinstance(stage, Step):
        raise MeldrinError("no_judgement", "The check at the end is only listened to.")
    if state.judgement(state.stage) is not None:
        raise MeldrinError("judged", "You have said already how this string sits.")
    said = Judgement(
        stage=state.stage,
        verdict=action.verdict,
        cents=0.0 if action.verdict == "still" else action.cents,
        was_cents=matched_cents(state, stage),
        # Who has looked at the level in this stage knows the answer, whatever is on now.
        aid="level" if (state.stage, "level") in state.aids_used else state.aid,
    )
    return replace(state, judgements=(*state.judgements, said))


def _go(state: State, action: Go) -> tuple[State, Sounds]:
    stages = len(state.setup.plan.stages)
    if not 0 <= action.stage < stages:
        raise MeldrinError("no_such_stage", f"The plan has stages 1 to {stages}.")
    state, sounds = _silenced(state, fade_s=DAMP_FADE_S)
    return state.at_stage(action.stage), sounds


def _help(state: State, action: Help) -> State:
    used = state.aids_used | {(state.stage, action.aid)}
    return replace(state, aid=action.aid, aids_used=used)


def _silenced(state: State, *, fade_s: float) -> tuple[State, Sounds]:
    sounds = tuple(Release(voice.voice, fade_s) for voice in state.ringing)
    return replace(state, ringing=()), sounds


def _retuned(state: State, number: int, *, glide_s: float) -> Sounds:
    string = state.setup.instrument.string(number)
    strain = state.strain(number)
    return tuple(
        Retune(
            voice.voice,
            tuple(string_partials_hz(string, strain=strain, fret=voice.fret, count=voice.partials)),
            glide_s,
        )
        for voice in state.ringing
        if voice.string == number
    )
