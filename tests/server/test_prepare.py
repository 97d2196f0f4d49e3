"""Preparing over HTTP, and the same as files."""

import io
import json
import math
import unittest
from typing import Any

from pypdf import PdfReader

from meldrin.core.errors import MeldrinError
from meldrin.reports.observations import read_observations
from tests.server.base import ServerTest

HEAD = "lower,upper,partials,beats_per_s,cents,sd\n"


class Catalogue(ServerTest):
    def test_every_instrument_with_its_strings_and_tunings(self) -> None:
        found = {one["id"]: one for one in self.client.get("/api/instruments").json()}
        self.assertGreaterEqual(len(found), 17)
        self.assertEqual(found["banjo"]["tunings"][0]["notes"], "G4 D3 G3 B3 D4")
        self.assertEqual(found["sitar"]["strings"][7]["written"], "T1")
        self.assertEqual(found["viola"]["strings"][0]["fine_tuner"], "tail lever")

    def test_open_strings_to_hear_are_in_tune_and_have_their_pegs(self) -> None:
        found = self.client.get("/api/instruments/violin/strings").json()
        drawn = {one["number"]: one for one in found["strings"]}
        # seen from its end, a violin's G peg tightens the other way round than its E peg
        self.assertEqual(
            [(drawn[n]["peg"]["side"], drawn[n]["peg"]["tightens"]) for n in (1, 4)],
            [("treble", "clockwise"), ("bass", "anticlockwise")],
        )
        for heard, midi in zip(found["sounds"], (76, 69, 62, 55), strict=True):
            (start,) = heard["sounds"]
            first_hz = start["table"]["fundamental_hz"]  # a bow keeps the partials harmonic
            self.assertAlmostEqual(first_hz, 440.0 * 2.0 ** ((midi - 69) / 12.0), delta=1e-6)
        banjo = self.client.get("/api/instruments/banjo/strings").json()
        short = next(one for one in banjo["strings"] if one["number"] == 5)
        self.assertAlmostEqual(short["length"], 2.0 ** (-5.0 / 12.0), delta=0.01)
        self.assertEqual(self.client.get("/api/instruments/lyre/strings").status_code, 404)

    def test_before_you_start_is_a_page_for_each_instrument(self) -> None:
        page = self.client.get("/api/before", params={"instrument": "cello"}).json()
        self.assertEqual(page["title"], "Before you start: Cello")
        self.assertEqual([one["label"] for one in page["strings"]], ["A", "D", "G", "C"])
        refused = self.client.get("/api/before", params={"instrument": "cello", "tuning": "x"})
        self.assertEqual(refused.status_code, 404)

    def test_wobbles_beat_as_they_say(self) -> None:
        found = {one["id"]: one for one in self.client.get("/api/wobbles").json()}
        for name, beats_hz in (("fast", 4.0), ("slow", 0.8), ("still", 0.0)):
            tables = {one["voice"]: one["table"] for one in found[name]["sounds"]}
            string = tables[found[name]["own_voice"]]
            n = found[name]["own_partial"]
            hz = n * string["fundamental_hz"] * math.sqrt(1.0 + string["stiffness"] * n * n)
            self.assertAlmostEqual(440.0 - hz, beats_hz, delta=1e-6)


class Ranking(ServerTest):
    def test_answers_rank_them(self) -> None:
        asked = {"instrument": "viola", "noise": "noisy", "at_hand": "tuner", "how_far": "slack"}
        ranked = self.client.get("/api/methods", params=asked).json()
        self.assertEqual(ranked[0]["method"], "tuner")
        self.assertEqual((ranked[-1]["method"], ranked[-1]["serves"]), ("unison", False))

    def test_an_answer_there_is_none_of(self) -> None:
        reply = self.client.get("/api/methods", params={"instrument": "viola", "noise": "loud"})
        self.assertEqual(reply.status_code, 422)
        self.assertIn("“noise” must be", reply.json()["detail"])


