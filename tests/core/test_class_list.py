"""A class from a list, as spreadsheets of several countries save it."""

import doctest
import importlib
import random
import unittest

from meldrin.core.errors import Code, MeldrinError
from meldrin.core.people import (
    Listed,
    class_list,
    is_join_code,
    join_code_drawn,
    join_code_said,
    slips,
    title_said,
)
from meldrin.core.people.class_list import MOST_PUPILS_OF_A_LIST


class Lists(unittest.TestCase):
    def refused(self, text: str) -> str:
        with self.assertRaises(MeldrinError) as refused:
            class_list(text)
        self.assertEqual(refused.exception.code, Code.CLASS_LIST)
        return refused.exception.message

    def test_the_same_class_however_it_is_saved(self) -> None:
        wanted = (Listed("Tarek", ("Saturday",)), Listed("Liv"))
        for text in (
            "name,group\nTarek,Saturday\nLiv,\n",
            "name;group\r\nTarek;Saturday\r\nLiv;\r\n",
            "\ufeffName\tGroup\nTarek\tSaturday\nLiv\n",
            '"group","born","name"\n"Saturday","2014","Tarek"\n"","2015","Liv"\n',
            "Tarek, Saturday\n\n  Liv  \n",
        ):
            with self.subTest(text=text):
                self.assertEqual(class_list(text), wanted)

    def test_a_comma_inside_a_name_in_quotes_is_not_a_letter(self) -> None:
        self.assertTrue(self.refused('name\n"Lund, Tarek"\n').startswith("Line 2: "))

    def test_several_groups_and_one_written_twice(self) -> None:
        (one,) = class_list("Liv;Saturday;Quartet;saturday\n")
        self.assertEqual({name.casefold() for name in one.groups}, {"saturday", "quartet"})
        self.assertEqual(len(one.groups), 2)

    def test_each_wrong_line_is_named(self) -> None:
        self.assertTrue(self.refused("Tarek\nX\n").startswith("Line 2: "))
        self.assertIn("twice", self.refused("Tarek\nLiv\ntarek\n"))
        self.assertTrue(self.refused("name;group\nTarek\n;Saturday\n").startswith("Line 3: "))
        self.assertIn("5 groups", self.refused("Liv,a,b,c,d,e,f\n"))
        self.assertIn("address", self.refused("liv@boathouse\n"))

    def test_nothing_and_too_many(self) -> None:
        for text in ("", "\n \n", "name,group\n"):
            self.assertIn("one name on each line", self.refused(text))
        names = [f"Pupil {n}" for n in range(MOST_PUPILS_OF_A_LIST + 1)]
        self.assertEqual(len(class_list("\n".join(names[:-1]))), MOST_PUPILS_OF_A_LIST)
        self.assertIn("Make two", self.refused("\n".join(names)))


class Words(unittest.TestCase):
    def test_titles(self) -> None:
        self.assertEqual(title_said("  Skerrow   Boathouse "), "Skerrow Boathouse")
        for wrong in ("", " - ", "a\u0000b", "x" * 41):
            with self.assertRaises(MeldrinError):
                title_said(wrong)

    def test_the_code_on_the_wall_is_read_as_it_is_typed(self) -> None:
        code = join_code_drawn(random.Random(3))
        self.assertRegex(code, r"^[A-Z49]{4}-[A-Z49]{4}$")
        self.assertTrue(is_join_code(code))
        self.assertEqual(join_code_said(f" {code.lower().replace('-', ' ')} "), code)
        for wrong in ("CDFG-HJK", "AEIO-AEIO", "CDFG-HJKL-M"):
            with self.assertRaises(MeldrinError):
                join_code_said(wrong)

    def test_the_examples(self) -> None:
        lists = importlib.import_module("meldrin.core.people.class_list")
        for module in (lists, slips):
            self.assertEqual(doctest.testmod(module).failed, 0)
            self.assertGreater(doctest.testmod(module).attempted, 0)
