"""How far out each string is when an attempt opens, by its start and its seed."""

import random
from typing import Final, assert_never

from meldrin.core.bench.actions import DAY_S
from meldrin.core.bench.exercise import Exercise
from meldrin.core.bench.rig import Rig, rig_of
from meldrin.core.bench.state import State, StringState
from meldrin.core.catalogue import tuning_said
from meldrin.core.changed import changed
from meldrin.core.pitch import equal_tempered_hz, shifted_by_cents
from meldrin.core.strings import (
    design_tension_n,
    strain_at_tension,
    strain_sounding,
    tension_at_strain,
)
from meldrin.core.units import CENTS_PER_OCTAVE

SLACK_SHARES: Final = (0.05, 0.12)  # of normal tension: loose and flapping
HOUR_S: Final = 3600.0
# How long ago the strings were brought to pitch, where they give: an hour, and they are new; but
# what lay for a month or came in from the damp has settled.
OLD_STARTS: Final = ("month", "damp")
ON_SINCE_S: Final = {"slack": 0.0, "month": 30.0 * DAY_S, "damp": 3.0 * DAY_S}
DAMP_DAYS_CENTS: Final = 6.0  # what a damp week leaves on top of the weather itself


def opening(exercise: Exercise) -> State:
    """Return the state an attempt opens with: silent, the first stage's fingers in place."""
    rig = rig_of(exercise)
    strains = _strains(rig)
    total_n = sum(
        tension_at_strain(string, strain)
        for string, strain in zip(rig.strings, strains, strict=True)
    )
    give_m = rig.frame_compliance_m_per_n * (total_n - rig.load_n)
    new, on_since_s = exercise.start not in OLD_STARTS, ON_SINCE_S.get(exercise.start, HOUR_S)
    strings = tuple(
        StringState(
            material_m=(one.path_m - give_m) / (1.0 + strain),
            # settled by playing: the same tension on both sides of the nut
            head_m=one.head_m / (1.0 + strain),
            creep_cents=one.fresh_creep_cents if new else one.settled_creep_cents,
            raised_s=-on_since_s,
            load_share=min(1.0, strain / target),
        )
        for one, strain, target in zip(rig.quirks, strains, rig.target_strains, strict=True)
    )
    state = State(
        rig=rig,
        exercise=exercise,
        strings=strings,
        give_m=give_m,
        tuner_a4_hz=rig.tuner_a4_hz,
        reference_cents=rig.reference_cents,
        aid=exercise.first_aid,
    )
    if rig.plan.stages:
        return state.at_stage(0)
    return changed(state, visited=frozenset({0}))


def _strains(rig: Rig) -> list[float]:
    """Return the strain each string begins with, string 1 first."""
    exercise, goals = rig.exercise, rig.plan.targets_hz
    if exercise.start == "slack":
        draw = random.Random(exercise.seed)
        low, high = SLACK_SHARES
        return [
            strain_at_tension(
                string, (low + (high - low) * draw.random()) * design_tension_n(string)
            )
            for string in rig.strings
        ]
    if exercise.start == "retune":
        came = tuning_said(rig.instrument, exercise.came_from)
        goals = tuple(equal_tempered_hz(midi, a4_hz=exercise.a4_hz) for midi in came.midis)
    return [
        strain_sounding(string, frequency_hz=shifted_by_cents(hz, cents=off), fret=0, number=1)
        for string, hz, off in zip(rig.strings, goals, _offsets_cents(rig), strict=True)
    ]


def _offsets_cents(rig: Rig) -> list[float]:
    """Draw how far each string is from where it should be, in cents, string 1 first.

    random.Random is used because its random() is promised to stay the same between versions, which
    a stored attempt relies on. The string that is matched first is always clearly out, so that the
    first thing a newcomer hears beats.
    """
    exercise = rig.exercise
    draw = random.Random(exercise.seed)

    def between(low: float, high: float) -> float:
        return low + (high - low) * draw.random()

    def slightly() -> float:
        return times * between(4.0, 12.0) * (1 if draw.random() < 0.4 else -1)

    count, times = len(rig.strings), exercise.out_times
    if rig.fault is not None:  # what is found is found on strings that are in tune
        return [between(-0.5, 0.5) for _ in range(count)]
    first = rig.plan.steps[0].string if rig.plan.steps else 1
    match exercise.start:
        case "hair" | "reference" | "group":
            offsets = [slightly() for _ in range(count)]
            offsets[first - 1] = -times * between(7.0, 12.0)
        case "high":
            offsets = [times * between(5.0, 15.0) for _ in range(count)]
        case "month":
            offsets = [
                between(3.0, 12.0) if draw.random() < 0.2 else -between(10.0, 40.0)
                for _ in range(count)
            ]
            offsets[first - 1] = -between(14.0, 30.0)
        case "one":
            offsets = [between(-0.8, 0.8) for _ in range(count)]
            draw.random()  # which string: see `drawn_string`
            off = times * between(12.0, 35.0) * (1 if draw.random() < 0.4 else -1)
            offsets[exercise.string_out - 1] = exercise.out_cents or off
        case "damp":
            # every string rose with the wood, more or less, before it was carried away
            offsets = [between(0.4, 1.6) * DAMP_DAYS_CENTS for _ in range(count)]
        case "octave":
            offsets = [slightly() for _ in range(count)]
            # the lowest strings have most to spare: an octave down they still sound
            offsets[_another(rig, first, draw.random()) - 1] = -CENTS_PER_OCTAVE + between(
                -9.0, 9.0
            )
        case "retune":
            offsets = [between(-1.0, 1.0) for _ in range(count)]
        case "slack":
            raise AssertionError("slack strings are drawn by their tension")
        case _:
            assert_never(exercise.start)
    return offsets


def _another(rig: Rig, first: int, share: float) -> int:
    """Return a playing string at random, other than the first."""
    others = [s.number for s in rig.strings if s.number != first and s.role == "playing"]
    return others[int(share * len(others))] if others else first
