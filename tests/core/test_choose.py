import itertools
import unittest
from typing import get_args

from meldrin.core.catalogue import instrument
from meldrin.core.choose import Ranked, rank
from meldrin.core.errors import MeldrinError
from meldrin.core.methods import METHODS, Situation, Wanted, serves
from meldrin.core.methods.method import AtHand, Company, HowFar, Noise, Purpose


def wanted(name: str) -> Wanted:
    made = instrument(name)
    return Wanted(made, made.tuning())


def first(situation: Situation, name: str) -> Ranked:
    return rank(situation, wanted(name))[0]


class Advice(unittest.TestCase):
    def test_alone_with_nothing_at_hand(self) -> None:
        self.assertEqual(first(Situation(at_hand="nothing"), "guitar").method, "unison")

    def test_bowed_strings_go_by_fifths(self) -> None:
        for name in ("violin", "viola", "cello"):
            self.assertEqual(first(Situation(company="others"), name).method, "fifths")

    def test_noise_and_slack_strings_call_for_a_tuner(self) -> None:
        loud = Situation(noise="noisy", at_hand="tuner", how_far="slack", purpose="stage")
        for name in ("guitar", "banjo", "mandolin"):
            found = first(loud, name)
            self.assertEqual(found.method, "tuner")
            self.assertIn("noise", found.reasons[0])

    def test_low_strings_by_harmonics(self) -> None:
        for name in ("bass", "double-bass"):
            self.assertEqual(first(Situation(), name).method, "harmonics")

    def test_a_sitar_over_its_drone(self) -> None:
        self.assertEqual(first(Situation(at_hand="drone"), "sitar").method, "drone")

    def test_a_recording_with_a_tuner_at_hand_is_mixed(self) -> None:
        found = first(Situation(at_hand="tuner", purpose="recording"), "guitar")
        self.assertEqual(found.method, "mixed")

    def test_what_cannot_serve_comes_last_and_says_why(self) -> None:
        last = rank(Situation(), wanted("cello"))[-1]
        self.assertEqual((last.method, last.serves), ("unison", False))
        self.assertIn("no frets", last.reasons[0])


class Always(unittest.TestCase):
    def test_every_situation_ranks_all_methods_with_a_reason(self) -> None:
        violin = wanted("violin")
        for answers in itertools.product(
            *(get_args(kind) for kind in (Company, Noise, AtHand, HowFar, Purpose))
        ):
            found = rank(Situation(*answers), violin)
            self.assertEqual({one.method for one in found}, set(METHODS))
            self.assertTrue(all(one.reasons for one in found))
            points = [one.points for one in found if one.serves]
            self.assertEqual(points, sorted(points, reverse=True))
            self.assertTrue(serves(found[0].method, violin))

    def test_every_rule_is_of_a_method_and_some_situation(self) -> None:
        everywhere = [wanted(name) for name in ("violin", "guitar", "bass", "sitar")]
        situations = [
            Situation(*answers)
            for answers in itertools.product(
                *(get_args(kind) for kind in (Company, Noise, AtHand, HowFar, Purpose))
            )
        ]
        reasons = [reason for method in METHODS.values() for reason in method.reasons]
        self.assertGreater(len(reasons), 30)
        for one in reasons:
            cases = [one.applies(s, w) for w in everywhere for s in situations]
            self.assertTrue(any(cases), one.sentence)
            self.assertFalse(all(cases), one.sentence)

    def test_answers_there_are_none_of(self) -> None:
        with self.assertRaisesRegex(MeldrinError, "“loud” is not an answer; take quiet, noisy"):
            Situation(noise="loud")  # type: ignore[arg-type]
