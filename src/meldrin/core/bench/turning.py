"""Turning: what pegs, machines and fine tuners do to a string, and what happens when it breaks."""

import math
import random
from dataclasses import replace
from typing import Final

from meldrin.core.bench.actions import MOST_DEGREES, LeaveOff, LetGo, Replace, Settle, Turn
from meldrin.core.bench.frame import pull_n, rested, slid_m
from meldrin.core.bench.observe import pitch_cents
from meldrin.core.bench.state import Snap, State, StringState
from meldrin.core.changed import changed
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.pitch import cents_between
from meldrin.core.strings import (
    WARNING_SHARE,
    String,
    breaking_share,
    cents_per_degree,
    cents_per_strain,
    design_tension_n,
    frequency_at_strain,
    strain_at_tension,
    taken_up_m,
    tension_at_strain,
)
from meldrin.core.units import turns_of_degrees

SLACK_SHARE: Final = 0.02  # of normal tension; below it a real string flaps and the model ends
PIECE_M: Final = 1e-4  # a turn is wound up in pieces of this much string
FINE_TURNS: Final = 5.0  # of the screw, from one end of its travel to the other
SLIP_DEG: Final = (2.0, 10.0)  # how far a peg runs back until its friction catches it
SLIP_PUSHED_SHARE: Final = 0.015
STICK_SPREAD: Final = (0.6, 1.25)  # of one jump against the next, about the peg's own
LANDS_SHARE: Final = 0.25  # of what a peg sticks by: so far beside the hand it comes to rest
HAND_SPREAD: Final = 0.3  # of its smallest turn: so far a hand misses what it meant to turn
FRESH_SHARE: Final = 0.12  # of normal tension, on a string just put on
PULL_CENTS: Final = 100.0  # how far a pull bends the pitch up
PULL_DECADES: Final = 1.2  # of creep that one pull takes out at once
PULL_SETTLES: Final = 0.63  # what a pull leaves of the creep to come: three leave a quarter
# A rise makes a string as good as new for creep: this many cents leave 1/e of the time since the
# rise before. Whether a string is raised in one turn or in many makes no difference.
FRESHENS_CENTS: Final = 10.0
MOST_LOWERED_CENTS: Final = 300.0  # what a string still remembers of being let down
SMALL_CENTS: Final = 0.4  # what the smallest turn offered moves a string at pitch
LARGE_TIMES: Final = 10.0
WIND_TIMES: Final = 10.0
STICKING_TURNS_DEG: Final = (0.25, 1.0, 10.0)  # what a hand does to a peg that sticks
MOST_WIND_DEG: Final = 60.0


def turn_sizes_deg(
    string: String, *, fine: bool = False, sticking: bool = False, smallest_deg: float = 0.0
) -> tuple[float, float, float]:
    """Return small, large and winding turns of a string's peg (of its fine tuner's screw), in
    degrees: a small one moves it by about half a cent at its usual pitch, or as little as a hand
    can, or only adds to the twist of a peg that sticks.
    """
    if sticking and not fine:
        return STICKING_TURNS_DEG
    tension_n = design_tension_n(string)
    if fine:
        assert string.fine is not None
        strain = strain_at_tension(string, tension_n)
        a_degree = turns_of_degrees(string.fine.take_up_m / FINE_TURNS)
        cents = cents_per_strain(string, strain) * (1.0 + strain) * a_degree / string.total_m
    else:
        cents = cents_per_degree(string, tension_n=tension_n)
    small = max(smallest_deg, float(f"{SMALL_CENTS / cents:.1g}"))
    large = min(MOST_WIND_DEG, LARGE_TIMES * small)
    return small, large, min(MOST_WIND_DEG, WIND_TIMES * large)


