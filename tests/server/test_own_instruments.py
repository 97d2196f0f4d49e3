"""Instruments of one's own, and attempts that outlive the data of theirs."""

import unittest
from unittest import mock

from meldrin.core.bench import Exercise, opening, pitch_cents, with_instrument
from meldrin.core.catalogue import instrument, instrument_of, instrument_text
from meldrin.core.catalogue.load import Catalogue
from meldrin.core.errors import MeldrinError
from meldrin.services.actor import NEWCOMER
from meldrin.services.attempts import open_attempt, start_attempt
from meldrin.services.identity import new_secret, welcome_guest
from meldrin.services.instruments import bring_instrument, own_instruments
from tests.server.base import NOW, ServerTest, StoreTest

HEADERS = {"content-type": "text/plain"}
OWN = (
    instrument_text("viola")
    .replace('id = "viola"', 'id = "box-viola"')
    .replace('name = "Viola"', 'name = "Cigar-box viola"')
)


class Brought(ServerTest):
    def bring(self, text: str = OWN) -> None:
        reply = self.client.post("/api/instruments", content=text.encode(), headers=HEADERS)
        self.assertEqual(reply.status_code, 201, reply.text)
        self.assertTrue(reply.json()["own"])

    def test_it_can_be_planned_and_played_and_is_nobody_else_s(self) -> None:
        self.bring()
        listed = self.client.get("/api/instruments").json()
        self.assertEqual((listed[0]["id"], listed[0]["name"]), ("box-viola", "Cigar-box viola"))
        self.assertFalse(any(one["own"] for one in listed[1:]))
        asked = {"instrument": "box-viola", "method": "fifths"}
        plan = self.client.get("/api/plan", params=asked).json()
        self.assertEqual(plan["instrument_name"], "Cigar-box viola")
        page = self.client.get(f"/api/attempts/{self.begin(**asked)}").json()
        self.assertEqual(page["summary"]["name"], "Cigar-box viola: slightly out, by fifths")
        stranger = self.another_guest()
        self.assertEqual(stranger.get("/api/plan", params=asked).status_code, 404)
        self.assertNotIn("box-viola", stranger.get("/api/instruments").text)

    def test_one_with_the_id_of_the_catalogue_comes_before_it(self) -> None:
        self.bring(OWN.replace('id = "box-viola"', 'id = "viola"'))
        listed = self.client.get("/api/instruments").json()
        self.assertEqual(
            [one["name"] for one in listed if one["id"] == "viola"], ["Cigar-box viola"]
        )

    def test_removed_or_changed_it_leaves_attempts_as_they_were(self) -> None:
        self.bring()
        attempt = self.begin(instrument="box-viola", method="fifths")
        before = self.client.get(f"/api/attempts/{attempt}").json()
        self.bring(OWN.replace('name = "Cigar-box viola"', 'name = "Another"'))
        self.assertEqual(self.client.get(f"/api/attempts/{attempt}").json(), before)
        self.assertEqual(self.client.delete("/api/instruments/box-viola").status_code, 204)
        self.assertEqual(self.client.get(f"/api/attempts/{attempt}").json(), before)
        gone = self.client.post("/api/attempts", json={"instrument": "box-viola", "method": "each"})
        self.assertEqual((gone.status_code, gone.json()["title"]), (404, "No such instrument"))
        self.assertEqual(self.client.delete("/api/instruments/box-viola").status_code, 404)

    def test_it_is_erased_with_its_learner(self) -> None:
        self.bring()
        self.client.delete("/api/learner")
        self.assertFalse(any(one["own"] for one in self.client.get("/api/instruments").json()))

    def test_a_bad_file_is_refused_with_line_and_reason(self) -> None:
        for text, words in (
            ("", "“format” is missing"),
            ("format = [" * 2000, "Your instrument: "),
            (OWN.replace("format = 2", "format = 1"), "the format must be 2"),
            (OWN.replace("frets = 0", "frets = 99"), "frets is 99"),
            (OWN.replace('id = "box-viola"', 'id = "../x"'), "small letters, digits and hyphens"),
            (OWN.replace("scale_mm", "scale_inch", 1), "the nearest is “scale_mm”"),
            ("#" * 41_000, "41000"),
        ):
            reply = self.client.post("/api/instruments", content=text.encode(), headers=HEADERS)
            self.assertEqual(reply.status_code, 422, words)
            if text and len(text) < 40_000:
                self.assertIn(words, reply.json()["detail"])
        self.assertFalse(any(one["own"] for one in self.client.get("/api/instruments").json()))

    def test_every_instrument_is_its_own_pattern(self) -> None:
        for one in ("sitar", "banjo"):
            reply = self.client.get(f"/api/instruments/{one}/instrument.toml")
            self.assertEqual(instrument_of(reply.text), instrument(one))


class Limits(StoreTest):
    def test_fifty_and_no_more(self) -> None:
        actor = welcome_guest(self.session, secret=new_secret(), now=NOW)
        for number in range(50):
            text = OWN.replace("box-viola", f"box-viola-{number}")
            bring_instrument(self.session, actor, text, now=NOW)
        with self.assertRaisesRegex(MeldrinError, "remove one first"):
            bring_instrument(self.session, actor, OWN, now=NOW)
        bring_instrument(self.session, actor, OWN.replace("box-viola", "box-viola-7"), now=NOW)
        self.assertEqual(len(own_instruments(self.session, actor)), 50)
        self.assertEqual(own_instruments(self.session, NEWCOMER), [])


class Kept(StoreTest):
    def test_an_attempt_outlives_the_file_of_its_instrument(self) -> None:
        actor = welcome_guest(self.session, secret=new_secret(), now=NOW)
        exercise = Exercise("viola", "fifths", "month", 3)
        begun = start_attempt(self.session, actor, exercise, now=NOW)
        stood = pitch_cents(opening(exercise), 1)
        with mock.patch.object(Catalogue, "_file", side_effect=MeldrinError):
            record = open_attempt(self.session, actor, begun.id)
            self.assertEqual(record.exercise.instrument.name, "Viola")
            self.assertEqual(pitch_cents(opening(record.exercise), 1), stood)


class Written(unittest.TestCase):
    def test_an_exercise_and_another_instrument_s_data_do_not_go_together(self) -> None:
        kept = with_instrument(Exercise("viola", "fifths", "month", 3))
        self.assertEqual(kept.instrument, instrument("viola"))
        with self.assertRaisesRegex(MeldrinError, "data is of “viola”, not “cello”"):
            Exercise("cello", "fifths", "month", 3, instrument_text=kept.instrument_text)
