"""Remarks: pinned by who teaches, read in their place, and answered by doing the spot once more."""

import json
from typing import Any

from fastapi.testclient import TestClient

from meldrin.core.bench import Finish, GoTo, Play, TimedAction, Turn
from meldrin.core.bench.exercise import Exercise
from meldrin.reports.attempt_record import attempt_text
from tests.server.base import NOW
from tests.server.test_accounts import unpacked
from tests.server.test_own_instruments import HEADERS
from tests.server.test_studios import StudioTest

FIFTHS = Exercise("viola", "fifths", "month", 3)
LOG = [
    TimedAction(1.0, Play((1,))),
    TimedAction(2.0, GoTo(1)),
    TimedAction(3.0, Play((2,))),
    TimedAction(4.0, Turn(2, 6.0)),
    TimedAction(6.0, Finish()),
]


class Remarks(StudioTest):
    def setUp(self) -> None:
        super().setUp()
        self.liv = self.signed_in(self.listed()["Liv"]["code"])
        text = attempt_text(FIFTHS, LOG, made=NOW)
        made = self.liv.post("/api/attempts/import", content=text, headers=HEADERS)
        self.made = made.json()["id"]
        self.path = f"/api/attempts/{self.made}/remarks"

    def pinned(self, at_s: float = 4.5, text: str = "Come from below here.") -> dict[str, Any]:
        reply = self.teacher.post(self.path, json={"at_s": at_s, "text": text})
        self.assertEqual(reply.status_code, 201, reply.text)
        found: dict[str, Any] = reply.json()
        return found

    def answered(self, remark: dict[str, Any]) -> str:
        reply = self.liv.post(f"/api/remarks/{remark['id']}/answer")
        self.assertEqual(reply.status_code, 201, reply.text)
        return str(reply.json()["id"])

    def plays(self, client: TestClient, attempt: str, *actions: dict[str, Any]) -> dict[str, Any]:
        """Do these at the bench, and leave once all is on disk; return the first scene."""
        with client.websocket_connect(f"/api/attempts/{attempt}/bench") as socket:
            socket.send_json({"kind": "hello", "tab": "again-1234"})
            welcome: dict[str, Any] = socket.receive_json()
            for n, action in enumerate(actions, start=1):
                number, at_s = welcome["number"] + n, welcome["at_s"] + n
                act = {"kind": "act", "number": number, "at_s": at_s, "action": action}
                socket.send_json(act)
            last = welcome["number"] + len(actions)
            while actions:
                said = socket.receive_json()
                if said["kind"] == "saved" and said["number"] == last:
                    break
        return welcome

    def test_a_remark_stands_in_its_place_for_the_pupil_and_names_who_made_it(self) -> None:
        late, early = self.pinned(), self.pinned(1.5, "Good: you listened first.")
        for client in (self.liv, self.teacher):
            found = client.get(self.path).json()
            self.assertEqual([one["id"] for one in found], [early["id"], late["id"]])
            self.assertTrue(found[0]["by"].startswith("Oda"))
        self.assertEqual(late["label"], "D")
        self.assertEqual([one["is_mine"] for one in self.liv.get(self.path).json()], [False] * 2)
        waiting = self.liv.get("/api/remarks").json()
        self.assertEqual({one["id"] for one in waiting}, {early["id"], late["id"]})
        self.assertEqual(self.teacher.get("/api/remarks").json(), [])

    def test_the_spot_is_done_again_from_where_its_step_was_met(self) -> None:
        remark = self.pinned()
        begun = self.answered(remark)
        self.assertEqual(self.answered(remark), begun)  # goes on with it
        self.assertEqual([one["answer"] for one in self.liv.get("/api/remarks").json()], [begun])
        welcome = self.plays(self.liv, begun)
        self.assertEqual((welcome["number"], welcome["at_s"]), (2, 2.0))
        self.assertEqual(welcome["scene"]["stage"], 1)
        self.assertEqual(self.liv.get(self.path).json()[0]["is_done"], False)
        cents = remark["cents"]
        self.plays(
            self.liv,
            begun,
            {"kind": "play", "strings": [2]},
            {"kind": "turn", "string": 2, "degrees": 4.0},
            {"kind": "finish"},
        )
        (told,) = self.teacher.get(self.path).json()
        self.assertTrue(told["is_done"])
        self.assertEqual(told["cents"], cents)
        # 4 degrees up in place of 6: it ends lower than it was at the moment of the remark
        self.assertLess(told["came_to"], cents)
        self.assertEqual(self.teacher.get(f"/api/attempts/{begun}").status_code, 200)
        self.assertEqual(self.liv.get("/api/remarks").json(), [])

    def test_what_was_done_before_the_spot_is_not_practised_twice(self) -> None:
        """The record keeps one figure for the attempt, and none for its spot done again."""
        begun = self.answered(self.pinned())
        self.plays(self.liv, begun, {"kind": "finish"})
        self.assertEqual(self.liv.get(f"/api/attempts/{begun}").status_code, 200)
        self.assertEqual(self.liv.get(f"/api/attempts/{self.made}").status_code, 200)  # is scored
        (figure,) = self.liv.get("/api/figures.json").json()["attempts"]
        self.assertEqual(figure["method"], "fifths")

    def test_only_who_teaches_pins_and_only_who_pinned_changes(self) -> None:
        pin = {"at_s": 1.0, "text": "Mine now"}
        remark = self.pinned()
        neighbour, stranger = self.joined("Neighbour"), self.another_guest()
        for client in (self.liv, neighbour, stranger):
            self.refused(client.post(self.path, json=pin), 404, "no_such_attempt")
        other = self.invited("Bo")
        for client in (self.liv, neighbour, stranger, other):
            path = f"/api/remarks/{remark['id']}"
            self.refused(client.patch(path, json={"text": "Mine"}), 404, "no_such_remark")
            self.refused(client.delete(path), 404, "no_such_remark")
            if client is not self.liv:
                self.refused(client.post(f"{path}/answer"), 404, "no_such_remark")
        self.assertEqual(other.post(self.path, json=pin).status_code, 201)
        changed = self.teacher.patch(f"/api/remarks/{remark['id']}", json={"text": " Better \n so"})
        self.assertEqual(changed.json()["text"], "Better so")
        self.assertEqual(self.teacher.delete(f"/api/remarks/{remark['id']}").status_code, 204)
        self.assertEqual([one["text"] for one in self.liv.get(self.path).json()], ["Mine now"])

    def test_what_is_no_remark_is_refused_and_all_is_written_down(self) -> None:
        for wanted, code in (
            ({"at_s": 1.0, "text": "  \n "}, "remark"),
            ({"at_s": 1.0, "text": "x" * 301}, "remark"),
            ({"at_s": 500.0, "text": "Too late"}, "out_of_range"),
        ):
            self.refused(self.teacher.post(self.path, json=wanted), 422, code)
        open_one = self.liv.post("/api/attempts", json={}).json()["id"]
        path = f"/api/attempts/{open_one}/remarks"
        pin = {"at_s": 0.0, "text": "Early"}
        self.refused(self.teacher.post(path, json=pin), 422, "unfinished")
        self.pinned()
        looks = self.liv.get("/api/looks").json()
        self.assertTrue(any("remarked on" in one["says"] for one in looks), looks)
        packed = self.liv.get("/api/learner/everything.zip").content
        (kept,) = json.loads(unpacked(packed)["remarks.json"])
        self.assertEqual((kept["text"], kept["attempt"]), ("Come from below here.", self.made))
        own = self.teacher.get("/api/learner/everything.zip").content
        (mine,) = json.loads(unpacked(own)["remarks.json"])
        self.assertIsNone(mine["attempt"])

    def test_a_teacher_who_is_gone_leaves_the_words(self) -> None:
        other = self.invited("Bo")
        other.post(self.path, json={"at_s": 1.0, "text": "From Bo"})
        self.assertEqual(other.delete("/api/learner").status_code, 204)
        (found,) = self.liv.get(self.path).json()
        self.assertEqual((found["text"], found["by"]), ("From Bo", "Your teacher"))
        self.assertEqual(self.liv.delete(f"/api/attempts/{self.made}").status_code, 204)
        self.assertEqual(self.liv.get("/api/remarks").json(), [])
