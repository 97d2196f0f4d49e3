"""Chords at the bench and what is said of them, and what is said to be wrong with an instrument."""

import math
from collections.abc import Sequence
from statistics import median

from meldrin.core.bench import actions as do
from meldrin.core.bench.fault import OF_ONE_STRING, possible
from meldrin.core.bench.observe import pitch_cents
from meldrin.core.bench.state import Found, Named, State
from meldrin.core.changed import changed
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.methods import Check


def chord_laid(state: State, action: do.LayChord) -> State:
    """Return the state with the fingers of a chord on the strings, and lifted from all others.

    Raises:
        MeldrinError: code ``no_such_chord``.
    """
    rig = state.rig
    chord = rig.instrument.chord(rig.plan.tuning, action.name)
    heavy = rig.fault is not None and rig.fault.kind == "finger"
    strings = tuple(
        changed(now, fret=float(chord.fret_of(number)), touched=False, hard=heavy, light=False)
        for number, now in enumerate(state.strings, start=1)
    )
    # fingers laid on while strings ring stop them there
    ringing = tuple(
        voice
        if voice.string is None or voice.touched
        else changed(voice, fret=float(chord.fret_of(voice.string)), hard=False, press=1.0)
        for voice in state.ringing
    )
    return changed(state, strings=strings, ringing=ringing)


def may_name(state: State) -> bool:
    """Whether a chord has been played of which it can still be said which string is out."""
    if state.finished or len(_played(state)) < 2:
        return False
    stage = state.current()
    if stage is None:
        return not state.named or any(
            voice.since_s > state.named[-1].at_s for voice in state.ringing
        )
    said = any(one.stage == state.stage for one in state.named)
    whole = isinstance(stage, Check) and stage.chord and len(_played(state)) == len(stage.strings)
    return bool(whole) and not said


def named(state: State, action: do.NameOut) -> State:
    """Return the state with what was said of a chord and the truth: which of the strings played
    lies furthest from the others.

    Raises:
        MeldrinError: ``no_judgement`` where no chord is played; ``decided`` the second time;
            ``not_heard`` before it was played; ``no_such_string``.
    """
    stage = state.current()
    if stage is not None and not (isinstance(stage, Check) and stage.chord):
        raise MeldrinError(Code.NO_JUDGEMENT, "Only of a chord is it said which string is out.")
    if stage is not None and any(one.stage == state.stage for one in state.named):
        raise MeldrinError(Code.DECIDED, "That is said once, after the chord.")
    if not may_name(state):
        raise MeldrinError(Code.NOT_HEARD, "Play the chord first; then say which string is out.")
    if action.string:
        state.rig.instrument.string(action.string)
    furthest, cents = furthest_out(state, _played(state))
    said = Named(action.string, action.verdict, furthest, cents, state.time_s, state.stage)
    return changed(state, named=(*state.named, said))


def fault_found(state: State, action: do.FindFault) -> State:
    """Return the state with what was said to be wrong with the instrument.

    Raises:
        MeldrinError: ``no_judgement`` where that is not the question; ``decided`` the second time;
            ``action`` for a fault that this instrument cannot have, or a string too many or few.
    """
    if state.rig.fault is None:
        raise MeldrinError(Code.NO_JUDGEMENT, "Nothing is wrong with the instrument here.")
    if state.found is not None:
        raise MeldrinError(Code.DECIDED, "You have said what is wrong.")
    if action.fault not in possible(state.rig.instrument):
        raise MeldrinError(Code.ACTION, "Its frets are not fixed: it cannot be that.")
    if (action.fault in OF_ONE_STRING) != (action.string > 0):
        raise MeldrinError(Code.ACTION, "Name the string where it is one, or none where it is all.")
    if action.string:
        state.rig.instrument.string(action.string)
    found = Found(action.fault, action.string, action.remedy, state.time_s)
    return changed(state, found=found)


def _played(state: State) -> list[int]:
    """Return the strings of the chord that have lately sounded; in free play all that ring."""
    stage = state.current()
    if stage is None:
        return sorted({v.string for v in state.ringing if v.string is not None and not v.along})
    heard = {one.string for one in state.pitches}
    return [number for number in stage.strings if number in heard]


def furthest_out(state: State, numbers: Sequence[int]) -> tuple[int, float]:
    """Return the string of these that is furthest out among the others, and by how many cents;
    minus infinity for a slack one.

    Against where they lie on the whole: where all are equally low, none is out.
    """
    off = {number: pitch_cents(state, number) for number in numbers}
    slack = [number for number, cents in off.items() if not math.isfinite(cents)]
    if slack:
        return slack[0], float("-inf")
    whole = median(off.values())
    worst = max(numbers, key=lambda number: abs(off[number] - whole))
    return worst, off[worst] - whole
