"""Time passing for the instrument: new strings creep, wood swells and shrinks, metal warms.

All that time does to a string is a logarithmic strain of its material, which adds up over the parts
of a time, so that a week is the same week however it is cut.
"""

import math
from functools import lru_cache
from typing import Final

from meldrin.core.bench.actions import DAY_S
from meldrin.core.bench.frame import rested
from meldrin.core.bench.rig import Rig, Room
from meldrin.core.bench.state import State, StringState
from meldrin.core.bench.turning import broken_where_too_tight, lengthened
from meldrin.core.changed import changed
from meldrin.core.units import semitones_of_cents

NEGLIGIBLE: Final = 1e-19
AGES_EVERY_S: Final = 3.0  # shorter times add up first
CREEP_UNIT_S: Final = 60.0  # drop(t) = D log10(1 + t/t0), the form of viscoelastic creep
SETTLES_IN_S: Final = 0.6 * DAY_S
# Strings and frame are looked at at these times and at no others but the ends of what is asked for:
# a nut that grips follows a pitch that rises and then falls only if somebody looks in between.
LOOKS_S: Final = tuple(60.0 * 2.0**n for n in range(24))
# A string that was let down creeps up again: of its settled creep for every 100 cents let down.
# Judged so that polyamide down by a semitone rises 5 to 15 cents in the next hour, steel up to 3.
RECOVERS_SHARE: Final = 0.55
WOOD_FOLLOWS_S: Final = {"plucked": 4 * 3600.0, "bowed": 1.2 * 3600.0}
AIR_FOLLOWS_S: Final = 120.0  # strings take the warmth of a room within minutes
# Against spruce and ebony at 4 millionths a degree: steel at 11.7, phosphor bronze at 17.8.
METAL_PER_DEG: Final = 7.7e-6
BRONZE_PER_DEG: Final = 13.8e-6
POLYAMIDE_CENTS_PER_DEG: Final = 3.0
# Bare polyamide takes up water and softens: it sinks by 3 to 8 cents for 10 % more humidity, by
# itself, and sooner than the wood it is on lifts it again. Wound, it is shielded.
POLYAMIDE_CENTS_PER_DAMP: Final = 0.4
POLYAMIDE_SOAKS_S: Final = 3600.0


def warmth_deg(room: Room, world_s: float) -> float:
    """Return the temperature of the strings at a time, in degrees Celsius."""
    share = -math.expm1(-world_s / AIR_FOLLOWS_S)
    return room.warm_from + (room.warm_to - room.warm_from) * share


def damp_percent(room: Room, world_s: float) -> float:
    """Return the relative humidity that polyamide strings have come to hold at a time, in %."""
    share = -math.expm1(-world_s / POLYAMIDE_SOAKS_S)
    return room.humid_from + (room.humid_to - room.humid_from) * share


def swell_m(state: State, world_s: float) -> float:
    """Return how much longer than at the start the paths are, by what the wood has taken up."""
    room, instrument = state.rig.room, state.rig.instrument
    share = -math.expm1(-world_s / WOOD_FOLLOWS_S[instrument.kind])
    return instrument.damp_lengthens_m * (room.humid_to - room.humid_from) / 10.0 * share


def aged(state: State, *, seconds: float) -> State:
    """Return the state after more time has passed for the instrument.

    Short times add up to a few seconds before strings and frame are looked at again.
    """
    owed_s = state.owed_s + seconds
    creeping = any(string.creep_cents for string in state.strings)
    if not creeping and not state.rig.room.changes:
        return changed(state, world_s=state.world_s + owed_s, owed_s=0.0)
    if owed_s < AGES_EVERY_S:
        return changed(state, owed_s=owed_s)
    until_s = state.world_s + owed_s
    for look_s in (*(s for s in LOOKS_S if state.world_s < s < until_s), until_s):
        state = _later(state, look_s)
    return broken_where_too_tight(changed(state, owed_s=0.0))


