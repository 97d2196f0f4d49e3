"""The plan of the day over HTTP: made, begun, left, gone on with; the calendar and the figures."""

import json
from datetime import date, datetime, timedelta
from typing import Any

from fastapi.testclient import TestClient
from icalendar import Calendar

from tests.server.base import ServerTest
from tests.server.test_own_instruments import HEADERS


class TodayTest(ServerTest):
    def sit(self, sitting: str, *, answer: int = 1, trials: int = 12) -> None:
        """Sit through with one answer, or with the right one where that is known: never here."""
        number = 0
        with self.client.websocket_connect(f"/api/drills/{sitting}/line") as socket:

            def act(action: dict[str, Any]) -> dict[str, Any]:
                nonlocal number
                number += 1
                socket.send_json(
                    {"kind": "act", "number": number, "at_s": float(number), "action": action}
                )
                while (message := socket.receive_json())["kind"] != "now":
                    pass
                return dict(message["scene"])

            socket.send_json({"kind": "hello", "tab": "tab-0001"})
            self.assertEqual(socket.receive_json()["kind"], "welcome")
            for trial in range(trials):
                scene = act({"kind": "next_trial"} if trial else {"kind": "start_trials"})
                if scene["asked"]["parts"]:
                    act({"kind": "hear_trial"})
                act({"kind": "judge_trial", "answer": answer, "sure": "sure"})
            act({"kind": "end_sitting"})
            while socket.receive_json() != {"kind": "saved", "number": number}:
                pass
        # who sees the result has it scored
        self.assertIsNotNone(self.client.get(f"/api/drills/{sitting}").json()["result"])

    def plan(self, **aim: Any) -> dict[str, Any]:
        reply = self.client.post("/api/today/plans", json=aim)
        self.assertEqual(reply.status_code, 201, reply.text)
        return dict(reply.json())

    def item(self, plan: dict[str, Any], number: int) -> dict[str, Any]:
        reply = self.client.post(f"/api/today/plans/{plan['id']}/items/{number}", json={})
        self.assertEqual(reply.status_code, 200, reply.text)
        return dict(reply.json())


NOTHING = {"aim": None, "plan": None, "goal": "", "path": None}


