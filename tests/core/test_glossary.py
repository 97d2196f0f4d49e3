import unittest

from meldrin.core.errors import MeldrinError
from meldrin.core.glossary import glossary, sounds_of
from meldrin.core.sound.events import Start

MOST_WORDS = 15  # in a sentence for a learner


class TheWords(unittest.TestCase):
    def test_each_has_one_plain_sentence_and_a_sound_or_a_picture(self) -> None:
        for word in glossary().values():
            with self.subTest(word.id):
                self.assertTrue(word.says.endswith("."))
                self.assertLessEqual(len(word.says.split()), MOST_WORDS)
                self.assertEqual(bool(sounds_of(word.id)), word.see is None)

    def test_no_word_is_told_twice(self) -> None:
        written = [text.lower() for word in glossary().values() for text in word.words]
        self.assertEqual(len(written), len(set(written)))
        for wanted in ("cent", "beat", "partial", "node", "course", "temperament", "creep"):
            self.assertIn(wanted, written)

    def test_what_is_heard_is_what_is_said(self) -> None:
        def firsts(word: str) -> list[float]:
            return [one.table.fundamental_hz for one in sounds_of(word) if isinstance(one, Start)]

        # 20 cents are a ratio of 2^(20/1200), a semitone 2^(1/12); the fork is 0.8 Hz from A4
        low, high, *_ = firsts("cent")
        self.assertAlmostEqual(high / low, 2 ** (20 / 1200), delta=1e-5)
        low, high = firsts("semitone")
        self.assertAlmostEqual(high / low, 2 ** (1 / 12), delta=1e-5)
        low, high = firsts("octave")
        self.assertAlmostEqual(high / low, 2.0, delta=1e-3)
        self.assertAlmostEqual(firsts("beat")[1], 440.8)
        self.assertEqual(firsts("partial")[:4], [110.0, 220.0, 330.0, 440.0])

    def test_an_unknown_word_is_refused(self) -> None:
        with self.assertRaisesRegex(MeldrinError, "Unknown word “cents”. Available: attack, beat"):
            sounds_of("cents")