def turned(state: State, action: Turn) -> State:
    """Return the state after a turn.

    Raises:
        MeldrinError: ``no_fine_tuner``; ``fine_end``, at the end of its travel; ``too_slack``;
            ``too_tight`` where strings are not let break; ``broken``.
    """
    string = state.rig.instrument.string(action.string)
    before = state.string(action.string)
    if before.broken:
        raise MeldrinError(
            Code.BROKEN, f"{_named(state, action.string)} is broken; replace it first."
        )
    if action.degrees == 0.0:
        return state
    state, action = _by_hand(state, action)
    after = rested(_screwed(state, action) if action.fine else _wound(state, action))
    tension_n = tension_at_strain(string, after.strain(action.string))
    if action.degrees > 0.0:
        if not state.rig.on("breaking"):
            _refuse_too_tight(state, string, tension_n)
    elif tension_n < SLACK_SHARE * design_tension_n(string):
        raise MeldrinError(
            Code.TOO_SLACK,
            f"{_named(state, action.string)} hangs slack already; tighten it.",
            string=action.string,
        )
    way = 1 if action.degrees > 0.0 else -1
    rose = _risen_cents(string, before=state.strain(action.string), now=after.strain(action.string))
    now = after.string(action.string)
    now = changed(
        now,
        moves=before.moves + (way != before.last_turn),
        last_turn=way,
        knob_deg=before.knob_deg + (0.0 if action.fine else action.degrees),
        loose=(before.loose or not action.pushed) and not action.fine,
        turns=before.turns + 1,
        unheard=before.unheard + (way > 0),
        turned_s=state.time_s,
        raised_s=_freshened_s(state.world_s, before.raised_s, rose),
        load_share=_load_share(state, action.string, after.strain(action.string)),
        lowered_cents=min(MOST_LOWERED_CENTS, max(0.0, before.lowered_cents - rose)),
        lowered_s=state.world_s if rose < 0.0 else before.lowered_s,
    )
    return broken_where_too_tight(after.with_string(action.string, now))


def _by_hand(state: State, action: Turn) -> tuple[State, Turn]:
    """Return the turn as a real hand makes it: near what it meant, and never less than it can."""
    odd = state.rig.quirks[action.string - 1]
    smallest = odd.hand_fine_deg if action.fine else odd.hand_deg
    if not smallest:
        return state, action
    chance, state = drawn(state)
    meant = math.copysign(max(abs(action.degrees), smallest), action.degrees)
    degrees = meant + HAND_SPREAD * smallest * (2.0 * chance - 1.0)
    return state, replace(action, degrees=max(-MOST_DEGREES, min(MOST_DEGREES, degrees)))


def _freshened_s(now_s: float, raised_s: float, rose_cents: float) -> float:
    """Return since when a string creeps: the time since then shrinks with every cent it rises."""
    if rose_cents <= 0.0:
        return raised_s
    return now_s - (now_s - raised_s) * math.exp(-rose_cents / FRESHENS_CENTS)


def _load_share(state: State, number: int, strain: float) -> float:
    """Return how much of its creep a string's strain asks for, against that on its target."""
    return min(1.0, max(0.0, strain / state.rig.target_strains[number - 1]))


def _risen_cents(string: String, *, before: float, now: float) -> float:
    """Return by how much a string has risen from one strain to another; far where it was slack."""
    was_hz, is_hz = (frequency_at_strain(string, strain) for strain in (before, now))
    if not was_hz or not is_hz:
        return math.copysign(MOST_LOWERED_CENTS, now - before) if now != before else 0.0
    return cents_between(is_hz, reference_hz=was_hz)


def _named(state: State, number: int) -> str:
    return f"The {state.rig.plan.label(number)} string"


def _refuse_too_tight(state: State, string: String, tension_n: float) -> None:
    if breaking_share(string, tension_n=tension_n) > WARNING_SHARE:
        raise MeldrinError(
            Code.TOO_TIGHT,
            f"Stop: the {state.rig.plan.label(string.number)} string would be above"
            f" {WARNING_SHARE:.0%} of what breaks it. Turn your face away and loosen it.",
            string=string.number,
        )


def _wound(state: State, action: Turn) -> State:
    """Take up the lost motion of the machine, then wind."""
    before = state.string(action.string)
    one = state.rig.quirks[action.string - 1]
    if one.stick_deg:
        return _jumped(state, action)
    backlash = one.backlash_deg
    if action.degrees > 0.0:
        lost = min(action.degrees, before.lost_deg)
        now = changed(before, lost_deg=before.lost_deg - lost)
        winding = action.degrees - lost
    else:
        lost = min(-action.degrees, backlash - before.lost_deg)
        now = changed(before, lost_deg=before.lost_deg + lost)
        winding = action.degrees + lost
    return wind(state.with_string(action.string, now), action.string, knob_deg=winding)


