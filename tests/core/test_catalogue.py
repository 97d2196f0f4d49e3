import math
import tempfile
import unittest
from pathlib import Path

from meldrin.core.catalogue import instrument, read_instrument
from meldrin.core.errors import MeldrinError
from meldrin.core.methods.plan import string_label
from meldrin.core.strings import design_tension_n, frequency_at_strain, strain_at_tension

GOOD = (
    Path(__file__).resolve().parents[2] / "src/meldrin/core/catalogue/data/guitar.toml"
).read_text(encoding="utf-8")


class Guitar(unittest.TestCase):
    def test_every_row_sounds_its_note(self) -> None:
        for string in instrument("guitar").strings:
            strain = strain_at_tension(string, design_tension_n(string))
            off = 1200.0 * math.log2(frequency_at_strain(string, strain) / string.design_hz)
            self.assertAlmostEqual(off, 0.0, delta=1e-9)

    def test_mass_follows_from_the_diameters(self) -> None:
        # steel 7850, bronze 8800 kg/m^3; touching round wire fills pi/4 of its ring
        for string in instrument("guitar").strings:
            core = 7850.0 * math.pi / 4 * string.core_m**2
            wrap = 8800.0 * (math.pi / 4) ** 2 * (string.outer_m**2 - string.core_m**2)
            self.assertAlmostEqual((core + wrap) / string.density_kg_m, 1.0, delta=0.03)

    def test_names_as_players_say_them(self) -> None:
        guitar = instrument("guitar")
        labels = [string_label(guitar, number) for number in range(1, 7)]
        self.assertEqual(labels, ["high E", "B", "G", "D", "A", "low E"])

    def test_unknown_instruments_and_strings(self) -> None:
        with self.assertRaisesRegex(MeldrinError, "no instrument “zither”; there is guitar"):
            instrument("zither")
        with self.assertRaisesRegex(
            MeldrinError, "no string 7; this instrument has strings 1 to 6"
        ):
            instrument("guitar").string(7)


class BadFiles(unittest.TestCase):
    def refusal(self, text: str) -> str:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "mine.toml"
            path.write_text(text, encoding="utf-8")
            with self.assertRaises(MeldrinError) as caught:
                read_instrument(path)
        return caught.exception.message

    def line(self, fragment: str, occurrence: int = 1) -> int:
        lines = [n for n, row in enumerate(GOOD.splitlines(), start=1) if fragment in row]
        return lines[occurrence - 1]

    def test_a_good_file_is_read(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "mine.toml"
            path.write_text(GOOD, encoding="utf-8")
            self.assertEqual(read_instrument(path), instrument("guitar"))

    def test_what_is_not_toml(self) -> None:
        self.assertRegex(self.refusal("format = = 1"), r"mine\.toml: .*line 1")

    def test_a_missing_value_names_the_string_it_is_missing_from(self) -> None:
        bad = GOOD.replace("scale_mm = 645\n", "", 1)
        start = self.line("[[strings]]")
        self.assertEqual(self.refusal(bad), f"mine.toml, line {start}: “scale_mm” is missing.")

    def test_a_wrong_kind_and_its_line(self) -> None:
        bad = GOOD.replace("core_mm = 0.406", 'core_mm = "thin"')
        expected = f"mine.toml, line {self.line('core_mm = 0.406')}: “core_mm” has the wrong kind"
        self.assertTrue(self.refusal(bad).startswith(expected))

    def test_a_number_out_of_range(self) -> None:
        self.assertRegex(
            self.refusal(GOOD.replace("scale_mm = 645", "scale_mm = 6450", 1)), "scale"
        )
        self.assertRegex(self.refusal(GOOD.replace("0.305", "nan")), "core diameter is nan")

    def test_a_string_that_would_break_at_pitch(self) -> None:
        bad = GOOD.replace('note = "E4"', 'note = "B4"')
        self.assertRegex(self.refusal(bad), r"string 1 would be at \d+% of its breaking load")

    def test_numbers_in_a_row(self) -> None:
        self.assertRegex(self.refusal(GOOD.replace("number = 2", "number = 9")), "numbered 1, 2, 3")
