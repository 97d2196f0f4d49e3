"""What is wrong with a message is said in our own words, never in those of the library."""

import unittest
from datetime import date, datetime
from typing import Annotated, Any, Literal

from annotated_types import Ge, Gt, Le, Lt, MaxLen, MinLen
from pydantic import Field, ValidationError

from meldrin.server.invalid import facts_of, sentence
from meldrin.wire import Wire, text_of


class Inner(Wire):
    kind: Literal["a"] = "a"
    at: float = 0.0


class Other(Wire):
    kind: Literal["b"] = "b"


class Message(Wire):
    hz: Annotated[float, Ge(390), Le(470)] = 440.0
    share: Annotated[float, Gt(0), Lt(1)] = 0.5
    count: int = 1
    name: Annotated[str, MinLen(1), MaxLen(3)] = "x"
    help: Literal["ear", "ripple"] = "ear"
    day: date = date(2026, 12, 24)
    at: datetime = datetime(2026, 12, 24)
    yes: bool = True
    many: Annotated[list[Inner], MaxLen(2)] = Field(default_factory=list)
    one: Annotated[Inner | Other, Field(discriminator="kind")] = Inner()


class Said(unittest.TestCase):
    def assert_said(self, words: str, **fields: Any) -> None:
        with self.subTest(**fields):
            with self.assertRaises(ValidationError) as caught:
                Message.model_validate(fields)
            self.assertEqual(sentence(caught.exception), words)

    def test_each_kind_of_fault(self) -> None:
        self.assert_said("“hz” must be at least 390.", hz=1)
        self.assert_said("“hz” must be at most 470.", hz=471)
        self.assert_said("“hz” must be a number.", hz="loud")
        self.assert_said("“hz” must be a finite number.", hz=float("nan"))
        self.assert_said("“share” must be more than 0.", share=0)
        self.assert_said("“share” must be less than 1.", share=1)
        self.assert_said("“count” must be a whole number.", count=1.5)
        self.assert_said("“name” must have at least 1 character.", name="")
        self.assert_said("“name” must have at most 3 characters.", name="long")
        self.assert_said("“name” must be text.", name=1)
        self.assert_said("“help” must be 'ear' or 'ripple'.", help="all")
        self.assert_said("“day” must be a date, such as 2026-12-24.", day="soon")
        self.assert_said("“at” must be a time, such as 2026-12-24T18:00:00Z.", at="soon")
        self.assert_said("“yes” must be true or false.", yes="perhaps")
        self.assert_said("“many” must be a list.", many=1)
        self.assert_said("“many” must have at most 2 entries.", many=[{}, {}, {}])
        self.assert_said("“many.1.at” must be a number.", many=[{}, {"at": "x"}])
        self.assert_said("“other” is not known here.", other=1)
        self.assert_said("“one” must have a kind.", one={})
        self.assert_said("“one” must have a kind of these: 'a', 'b'.", one={"kind": "c"})

    def test_what_is_missing_no_message_at_all_and_what_nobody_foresaw(self) -> None:
        class Needs(Wire):
            name: str
            said: bytes = b""

        for given, words in (
            ("{}", "“name” is missing."),
            ("{", "The message is not JSON."),
            ("1", "The message must be an object with named fields."),
            ('{"name": "x", "said": 3}', "“said” is not right."),
        ):
            with self.subTest(given), self.assertRaises(ValidationError) as caught:
                Needs.model_validate_json(given)
            self.assertEqual(sentence(caught.exception), words)

    def test_programs_get_the_field_the_kind_and_its_limit(self) -> None:
        with self.assertRaises(ValidationError) as caught:
            Message.model_validate({"hz": 1})
        facts = facts_of(caught.exception)
        self.assertEqual(facts, {"field": "hz", "kind": "greater_than_equal", "ge": 390.0})


class Finite(unittest.TestCase):
    def test_nan_and_infinity_do_not_leave(self) -> None:
        self.assertEqual(text_of(Inner.made(kind="a", at=1.0)), '{"kind":"a","at":1.0}')
        for bad in (float("nan"), float("inf"), -float("inf")):
            for message in (
                Inner.made(kind="a", at=bad),
                Message.made(many=[Inner.made(kind="a", at=bad)]),
                Message.made(many=({"deep": [0.0, bad]},)),
            ):
                with self.subTest(bad), self.assertRaises(ValueError):
                    text_of(message)
