import math
import unittest

from hypothesis import given
from hypothesis import strategies as st

from meldrin.core.errors import MeldrinError, OutOfRange
from meldrin.core.pitch import (
    cents_between,
    checked_a4_hz,
    checked_hz,
    equal_tempered_hz,
    note_name,
    parse_note,
    shifted_by_cents,
)

AUDIBLE = st.floats(20.0, 10_000.0)


class Cents(unittest.TestCase):
    def test_just_intervals(self) -> None:
        # 1200 log2 of 3/2, 4/3, 5/4 and 81/80, from any table of intervals
        for ratio, cents in (
            (3 / 2, 701.955),
            (4 / 3, 498.045),
            (5 / 4, 386.314),
            (1.0125, 21.506),
        ):
            self.assertAlmostEqual(cents_between(440 * ratio, reference_hz=440), cents, places=3)

    @given(AUDIBLE, st.floats(-1200.0, 1200.0))
    def test_shift_is_undone_by_measuring(self, hz: float, cents: float) -> None:
        moved = shifted_by_cents(hz, cents=cents)
        if 8.0 <= moved <= 20_000.0:
            # 1e-9 cent is rounding: two logarithms near 1e4 carry about 1e-12 relative
            self.assertAlmostEqual(cents_between(moved, reference_hz=hz), cents, delta=1e-9)


class Notes(unittest.TestCase):
    def test_open_strings_of_a_guitar_at_440(self) -> None:
        # 440 * 2^((n - 69)/12), two decimals, from a printed table of equal temperament
        expected = {"E2": 82.41, "A2": 110.0, "D3": 146.83, "G3": 196.0, "B3": 246.94, "E4": 329.63}
        for name, hz in expected.items():
            self.assertAlmostEqual(equal_tempered_hz(parse_note(name), a4_hz=440.0), hz, places=2)

    def test_calibration_moves_every_note_alike(self) -> None:
        ratio = equal_tempered_hz(40, a4_hz=415.0) / equal_tempered_hz(40, a4_hz=440.0)
        self.assertAlmostEqual(ratio, 415 / 440, places=12)

    @given(st.integers(0, 127))
    def test_names_are_read_back(self, midi: int) -> None:
        self.assertEqual(parse_note(note_name(midi)), midi)

    def test_flats_and_sharps_of_one_key(self) -> None:
        self.assertEqual(parse_note("Bb2"), parse_note("A#2"))
        self.assertEqual(parse_note("Cb4"), parse_note("B3"))

    def test_what_is_no_note_is_refused_with_an_example(self) -> None:
        for text in ("", "I2", "A", "C#", "C99", "Cb-1"):
            with self.assertRaisesRegex(MeldrinError, "such as F#3"):
                parse_note(text)


class Edges(unittest.TestCase):
    def test_what_is_not_a_frequency(self) -> None:
        for hz in (math.nan, math.inf, -math.inf, 0.0, -440.0, 5e-324, 20_001.0):
            with self.assertRaises(OutOfRange):
                checked_hz(hz)

    def test_calibration_limits_are_named(self) -> None:
        self.assertEqual(checked_a4_hz(390.0), 390.0)
        with self.assertRaisesRegex(OutOfRange, "A4 is 480 Hz; it must lie between 390 and 470 Hz"):
            checked_a4_hz(480.0)


class WhatNotesAreCalled(unittest.TestCase):
    def test_each_way_is_read_back_as_the_same_note(self) -> None:
        for midi in range(12, 120):
            for naming in ("letters", "solfege"):
                for flats in (False, True):
                    name = note_name(midi, naming=naming, flats=flats)
                    self.assertEqual(parse_note(name), midi, name)
        # with H, B is what others call B flat; a note that is typed is read as others mean it
        self.assertEqual(note_name(59, naming="letters_h"), "H3")
        self.assertEqual(note_name(58, naming="letters_h", flats=True), "B3")
        self.assertEqual(parse_note("H3"), 59)
        self.assertEqual([parse_note(one) for one in ("do4", "Ti3", "solb4")], [60, 59, 66])

    def test_sargam_counts_from_the_tonic_and_needs_one(self) -> None:
        scale = [note_name(61 + n, naming="sargam", tonic=1) for n in (0, 2, 4, 5, 7, 9, 11, 12)]
        self.assertEqual(scale, ["Sa", "Re", "Ga", "Ma", "Pa", "Dha", "Ni", "Sa"])
        self.assertEqual(note_name(61, naming="sargam"), "C#4")