class Plans(ServerTest):
    def plan(self, **asked: str | int) -> dict[str, Any]:
        reply = self.client.get("/api/plan", params=asked)
        self.assertEqual(reply.status_code, 200, reply.text)
        return dict(reply.json())

    def test_a_plan_and_its_file_say_the_same(self) -> None:
        asked: dict[str, str | int] = {"instrument": "violin", "method": "fifths", "a4_hz": 442}
        shown = self.plan(**asked)
        file = self.client.get("/api/plan.json", params=asked)
        self.assertEqual(file.json(), shown)
        self.assertIn('filename="plan-violin-fifths.json"', file.headers["content-disposition"])

    def test_without_a_method_the_fittest(self) -> None:
        self.assertEqual(self.plan(instrument="cello")["method"], "fifths")

    def test_all_that_can_be_chosen(self) -> None:
        found = self.plan(
            instrument="guitar",
            notes="D2 A2 D3 G3 A3 D4",
            method="tuner",
            temperament="custom",
            offsets="6:-2, 1:1.5",
            reason="songs in D",
            ear="trained",
        )
        self.assertIn("songs in D", found["temperament"])
        strings = {one["number"]: one for one in found["strings"]}
        self.assertAlmostEqual(strings[6]["equal_cents"], -2.0)
        self.assertEqual(strings[1]["note"], "D4")

    def test_the_card_is_a_pdf_to_do_and_to_keep(self) -> None:
        asked = {"instrument": "guitar", "method": "harmonics"}
        reply = self.client.get("/api/plan.pdf", params=asked)
        self.assertEqual(reply.headers["content-type"], "application/pdf")
        words = " ".join(one.extract_text() for one in PdfReader(io.BytesIO(reply.content)).pages)
        for part in ("Steel-string guitar", "over fret 7", "440.0 Hz", "Sour", "can snap", "+3.91"):
            self.assertIn(part, words)

    def test_refusals_say_what_would_work(self) -> None:
        for asked, status, words in (
            ({"instrument": "cello", "method": "unison"}, 422, "What can serve: fifths"),
            ({"instrument": "zither"}, 404, "Available: banjo"),
            ({"instrument": "guitar", "tuning": "open-z"}, 404, "Available: standard"),
            ({"instrument": "guitar", "notes": "E2"}, 422, "needs 6 notes"),
            ({"instrument": "guitar", "notes": "E2 A2 D3 G3 B3 C5"}, 422, "string 1 at C5"),
            ({"instrument": "guitar", "a4_hz": 500}, 422, "“a4_hz” must be"),
            ({"instrument": "guitar", "a4_hz": "nan"}, 422, "“a4_hz” must be"),
            ({"instrument": "guitar", "temperament": "just"}, 422, "need a tonic"),
            ({"instrument": "guitar", "tonic": "X"}, 422, "“X” is not a tonic"),
            ({"instrument": "guitar", "offsets": "six", "method": "each"}, 422, "“six” is no"),
            ({"instrument": "guitar", "start": 7}, 404, "Unknown string 7"),
            ({"instrument": "guitar", "size": 7}, 422, "“size” is not known"),
        ):
            reply = self.client.get("/api/plan", params=asked)  # type: ignore[arg-type]
            self.assertEqual(reply.status_code, status, reply.text)
            self.assertIn(words, reply.json()["detail"])

    def test_to_itself(self) -> None:
        for method in ("unison", "harmonics"):
            asked: dict[str, str] = {
                "instrument": "guitar",
                "method": method,
                "start": "5",
                "itself": "true",
            }
            for kind in ("", ".json", ".pdf"):
                reply = self.client.get(f"/api/plan{kind}", params=asked)
                self.assertEqual(reply.status_code, 200, (method, kind))
            card = self.client.get("/api/plan", params=asked).json()
            self.assertEqual(card["reference"]["kind"], "itself")
            self.assertEqual(card["reference"]["hz"], 110.0)  # A2 of 440 Hz, as it is trusted


