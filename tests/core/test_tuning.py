"""What strings carry in a tuning, and what players call them in it."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from meldrin.core.catalogue import check_tuning, instrument, instruments, tonic_of, tuning_of_notes
from meldrin.core.catalogue.tuning import SLACKEST_SHARE, load_at, tonic_name
from meldrin.core.errors import MeldrinError, OutOfRange
from meldrin.core.methods.naming import a_note, ordinal, string_label
from meldrin.core.strings import WARNING_SHARE, design_tension_n

EVERY_STRING = [string for made in instruments() for string in made.strings]


class Loads(unittest.TestCase):
    def test_at_its_own_note_a_string_carries_what_it_is_made_for(self) -> None:
        for string in EVERY_STRING:
            load = load_at(string, string.design_hz)
            self.assertAlmostEqual(load.tension_n, design_tension_n(string), places=6)
            self.assertAlmostEqual(load.design_share, 1.0, places=9)
            self.assertFalse(load.too_tight or load.too_slack)

    @given(st.sampled_from(EVERY_STRING), st.floats(0.6, 1.3), st.floats(1.001, 1.05))
    def test_higher_is_tighter(self, string: object, factor: float, more: float) -> None:
        assert isinstance(string, type(EVERY_STRING[0]))
        low = load_at(string, string.design_hz * factor)
        high = load_at(string, string.design_hz * factor * more)
        self.assertGreater(high.tension_n, low.tension_n)
        # T goes as f^2, a little less where the mass thins as it is stretched
        self.assertLessEqual(high.tension_n / low.tension_n, more**2 * (1.0 + 1e-9))
        self.assertGreater(high.tension_n / low.tension_n, more**1.7)

    def test_an_octave_down_flaps(self) -> None:
        string = instrument("guitar").string(6)
        self.assertTrue(load_at(string, string.design_hz * 0.499).too_slack)
        self.assertFalse(load_at(string, string.design_hz * 0.52).too_slack)
        self.assertEqual(SLACKEST_SHARE, 0.25)  # (1/2)^2

    def test_every_tuning_of_the_catalogue_is_safe_at_the_usual_calibrations(self) -> None:
        for made in instruments():
            for tuning in made.tunings:
                for a4_hz in (415.0, 440.0, 443.0):
                    loads = check_tuning(made.strings, tuning, a4_hz=a4_hz)
                    self.assertEqual(
                        [load.number for load in loads], [s.number for s in made.strings]
                    )
                    self.assertTrue(all(load.breaking_share <= WARNING_SHARE for load in loads))

    def test_calibration_counts(self) -> None:
        tenor = instrument("tenor-guitar")
        with self.assertRaisesRegex(MeldrinError, "string 1 at A4 would be at 88%"):
            check_tuning(tenor.strings, tenor.tuning(), a4_hz=470.0)  # 77 % (470/440)^2
        with self.assertRaises(OutOfRange):
            check_tuning(tenor.strings, tenor.tuning(), a4_hz=500.0)

    def test_a_sympathetic_string_is_named_as_players_do(self) -> None:
        sitar = instrument("sitar")
        midis = list(reversed(sitar.tuning().notes.split()))
        midis[19] = "A5"  # T13
        high = tuning_of_notes(sitar.strings, " ".join(reversed(midis)))
        with self.assertRaisesRegex(MeldrinError, "string T13 at A5 would be"):
            check_tuning(sitar.strings, high, a4_hz=440.0)


class Notes(unittest.TestCase):
    def test_read_from_the_last_string_to_the_first(self) -> None:
        banjo = instrument("banjo")
        self.assertEqual(banjo.tuning().notes, "G4 D3 G3 B3 D4")
        again = tuning_of_notes(banjo.strings, banjo.tuning().notes)
        self.assertEqual(again.midis, banjo.tuning().midis)
        self.assertEqual(banjo.tuning().midi(5), 67)

    def test_flats_and_commas(self) -> None:
        viola = instrument("viola")
        self.assertEqual(tuning_of_notes(viola.strings, "Bb2, G3, D4, A4").midi(4), 46)

    def test_the_strings_of_a_course_go_together(self) -> None:
        mandolin = instrument("mandolin")
        with self.assertRaisesRegex(MeldrinError, "strings of course 4 sound as one"):
            tuning_of_notes(mandolin.strings, "G3 A3 D4 D4 A4 A4 E5 E5")
        octaves = tuning_of_notes(mandolin.strings, "G3 G2 D4 D4 A4 A4 E5 E5")
        self.assertEqual((octaves.midi(8), octaves.midi(7)), (55, 43))

    def test_tonics(self) -> None:
        self.assertEqual(
            [tonic_of(name) for name in ("C", "C#", "Db", "Bb", " g ")], [0, 1, 1, 10, 7]
        )
        self.assertEqual([tonic_name(n) for n in (0, 6, 22)], ["C", "F#", "A#"])
        for bad in ("", "X", "D4", "C###"):
            with self.assertRaisesRegex(MeldrinError, "is not a tonic"):
                tonic_of(bad)


class Words(unittest.TestCase):
    def test_labels_follow_the_tuning(self) -> None:
        guitar = instrument("guitar")
        self.assertEqual(string_label(guitar, 6), "low E")
        self.assertEqual(string_label(guitar, 6, guitar.tuning("drop-d")), "low D")
        self.assertEqual(string_label(guitar, 4, guitar.tuning("drop-d")), "high D")

    def test_every_label_is_one_string_alone(self) -> None:
        for made in instruments():
            for tuning in made.tunings:
                labels = [string_label(made, string.number, tuning) for string in made.strings]
                self.assertEqual(len(set(labels)), len(labels), (made.id, tuning.id, labels))

    def test_ordinals_and_articles(self) -> None:
        self.assertEqual([ordinal(n) for n in (1, 2, 3, 4, 8)], ["1st", "2nd", "3rd", "4th", "8th"])
        self.assertEqual(
            [a_note(n) for n in ("A2", "D4", "F#3", "G3")], ["an A2", "a D4", "an F#3", "a G3"]
        )
