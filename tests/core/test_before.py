"""What is to be known before the first turn."""

import unittest

from meldrin.core.before import before, peg_rows
from meldrin.core.catalogue import instrument, instrument_of, instrument_text, instruments
from meldrin.core.errors import MeldrinError

MOST_WORDS = 15


class Rows(unittest.TestCase):
    def rows(self, name: str) -> dict[int, tuple[str, str, str]]:
        made = instrument(name)
        return {
            one.number: (one.label, one.where, one.tightens)
            for one in peg_rows(made, made.tuning())
        }

    def test_a_violin_has_two_pegs_a_side_that_turn_opposite_ways(self) -> None:
        # E and A on the right as one looks at it, D and G on the left; every peg winds its string
        # away from the nut, so that seen from their ends the sides tighten opposite ways
        self.assertEqual(
            self.rows("violin"),
            {
                1: ("E", "right side, nearest the strings", "clockwise"),
                2: ("A", "right side, at the far end", "clockwise"),
                3: ("D", "left side, at the far end", "anticlockwise"),
                4: ("G", "left side, nearest the strings", "anticlockwise"),
            },
        )

    def test_six_in_a_line_begin_with_the_low_e(self) -> None:
        rows = self.rows("electric-guitar")
        self.assertEqual(rows[6][:2], ("low E", "nearest the strings"))
        self.assertEqual(rows[1][:2], ("high E", "at the far end"))

    def test_a_banjo_s_short_string_has_its_peg_in_the_neck(self) -> None:
        self.assertIn("in the side of the neck", self.rows("banjo")[5][1])


class Sentences(unittest.TestCase):
    def test_they_are_short_and_name_what_every_player_needs(self) -> None:
        for made in instruments():
            parts = before(made, made.tuning())
            titles = [part.title for part in parts]
            with self.subTest(instrument=made.id):
                machines = "machine" in made.strings[0].peg.kind
                which = f"Which {'tuning machine' if machines else 'peg'}, which way"
                for title in ("The strings", which, "The fork", "Stay safe"):
                    self.assertIn(title, titles)
                for part in parts:
                    for sentence in part.sentences:
                        if part.title != "The strings":  # where names are listed
                            self.assertLessEqual(len(sentence.split()), MOST_WORDS, sentence)
                        self.assertTrue(sentence.endswith("."), sentence)

    def test_only_pegs_that_are_pushed_in_are_told_to_be(self) -> None:
        for name, pushed in (("viola", True), ("guitar", False), ("ukulele", False)):
            made = instrument(name)
            words = " ".join(s for part in before(made, made.tuning()) for s in part.sentences)
            self.assertEqual("Push the peg in" in words, pushed, name)

    def test_a_copy_is_held_as_what_it_was_copied_from(self) -> None:
        text = instrument_text("viola").replace('id = "viola"', 'id = "my-own"')
        made = instrument_of(text)
        self.assertEqual(made.id, "my-own")
        words = " ".join(s for part in before(made, made.tuning()) for s in part.sentences)
        self.assertIn("under your chin", words)
        with self.assertRaisesRegex(MeldrinError, "lap, chin, upright"):
            instrument_of(text.replace('posture = "chin"', 'posture = "nose"'))
