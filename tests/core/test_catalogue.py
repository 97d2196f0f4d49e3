import math
import re
import tempfile
import unittest
from pathlib import Path

from meldrin.core.catalogue import (
    Catalogue,
    check_tuning,
    instrument,
    instrument_of,
    instruments,
    read_instrument,
    tuning_of_notes,
)
from meldrin.core.errors import MeldrinError
from meldrin.core.methods.naming import string_label
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
            self.assertAlmostEqual((core + wrap) / string.linear_density_kg_per_m, 1.0, delta=0.03)

    def test_names_as_players_say_them(self) -> None:
        guitar = instrument("guitar")
        labels = [string_label(guitar, number) for number in range(1, 7)]
        self.assertEqual(labels, ["high E", "B", "G", "D", "A", "low E"])

    def test_unknown_instruments_and_strings(self) -> None:
        with self.assertRaisesRegex(
            MeldrinError, "Unknown instrument “zither”. Available: banjo, .*, violin"
        ):
            instrument("zither")
        with self.assertRaisesRegex(
            MeldrinError, "Unknown string 7; this instrument has strings 1 to 6"
        ):
            instrument("guitar").string(7)


class Everything(unittest.TestCase):
    def test_every_instrument_is_there(self) -> None:
        names = (
            "guitar, classical-guitar, electric-guitar, bass, bass5, violin, viola, cello,"
            " double-bass, fiddle5, mandolin, mandola, tenor-guitar, baritone-ukulele, ukulele,"
            " banjo, sitar"
        )
        there = {one.id for one in instruments()}
        self.assertLessEqual(set(names.split(", ")), there)

    def test_standard_is_what_the_strings_are_made_for(self) -> None:
        for made in instruments():
            self.assertEqual(made.tuning().midis, tuple(string.midi for string in made.strings))

    def test_lowered_tunings_are_lowered_by_so_much(self) -> None:
        for made in instruments():
            for name, steps in (("half-step-down", 1), ("whole-step-down", 2)):
                lowered = tuple(midi - steps for midi in made.tuning().midis)
                self.assertEqual(made.tuning(name).midis, lowered, made.id)

    def test_plain_strings_weigh_what_their_diameter_says(self) -> None:
        # kg/m^3: music wire 7850, phosphor bronze 8800; polyamide 1060 to 1140, stretched
        densities = {"steel": (7850, 7850), "bronze": (8800, 8800), "polyamide": (1040, 1140)}
        for made in instruments():
            for string in made.strings:
                if not string.material.startswith("plain"):
                    continue
                low, high = densities[string.material.split()[-1]]
                area = math.pi / 4.0 * string.core_m**2
                self.assertGreater(string.linear_density_kg_per_m / area, 0.995 * low, made.id)
                self.assertLess(string.linear_density_kg_per_m / area, 1.005 * high, made.id)

    def test_whole_sets_pull_what_such_sets_pull(self) -> None:
        # newtons: light steel set about 700, classical 350 to 400, violin 200 to 250, double bass
        # 1100 to 1250, mandolin 700 to 800, banjo 250 to 320
        sets = {"guitar": (650, 760), "classical-guitar": (350, 420), "violin": (200, 250)}
        sets |= {"double-bass": (1100, 1250), "mandolin": (700, 800), "banjo": (250, 320)}
        for name, (low, high) in sets.items():
            load_n = sum(design_tension_n(string) for string in instrument(name).strings)
            self.assertTrue(low < load_n < high, (name, load_n))

    def test_special_strings(self) -> None:
        banjo = instrument("banjo").string(5)
        self.assertEqual((banjo.nut_fret, banjo.role), (5, "drone"))
        # the short string of 499.7 mm begins at fret 5 of 667 mm: 667 * 2^(-5/12)
        self.assertAlmostEqual(banjo.scale_m, 0.667 * 2.0 ** (-5 / 12), places=3)
        sitar = instrument("sitar")
        self.assertEqual([s.label for s in sitar.strings][7:9], ["T1", "T2"])
        self.assertEqual(sum(s.role == "sympathetic" for s in sitar.strings), 13)
        self.assertEqual(
            [s.course for s in instrument("mandola").strings], [1, 1, 2, 2, 3, 3, 4, 4]
        )
        self.assertGreater(
            instrument("ukulele").string(4).midi, instrument("ukulele").string(3).midi
        )
        self.assertIsNotNone(instrument("cello").string(4).fine)

    def test_names_where_many_share_a_letter(self) -> None:
        mandolin = instrument("mandolin")
        self.assertEqual([string_label(mandolin, n) for n in (1, 2)], ["first E", "second E"])
        open_d = instrument("guitar").tuning("open-d")
        labels = [string_label(instrument("guitar"), n, open_d) for n in (1, 4, 6, 3)]
        self.assertEqual(labels, ["high D", "middle D", "low D", "F#"])

    def test_strings_over_a_tonic_are_named_by_the_scale(self) -> None:
        sitar = instrument("sitar")  # F#3 C#3 G#2 C#2 G#3 C#4 C#5 over a tonic of C#
        self.assertEqual(
            [string_label(sitar, n) for n in range(1, 8)],
            ["Ma", "low Sa", "low Pa", "lowest Sa", "high Pa", "high Sa", "highest Sa"],
        )
        self.assertEqual(string_label(sitar, 14), "sympathetic Ma")


