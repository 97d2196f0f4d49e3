"""How far out each string is when an attempt opens, by its start and its seed."""

import random
from typing import Final, Literal, assert_never

from meldrin.core.bench.actions import DAY_S
from meldrin.core.bench.amounts import FEW, MOST_OUT_CENTS, OUT_TIMES, amount_cents, sides
from meldrin.core.bench.exercise import Exercise
from meldrin.core.bench.first_starts import DAMP_DAYS_CENTS, another, first_offsets_cents
from meldrin.core.bench.frame import laid
from meldrin.core.bench.limits import limits
from meldrin.core.bench.observe import pitch_cents
from meldrin.core.bench.rig import Rig, rig_of
from meldrin.core.bench.sliding import first_frets
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
from meldrin.core.units import CENTS_PER_OCTAVE, cents_of_semitones

SLACK_SHARES: Final = (0.05, 0.12)  # of normal tension: loose and flapping
HOUR_S: Final = 3600.0
# How long ago the strings were brought to pitch, where they give: an hour, and they are new; but
# what lay for a month or came in from the damp has settled.
OLD_STARTS: Final = ("month", "damp")
ON_SINCE_S: Final = {"slack": 0.0, "month": 30.0 * DAY_S, "damp": 3.0 * DAY_S}
# How many times the tolerance strings are out: all a little, some clearly more, in between.
TIMES: Final = {
    "hair": (1.5, 3.0),
    "reference": (1.5, 3.0),
    "group": (1.5, 4.0),
    "month": (2.0, 5.0),
}
# All on one side, and one alone: so spread that no fixed turn brings them in often.
HIGH_TIMES, MOST_HIGH_CENTS = (1.5, 8.0), 90.0
ONE_TIMES, MOST_ONE_CENTS = (1.5, 8.0), 120.0


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
    state = changed(state, frets_cents=first_frets(rig))
    state = laid(state, down=rig.on("lying"))
    if rig.plan.stages:
        return state.at_stage(0)
    return changed(state, visited=frozenset({0}))


def begins(exercise: Exercise, number: int) -> Literal["low", "high"]:
    """Return the side on which a string begins, by its note."""
    return "low" if pitch_cents(opening(exercise), number) < 0.0 else "high"


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


def foreseen_cents(exercise: Exercise) -> tuple[float, ...]:
    """Return how far out each string can be known to begin without hearing it, in cents, string 1
    first: the middle of where it may begin, or of a retuning the change itself.
    """
    count = len(exercise.instrument.strings)
    match exercise.start:
        case "high" if exercise.rules > 1:
            full = limits().tolerances[exercise.tolerance].full_cents
            middle = sum(min(MOST_HIGH_CENTS, times * full) for times in HIGH_TIMES) / 2.0
            return (middle,) * count
        case "damp" if exercise.rules > 1:
            return (DAMP_DAYS_CENTS,) * count
        case "retune" if exercise.rules > 1:
            came = tuning_said(exercise.instrument, exercise.came_from).midis
            return tuple(
                cents_of_semitones(before - after)
                for before, after in zip(came, exercise.plan.tuning.midis, strict=True)
            )
        case _:
            return (0.0,) * count


def _offsets_cents(rig: Rig) -> list[float]:
    """Draw how far each string is from where it should be, in cents, string 1 first.

    random.Random is used because its random() is promised to stay the same between versions, which
    a stored attempt relies on.
    """
    exercise = rig.exercise
    if exercise.rules == 1:
        return first_offsets_cents(rig)
    draw = random.Random(exercise.seed)

    def between(low: float, high: float) -> float:
        return low + (high - low) * draw.random()

    def out(times: tuple[float, float], most_cents: float = MOST_OUT_CENTS) -> float:
        return amount_cents(draw, exercise.tolerance, times, most_cents=most_cents)

    count = len(rig.strings)
    if rig.fault is not None:  # what is found is found on strings that are in tune
        return [between(-0.5, 0.5) for _ in range(count)]
    match exercise.start:
        case "hair" | "month" | "group" | "reference":
            few = 0 < len(rig.plan.steps) < FEW
            times = OUT_TIMES if few else TIMES[exercise.start]
            return [side * out(times) for side in sides(count, draw)]
        case "octave":
            offsets = [side * out(TIMES["hair"]) for side in sides(count, draw)]
            first = rig.plan.steps[0].string if rig.plan.steps else 1
            # the lowest strings have most to spare: an octave down they still sound
            offsets[another(rig, first, draw.random()) - 1] -= CENTS_PER_OCTAVE
            return offsets
        case "high":
            return [out(HIGH_TIMES, MOST_HIGH_CENTS) for _ in range(count)]
        case "one":
            offsets = [between(-0.8, 0.8) for _ in range(count)]
            draw.random()  # which string: see `drawn_string`
            off = out(ONE_TIMES, MOST_ONE_CENTS) * (1 if draw.random() < 0.5 else -1)
            offsets[exercise.string_out - 1] = exercise.out_cents or off
            return offsets
        case "damp":
            # every string rose with the wood, more or less, before it was carried away
            return [
                between(0.4, 1.6) * DAMP_DAYS_CENTS + side * out(TIMES["hair"])
                for side in sides(count, draw)
            ]
        case "retune":
            return [
                side * out(TIMES["hair"]) if changes else between(-1.0, 1.0)
                for side, changes in zip(sides(count, draw), foreseen_cents(exercise), strict=True)
            ]
        case "slack":
            raise AssertionError("slack strings are drawn by their tension")
        case _:
            assert_never(exercise.start)
