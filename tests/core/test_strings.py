import math
import unittest
from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from meldrin.core.catalogue import instrument
from meldrin.core.errors import MeldrinError, OutOfRange
from meldrin.core.strings import (
    String,
    breaking_share,
    cents_per_degree,
    design_tension_n,
    frequency_at_strain,
    inharmonicity,
    partial_hz,
    sounding_hz,
    strain_at_frequency,
    strain_at_tension,
    strain_of,
    strain_sounding,
    tension_at_strain,
    unstretched_at_strain,
    wound,
)

GUITAR = instrument("guitar")
HIGH_E, LOW_E = GUITAR.string(1), GUITAR.string(6)
# A drawn polyamide treble, whose modulus grows with stress: E0 3 GPa, slope 12, 0.69 mm.
NYLON = replace(
    HIGH_E,
    material="polyamide",
    core_m=0.69e-3,
    outer_m=0.69e-3,
    linear_density_kg_per_m=0.39636e-3,
    modulus_pa=3.0e9,
    modulus_slope=12.0,
    breaking_n=179.5,
)
ANY = st.sampled_from([*GUITAR.strings, NYLON])


def cents(a: float, b: float) -> float:
    return 1200.0 * math.log2(a / b)


class Tension(unittest.TestCase):
    def test_high_e_by_hand(self) -> None:
        # T = mu (2 L f)^2 = 0.57353e-3 (2 * 0.645 * 329.628)^2 = 0.57353e-3 * 180 812 = 103.70 N
        self.assertAlmostEqual(design_tension_n(HIGH_E), 103.70, places=2)

    def test_a_light_set_pulls_about_seventy_kilograms(self) -> None:
        # the sum over six strings of mu (2 L f)^2 from the table of the set: 713 N
        self.assertAlmostEqual(sum(map(design_tension_n, GUITAR.strings)), 713.1, delta=0.3)

    def test_strain_of_plain_steel_by_hand(self) -> None:
        # area pi/4 0.305^2 = 0.07306 mm^2; stress 103.70/0.07306 = 1419 MPa; over 205 GPa: 0.692 %
        self.assertAlmostEqual(strain_at_tension(HIGH_E, 103.70), 0.00692, places=5)

    @given(ANY, st.floats(1.0, 160.0))
    def test_tension_and_strain_are_inverse(self, string: String, tension_n: float) -> None:
        back = tension_at_strain(string, strain_at_tension(string, tension_n))
        self.assertAlmostEqual(back / tension_n, 1.0, delta=1e-12)

    def test_a_slack_string_holds_nothing_and_sounds_nothing(self) -> None:
        self.assertEqual(tension_at_strain(HIGH_E, -0.001), 0.0)
        self.assertEqual(sounding_hz(HIGH_E, strain=-0.001, fret=0, number=1), 0.0)

    def test_share_of_the_breaking_load(self) -> None:
        # 103.70 / 191.9
        self.assertAlmostEqual(breaking_share(HIGH_E, tension_n=103.70), 0.540, places=3)


class Turning(unittest.TestCase):
    def test_one_degree_of_the_high_e_knob_by_hand(self) -> None:
        # s = pi/180 * (6 + 0.305)/2 mm / 14 = 0.0039302 mm; EA = 205e9 * 0.073062e-6 = 14 977.6 N;
        # 865.617 ((1.00692) 14 977.6/103.70 + 1) 0.0039302/697 = 0.7147 cents
        self.assertAlmostEqual(cents_per_degree(HIGH_E, tension_n=103.70), 0.7147, places=4)

    def test_exact_winding_agrees_with_the_first_order_for_small_turns(self) -> None:
        for string in (*GUITAR.strings, NYLON):
            tension_n = design_tension_n(string)
            strain = strain_at_tension(string, tension_n)
            unstretched = unstretched_at_strain(string, strain)
            turned = strain_of(string, wound(string, unstretched, knob_deg=0.01))
            up = cents(frequency_at_strain(string, turned), frequency_at_strain(string, strain))
            # the second-order term is about 1e-4 of the first at a hundredth of a degree
            first = 0.01 * cents_per_degree(string, tension_n=tension_n)
            self.assertAlmostEqual(up / first, 1.0, delta=2e-4)

    @given(ANY, st.floats(0.05, 80.0))
    def test_tightening_raises_and_turning_back_restores(self, string: String, deg: float) -> None:
        begun = unstretched_at_strain(string, strain_at_frequency(string, string.design_hz))
        tight = wound(string, begun, knob_deg=deg)
        self.assertGreater(
            frequency_at_strain(string, strain_of(string, tight)),
            frequency_at_strain(string, strain_of(string, begun)),
        )
        self.assertAlmostEqual(wound(string, tight, knob_deg=-deg) / begun, 1.0, delta=1e-14)

    def test_a_slack_string_moves_more_cents_a_degree(self) -> None:
        tension_n = design_tension_n(LOW_E)
        self.assertGreater(
            cents_per_degree(LOW_E, tension_n=tension_n / 2.0),
            1.8 * cents_per_degree(LOW_E, tension_n=tension_n),
        )


