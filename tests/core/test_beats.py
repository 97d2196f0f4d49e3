import math
import unittest

from meldrin.core.beats import (
    attainable_cents,
    beat_rate_hz,
    beats_per_cent,
    seconds_to_hear,
    slowest_heard_hz,
)
from meldrin.core.errors import OutOfRange
from meldrin.core.pitch import equal_tempered_hz, parse_note, shifted_by_cents


def et(name: str) -> float:
    return equal_tempered_hz(parse_note(name), a4_hz=440.0)


class EqualTemperedIntervals(unittest.TestCase):
    def test_fifths_of_a_violin(self) -> None:
        # 3 f_low - 2 f_high with equal-tempered pitches: 0.66, 0.99 and 1.49 a second, as every
        # piano tuner's table has them for G3-D4, D4-A4 and A4-E5
        for low, high, rate in (("G3", "D4", 0.66), ("D4", "A4", 0.99), ("A4", "E5", 1.49)):
            self.assertAlmostEqual(beat_rate_hz(et(low), et(high), partials=(3, 2)), rate, places=2)

    def test_fourths_of_a_guitar(self) -> None:
        # 4 f_low - 3 f_high = f_low (4 - 3 * 2^(5/12)) = -0.0045196 f_low
        for low, high in (("E2", "A2"), ("A2", "D3"), ("D3", "G3")):
            rate = beat_rate_hz(et(low), et(high), partials=(4, 3))
            self.assertAlmostEqual(rate, 0.0045196 * et(low), places=4)

    def test_third_and_octave(self) -> None:
        # G3-B3 as 5:4: f (5 - 4 * 2^(4/12)) = -0.039684 f = 7.78 a second; an octave stands still
        self.assertAlmostEqual(beat_rate_hz(et("G3"), et("B3"), partials=(5, 4)), 7.778, places=3)
        self.assertAlmostEqual(beat_rate_hz(et("E2"), et("E3"), partials=(2, 1)), 0.0, places=9)

    def test_fretted_unison_ten_cents_apart(self) -> None:
        # 146.832 (2^(10/1200) - 1) = 0.851
        d = et("D3")
        rate = beat_rate_hz(d, shifted_by_cents(d, cents=10.0), partials=(1, 1))
        self.assertAlmostEqual(rate, 0.851, places=3)


class WhatAnEarCanUse(unittest.TestCase):
    def test_one_cent_at_the_fork(self) -> None:
        self.assertAlmostEqual(beats_per_cent(440.0), 440.0 * (2 ** (1 / 1200) - 1), places=12)

    def test_slow_beats_need_time(self) -> None:
        self.assertAlmostEqual(seconds_to_hear(0.3), 3.33, places=2)
        self.assertEqual(seconds_to_hear(0.0), math.inf)

    def test_what_can_be_attained_on_known_comparisons(self) -> None:
        # 1731 (0.5/tau)/f: a fretted unison on A2 heard for 4 s, harmonics at 587 Hz for 3 s
        self.assertAlmostEqual(attainable_cents(110.0, ringing_s=4.0), 1.97, places=2)
        self.assertAlmostEqual(attainable_cents(587.0, ringing_s=3.0), 0.49, places=2)
        self.assertEqual(slowest_heard_hz(2.0), 0.25)

    def test_impossible_input(self) -> None:
        with self.assertRaises(OutOfRange):
            beat_rate_hz(0.0, 440.0, partials=(1, 1))
        with self.assertRaises(OutOfRange):
            attainable_cents(110.0, ringing_s=0.0)