def _jumped(state: State, action: Turn) -> State:
    """Twist a peg that sticks; when the twist is enough for this time, it jumps by all of it.

    Friction at rest is more than friction that slides, so a peg that has come loose goes on to
    where the hand has got meanwhile; no two jumps are alike.
    """
    now, stick_deg = state.string(action.string), state.rig.quirks[action.string - 1].stick_deg
    twist_deg = now.twist_deg + action.degrees
    low, high = STICK_SPREAD
    holds = abs(twist_deg) < low * stick_deg
    if not holds:
        chance, later = drawn(state)
        holds = abs(twist_deg) < (low + (high - low) * chance) * stick_deg
    if holds:
        return state.with_string(action.string, changed(now, twist_deg=twist_deg))
    # Where it comes to rest again nobody can steer.
    chance, later = drawn(later)
    beside = LANDS_SHARE * stick_deg * (2.0 * chance - 1.0)
    loose = later.with_string(action.string, changed(now, twist_deg=0.0))
    return wind(loose, action.string, knob_deg=twist_deg + beside)


def wind(state: State, number: int, *, knob_deg: float) -> State:
    """Return the state with the post turned, before the frame has come to rest.

    With a nut that lets it slide, all of the path is stretched alike; one that grips lets the head
    piece go first, and the rest follows over the nut (integrated in small pieces).
    """
    string, one, now = (
        state.rig.strings[number - 1],
        state.rig.quirks[number - 1],
        state.string(number),
    )
    taken = taken_up_m(string, knob_deg=knob_deg)
    if not one.grip:
        left_m = now.material_m * math.exp(-taken / string.total_m)
        return state.with_string(number, changed(now, material_m=left_m))
    path_m = state.path_m(number)
    material, head = now.material_m, now.head_m
    pieces = max(1, math.ceil(abs(taken) / PIECE_M))
    share = taken / pieces / one.head_m
    for _ in range(pieces):
        wound = head * math.exp(-share)
        moved = slid_m(one, path_m=path_m, material_m=material, head_m=wound)
        if moved:
            # what the post takes of the material depends on how far it is stretched meanwhile,
            # which sliding changes: by the middle of its beginning and its end
            wound = head - share * (head + wound + moved) / 2.0
            moved = slid_m(one, path_m=path_m, material_m=material, head_m=wound)
        material, head = material - moved, wound + moved
    return state.with_string(number, changed(now, material_m=material, head_m=head))


def _screwed(state: State, action: Turn) -> State:
    string = state.rig.strings[action.string - 1]
    named = _named(state, action.string)
    if string.fine is None:
        raise MeldrinError(Code.NO_FINE_TUNER, f"{named} has no fine tuner.")
    half = string.fine.take_up_m / 2.0
    now = state.string(action.string)
    fine_m = now.fine_m + turns_of_degrees(action.degrees) / FINE_TURNS * string.fine.take_up_m
    if abs(fine_m) > half * (1.0 + 1e-9):
        end, back = ("in", "out") if fine_m > 0.0 else ("out", "in")
        raise MeldrinError(
            Code.FINE_END,
            f"The fine tuner is all the way {end}. Turn it {back} to its middle, and bring the"
            f" {state.rig.plan.label(action.string)} string near with the {string.peg.word}.",
            string=action.string,
        )
    return state.with_string(action.string, changed(now, fine_m=fine_m))


def let_go(state: State, action: LetGo) -> State:
    """Return the state after the hand has left a peg: one that was not pushed in runs back.

    Source of the magnitudes: what friction pegs of violins and cellos do, 2 to 10 degrees.
    """
    state.rig.instrument.string(action.string)
    now = state.string(action.string)
    slip_share = state.rig.quirks[action.string - 1].slip_share
    if not slip_share or now.broken or now.last_turn == 0:
        return state
    loose = now.loose
    state = state.with_string(action.string, changed(now, loose=False))
    chance, state = drawn(state)
    slips = slip_share if loose else SLIP_PUSHED_SHARE
    if state.exercise.rules == 1 and loose:
        slips = 1.0  # then it always did
    if chance >= slips:
        return state
    much, state = drawn(state)
    low, high = SLIP_DEG
    back_deg = low + (high - low) * much
    floor_n = SLACK_SHARE * design_tension_n(state.rig.strings[action.string - 1])
    slipped = rested(wind(state, action.string, knob_deg=-back_deg))
    tension_n = tension_at_strain(
        state.rig.strings[action.string - 1], slipped.strain(action.string)
    )
    return slipped if tension_n > floor_n else state


def drawn(state: State) -> tuple[float, State]:
    """Return a number from 0 to 1 by the seed and the count of those before, and the next state."""
    # random() of a seed in text is promised to stay the same between versions of Python.
    chance = random.Random(f"bench {state.exercise.seed} {state.draws}").random()
    return chance, changed(state, draws=state.draws + 1)


