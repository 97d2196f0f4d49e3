"""A check before a concert: strings as last tuned or as typed in, against what a group agreed."""

import io
import json
from datetime import timedelta
from typing import Any

from fastapi.testclient import TestClient
from pypdf import PdfReader

from meldrin.core.bench import (
    Exercise,
    Finish,
    Play,
    TimedAction,
    Turn,
    opening,
    pitch_cents,
    replay,
)
from meldrin.core.pitch import cents_between
from meldrin.reports.attempt_record import attempt_text
from tests.server.test_accounts import unpacked
from tests.server.test_own_instruments import HEADERS
from tests.server.test_studios import StudioTest

FIFTHS = Exercise("viola", "fifths", "hair", 3)
LOG = [TimedAction(1.0, Play((1,))), TimedAction(2.0, Turn(1, 1.0)), TimedAction(4.0, Finish())]


class Concert(StudioTest):
    def setUp(self) -> None:
        super().setUp()
        slips = self.listed()
        self.liv = self.signed_in(slips["Liv"]["code"])
        made = self.teacher.post(f"{self.studio}/ensembles", json={"name": "Spring concert"})
        self.assertEqual(made.status_code, 201, made.text)
        self.concert = f"{self.studio}/ensembles/{made.json()['id']}"
        self.ids = {name: one["id"] for name, one in self.members().items()}

    def look(self) -> dict[str, Any]:
        reply = self.teacher.get(self.concert)
        self.assertEqual(reply.status_code, 200, reply.text)
        page: dict[str, Any] = reply.json()
        return page

    def strings(self, name: str) -> dict[str, dict[str, Any]]:
        (one,) = [one for one in self.look()["players"] if one["name"] == name]
        return {each["label"]: each for each in one["strings"]}

    def types(self, name: str, string: int, cents: float | None) -> Any:
        path = f"{self.concert}/players/{self.ids[name]}/strings"
        return self.teacher.put(path, json=[{"string": string, "cents": cents}])

    def tunes(self, client: TestClient, exercise: Exercise = FIFTHS) -> None:
        text = attempt_text(exercise, LOG, made=self.now)
        made = client.post("/api/attempts/import", content=text, headers=HEADERS)
        self.now += timedelta(minutes=1)
        # what it told is computed by looking at it
        self.assertEqual(client.get(f"/api/attempts/{made.json()['id']}").status_code, 200)

    def agree(self, **wanted: Any) -> None:
        body = {"name": "Spring concert", "a4_hz": 440.0, "fifth_cents": 0.0, **wanted}
        self.assertEqual(self.teacher.put(self.concert, json=body).status_code, 204)

    def test_what_is_typed_in_stands_against_the_agreed_fifths(self) -> None:
        self.assertEqual(self.look()["says"], "Nothing is known of their strings yet.")
        for string, cents in ((1, 0.0), (2, -2.0), (4, 4.0)):
            self.assertEqual(self.types("Liv", string, cents).status_code, 204)
        found = self.strings("Liv")
        self.assertAlmostEqual(found["C"]["off_cents"], 4.0 + 5.865, places=2)
        self.assertEqual((found["C"]["source"], found["G"]["off_cents"]), ("typed", None))
        page = self.look()
        self.assertEqual(page["says"], "1 of 1 is out. Liv: C is 9.9 cents high.")
        self.assertEqual([page["players"][n]["name"] for n in page["help_first"]], ["Liv"])
        self.agree(fifth_cents=-1.955)
        self.assertAlmostEqual(self.strings("Liv")["C"]["off_cents"], 4.0, places=2)
        self.assertEqual(self.types("Liv", 4, None).status_code, 204)
        self.assertIsNone(self.strings("Liv")["C"]["off_cents"])

    def test_another_a_moves_no_string(self) -> None:
        self.types("Liv", 1, 0.0)
        self.agree(a4_hz=442.0)
        # 440 against 442: 1200 log2(440/442)
        off = self.strings("Liv")["A"]["off_cents"]
        self.assertAlmostEqual(off, -7.85, places=2)
        self.agree(a4_hz=440.0)
        self.assertAlmostEqual(self.strings("Liv")["A"]["off_cents"], 0.0, places=6)

    def test_strings_stand_as_they_were_tuned_last_until_something_newer_is_known(self) -> None:
        self.types("Liv", 1, 50.0)
        self.tunes(self.liv)
        ended, began = replay(FIFTHS, LOG), opening(FIFTHS)
        targets = began.rig.plan.targets_hz
        found = self.strings("Liv")
        for label, number, equal in (("A", 1, 440.0), ("D", 2, 293.66477)):
            wanted = found[label]["wanted_cents"]
            target = cents_between(targets[number - 1], reference_hz=equal)
            stands = pitch_cents(ended, number) + target - wanted
            self.assertAlmostEqual(found[label]["off_cents"], stands, delta=0.06)
        self.assertEqual(found["D"]["source"], "bench")
        self.types("Liv", 2, 12.0)
        self.assertEqual(self.strings("Liv")["D"]["source"], "typed")

    def test_on_another_instrument_nothing_is_known(self) -> None:
        self.tunes(self.liv)
        player = f"{self.concert}/players/{self.ids['Liv']}"
        self.assertEqual(self.teacher.put(player, json={"instrument": "cello"}).status_code, 204)
        self.assertEqual({one["off_cents"] for one in self.strings("Liv").values()}, {None})
        self.types("Liv", 4, -5.0)
        self.assertEqual(self.teacher.put(player, json={"instrument": "viola"}).status_code, 204)
        self.assertEqual({one["source"] for one in self.strings("Liv").values()}, {"bench"})
        nothing = self.teacher.put(player, json={"instrument": "nothing"})
        self.refused(nothing, 404, "no_such_instrument")
        self.refused(self.types("Liv", 9, 0.0), 404, "no_such_string")
        # of several either all are kept or none
        two = [{"string": 2, "cents": 7.0}, {"string": 9, "cents": 0.0}]
        path = f"{self.concert}/players/{self.ids['Liv']}/strings"
        self.refused(self.teacher.put(path, json=two), 404, "no_such_string")
        self.assertEqual({one["source"] for one in self.strings("Liv").values()}, {"bench"})

    def test_a_group_has_its_own_and_slips_for_each(self) -> None:
        groups = {one["name"]: one["id"] for one in self.page()["groups"]}
        self.agree(group=groups["Saturday"], a4_hz=441.0, fifth_cents=-1.0)
        page = self.look()
        self.assertEqual([one["name"] for one in page["players"]], ["Liv", "Tarek"])
        self.assertEqual(page["group_name"], "Saturday")
        self.types("Liv", 1, -6.0)
        pdf = self.teacher.get(f"{self.concert}/slips.pdf")
        self.assertEqual(pdf.headers["content-type"], "application/pdf")
        text = " ".join(page.extract_text() for page in PdfReader(io.BytesIO(pdf.content)).pages)
        for words in ("Spring concert", "Liv", "Tarek", "A = 441 Hz", "now 6.0 cents low"):
            self.assertIn(words, text)
        self.assertNotIn("Ansel", text)
        # D lies a fifth below A, which is 1.955 - 1 cents wider than an equal one
        self.assertIn("D: -1.0", text)
        # 882 Hz, where A's second and D's third partial meet, by one cent: 0.51 a second
        said = "D from A: fifth narrowed by 1.0 cent, 0.51 beats a second"
        self.assertIn(said, " ".join(text.split()))

    def test_it_is_kept_taken_along_and_erased(self) -> None:
        self.types("Liv", 1, -3.0)
        files = unpacked(self.liv.get("/api/learner/everything.zip").content)
        (kept,) = json.loads(files["concerts.json"])
        self.assertEqual((kept["check"], kept["cents"]), ("Spring concert", -3.0))
        listed = self.teacher.get(f"{self.studio}/ensembles").json()
        self.assertEqual([one["name"] for one in listed], ["Spring concert"])
        self.look()
        audit = self.teacher.get(f"{self.studio}/audit").json()
        self.assertTrue(any("strings of a group" in one["says"] for one in audit))
        self.assertEqual(self.teacher.delete(self.concert).status_code, 204)
        self.refused(self.teacher.get(self.concert), 404, "no_such_ensemble")
