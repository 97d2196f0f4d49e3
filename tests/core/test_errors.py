import re
import unittest
from pathlib import Path

from meldrin.core.errors import Code, OutOfRange, within

SOURCE = Path(__file__).resolve().parents[2] / "src" / "meldrin"


class Codes(unittest.TestCase):
    def test_every_code_is_raised_somewhere_and_has_a_title_of_its_own(self) -> None:
        text = "".join(path.read_text(encoding="utf-8") for path in SOURCE.rglob("*.py"))
        used = set(re.findall(r"Code\.([A-Z_]+)", text))
        self.assertEqual({code.name for code in Code} - used, set())
        self.assertEqual(len({code.words for code in Code}), len(Code))
        for code in Code:
            self.assertEqual(code.value, code.name.lower())
            self.assertRegex(code.words, r"^[A-Z][^.]+$")

    def test_a_number_out_of_range_tells_its_limits_as_facts(self) -> None:
        with self.assertRaises(OutOfRange) as caught:
            within(500.0, name="calibration", low=390.0, high=470.0, unit="Hz")
        self.assertEqual(caught.exception.code, Code.OUT_OF_RANGE)
        self.assertEqual(
            (caught.exception.facts["low"], caught.exception.facts["high"]), (390, 470)
        )
        self.assertIn("must lie between 390 and 470 Hz", str(caught.exception))
