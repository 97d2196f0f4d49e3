"""The computing commands in this process, option by option."""

import contextlib
import io
import json
import tempfile
import unittest
from pathlib import Path
from typing import Any
from unittest import mock

from meldrin.commands import main
from meldrin.core.catalogue import instruments
from meldrin.core.methods import METHODS


class Commands(unittest.TestCase):
    def run_command(self, *words: str, code: int = 0) -> str:
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            self.assertEqual(main(words), code, err.getvalue())
        return out.getvalue() if code == 0 else err.getvalue()

    def record(self, *words: str) -> Any:
        return json.loads(self.run_command(*words, "--json"))


class Plans(Commands):
    def cents(self, *words: str) -> dict[int, float]:
        return {one["number"]: one["equal_cents"] for one in self.record("plan", *words)["strings"]}

    def test_every_instrument_by_every_method_in_words_or_with_a_reason(self) -> None:
        for made in instruments():
            for method in METHODS:
                err = io.StringIO()
                with contextlib.redirect_stdout(io.StringIO()), contextlib.redirect_stderr(err):
                    code = main(["plan", made.id, "--method", method])
                if code:
                    self.assertEqual(code, 2)
                    self.assertIn("What can serve: ", err.getvalue())

    def test_tunings_and_notes(self) -> None:
        named = self.record("plan", "guitar", "--tuning", "dadgad", "--method", "tuner")
        noted = self.record("plan", "guitar", "--notes", "D2 A2 D3 G3 A3 D4", "--method", "tuner")
        self.assertEqual(named["strings"], noted["strings"])
        self.assertEqual((named["tuning"], noted["tuning"]), ("dadgad", "custom"))
        by_course = self.record("plan", "mandolin", "--notes", "G3,D4,A4,D5", "--method", "each")
        self.assertEqual(by_course["strings"][1]["note"], "D5")

    def test_temperaments(self) -> None:
        narrow = self.cents("violin", "--method", "fifths", "--temperament", "fifths",
                            "--fifth-cents", "-1")  # fmt: skip
        self.assertAlmostEqual(narrow[1], 0.955, places=3)
        just = self.cents("viola", "--method", "each", "--temperament", "just", "--tonic", "C")
        # from A, the sixth 5/3 over C, down to C: 884.359 cents instead of 900
        self.assertAlmostEqual(just[4], 900.0 - 884.359, places=3)
        sweet = self.cents("guitar", "--method", "tuner", "--temperament", "sweetened", "--tonic",
                           "E", "--share", "1")  # fmt: skip
        self.assertAlmostEqual(sweet[3], 15.641, places=3)  # G, 6/5 over E: 315.641
        own = self.cents("guitar", "--method", "tuner", "--temperament", "custom", "--offsets",
                         "6:-2,1:1.5", "--reason", "a song")  # fmt: skip
        self.assertEqual((own[6], own[1], own[2]), (-2.0, 1.5, 0.0))

    def test_a_string_to_begin_with_and_a_tonic(self) -> None:
        found = self.record("plan", "violin", "--method", "fifths", "--start", "4")
        self.assertEqual(
            (found["reference"]["note"], found["steps"][0]["own"]["string"]), ("G3", 4)
        )
        found = self.record("plan", "guitar", "--method", "drone", "--tonic", "A")
        self.assertEqual(found["reference"]["note"], "A3")

    def test_ears(self) -> None:
        ends = [
            self.record("plan", "guitar", "--method", "unison", "--ear", name)["expected"]
            for name in ("beginner", "practised", "trained")
        ]
        sds = [one["order_sd_cents"] for one in ends]
        self.assertEqual(sds, sorted(sds, reverse=True))
        self.assertEqual(ends[2]["end_to_end_bias_cents"], 0.0)

    def test_words_for_what_is_expected(self) -> None:
        words = self.run_command("plan", "guitar", "--method", "unison")
        self.assertRegex(words, r"The most useful check: A with high E \(fifth and an octave")
        self.assertIn("Expected of a practised ear", words)
        words = self.run_command("plan", "viola", "--method", "fifths")
        self.assertIn("C against a note or a reading of its own", words)
        self.assertIn("Sour: C3-A4", words)

    def test_calibration(self) -> None:
        for hz in (390, 415, 430, 432, 440, 442, 443, 470):
            found = self.record("plan", "cello", "--method", "each", "--a4", str(hz))
            self.assertAlmostEqual(found["strings"][0]["frequency_hz"], hz / 2)
        said = self.run_command("plan", "cello", "--a4", "389.9", code=2)
        self.assertIn("A4 is 389.9 Hz; it must lie between 390 and 470 Hz.", said)

    def test_refusals(self) -> None:
        for words, said in (
            (
                ["guitar", "--temperament", "odd"],
                "“odd”. Available: own, equal",
            ),
            (["guitar", "--temperament", "just"], "need a tonic"),
            (["guitar", "--temperament", "custom", "--offsets", "1:2"], "needs its reason"),
            (
                ["guitar", "--temperament", "custom", "--offsets", "9:2", "--reason", "x"],
                "string 9",
            ),
            (["guitar", "--offsets", "1=2"], "“1=2” is no offset"),
            (["guitar", "--temperament", "fifths", "--fifth-cents", "11"], "between -10 and 10"),
            (["guitar", "--temperament", "sweetened", "--tonic", "D", "--share", "2"], "share"),
            (["guitar", "--tonic", "X"], "“X” is not a tonic"),
            (["guitar", "--start", "0"], "Unknown string 0"),
            (["guitar", "--notes", "E2 A2"], "needs 6 notes"),
        ):
            self.assertIn(said, self.run_command("plan", *words, "--method", "tuner", code=2))