class OwnTunings(unittest.TestCase):
    def test_strings_at_risk_are_named(self) -> None:
        guitar = instrument("guitar")
        high = tuning_of_notes(guitar.strings, "E2 A2 D3 G3 B3 A4")
        # E4 at 103.7 N up five semitones carries 2^(10/12) = 1.78 times that: 185 of 192 N
        with self.assertRaisesRegex(MeldrinError, r"string 1 at A4 would be at 9\d%") as caught:
            check_tuning(guitar.strings, high, a4_hz=440.0)
        self.assertNotIn("string 2", caught.exception.message)

    def test_strings_that_would_flap(self) -> None:
        guitar = instrument("guitar")
        low = tuning_of_notes(guitar.strings, "D1 A2 D3 G3 B3 E4")
        with self.assertRaisesRegex(MeldrinError, "string 6 at D1 would hang at 2"):
            check_tuning(guitar.strings, low, a4_hz=440.0)

    def test_another_number_of_notes(self) -> None:
        with self.assertRaisesRegex(MeldrinError, "has 3 notes; .* needs 8 notes, or 4, one a"):
            tuning_of_notes(instrument("mandolin").strings, "G3 D4 A4")

    def test_no_such_tuning(self) -> None:
        with self.assertRaisesRegex(MeldrinError, "“open-z” of the violin. .*cross-a"):
            instrument("violin").tuning("open-z")