def settled(state: State, action: Settle) -> State:
    """Return the state after a pull along the string: slack behind the nut and at the post is out.

    Raises:
        MeldrinError: code ``broken``.
    """
    string, now = state.rig.instrument.string(action.string), state.string(action.string)
    if now.broken:
        raise MeldrinError(
            Code.BROKEN, f"{_named(state, action.string)} is broken; replace it first."
        )
    state = bent(state, action.string, cents=PULL_CENTS)
    now = state.string(action.string)
    odd = state.rig.quirks[action.string - 1]
    more = now.creep_cents - odd.settled_creep_cents
    strain = state.strain(action.string)
    if more > 0.0 and strain > 0.0:
        left = odd.settled_creep_cents + PULL_SETTLES * more
        by = PULL_DECADES * more / cents_per_strain(string, strain)
        now = lengthened(now, strain=by, creep_cents=left)
        state = state.with_string(action.string, now)
    return rested(state)


def bent(state: State, number: int, *, cents: float) -> State:
    """Return the state after the string was bent up and has sprung back.

    What lies behind the nut at a lower tension comes out by it and stays out; the string is then
    longer and lower.
    """
    string, one = state.rig.strings[number - 1], state.rig.quirks[number - 1]
    strain = state.strain(number)
    if strain <= 0.0 or not one.grip:
        return state
    path_m = state.path_m(number)
    bend_m = cents / cents_per_strain(string, strain) * path_m
    now = state.string(number)
    material, head = now.material_m, now.head_m
    for stretched_m in (path_m + bend_m, path_m):
        moved = slid_m(one, path_m=stretched_m, material_m=material, head_m=head)
        material, head = material - moved, head + moved
    if material == now.material_m:
        return state
    return state.with_string(number, changed(now, material_m=material, head_m=head))


def lengthened(now: StringState, *, strain: float, creep_cents: float) -> StringState:
    """Return a string whose material has grown longer by a strain (logarithmic, so that times add
    up), with this left of its creep.
    """
    # both pieces alike, so that the balance over the nut stays as it is
    more = math.exp(strain)
    return changed(
        now, material_m=now.material_m * more, head_m=now.head_m * more, creep_cents=creep_cents
    )


def broken_where_too_tight(state: State) -> State:
    """Return the state with every string gone that is above what holds it; the rest then rise."""
    if not state.rig.on("breaking"):
        return state
    for number, one in enumerate(state.rig.quirks, start=1):
        if pull_n(one, state.strain(number)) <= one.holds_n:
            continue
        snap = Snap(
            string=number,
            at_s=state.time_s,
            cents_above=pitch_cents(state, number),
            unheard=state.string(number).unheard,
        )
        gone = changed(state.string(number), broken=True, loose=False)
        state = rested(changed(state.with_string(number, gone), snaps=(*state.snaps, snap)))
    return state


def replaced(state: State, action: Replace) -> State:
    """Return the state with a new string on: slack, and new, so that it creeps.

    Raises:
        MeldrinError: code ``whole``, for a string that is not broken.
    """
    string, now = state.rig.instrument.string(action.string), state.string(action.string)
    one = state.rig.quirks[action.string - 1]
    if not now.broken:
        raise MeldrinError(
            Code.WHOLE, f"{_named(state, action.string)} is whole; only a broken one is replaced."
        )
    strain = strain_at_tension(string, FRESH_SHARE * design_tension_n(string))
    fresh = StringState(
        material_m=one.path_m / (1.0 + strain),
        head_m=one.head_m / (1.0 + strain),
        fret=now.fret,
        touched=now.touched,
        creep_cents=one.fresh_creep_cents,
        raised_s=state.world_s,
        load_share=strain / state.rig.target_strains[action.string - 1],
        turns=now.turns + 1,
        turned_s=state.time_s,
    )
    return rested(state.with_string(action.string, fresh))


def left_off(state: State, action: LeaveOff) -> State:
    """Return the state with a broken string left off; the rest is tuned without it.

    Raises:
        MeldrinError: code ``whole``, for a string that is not broken.
    """
    state.rig.instrument.string(action.string)
    now = state.string(action.string)
    if not now.broken:
        raise MeldrinError(
            Code.WHOLE, f"{_named(state, action.string)} is whole; only a broken one is left off."
        )
    return state.with_string(action.string, changed(now, off=True))