class Retunings(Commands):
    def test_every_tuning_of_every_instrument_and_back(self) -> None:
        for made in instruments():
            for tuning in made.tunings:
                for ends in (("standard", tuning.id), (tuning.id, "standard")):
                    found = self.record("retune", made.id, "--from", ends[0], "--to", ends[1])
                    turned = {row["number"] for row in found["strings"] if row["semitones"]}
                    self.assertEqual(set(found["order"]), turned, (made.id, ends))
                    if any(row["semitones"] > 0 for row in found["strings"]):
                        self.assertIn("can snap", found["cautions"][0])

    def test_a_table_for_people(self) -> None:
        words = self.run_command("retune", "violin", "--to", "cross-a")
        # 45 N 2^(1/3) = 56.7 N, less the mass that a stretched filament core takes out of it
        self.assertRegex(words, r"low A\s+G3\s+A3\s+\+2\s+45 N\s+56 N")
        self.assertIn("! Strings that go up can snap", words)
        self.assertIn("nothing to turn", self.run_command("retune", "violin", "--to", "standard"))

    def test_refusals(self) -> None:
        self.assertIn(
            "Unknown tuning “open-x”", self.run_command("retune", "banjo", "--to", "open-x", code=2)
        )
        self.assertIn("needs 4 notes", self.run_command("retune", "viola", "--to", "C3 G3", code=2))


class Beats(Commands):
    def test_low_partials_are_found(self) -> None:
        # equal-tempered fifths of a violin at 440, and a fourth's
        for lower, upper, beats in (("G3", "D4", 0.664), ("D4", "A4", 0.994), ("A4", "E5", 1.490),
                                    ("E2", "A2", 0.372)):  # fmt: skip
            self.assertAlmostEqual(self.record("beats", lower, upper)["beats_hz"], beats, places=3)

    def test_a_pure_interval_stands_still(self) -> None:
        found = self.record("beats", "D4", "A4", "--cents", "1.955000865387")
        self.assertAlmostEqual(found["beats_hz"], 0.0, places=6)
        words = self.run_command("beats", "D4", "A4")
        self.assertIn("partials 3 and 2 meet at 880.99 Hz and beat 0.994 times a second", words)

    def test_calibration_scales_them(self) -> None:
        low = self.record("beats", "D3", "A3", "--a4", "415")["beats_hz"]
        high = self.record("beats", "D3", "A3", "--a4", "440")["beats_hz"]
        self.assertAlmostEqual(low / high, 415 / 440, places=5)


class Adjusting(Commands):
    def test_from_a_pipe_and_with_a_string_held(self) -> None:
        text = "lower,upper,cents,sd\nE2,A2,4,1\nA2,D3,-1,1\n"
        with mock.patch("sys.stdin", io.StringIO(text)):
            found = self.record("adjust", "-", "--held", "E2")
        self.assertEqual([one["offset_cents"] for one in found["strings"]], [0.0, 4.0, 3.0])
        self.assertEqual(found["held"], "E2")

    def test_beats_without_a_sign(self) -> None:
        text = "lower,upper,partials,beats_per_s,sd\nA2,E3,3:2,0.372,0.1\n"
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "beats.csv"
            path.write_text(text, encoding="utf-8")
            said = self.run_command("adjust", str(path), code=2)
            self.assertIn("never which way", said)
            path.write_text(text.replace("0.372", "-0.372"), encoding="utf-8")
            found = self.record("adjust", str(path))
        # an equal-tempered fifth beats 0.372 narrow over A2: its offset is nothing
        self.assertAlmostEqual(found["strings"][1]["offset_cents"], 0.0, delta=0.01)
