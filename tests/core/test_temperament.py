import math
import unittest
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from meldrin.core.errors import MeldrinError, OutOfRange
from meldrin.core.temperament import EQUAL, PURE_FIFTHS, Temperament, just_ratio, sweetened

MIDI = st.integers(21, 100)


class Values(unittest.TestCase):
    def test_pure_fifths_against_equal_temperament(self) -> None:
        # four fifths up and two octaves down: 81/64, the wide third of 407.820 cents
        third = PURE_FIFTHS.tone(61, reference_midi=57, number=1)
        self.assertEqual(third.ratio, Fraction(81, 64))
        self.assertAlmostEqual(third.size_cents, 407.8200, places=4)

    def test_fifths_narrowed_to_equal_ones(self) -> None:
        narrow = Temperament("fifths", fifth_cents=-(1200 * math.log2(1.5) - 700))
        for midi in range(52, 68):
            even = EQUAL.tone(midi, reference_midi=57, number=1)
            self.assertAlmostEqual(
                narrow.tone(midi, reference_midi=57, number=1).size_cents, even.size_cents, places=9
            )

    def test_just_degrees(self) -> None:
        over_d = Temperament("just", tonic=2)
        ratios = {2: "9/8", 4: "5/4", 5: "4/3", 7: "3/2", 9: "5/3", 11: "15/8"}
        ratios |= {1: "16/15", 3: "6/5", 8: "8/5", 10: "16/9"}
        for semitones, ratio in ratios.items():
            tone = over_d.tone(50 + semitones, reference_midi=50, number=1)
            self.assertEqual(tone.ratio, Fraction(ratio))
        # a reference that is not the tonic keeps its place: from A, D lies a pure fifth below
        self.assertEqual(over_d.tone(50, reference_midi=57, number=1).ratio, Fraction(2, 3))

    def test_sweetened_goes_a_share_of_the_way(self) -> None:
        half = sweetened({1: 64, 2: 60}, tonic=0, share=0.5)
        # a just third is 13.686 cents below the equal one
        self.assertAlmostEqual(half.custom[1], -13.6863 / 2, places=4)
        self.assertEqual(half.custom[2], 0.0)
        self.assertIn("50% of the way", half.reason)


class Laws(unittest.TestCase):
    @given(MIDI, MIDI, st.sampled_from([EQUAL, PURE_FIFTHS, Temperament("just", tonic=7)]))
    def test_octaves_are_pure(self, midi: int, reference: int, temper: Temperament) -> None:
        low = temper.tone(midi, reference_midi=reference, number=1).size_cents
        high = temper.tone(midi + 12, reference_midi=reference, number=1).size_cents
        self.assertAlmostEqual(high - low, 1200.0, places=9)

    @given(MIDI, MIDI)
    def test_nothing_is_further_than_a_third_of_a_step_from_equal(self, midi: int, to: int) -> None:
        for temper in (PURE_FIFTHS, Temperament("just", tonic=0)):
            size = temper.tone(midi, reference_midi=to, number=1).size_cents
            self.assertLess(abs(size - 100.0 * (midi - to)), 34.0)

    @given(st.integers(-60, 60))
    def test_just_ratios_invert_over_the_octave(self, semitones: int) -> None:
        self.assertEqual(just_ratio(semitones + 12), 2 * just_ratio(semitones))


class Refusals(unittest.TestCase):
    def test_what_makes_no_sense(self) -> None:
        with self.assertRaisesRegex(MeldrinError, "take equal, fifths, just, custom"):
            Temperament("mean")  # type: ignore[arg-type]
        with self.assertRaisesRegex(MeldrinError, "need a tonic"):
            Temperament("just")
        with self.assertRaisesRegex(MeldrinError, "its reason"):
            Temperament("custom", custom={1: 2.0}, reason=" ")
        for cents in (10.1, -10.1, math.nan):
            with self.assertRaises(OutOfRange):
                Temperament("fifths", fifth_cents=cents)
        with self.assertRaisesRegex(OutOfRange, "offset of string 3 is 51"):
            Temperament("custom", custom={3: 51.0}, reason="a try")
        with self.assertRaises(OutOfRange):
            sweetened({1: 60}, tonic=0, share=1.2)
