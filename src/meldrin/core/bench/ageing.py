"""Time passing for the instrument: new strings creep, wood swells and shrinks, metal warms."""

import math
from typing import Final

from meldrin.core.bench.actions import DAY_S
from meldrin.core.bench.frame import rested
from meldrin.core.bench.rig import Room
from meldrin.core.bench.state import State
from meldrin.core.bench.turning import broken_where_too_tight, lengthened
from meldrin.core.strings import cents_per_strain

AGES_EVERY_S: Final = 3.0  # what is less than this is let add up
CREEP_UNIT_S: Final = 60.0  # drop(t) = D log10(1 + t/t0), the form of viscoelastic creep
SETTLES_IN_S: Final = 0.6 * DAY_S
# A string that was let down creeps up again: of its settled creep for every 100 cents let down.
# Judged so that polyamide down by a half step rises 5 to 15 cents in the next hour, steel up to 3.
RECOVERS_SHARE: Final = 0.55
WOOD_FOLLOWS_S: Final = {"plucked": 4 * 3600.0, "bowed": 1.2 * 3600.0}
AIR_FOLLOWS_S: Final = 120.0  # strings take the warmth of a room within minutes
METAL_PER_DEG: Final = 7.7e-6  # steel against spruce and ebony, 11.7 against 4 millionths a degree
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
    """Return the state after so much more time has passed for the instrument.

    Short times are let add up to a few seconds before strings and frame are looked at again.
    """
    owed_s = state.owed_s + seconds
    room = state.rig.room
    creeping = any(string.creep_cents for string in state.strings)
    if not creeping and not room.changes:
        return state.but(world_s=state.world_s + owed_s, owed_s=0.0)
    if owed_s < AGES_EVERY_S:
        return state.but(owed_s=owed_s)
    later_s = state.world_s + owed_s
    warmer, damper = 0.0, 0.0
    if room.changes:
        warmer = warmth_deg(room, later_s) - warmth_deg(room, state.world_s)
        damper = damp_percent(room, later_s) - damp_percent(room, state.world_s)
    strings = []
    for number, (string, odd) in enumerate(
        zip(state.rig.strings, state.rig.quirks, strict=True), start=1
    ):
        now, strain = state.string(number), state.strain(number)
        if now.broken or strain <= 0.0 or not (now.creep_cents or room.changes):
            strings.append(now)
            continue
        sinks = _creep(now.creep_cents, state.world_s - now.raised_s, later_s - now.raised_s)
        if now.lowered_cents:
            per_decade = RECOVERS_SHARE * odd.settled_creep_cents * now.lowered_cents / 100.0
            sinks -= _creep(per_decade, state.world_s - now.lowered_s, later_s - now.lowered_s)
        if "polyamide" in string.material:
            sinks += POLYAMIDE_CENTS_PER_DEG * warmer
            if string.material.startswith("plain"):
                sinks += POLYAMIDE_CENTS_PER_DAMP * damper
        elif warmer:
            sinks += METAL_PER_DEG * warmer * cents_per_strain(string, strain)
        floor = odd.settled_creep_cents
        left = floor + (now.creep_cents - floor) * math.exp(-owed_s / SETTLES_IN_S)
        strings.append(lengthened(string, now, strain, cents=sinks, creep_cents=left))
    state = state.but(
        strings=tuple(strings),
        world_s=later_s,
        owed_s=0.0,
        swell_m=swell_m(state, later_s) if room.changes else 0.0,
    )
    return broken_where_too_tight(rested(state))


def _creep(per_decade: float, from_s: float, to_s: float) -> float:
    """Return by how many cents a string sinks between two times since it was raised."""
    if per_decade == 0.0:
        return 0.0
    return per_decade * math.log10((CREEP_UNIT_S + to_s) / (CREEP_UNIT_S + from_s))
