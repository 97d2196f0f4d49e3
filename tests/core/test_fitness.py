import math
import unittest

from meldrin.core.catalogue import instrument, instruments
from meldrin.core.errors import MeldrinError, OutOfRange
from meldrin.core.fitness import Fitness, fitness, questions

GUITAR = instrument("guitar")
VIOLIN = instrument("violin")


def look(answers: dict[str, str | float], made: object = GUITAR) -> Fitness:
    assert isinstance(made, type(GUITAR))
    return fitness(made, answers)


class Questions(unittest.TestCase):
    def test_the_order_one_looks_in(self) -> None:
        asked = [question.id for question in questions(GUITAR)]
        self.assertEqual(
            asked, ["hours", "days", "surface", "fret12", "fret1", "pegs", "kept", "harm"]
        )

    def test_only_what_the_instrument_has(self) -> None:
        asked = [question.id for question in questions(VIOLIN)]
        self.assertNotIn("fret12", asked)
        self.assertIn("fine", asked)

    def test_every_answer_to_every_question_means_something(self) -> None:
        for made in instruments():
            for question in questions(made):
                values: list[str | float] = [value for value, _ in question.options]
                for value in values or [question.low, 1.0, 20.0, question.high]:
                    found = fitness(made, {question.id: value})
                    self.assertTrue(found.advice)
                    for finding in found.findings:
                        self.assertTrue(finding.sentence.endswith("."), finding.sentence)


class Advice(unittest.TestCase):
    def test_a_high_nut_shows_at_frets_1_and_2_and_nowhere_else(self) -> None:
        found = look({"fret12": 1.0, "fret1": 9.0})
        self.assertEqual(found.remedy, "repairer")
        self.assertIn("sign of a high nut", found.findings[1].sentence)
        self.assertIn("Have a repairer look", found.advice)

    def test_a_wrong_speaking_length(self) -> None:
        found = look({"fret12": -12.0})
        self.assertEqual(found.remedy, "repairer")
        self.assertIn("12 cents flat at fret 12", found.findings[0].sentence)

    def test_damaged_strings_come_before_the_repairer(self) -> None:
        found = look({"surface": "dented", "fret12": 12.0})
        self.assertEqual(found.remedy, "strings")

    def test_strings_past_their_hours(self) -> None:
        self.assertEqual(look({"hours": 41.0}).remedy, "strings")
        self.assertEqual(look({"hours": 30.0}).remedy, "mind")
        self.assertEqual(look({"hours": 5.0}).remedy, "fine")

    def test_a_slipping_peg_is_pushed_in_where_it_is_a_friction_peg(self) -> None:
        self.assertEqual(look({"pegs": "slip"}, VIOLIN).remedy, "mind")
        self.assertEqual(look({"pegs": "slip"}).remedy, "repairer")
        self.assertEqual(look({"pegs": "creak"}, VIOLIN).remedy, "repairer")

    def test_a_move_from_damp_to_dry(self) -> None:
        found = look({"kept": "damp"})
        self.assertEqual(found.remedy, "wait")
        self.assertIn("pitch sinks", found.findings[0].sentence)

    def test_a_leaning_bridge_outweighs_all_the_rest(self) -> None:
        found = look({"hours": 1000.0, "kept": "damp", "harm": "bridge"})
        self.assertEqual(found.remedy, "repairer")
        self.assertIn("Do not tighten", found.findings[-1].sentence)

    def test_all_well(self) -> None:
        well: dict[str, str | float] = {"hours": 3.0, "surface": "smooth", "fret12": 0.0}
        self.assertEqual(look(well).advice, "Fit to be tuned.")

    def test_nothing_answered(self) -> None:
        self.assertEqual(look({}).findings, ())


class Refusals(unittest.TestCase):
    def test_bad_answers(self) -> None:
        with self.assertRaisesRegex(MeldrinError, "“fine” is not asked of this instrument"):
            look({"fine": "middle"})
        with self.assertRaisesRegex(MeldrinError, "one of: smooth, dull, dented"):
            look({"surface": "shiny"})
        with self.assertRaisesRegex(MeldrinError, "“many” is not a number"):
            look({"hours": "many"})
        for hours in (-1.0, math.nan):
            with self.assertRaises(OutOfRange):
                look({"hours": hours})
