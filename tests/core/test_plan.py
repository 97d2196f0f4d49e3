import math
import unittest
from dataclasses import replace

from meldrin.core.catalogue import instrument
from meldrin.core.errors import MeldrinError, OutOfRange
from meldrin.core.methods import Plan, Wanted, plan_by
from meldrin.core.strings import inharmonicity, sounding_hz, strain_sounding
from meldrin.core.temperament import Temperament

GUITAR = instrument("guitar")


def unison_of(made: object = GUITAR, a4_hz: float = 440.0) -> Plan:
    assert isinstance(made, type(GUITAR))
    return plan_by("unison", Wanted(made, made.tuning(), a4_hz))


class UnisonOnAGuitar(unittest.TestCase):
    def setUp(self) -> None:
        self.plan = unison_of()

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
        self.assertEqual((check.own.string, check.other.string, check.target_cents), (6, 1, 2400.0))
        # 4 f0 sqrt(1+16B) on the low E, B = 9.5e-5: 865.6*15*B/1 = 1.23 cents, less 0.18 cents that
        # its matching at fret 5 took: about 0.2 beats a second at 329.6 Hz
        self.assertAlmostEqual(check.beats_hz, 0.20, delta=0.03)


class WhereItCannotServe(unittest.TestCase):
    def test_no_frets(self) -> None:
        with self.assertRaisesRegex(MeldrinError, "has no frets .* What can serve: fifths"):
            unison_of(instrument("cello"))

    def test_movable_frets(self) -> None:
        with self.assertRaisesRegex(MeldrinError, "movable .* What can serve: drone"):
            unison_of(instrument("sitar"))

    def test_where_no_string_can_lead(self) -> None:
        made = instrument("baritone-ukulele")  # D G B E: fourths and a third, no fifths
        just = Wanted(made, made.tuning(), temperament=Temperament("just", tonic=7), itself=True)
        with self.assertRaisesRegex(MeldrinError, "With a reference at hand, .*serve: drone"):
            plan_by("fifths", just)

    def test_too_few_frets(self) -> None:
        with self.assertRaisesRegex(MeldrinError, "past the end of the fingerboard"):
            unison_of(replace(GUITAR, frets=4))

    def test_calibration_out_of_range(self) -> None:
        for a4_hz in (389.9, 470.1, float("nan"), float("inf")):
            with self.assertRaises(OutOfRange):
                unison_of(a4_hz=a4_hz)