class Pitch(unittest.TestCase):
    @given(ANY, st.floats(60.0, 400.0))
    def test_strain_for_a_frequency(self, string: String, hz: float) -> None:
        back = frequency_at_strain(string, strain_at_frequency(string, hz))
        self.assertAlmostEqual(cents(back, hz), 0.0, delta=1e-9)

    @given(ANY, st.floats(80.0, 330.0), st.integers(0, 12), st.integers(1, 6))
    def test_strain_for_a_partial(self, string: String, hz: float, fret: int, number: int) -> None:
        goal = hz * number * 2.0 ** (fret / 12.0)
        strain = strain_sounding(string, frequency_hz=goal, fret=fret, number=number)
        back = sounding_hz(string, strain=strain, fret=fret, number=number)
        self.assertAlmostEqual(cents(back, goal), 0.0, delta=1e-6)

    def test_a_nylon_string_thins_as_it_is_stretched(self) -> None:
        # mass leaves the speaking length, so f grows faster than sqrt(T), by (1 + strain) in f^2
        tension_n = design_tension_n(NYLON)
        low, high = strain_at_tension(NYLON, tension_n), strain_at_tension(NYLON, 1.2 * tension_n)
        measured = cents(frequency_at_strain(NYLON, high), frequency_at_strain(NYLON, low))
        by_tension = cents(math.sqrt(1.2), 1.0)
        by_mass = cents(math.sqrt((1.0 + high) / (1.0 + low)), 1.0)
        self.assertAlmostEqual(measured, by_tension + by_mass, delta=1e-9)
        self.assertGreater(by_mass, 3.0)

    def test_unreachable_and_impossible_pitches_are_refused(self) -> None:
        with self.assertRaises(OutOfRange):
            strain_at_frequency(HIGH_E, math.nan)
        with self.assertRaisesRegex(MeldrinError, "cannot be brought"):
            strain_at_frequency(LOW_E, 5000.0)


class Stiffness(unittest.TestCase):
    def test_inharmonicity_of_the_low_e_by_hand(self) -> None:
        # pi^3 205e9 (0.46e-3)^4 / (64 * 112.9 * 0.645^2) = 2.846e-1/3006.0 = 9.47e-5
        b = inharmonicity(LOW_E, tension_n=112.9, speaking_m=0.645)
        self.assertAlmostEqual(b, 9.47e-5, delta=0.01e-5)

    def test_partials_two_and_four_of_the_low_e_differ_by_a_cent(self) -> None:
        # 866 B (n^2 - m^2) = 866 * 9.47e-5 * 12 = 0.98 cents between 4 f2/2 ... and f4
        b = 9.47e-5
        second = partial_hz(82.407, number=2, inharmonicity_b=b) / 2
        fourth = partial_hz(82.407, number=4, inharmonicity_b=b) / 4
        self.assertAlmostEqual(cents(fourth, second), 0.98, delta=0.01)

    def test_stopping_at_the_octave_doubles_pitch_and_makes_stiffness_fourfold(self) -> None:
        strain = strain_at_frequency(LOW_E, 82.407)
        open_b = 9.47e-5
        open_1 = sounding_hz(LOW_E, strain=strain, fret=0, number=1)
        stopped_1 = sounding_hz(LOW_E, strain=strain, fret=12, number=1)
        # f1 = f0 sqrt(1 + B): the octave is wide by 865.6 (4B - B) cents
        self.assertAlmostEqual(cents(stopped_1, open_1), 1200.0 + 865.6 * 3 * open_b, delta=1e-3)

    def test_a_string_must_have_sensible_measures(self) -> None:
        for change in ({"scale_m": 0.0}, {"core_m": math.nan}, {"outer_m": 1e-5}, {"packing": 2.0}):
            with self.assertRaises(OutOfRange):
                replace(HIGH_E, **change)  # type: ignore[arg-type]