class Plans(TodayTest):
    def soon(self) -> str:
        """The day of a concert: for it all is practised, by a newcomer too."""
        return (self.now + timedelta(days=2)).date().isoformat()

    def test_a_newcomer_has_none_and_says_what_to_practise_for(self) -> None:
        self.assertEqual(self.client.get("/api/today").json(), NOTHING)
        wanted = {"instrument": "cello", "method": "fifths", "minutes": 5, "concert": "2026-12-24"}
        self.assertEqual(self.client.put("/api/today/aim", json=wanted).status_code, 200)
        kept = self.client.get("/api/today").json()["aim"]
        self.assertEqual(kept, {**wanted, "tuning": "standard", "concert_name": ""})

    def test_who_has_tuned_before_has_an_aim_without_saying_so(self) -> None:
        self.begin(instrument="guitar", method="harmonics", start="hair")
        aim = self.client.get("/api/today").json()["aim"]
        self.assertEqual((aim["instrument"], aim["method"]), ("guitar", "harmonics"))

    def test_a_plan_is_begun_left_and_gone_on_with(self) -> None:
        plan = self.plan(instrument="viola", method="fifths", minutes=5)
        kinds = [one["kind"] for one in plan["items"]]
        self.assertEqual(kinds, ["drill", "one_string"])
        self.assertEqual(plan["next"], 0)
        for one in plan["items"]:
            self.assertRegex(one["reason"], r"^[A-Z].*[.?]$")
        begun = self.item(plan, 0)
        first = begun["items"][0]
        self.assertEqual(first["state"], "begun")
        # pressed once more, or in another tab: the same sitting
        self.assertEqual(self.item(plan, 0)["items"][0]["attempt"], first["attempt"])
        self.sit(first["attempt"])
        later = self.client.get("/api/today").json()["plan"]
        self.assertEqual(later["id"], plan["id"])
        self.assertEqual([one["state"] for one in later["items"]], ["done", "waiting"])
        self.assertEqual(later["next"], 1)
        bench = self.item(plan, 1)["items"][1]["attempt"]
        page = self.client.get(f"/api/attempts/{bench}").json()
        settings = page["exercise"]
        self.assertEqual((settings["start"], settings["instrument"]), ("one", "viola"))

    def test_another_aim_makes_another_plan_until_something_is_done(self) -> None:
        plan = self.plan(minutes=5)
        begun = self.item(plan, 0)["items"][0]["attempt"]
        self.client.put("/api/today/aim", json={"minutes": 20, "concert": self.soon()})
        thought = self.client.get("/api/today").json()["plan"]
        self.assertIsNone(thought["id"])
        self.assertGreater(len(thought["items"]), len(plan["items"]))
        # the sitting that was begun is still offered, and minutes more change no aim
        left = self.client.get("/api/drills").json()["left"]
        self.assertEqual([one["id"] for one in left], [begun])
        short = self.plan(minutes=5)
        self.assertEqual(self.client.get("/api/today").json()["aim"]["minutes"], 20)
        self.sit(self.item(short, 0)["items"][0]["attempt"])
        self.client.put("/api/today/aim", json={"minutes": 10})
        self.assertEqual(self.client.get("/api/today").json()["plan"]["id"], short["id"])
        self.client.put("/api/today/aim", json={"instrument": "cello"})
        self.assertIsNone(self.client.get("/api/today").json()["plan"]["id"])

    def test_a_rest_is_done_by_pressing_it(self) -> None:
        plan = self.plan(minutes=20, concert=self.soon())
        number = [one["kind"] for one in plan["items"]].index("rest")
        after = self.item(plan, number)["items"][number]
        self.assertEqual((after["state"], after["attempt"]), ("done", None))

    def test_tomorrow_a_new_plan_follows_from_what_was_measured(self) -> None:
        plan = self.plan(minutes=5)
        self.sit(self.item(plan, 0)["items"][0]["attempt"])
        self.now += timedelta(days=1)
        thought = self.client.get("/api/today").json()["plan"]
        self.assertIsNone(thought["id"])  # it is made when it is begun
        self.assertEqual({one["state"] for one in thought["items"]}, {"waiting"})
        again = self.plan(minutes=20, concert=self.soon())
        self.assertNotEqual(again["id"], plan["id"])
        first = plan["items"][0]
        reasons = {(one["name"], one["where"]): one["reason"] for one in again["items"]}
        said = reasons.pop((first["name"], first["where"]), "")
        self.assertNotIn("not tried", said)
        self.assertTrue(any("not tried" in one for one in reasons.values()), reasons)

    def test_an_attempt_that_was_erased_can_be_begun_again(self) -> None:
        plan = self.plan(minutes=5)
        first = self.item(plan, 0)["items"][0]["attempt"]
        self.assertEqual(self.client.delete(f"/api/attempts/{first}").status_code, 204)
        self.assertEqual(
            self.client.get("/api/today").json()["plan"]["items"][0]["state"], "waiting"
        )
        self.assertNotEqual(self.item(plan, 0)["items"][0]["attempt"], first)

    def test_what_cannot_be_is_refused_in_a_sentence(self) -> None:
        for wanted, status in (
            ({"minutes": 7}, 422),
            ({"method": "guessing"}, 404),
            ({"instrument": "theremin"}, 404),
            ({"tuning": "nowhere"}, 404),
            ({"concert": "soon"}, 422),
        ):
            for send in (self.client.post, self.client.put):
                path = "plans" if send == self.client.post else "aim"
                reply = send(f"/api/today/{path}", json=wanted)
                self.assertEqual(reply.status_code, status, reply.text)
        plan = self.plan()
        reply = self.client.post(f"/api/today/plans/{plan['id']}/items/99", json={})
        self.assertEqual(reply.status_code, 404)
        other = self.another_guest().get("/api/today").json()
        self.assertEqual(other, NOTHING)


