"""Movable frets: where they lie when an attempt opens, how they slide, and what is said of them."""

import math
import random
from typing import Final

from meldrin.core.bench.actions import Judge, SlideFret
from meldrin.core.bench.observe import matched_cents
from meldrin.core.bench.rig import Rig
from meldrin.core.bench.state import FretSet, State
from meldrin.core.changed import changed
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.methods import Check
from meldrin.core.strings import stopped_cents, stopped_m
from meldrin.core.units import CENTS_PER_OCTAVE

# How far beside its place a fret lies at first, on either side. A judgement: heard at once, and
# nearer to its own place than to the next one's.
OUT_CENTS: Final = (8.0, 30.0)
CLOSEST_CENTS: Final = 40.0  # no fret comes nearer to the place of its neighbour


def first_frets(rig: Rig) -> tuple[float, ...]:
    """Return how far each fret lies from its place at first, in cents, from fret 1 on; empty where
    the plan sets none.
    """
    numbers = [one.own.fret for one in rig.plan.checks if one.sets_fret]
    if not numbers:
        return ()
    draw = random.Random(f"frets {rig.exercise.seed}")
    low, high = OUT_CENTS
    found = [0.0] * rig.instrument.frets
    for number in numbers:
        size, side = low + (high - low) * draw.random(), draw.random()
        found[number - 1] = size if side < 0.5 else -size
    return tuple(found)


def slid(state: State, action: SlideFret) -> State:
    """Return the state with a fret slid along the neck.

    A fret that lies `d` from the bridge sounds 1200 log2(L / d) cents over the open string of
    length L.

    Raises:
        MeldrinError: code ``fret``, where frets stand firm, for one that there is not, and where it
            would meet its neighbour.
    """
    if not state.frets_cents:
        raise MeldrinError(Code.FRET, "The frets of this exercise stay where they are.")
    frets = len(state.frets_cents)
    if not 1 <= action.fret <= frets:
        raise MeldrinError(Code.FRET, f"There is no fret {action.fret}; there are {frets}.")
    string = state.fretted(_tonic_string(state))
    from_bridge_m = stopped_m(string, action.fret) - action.mm / 1000.0
    cents = CENTS_PER_OCTAVE * math.log2(string.scale_m / from_bridge_m)
    now = state.frets_cents[action.fret - 1]
    out = now + cents - stopped_cents(string, action.fret)
    if abs(out) > CLOSEST_CENTS and abs(out) > abs(now):
        raise MeldrinError(Code.FRET, "There the next fret is in the way. Slide it back.")
    before, after = state.frets_cents[: action.fret - 1], state.frets_cents[action.fret :]
    return changed(state, frets_cents=(*before, out, *after), slid_s=state.time_s)


def _tonic_string(state: State) -> int:
    """Return the string by which frets are set here."""
    number = next(one.own.string for one in state.rig.plan.checks if one.sets_fret)
    assert number is not None
    return number


def fret_judged(state: State, stage: Check, action: Judge) -> State:
    """Return the state in which it was said how the fret of this stage is.

    Raises:
        MeldrinError: code ``not_heard``, before it was heard beside its partner.
    """
    if not state.fret_heard:
        raise MeldrinError(Code.NOT_HEARD, "Play it with its partner first; then say how it is.")
    said = FretSet(
        stage=state.stage,
        fret=stage.own.fret,
        verdict=action.verdict,
        was_cents=matched_cents(state, stage),
        at_s=state.time_s,
    )
    return changed(state, frets_set=(*state.frets_set, said))


def frets_now(state: State) -> tuple[tuple[int, float], ...]:
    """Return each fret that the plan sets, and how far above its place it lies now, in cents."""
    return tuple(
        (one.own.fret, matched_cents(state, one)) for one in state.rig.plan.checks if one.sets_fret
    )