class Retuning(ServerTest):
    def test_there(self) -> None:
        asked = {"instrument": "guitar", "after": "dadgad"}
        found = self.client.get("/api/retuning", params=asked).json()
        self.assertEqual(found["order"], [6, 2, 1])
        low = found["strings"][5]
        self.assertEqual((low["from_note"], low["to_note"], low["semitones"]), ("E2", "D2", -2))

    def test_notes_of_ones_own(self) -> None:
        asked = {"instrument": "violin", "before": "cross-a", "after": "G3 D4 A4 E5"}
        self.assertEqual(self.client.get("/api/retuning", params=asked).json()["order"], [4, 3])


class Fitness(ServerTest):
    def test_questions_and_advice(self) -> None:
        asked = self.client.get("/api/fitness", params={"instrument_id": "violin"}).json()
        self.assertEqual(asked[0]["id"], "hours")
        body = {"instrument": "violin", "answers": {"harm": "bridge", "hours": 3}}
        found = self.client.post("/api/fitness", json=body).json()
        self.assertEqual(found["remedy"], "repairer")
        self.assertEqual([one["remedy"] for one in found["findings"]], ["fine", "repairer"])

    def test_a_bad_answer(self) -> None:
        body = {"instrument": "violin", "answers": {"hours": "ages"}}
        reply = self.client.post("/api/fitness", json=body)
        self.assertEqual(reply.status_code, 422)
        self.assertIn("“ages” is not a number", reply.json()["detail"])


class Observations(unittest.TestCase):
    def refusal(self, text: str) -> str:
        with self.assertRaises(MeldrinError) as caught:
            read_observations(text, name="mine.csv")
        return caught.exception.message

    def test_rows_as_people_write_them(self) -> None:
        rows = read_observations(
            "\ufeff lower, upper, partials, beats_per_s, cents, sd\n"
            "E2, A2, 4:3, -0.5, , 0.1\n\nA2,D3,,+0.25,,0.1\nD3,G3,,0.3,,0.1\nG3,B3,,,-3.5,2\n",
            name="mine.csv",
        )
        self.assertEqual([one.side for one in rows], [-1, 1, 0, 0])
        self.assertEqual([one.beats_hz for one in rows], [0.5, 0.25, 0.3, None])
        self.assertEqual((rows[1].partials, rows[3].cents), ((4, 3), -3.5))

    def test_file_line_and_reason(self) -> None:
        self.assertIn("mine.csv, line 1: the columns must be", self.refusal("a,b\n1,2\n"))
        self.assertIn("line 1", self.refusal(""))
        for row, words in (
            ("X2,A2,,1,,1", "“X2” is not a note"),
            ("A2,E2,,1,,1", "A2 is not the lower"),
            ("E2,A2,4/,1,,1", "“4/” are no partials"),
            ("E2,A2,,1,2,1", "not both"),
            ("E2,A2,,,,1", "Neither cents nor beats_per_s"),
            ("E2,F#2,,1,,1", "Say which partials beat"),
            ("E2,A2,,much,,1", "“much” in column beats_per_s is not a number"),
            ("E2,A2,,nan,,1", "beats is nan"),
            ("E2,A2,,1,,0", "sd is 0"),
            ("E2,A2,3:2,1,,1", "do not meet"),
        ):
            self.assertRegex(self.refusal(HEAD + row + "\n"), f"mine.csv, line 2: .*{words}")

    def test_too_long_a_file(self) -> None:
        self.assertIn("more than 500 rows", self.refusal(HEAD + "E2,A2,,,0,1\n" * 501))


class NumbersOnTheWire(ServerTest):
    def test_no_negative_zero_and_nothing_infinite(self) -> None:
        for method in ("each", "fifths", "harmonics", "drone", "tuner", "mixed"):
            text = self.client.get(f"/api/plan.json?instrument=violin&method={method}").text
            self.assertNotRegex(text, r"-0\.0[,}\]]|NaN|Infinity")
            for one in json.loads(text)["strings"]:
                self.assertTrue(math.isfinite(one["stiff_cents"]))
