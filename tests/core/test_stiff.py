"""Plans on real strings, against a slow simulation from first principles that shares no code.

T = mu (2 L f0)^2 and f_n = n f0 sqrt(1 + B n^2), B = q pi^3 E d^4/(64 T L^2); the mass in the
speaking length thins as it is stretched, and drawn polyamide stiffens (E = E0 + k stress).
Everything is found by bisection on the tension.
"""

import math
import unittest
from collections.abc import Callable

from meldrin.core.catalogue import instruments
from meldrin.core.methods import METHODS, Plan, Side, Wanted, plan_by, serves
from meldrin.core.methods.outcome import outcome
from meldrin.core.strings import String
from tests import slow


def strain(string: String, tension_n: float) -> float:
    area = string.packing * math.pi / 4 * string.core_m**2
    stress = tension_n / area
    if not string.modulus_slope:
        return stress / string.modulus_pa
    slope = string.modulus_slope
    return math.log(1 + slope * stress / string.modulus_pa) / slope


def partial_hz(string: String, tension_n: float, number: int, semitones: int) -> float:
    """Partial `number` of the string stopped some semitones up, at a tension."""
    made_hz = 440.0 * 2.0 ** ((string.midi - 69) / 12)
    made_n = string.linear_density_kg_per_m * (2 * string.scale_m * made_hz) ** 2
    density = (
        string.linear_density_kg_per_m
        * (1 + strain(string, made_n))
        / (1 + strain(string, tension_n))
    )
    length = string.scale_m * 2.0 ** (-semitones / 12)
    f0 = math.sqrt(tension_n / density) / (2 * length)
    area = string.packing * math.pi / 4 * string.core_m**2
    modulus = string.modulus_pa + string.modulus_slope * tension_n / area
    rod = math.pi**3 * modulus * string.core_m**4 / (64 * tension_n * length**2)
    return float(number * f0 * math.sqrt(1 + string.bending_factor * rod * number**2))


def bisected(
    string: String, goal_hz: float, touch: Side, sounding: Callable[[String, float, Side], float]
) -> float:
    low, high = 1e-3, string.breaking_n * 2
    for _ in range(200):
        middle = (low + high) / 2
        if sounding(string, middle, touch) < goal_hz:
            low = middle
        else:
            high = middle
    return (low + high) / 2


def carried_out(plan: Plan) -> dict[int, float]:
    """The tensions after every step has been done exactly, in newtons by string number."""
    tensions: dict[int, float] = {}
    bowed = plan.instrument.kind == "bowed"

    def sounding(string: String, tension_n: float, touch: Side) -> float:
        if bowed and touch.node_fret is None:  # kept periodic by the bow: exact multiples
            return touch.partial * partial_hz(string, tension_n, 1, semitones(touch))
        return partial_hz(string, tension_n, touch.partial, semitones(touch))

    def semitones(touch: Side) -> int:
        assert touch.string is not None
        return touch.fret - plan.instrument.string(touch.string).nut_fret if touch.fret else 0

    for step in plan.steps:
        if step.other.string is None:
            assert step.other.hz is not None
            heard = step.other.hz * step.other.partial
        else:
            other = plan.instrument.string(step.other.string)
            at = tensions[other.number]
            heard = sounding(other, at, step.other)
        goal = heard * 2.0 ** (step.offset_cents / 1200)
        own = plan.instrument.string(step.string)
        tensions[own.number] = bisected(own, goal, step.own, sounding)
    return tensions


@slow
class AgainstASlowSimulation(unittest.TestCase):
    def test_every_instrument_by_every_method(self) -> None:
        for made in instruments():
            wanted = Wanted(made, made.tuning(), 442.0)
            for method in METHODS:
                if not serves(method, wanted):
                    continue
                plan = plan_by(method, wanted)
                tensions = carried_out(plan)
                with self.subTest(instrument=made.id, method=method):
                    for string, target_hz in zip(made.strings, plan.targets_hz, strict=True):
                        ended = partial_hz(string, tensions[string.number], 1, 0)
                        off = 1200 * math.log2(ended / target_hz)
                        self.assertAlmostEqual(off, 0.0, delta=1e-6)

    def test_the_first_string_is_the_zero_of_what_stiffness_leaves(self) -> None:
        for made in instruments():
            wanted = Wanted(made, made.tuning())
            for method in ("unison", "fifths", "harmonics", "drone"):
                if not serves(method, wanted):
                    continue
                plan = plan_by(method, wanted)
                rows = {one.number: one for one in outcome(plan)}
                begun = rows[plan.steps[0].string]
                self.assertAlmostEqual(begun.stiff_cents, begun.equal_cents, places=9)
                for row in rows.values():
                    # the stiffest strings have B = 5e-4 and are matched by partials up to the
                    # 5th: 866 B (25 - 1) = 10.4 cents; what is listened to further up parts them
                    # by 3 more at most
                    self.assertLess(abs(row.stiff_cents - row.equal_cents), 13.4)

    def test_bowed_fifths_end_on_the_ideal_however_stiff(self) -> None:
        # the bow locks the partials: 3 f_low = 2 f_high of the fundamentals themselves
        for made in instruments():
            wanted = Wanted(made, made.tuning())
            if made.kind == "bowed" and serves("fifths", wanted):
                for row in outcome(plan_by("fifths", wanted)):
                    self.assertAlmostEqual(row.stiff_cents, row.equal_cents, places=6)

    def test_the_same_fifths_plucked_do_not(self) -> None:
        # a mandolin's A to E by partials 3:2, B = 2.0e-4 and 4.7e-5: 866 (8 B_A - 3 B_E) = 1.24
        made = next(one for one in instruments() if one.id == "mandolin")
        row = outcome(plan_by("fifths", Wanted(made, made.tuning())))[0]
        self.assertAlmostEqual(row.stiff_cents - row.equal_cents, 1.24, delta=0.03)
