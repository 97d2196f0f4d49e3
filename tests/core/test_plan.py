import math
import unittest
from dataclasses import replace

from meldrin.core.catalogue import instrument
from meldrin.core.errors import MeldrinError, OutOfRange
from meldrin.core.methods import unison_plan
from meldrin.core.strings import inharmonicity, sounding_hz, strain_sounding

GUITAR = instrument("guitar")


class UnisonOnAGuitar(unittest.TestCase):
    def setUp(self) -> None:
        self.plan = unison_plan(GUITAR, a4_hz=440.0)

    def test_order_and_frets(self) -> None:
        # A from the fork; D, G, B, E upward from 5, 5, 4, 5; low E at its own 5 against A
        seen = [(s.string, s.other.string, s.own.fret, s.other.fret) for s in self.plan.steps]
        self.assertEqual(
            seen,
            [(5, None, 0, 0), (4, 5, 0, 5), (3, 4, 0, 5), (2, 3, 0, 4), (1, 2, 0, 5), (6, 5, 5, 0)],
        )

    def test_the_fork_meets_the_fourth_partial_of_a(self) -> None:
        first = self.plan.steps[0]
        self.assertEqual((first.own.partial, first.meeting_hz), (4, 440.0))
        # 440 (2^(1/1200) - 1) beats a cent; two cents away one beat lasts 1/0.508 s
        self.assertAlmostEqual(first.beats_hz_per_cent, 0.2542, places=4)
        self.assertAlmostEqual(first.seconds_to_hear, 1.967, places=3)

    def test_every_string_is_tuned_exactly_once(self) -> None:
        self.assertEqual(sorted(step.string for step in self.plan.steps), [1, 2, 3, 4, 5, 6])

    def test_targets_are_equal_temperament_but_for_stiffness(self) -> None:
        # the fork holds A's 4th partial, so its first lies 865.6 ln((1+16B)/(1+B)) cents flat
        a = GUITAR.string(5)
        b = inharmonicity(a, tension_n=126.9, speaking_m=a.scale_m)
        flat = 865.617 * math.log((1 + 16 * b) / (1 + b))
        for string, target_hz in zip(GUITAR.strings, self.plan.targets_hz, strict=True):
            off = 1200.0 * math.log2(target_hz / string.design_hz)
            if string.number == 5:
                self.assertAlmostEqual(off, -flat, delta=0.01)
            # first partials are matched, and B raises them by under 0.15 cents however stopped
            self.assertAlmostEqual(off, -flat, delta=0.15)

    def test_exact_execution_stands_still_at_every_step(self) -> None:
        strains = {
            n: strain_sounding(GUITAR.string(n), frequency_hz=hz, fret=0, number=1)
            for n, hz in enumerate(self.plan.targets_hz, start=1)
        }
        for step in self.plan.steps:
            sides = [
                440.0
                if side.string is None
                else sounding_hz(
                    GUITAR.string(side.string),
                    strain=strains[side.string],
                    fret=side.fret,
                    number=side.partial,
                )
                for side in (step.own, step.other)
            ]
            self.assertAlmostEqual(sides[0], sides[1], delta=1e-6)

    def test_the_check_of_two_octaves_keeps_a_slow_beat(self) -> None:
        (check,) = self.plan.checks
        self.assertEqual((check.own.string, check.other.string, check.cents), (6, 1, 2400.0))
        # 4 f0 sqrt(1+16B) on the low E, B = 9.5e-5: 865.6*15*B/1 = 1.23 cents, less 0.18 cents that
        # its matching at fret 5 took: about 0.2 beats a second at 329.6 Hz
        self.assertAlmostEqual(check.beats_hz, 0.20, delta=0.03)


class WhereItCannotServe(unittest.TestCase):
    def test_no_frets(self) -> None:
        with self.assertRaisesRegex(MeldrinError, "has no frets .* its fifths do it better"):
            unison_plan(replace(GUITAR, frets=0), a4_hz=440.0)

    def test_too_few_frets(self) -> None:
        with self.assertRaisesRegex(MeldrinError, "fret 5, past the end of the fingerboard"):
            unison_plan(replace(GUITAR, frets=4), a4_hz=440.0)

    def test_no_a_string(self) -> None:
        strings = tuple(replace(string, midi=string.midi - 1) for string in GUITAR.strings)
        with self.assertRaisesRegex(MeldrinError, "is an A"):
            unison_plan(replace(GUITAR, strings=strings), a4_hz=440.0)

    def test_calibration_out_of_range(self) -> None:
        with self.assertRaises(OutOfRange):
            unison_plan(GUITAR, a4_hz=float("nan"))