class OwnFiles(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))

    def test_a_teachers_instrument_joins_the_catalogue(self) -> None:
        text = GOOD.replace('id = "guitar"', 'id = "parlour"').replace("order = 1", "order = 99")
        (self.folder / "parlour.toml").write_text(text, encoding="utf-8")
        own = Catalogue(self.folder)
        self.assertEqual(own.all()[-1].id, "parlour")
        self.assertEqual(own.instrument("viola"), instrument("viola"))

    def test_a_file_named_unlike_its_id(self) -> None:
        (self.folder / "mine.toml").write_text(GOOD, encoding="utf-8")
        with self.assertRaisesRegex(MeldrinError, "mine.toml: the id is “guitar”"):
            Catalogue(self.folder).all()

    def test_no_folder(self) -> None:
        with self.assertRaisesRegex(MeldrinError, "There is no folder"):
            Catalogue(self.folder / "none").ids()

    def test_a_file_that_is_no_text(self) -> None:
        (self.folder / "mine.toml").write_bytes(b"\xff\xfe\x00")
        with self.assertRaisesRegex(MeldrinError, "mine.toml cannot be read as text"):
            Catalogue(self.folder).all()


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
        self.assertRegex(
            self.refusal(GOOD.replace("number = 2\n", "number = 9\n")), "numbered 1, 2, 3"
        )

    def test_tunings(self) -> None:
        line = self.line("[[tunings]]", 4)
        bad = GOOD.replace('"D2 A2 D3 G3 B3 E4"', '"D2 A2 D3 G3 B3"')
        self.assertRegex(self.refusal(bad), rf"^mine\.toml, line {line}: .* has 5 notes")
        bad = GOOD.replace('"D2 A2 D3 G3 B3 E4"', '"D2 A2 D3 G3 B3 X4"')
        self.assertRegex(self.refusal(bad), "“X4” is not a note")
        bad = GOOD.replace('"D2 A2 D3 G3 B3 E4"', '"D2 A2 D3 G3 B3 B4"')
        self.assertRegex(self.refusal(bad), "string 1 at B4 would be at")
        self.assertRegex(self.refusal(GOOD.replace('"standard"', '"usual"')), "must be “standard”")

    def test_headings(self) -> None:
        bad = GOOD.replace("[[tunings]]", "[[ tunings ]]", 1)
        self.assertRegex(self.refusal(bad), r"needs a heading \[\[tunings\]\] of its own")
        self.assertRegex(self.refusal(GOOD.split("[[strings]]")[0]), "“strings” is missing")

    def test_optional_values_of_the_wrong_kind(self) -> None:
        for line in ('course = "one"', "role = 3", "label = 7", 'packing = "tight"'):
            bad = GOOD.replace("number = 2\n", f"number = 2\n{line}\n", 1)
            self.assertRegex(self.refusal(bad), "has the wrong kind of value", line)

    def test_unknown_keys_materials_and_pegs_are_refused_with_their_line(self) -> None:
        bad = GOOD.replace("number = 2\n", "number = 2\npakcing = 0.5\n", 1)
        line = self.line("number = 2") + 1
        self.assertEqual(
            self.refusal(bad),
            f"mine.toml, line {line}: “pakcing” is no key of the string; the nearest is “packing”.",
        )
        bad = GOOD.replace('kind = "geared machine"', 'kind = "fricton peg"', 1)
        self.assertRegex(
            self.refusal(bad), r"^mine\.toml, line \d+: unknown kind “fricton peg”. Available: fric"
        )
        bad = GOOD.replace('material = "plain steel"', 'material = "plain stele"', 1)
        self.assertRegex(
            self.refusal(bad), "unknown material “plain stele”. Available: plain steel"
        )
        for where in ("[losses]\n", "[[tunings]]\n"):
            bad = GOOD.replace(where, f"{where}colour = 3\n", 1)
            self.assertRegex(self.refusal(bad), "“colour” is no key of the")
        self.assertRegex(
            self.refusal(f"colour = 3\n{GOOD}"), "“colour” is no key of the instrument"
        )

    def test_how_it_sounds(self) -> None:
        sounding = (
            '[body]\nplayed = "nail"\nresonances = [{ hz = 98, width_hz = 9, level_db = 10 }]\n\n'
        )
        bare = re.sub(r"\[body\].*?\n\]\n", "", GOOD, flags=re.DOTALL)
        self.assertEqual(instrument_of(bare).body.played, "fingertip")  # nothing said of it
        whole = bare.replace("[[strings]]", f"{sounding}[[strings]]", 1)
        body = instrument_of(whole).body
        self.assertEqual((body.played, body.resonances[0].hz), ("nail", 98.0))
        line = next(n for n, text in enumerate(whole.splitlines(), 1) if "resonances" in text)
        for good, bad, reason in (
            ("width_hz = 9, ", "", f"line {line}: “width_hz” is missing."),
            ("level_db", "loud_db", f"line {line}: “loud_db” is no key of the resonance"),
            ("hz = 98", "hz = 2", "resonance is 2 Hz; it must lie between 20 and 20000 Hz"),
            ('"nail"', '"spoon"', "unknown played “spoon”. Available: fingertip, nail, plectrum"),
            ('"nail"', '"nail"\nnoise_db = 12', "noise is 12 dB; it must lie between -90 and 0 dB"),
        ):
            self.assertIn(reason, self.refusal(whole.replace(good, bad, 1)))

    def test_words_from_a_list(self) -> None:
        bad = GOOD.replace('kind = "plucked"', 'kind = "blown"')
        self.assertRegex(self.refusal(bad), "unknown kind “blown”. Available: plucked, bowed")
        bad = GOOD.replace("number = 1\n", 'number = 1\nrole = "lead"\n', 1)
        self.assertRegex(
            self.refusal(bad), "unknown role “lead”. Available: playing, drone, sympathetic"
        )
        bad = GOOD.replace("life_hours = [15, 40]", "life_hours = [40]")
        self.assertRegex(self.refusal(bad), "“life_hours” must be two numbers")