def _later(state: State, later_s: float) -> State:
    room = state.rig.room
    warmer, damper = 0.0, 0.0
    if room.changes:
        warmer = warmth_deg(room, later_s) - warmth_deg(room, state.world_s)
        damper = damp_percent(room, later_s) - damp_percent(room, state.world_s)
    strings = tuple(
        _string_later(state.rig, number, now, (state.world_s, later_s), warmer, damper)
        for number, now in enumerate(state.strings, start=1)
    )
    return rested(
        changed(
            state,
            strings=strings,
            world_s=later_s,
            swell_m=swell_m(state, later_s) if room.changes else 0.0,
        )
    )


def _string_later(
    rig: Rig,
    number: int,
    now: StringState,
    time_s: tuple[float, float],
    warmer: float,
    damper: float,
) -> StringState:
    if now.broken or not (now.creep_cents or rig.room.changes):
        return now
    odd, material = rig.quirks[number - 1], rig.strings[number - 1].material
    from_s, to_s = time_s
    floor = odd.settled_creep_cents
    fresh = max(0.0, now.creep_cents - floor)
    cents = now.load_share * (
        _creep(min(floor, now.creep_cents), from_s - now.raised_s, to_s - now.raised_s)
        + _settling(fresh, from_s - now.raised_s, to_s - now.raised_s)
    )
    if now.lowered_cents:
        per_decade = RECOVERS_SHARE * floor * semitones_of_cents(now.lowered_cents)
        cents -= _creep(per_decade, from_s - now.lowered_s, to_s - now.lowered_s)
    strain = 0.0
    if "polyamide" in material:
        cents += POLYAMIDE_CENTS_PER_DEG * warmer
        if material.startswith("plain"):
            cents += POLYAMIDE_CENTS_PER_DAMP * damper
    elif warmer:
        bronze = material.startswith("plain phosphor bronze")
        strain = warmer * (BRONZE_PER_DEG if bronze else METAL_PER_DEG)
    left = now.creep_cents - fresh + fresh * math.exp(-(to_s - from_s) / SETTLES_IN_S)
    strain += cents / rig.cents_per_strain[number - 1]
    return lengthened(now, strain=strain, creep_cents=left)


def _creep(per_decade: float, from_s: float, to_s: float) -> float:
    """Return by how many cents a string sinks between two times since it was raised."""
    if per_decade == 0.0:
        return 0.0
    return per_decade * math.log10((CREEP_UNIT_S + to_s) / (CREEP_UNIT_S + from_s))


def _settling(per_decade: float, from_s: float, to_s: float) -> float:
    """Return the same for a creep that itself dies away as exp(-t/tau) from `from_s` on.

    The integral of e^(-(t - a)/tau)/(t0 + t) from a to b is e^x E1(x) at x = (t0 + a)/tau, less
    e^(-(b - a)/tau) times the same at b (Abramowitz and Stegun, 1964, ch. 5).
    """
    if per_decade == 0.0:
        return 0.0
    low, high = ((CREEP_UNIT_S + s) / SETTLES_IN_S for s in (from_s, to_s))
    whole = _scaled_e1(low) - math.exp(low - high) * _scaled_e1(high)
    return per_decade * whole / math.log(10.0)


@lru_cache(maxsize=256)  # strings that were raised together settle together
def _scaled_e1(x: float) -> float:
    """Return e^x E1(x) for x > 0, by its series near 0 and by a continued fraction beyond.

    >>> round(_scaled_e1(1.0), 9), round(_scaled_e1(10.0), 9)
    (0.596347362, 0.091563334)
    """
    if x <= 1.0:
        total, term = -0.57721566490153286 - math.log(x), 1.0
        for n in range(1, 30):
            term *= -x / n
            total -= term / n
            if abs(term) < NEGLIGIBLE:
                break
        return math.exp(x) * total
    fraction = 0.0
    for n in range(60, 0, -1):
        fraction = n / (1.0 + n / (x + fraction))
    return 1.0 / (x + fraction)