class Files(TodayTest):
    def setUp(self) -> None:
        super().setUp()
        for drill in ("higher", "names"):
            begun = self.client.post("/api/drills", json={"drill": drill, "string": 3})
            self.sit(begun.json()["id"])

    def test_the_calendar_holds_what_is_due_and_the_concert(self) -> None:
        self.client.put("/api/today/aim", json={"concert": "2026-12-24"})
        reply = self.client.get("/api/today/calendar.ics")
        self.assertEqual(reply.status_code, 200, reply.text)
        self.assertIn("text/calendar", reply.headers["content-type"])
        events = Calendar.from_ical(reply.text).walk("VEVENT")
        said = {str(one["summary"]): one for one in events}
        self.assertEqual(said["Concert"].decoded("dtstart"), date(2026, 12, 24))
        practice = said["Practise listening: viola"]
        self.assertGreaterEqual(practice.decoded("dtstart"), date(2026, 11, 21))
        self.assertFalse(Calendar.from_ical(reply.text).walk("VALARM"))
        # the same again has the same names, so that a calendar keeps one of each
        again = Calendar.from_ical(self.client.get("/api/today/calendar.ics").text).walk("VEVENT")
        self.assertEqual({str(one["uid"]) for one in events}, {str(one["uid"]) for one in again})

    def test_who_has_done_nothing_has_no_calendar(self) -> None:
        reply = self.another_guest().get("/api/today/calendar.ics")
        self.assertEqual(reply.status_code, 422, reply.text)

    def test_figures_go_out_and_in_as_json_and_as_a_table(self) -> None:
        out = self.client.get("/api/figures.json")
        self.assertEqual(len(out.json()["sittings"]), 2)
        table = self.client.get("/api/figures.csv")
        self.assertEqual(len(table.text.splitlines()), 3)
        for file in (out.text, table.text):
            other = TestClient(self.client.app)
            self.addCleanup(other.close)
            reply = other.post("/api/figures", content=file, headers=HEADERS)
            self.assertEqual((reply.status_code, reply.json()), (201, {"new": 2}), reply.text)
            twice = other.post("/api/figures", content=file, headers=HEADERS)
            self.assertEqual(twice.json(), {"new": 0})
            back = other.get("/api/figures.json").json()
            brought = [{**one, "from_file": True} for one in out.json()["sittings"]]
        self.assertEqual(back["sittings"], brought)

    def test_a_figure_from_a_file_proves_nothing(self) -> None:
        file = self.client.get("/api/figures.json").json()
        string: dict[str, Any] = {
            "string": 1,
            "began_cents": -20.0,
            "ended_cents": 0.5,
            "well": True,
        }
        string |= {"basis": "ear", "verdict": "in_tune"}
        forged: dict[str, Any] = {
            "instrument": "viola",
            "method": "fifths",
            "at": "2026-03-01T10:00:00Z",
        }
        forged |= {"aid": "ear", "strings": [string], "proves": True}
        file["attempts"] = [forged]
        other = TestClient(self.client.app)
        self.addCleanup(other.close)
        reply = other.post("/api/figures", content=json.dumps(file), headers=HEADERS)
        self.assertEqual(reply.status_code, 201, reply.text)
        (back,) = other.get("/api/figures.json").json()["attempts"]
        self.assertEqual(back.get("proves", False), False)
        self.assertIn("practice", back["practice"])

    def test_figures_that_make_no_sense_are_refused_and_nothing_is_kept(self) -> None:
        good = self.client.get("/api/figures.json").text
        table = self.client.get("/api/figures.csv").text
        for bad in (
            "",
            "{",
            "[]",
            "a,b\n1,2\n",
            good.replace("meldrin figures", "something else"),
            good.replace('"version": 1', '"version": 9'),
            good.replace('"trials": 12', '"trials": -1'),
            good.replace('"trials": 12', '"trials": 1e400'),
            good.replace('"drill": "higher"', '"drill": {}'),
            table.replace("sitting", "nothing"),
            table.replace(",12,", ",many,"),
        ):
            reply = self.client.post("/api/figures", content=bad.encode(), headers=HEADERS)
            self.assertEqual(reply.status_code, 422, bad[:60])
            self.assertTrue(reply.json()["detail"].endswith("."), reply.text)
        self.assertEqual(self.client.get("/api/figures.json").text, good)

    def test_moments_of_figures_are_moments(self) -> None:
        (first, _) = self.client.get("/api/figures.json").json()["sittings"]
        at = datetime.fromisoformat(first["at"])
        self.assertIsNotNone(at.tzinfo)
