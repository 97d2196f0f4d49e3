import math
import unittest

from meldrin.core.catalogue import instrument
from meldrin.core.methods import Plan, Wanted, plan_by
from meldrin.core.methods.outcome import IntervalOutcome, intervals, outcome
from meldrin.core.temperament import Temperament

SYNTONIC = 1200.0 * math.log2(81 / 80)  # 21.506 cents


def plan(name: str, method: str, temperament: Temperament | None = None) -> Plan:
    made = instrument(name)
    return plan_by(method, Wanted(made, made.tuning(), temperament=temperament))


def between(made: Plan, lower: int, upper: int) -> IntervalOutcome:
    return next(one for one in intervals(made) if (one.lower, one.upper) == (lower, upper))


class Intervals(unittest.TestCase):
    def test_equal_temperament_makes_nothing_sour_and_nothing_pure(self) -> None:
        made = plan("guitar", "each")
        self.assertFalse(any(one.sour for one in intervals(made)))
        third = between(made, 3, 2)
        self.assertAlmostEqual(third.against_equal_cents, 0.0, places=9)
        self.assertAlmostEqual(
            third.against_pure_cents, 400.0 - 1200.0 * math.log2(5 / 4), places=9
        )
        fourth = between(made, 6, 5)
        self.assertAlmostEqual(fourth.against_pure_cents, 1.955, places=3)

    def test_pure_fifths_leave_a_comma_in_the_sixth(self) -> None:
        # a violin's G to E: three fifths less an octave, 27/16, a comma over 5/3
        sixth = between(plan("violin", "fifths"), 4, 1)
        self.assertEqual(sixth.name, "major sixth and an octave")
        self.assertAlmostEqual(sixth.against_pure_cents, SYNTONIC, places=9)
        self.assertTrue(sixth.sour)

    def test_a_five_string_fiddles_low_c_and_high_e(self) -> None:
        # four fifths: 81/64 and two octaves, 7.8 cents over equal
        third = between(plan("fiddle5", "fifths"), 5, 1)
        self.assertAlmostEqual(third.against_equal_cents, 7.820, places=3)

    def test_a_just_third_is_far_from_equal_and_yet_not_sour(self) -> None:
        made = instrument("banjo")
        third = between(plan_by("harmonics", Wanted(made, made.tuning())), 3, 2)
        self.assertAlmostEqual(third.against_pure_cents, 0.0, places=9)
        self.assertLess(third.against_equal_cents, -13.0)
        self.assertFalse(third.sour)

    def test_seconds_and_sevenths_are_no_consonances(self) -> None:
        for one in intervals(plan("ukulele", "each")):
            self.assertNotIn(round(one.cents) % 1200, (100, 200, 600, 1000, 1100))

    def test_one_string_of_a_course_and_no_sympathetic_ones(self) -> None:
        named = {n for one in intervals(plan("mandolin", "each")) for n in (one.lower, one.upper)}
        self.assertEqual(named, {1, 3, 5, 7})
        named = {n for one in intervals(plan("sitar", "each")) for n in (one.lower, one.upper)}
        self.assertLessEqual(named, set(range(1, 8)))


class Strings(unittest.TestCase):
    def test_tension_goes_with_the_square_of_the_pitch(self) -> None:
        made = plan("guitar", "harmonics")
        for row, string in zip(outcome(made), made.instrument.strings, strict=True):
            made_n = string.linear_density_kg_per_m * (2.0 * string.scale_m * string.design_hz) ** 2
            grown = made_n * 2.0 ** (row.equal_cents / 600.0)
            self.assertAlmostEqual(row.tension_n, grown, delta=0.001 * grown)
            self.assertAlmostEqual(row.breaking_share, row.tension_n / string.breaking_n)

    def test_another_calibration_moves_hertz_and_not_cents(self) -> None:
        made = instrument("cello")
        low = outcome(plan_by("fifths", Wanted(made, made.tuning(), 415.0)))
        high = outcome(plan_by("fifths", Wanted(made, made.tuning(), 443.0)))
        for one, two in zip(low, high, strict=True):
            self.assertAlmostEqual(one.equal_cents, two.equal_cents, places=9)
            self.assertAlmostEqual(two.frequency_hz / one.frequency_hz, 443.0 / 415.0, places=9)

    def test_custom_offsets_are_left_as_asked(self) -> None:
        own = Temperament("custom", custom={1: 3.0, 4: -2.5}, reason="a song in C")
        for method in ("each", "fifths", "tuner", "mixed", "harmonics"):
            cents = {row.number: row.equal_cents for row in outcome(plan("viola", method, own))}
            for number, wanted in {1: 3.0, 2: 0.0, 3: 0.0, 4: -2.5}.items():
                self.assertAlmostEqual(cents[number], wanted, places=9)
