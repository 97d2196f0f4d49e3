"""Names, pictures and codes: what is taken, what is refused, and how much there is to guess."""

import random
import unittest

from meldrin.core.errors import Code, MeldrinError
from meldrin.core.people import (
    code_drawn,
    code_said,
    key_of_name,
    name_said,
    passphrase_said,
    picture_groups,
    pictures_drawn,
)


class Names(unittest.TestCase):
    def test_a_name_is_kept_as_one_writes_it(self) -> None:
        for name, said in (
            ("  Ida   Lund ", "Ida Lund"),
            ("Åsa-Li", "Åsa-Li"),
            ("Cafe\u0301", "Café"),  # an accent of its own becomes one letter
            ("木村", "木村"),
            ("O’Dea 2", "O’Dea 2"),
        ):
            self.assertEqual(name_said(name), said)

    def test_what_is_no_name_is_refused_in_a_sentence(self) -> None:
        for name in ("", "x", " - ", "a" * 31, "ida@home", "<b>ida</b>", "ida\u202ebo", "a\x00b"):
            with self.assertRaises(MeldrinError) as refused:
                name_said(name)
            self.assertEqual(refused.exception.code, Code.NAME)
            self.assertTrue(refused.exception.message.endswith("."))

    def test_names_that_look_alike_are_one(self) -> None:
        self.assertEqual(key_of_name("Ida Lund"), key_of_name("IDA-lund"))
        self.assertEqual(key_of_name("Straße"), key_of_name("STRASSE"))
        self.assertNotEqual(key_of_name("Ida"), key_of_name("Idå"))


class Pictures(unittest.TestCase):
    def test_there_are_256_and_no_two_alike(self) -> None:
        groups = picture_groups()
        self.assertEqual([len(one.pictures) for one in groups], [16] * 16)
        ids = {one for group in groups for one in group.pictures}
        words = {said for group in groups for said in group.pictures.values()}
        self.assertEqual((len(ids), len(words)), (256, 256))

    def test_four_are_a_passphrase_in_their_order(self) -> None:
        drawn = {pictures_drawn(random.Random(n)) for n in range(200)}
        self.assertEqual(len(drawn), 200)
        one = next(iter(drawn))
        self.assertEqual(len(set(one)), 4)
        self.assertNotEqual(passphrase_said(one), passphrase_said(one[::-1]))
        for wrong in ((), one[:3], (*one, "cat"), ("cat", "dog", "fish", "unicorn")):
            with self.assertRaises(MeldrinError) as refused:
                passphrase_said(wrong)
            self.assertEqual(refused.exception.code, Code.PASSPHRASE)


class Slips(unittest.TestCase):
    def test_a_code_is_found_again_however_it_is_typed(self) -> None:
        code = code_drawn(random.Random(1))
        self.assertRegex(code, "^([A-Z0-9]{4}-){3}[A-Z0-9]{4}$")
        for typed in (code, code.lower(), code.replace("-", " "), f" {code.replace('-', '')} "):
            self.assertEqual(code_said(typed), code)

    def test_what_looks_alike_is_in_no_code(self) -> None:
        letters = {one for n in range(300) for one in code_drawn(random.Random(n))} - {"-"}
        self.assertFalse(letters & set("AEIOU0125678BSZ"))
        self.assertEqual(len(letters), 20)
        for wrong in ("", "CDFG", "CDFG-HJKL-MNPQ-RTV0", "x" * 40, "AEIO-UAEI-OUAE-IOUA"):
            with self.assertRaises(MeldrinError) as refused:
                code_said(wrong)
            self.assertEqual(refused.exception.code, Code.SLIP)
