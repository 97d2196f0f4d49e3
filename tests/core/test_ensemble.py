"""A group before a concert, against fifths worked out by hand: a pure fifth is 701.955 cents, 1.955
wider than an equal one.
"""

import unittest

from meldrin.core.catalogue import instrument
from meldrin.core.ensemble import Agreed, Player, Reading, check, reading_of_hz
from meldrin.core.errors import OutOfRange


def player(name: str, kind: str, *readings: tuple[int, float]) -> Player:
    made = instrument(kind)
    found = tuple(Reading(string, cents) for string, cents in readings)
    return Player(name, made, made.tuning(), found)


class AgreedFifths(unittest.TestCase):
    def test_strings_lie_so_many_fifths_from_the_a(self) -> None:
        for fifth, wide in ((0.0, 1.955), (-1.955, 0.0), (-3.0, -1.045), (2.0, 3.955)):
            agreed = Agreed(442.0, fifth)
            for kind, midis in (
                ("violin", {76: 1, 69: 0, 62: -1, 55: -2}),
                ("viola", {69: 0, 62: -1, 55: -2, 48: -3}),
                ("cello", {57: 0, 50: -1, 43: -2, 36: -3}),
            ):
                for midi, fifths in midis.items():
                    cents = agreed.wanted_cents(instrument(kind), midi)
                    self.assertAlmostEqual(cents, fifths * wide, places=2)

    def test_frets_do_not_follow(self) -> None:
        guitar = instrument("guitar")
        for midi in (40, 45, 50, 55, 59, 64):
            self.assertEqual(Agreed(440.0, 0.0).wanted_cents(guitar, midi), 0.0)

    def test_it_says_what_that_means_between_the_instruments(self) -> None:
        trio = [player("Ebba", "violin"), player("Liv", "viola"), player("Tarek", "cello")]
        pure = check(Agreed(), trio).fifths
        self.assertIn("Viola: C -5.9, G -3.9, D -2.0, A 0 on a tuner at A = 440.", pure)
        # C to E is four fifths: 4 x 1.955 wider than equal, and a comma (21.5) wider than pure
        self.assertEqual(
            pure[-1],
            "From the cello’s C to the violin’s E: 7.8 cents wider than in equal temperament,"
            " 21.5 cents wider than pure.",
        )
        equal = check(Agreed(440.0, -1.955), trio).fifths
        self.assertIn("as wide as in equal temperament, 13.7 cents wider than pure.", equal[-1])
        self.assertEqual(len(check(Agreed(), trio[:1]).fifths), 1)

    def test_what_makes_no_sense_is_refused(self) -> None:
        for a4_hz, fifth in ((380.0, 0.0), (440.0, 11.0)):
            with self.assertRaises(OutOfRange):
                Agreed(a4_hz, fifth)
        with self.assertRaises(OutOfRange):
            Reading(1, 201.0)


class WhomToHelp(unittest.TestCase):
    def test_the_one_who_is_farthest_off_comes_first(self) -> None:
        # wanted on a viola: A 0, D -1.955, G -3.91, C -5.865
        near = player("Ebba", "viola", (1, 1.0), (2, -2.0))
        low = player("Liv", "viola", (1, -4.0), (4, -5.9))
        worst = player("Tarek", "viola", (1, 0.0), (3, 8.0))
        found = check(Agreed(), [near, low, worst])
        self.assertEqual(found.help_first, (2, 1))
        self.assertEqual(found.says, "2 of 3 are out. Tarek first: G is 11.9 cents high.")
        self.assertEqual([one.says for one in found.players[:2]], ["", "A 4.0 cents low"])
        (g,) = [one for one in found.players[2].strings if one.label == "G"]
        self.assertAlmostEqual(g.off_cents or 0.0, 8.0 + 3.91, places=2)

    def test_what_is_not_known_is_not_in_tune(self) -> None:
        nothing = player("Ansel", "viola")
        self.assertEqual(check(Agreed(), [nothing]).says, "Nothing is known of their strings yet.")
        self.assertIsNone(check(Agreed(), [nothing]).players[0].worst)
        two = [player("Ebba", "viola", (1, 0.0)), player("Liv", "viola", (1, 1.0)), nothing]
        self.assertEqual(check(Agreed(), two).says, "All 2 whose strings are known are in tune.")

    def test_a_string_that_sounds_is_read_as_a_tuner_at_the_group_s_a_shows_it(self) -> None:
        # 441 Hz is 1200 log2(441/440) = 3.93 cents above 440
        read = reading_of_hz(1, 441.0, midi=69, a4_hz=440.0)
        assert read is not None
        self.assertAlmostEqual(read.cents, 3.93, places=2)
        at_442 = reading_of_hz(1, 441.0, midi=69, a4_hz=442.0)
        assert at_442 is not None
        self.assertAlmostEqual(at_442.cents, -3.92, places=2)
        self.assertIsNone(reading_of_hz(1, 300.0, midi=69, a4_hz=440.0))
