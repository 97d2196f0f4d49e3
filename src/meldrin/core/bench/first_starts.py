"""How far out strings began in attempts of before 2026-12-01, which play as they did."""

import random
from typing import Final, assert_never

from meldrin.core.bench.rig import Rig
from meldrin.core.units import CENTS_PER_OCTAVE

DAMP_DAYS_CENTS: Final = 6.0  # what a damp week leaves on top of the weather itself


def first_offsets_cents(rig: Rig) -> list[float]:
    """Return how far each string is from where it should be, in cents, string 1 first.

    The string that is matched first is low, and most strings of a month are: so a hand could win
    without an ear.
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
            offsets[another(rig, first, draw.random()) - 1] = -CENTS_PER_OCTAVE + between(-9.0, 9.0)
        case "retune":
            offsets = [between(-1.0, 1.0) for _ in range(count)]
        case "slack":
            raise AssertionError("slack strings are drawn by their tension")
        case _:
            assert_never(exercise.start)
    return offsets


def another(rig: Rig, first: int, share: float) -> int:
    """Return a playing string at random, other than the first."""
    others = [s.number for s in rig.strings if s.number != first and s.role == "playing"]
    return others[int(share * len(others))] if others else first
