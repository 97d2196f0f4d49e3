"""Exercises that a teacher sets: made, tried, given, done by pupils and by a code, and read."""

import csv
import io
import json
from datetime import timedelta
from typing import Any

from fastapi.testclient import TestClient
from sqlalchemy import select

from meldrin.core.bench import EXERCISES, Exercise, Finish, Play, TimedAction, Turn
from meldrin.core.session import Timed
from meldrin.services.attempts import Batch, Numbered, append_actions, take_over
from meldrin.services.identity import actor_of
from meldrin.store.tables import AttemptRow
from tests.server.base import NOW
from tests.server.test_accounts import unpacked
from tests.server.test_own_instruments import HEADERS
from tests.server.test_studios import StudioTest

ONE = {
    "instrument": "viola",
    "method": "each",
    "start": "one",
    "out_string": 2,
    "out_cents": -20.0,
    "tolerance": "first",
}
LOG = [
    TimedAction(1.0, Play((2,), True)),
    TimedAction(3.0, Turn(2, 6.0)),
    TimedAction(5.0, Play((2,), True)),
    TimedAction(8.0, Finish()),
]


def one_string(**more: Any) -> dict[str, Any]:
    """An exercise of one part, with help that fades."""
    part = {"kind": "tune", "exercise": ONE, "helps": ["level", "ear"], "times": 2}
    return {"name": "Bring D up", "parts": [part], **more}


class TaskTest(StudioTest):
    def setUp(self) -> None:
        super().setUp()
        self.slips = self.listed()
        self.tasks = f"{self.studio}/tasks"

    def made(self, wanted: dict[str, Any] | None = None) -> str:
        reply = self.teacher.post(self.tasks, json=wanted or one_string())
        self.assertEqual(reply.status_code, 201, reply.text)
        return f"{self.tasks}/{reply.json()['id']}"

    def given(self, task: str, **wanted: Any) -> dict[str, Any]:
        reply = self.teacher.post(f"{task}/give", json=wanted)
        self.assertEqual(reply.status_code, 201, reply.text)
        return dict(reply.json())

    def begin_part(self, client: TestClient, key: str, number: int = 0, **wanted: Any) -> str:
        reply = client.post(f"/api/set/{key}/parts/{number}", json=wanted)
        self.assertEqual(reply.status_code, 201, reply.text)
        return str(reply.json()["id"])

    def exercise_of(self, attempt: str) -> Exercise:
        with self.client.app.state.kept.pools.requests() as session:  # type: ignore[attr-defined]
            query = select(AttemptRow.exercise).where(AttemptRow.public_id == attempt)
            return EXERCISES.value(json.loads(str(session.scalar(query))))

    def play(self, client: TestClient, attempt: str, log: list[Timed[Any]] | None = None) -> None:
        """Play an attempt to its end, and let it be scored."""
        kept = self.client.app.state.kept  # type: ignore[attr-defined]
        with kept.pools.requests() as session:
            actor = actor_of(session, client.cookies.get("meldrin_learner"), now=self.now)
            record = take_over(session, actor, attempt, holder="test")
            numbered = [Numbered(n, one) for n, one in enumerate(log or LOG, start=1)]
            append_actions(
                session, [Batch(record.key, "test", tuple(numbered), "bench")], now=self.tick()
            )
        kept.results.catch_up()

    def listed_given(self, after: str | None = None) -> dict[str, Any]:
        wanted = {} if after is None else {"after": after}
        return dict(self.teacher.get(f"{self.studio}/given", params=wanted).json())

    def results(self, given: dict[str, Any], part: int = 0) -> dict[str, Any]:
        reply = self.teacher.get(f"{self.studio}/given/{given['id']}?part={part}")
        self.assertEqual(reply.status_code, 200, reply.text)
        return dict(reply.json())


class Collection(TaskTest):
    def test_kept_changed_copied_and_erased(self) -> None:
        task = self.made()
        page = self.teacher.get(task).json()
        self.assertEqual(
            (page["name"], page["starts"], page["counts"]), ("Bring D up", "own", "best")
        )
        self.assertEqual(len(page["part_names"]), 1)
        changed = {**one_string(), "name": "Bring D down", "note": "  Slowly,  please. "}
        put = self.teacher.put(task, json=changed).json()
        self.assertEqual((put["name"], put["note"]), ("Bring D down", "Slowly, please."))
        copy = self.teacher.post(f"{task}/copy").json()
        self.assertEqual(copy["name"], "Bring D down copy")
        self.assertEqual(copy["parts"], put["parts"])
        self.assertEqual(self.teacher.delete(task).status_code, 204)
        self.assertEqual([one["id"] for one in self.teacher.get(self.tasks).json()], [copy["id"]])

    def test_open_json_out_and_in(self) -> None:
        task = self.made()
        text = self.teacher.get(f"{task}/task.json").text
        brought = self.teacher.post(
            f"{self.tasks}/import?name=d.json", content=text, headers=HEADERS
        )
        self.assertEqual(brought.status_code, 201, brought.text)
        self.assertEqual(brought.json()["parts"], self.teacher.get(task).json()["parts"])
        for wrong, why in (
            ("{", "is not JSON"),
            ("[]", "holds no exercise"),
            (text.replace('"viola"', '"viol"'), "viol"),
            (text.replace('"times": 2', '"times": "often"'), "other parts"),
            (text.replace('"times": 2', '"times": 99'), "99"),
            (text.replace('"parts"', '"pieces"'), "other parts"),
        ):
            with self.subTest(why=why):
                reply = self.teacher.post(
                    f"{self.tasks}/import?name=d.json", content=wrong, headers=HEADERS
                )
                said = reply.json()["detail"]
                self.assertEqual(reply.status_code, 422, said)
                self.assertIn("d.json", said)
                self.assertIn(why, said)

    def test_what_does_not_go_together_is_refused(self) -> None:
        for part, code in (
            ({"kind": "tune", "exercise": {**ONE, "method": "free", "start": "hair"}}, "task"),
            ({"kind": "tune", "exercise": {**ONE, "method": "tuner"}, "helps": ["ear"]}, "aid"),
            ({"kind": "read", "page": "plan", "instrument": "viola"}, "task"),
        ):
            reply = self.teacher.post(self.tasks, json={"name": "Wrong", "parts": [part]})
            self.refused(reply, 422, code)
        self.assertEqual(
            self.teacher.post(self.tasks, json={"name": "x", "parts": []}).status_code, 422
        )

    def test_ready_ones(self) -> None:
        lesson = {"kind": "first_lesson", "instrument": "viola", "string": 3, "first": "tuner"}
        made = self.teacher.post(f"{self.tasks}/ready", json=lesson).json()
        self.assertEqual([one["kind"] for one in made["parts"]], ["read", "tune", "tune", "tune"])
        self.assertEqual(made["parts"][1]["exercise"]["method"], "tuner")
        self.assertEqual(made["parts"][3]["helps"], ["ear"])
        minutes = {"kind": "two_minutes", "instrument": "guitar", "string": 5}
        made = self.teacher.post(f"{self.tasks}/ready", json=minutes).json()
        self.assertEqual(made["parts"][0]["exercise"]["limit_s"], 120.0)
        wrong = {**minutes, "string": 9}
        self.refused(self.teacher.post(f"{self.tasks}/ready", json=wrong), 404, "no_such_string")

    def test_a_part_is_tried_before_it_is_set(self) -> None:
        task = self.made()
        tried = self.teacher.post(f"{task}/try/0").json()
        self.assertEqual(tried["practice"], "bench")
        self.assertEqual(self.exercise_of(tried["id"]).aids, ("ear", "ripple", "level"))
        self.refused(self.teacher.post(f"{task}/try/1"), 404, "no_such_task")


class Given(TaskTest):
    def test_to_a_group_whoever_is_in_it_then(self) -> None:
        saturday = next(one for one in self.page()["groups"] if one["name"] == "Saturday")
        given = self.given(self.made(), group=saturday["id"])
        self.assertEqual((given["to"], given["of"], given["done"]), ("Saturday", 2, 0))
        liv, ansel = (self.signed_in(self.slips[one]["code"]) for one in ("Liv", "Ansel"))
        self.assertEqual([one["id"] for one in liv.get("/api/set").json()], [given["id"]])
        self.assertEqual(ansel.get("/api/set").json(), [])
        self.refused(ansel.get(f"/api/set/{given['id']}"), 404, "no_such_task")
        begun = ansel.post(f"/api/set/{given['id']}/parts/0", json={})
        self.refused(begun, 404, "no_such_task")
        path = f"{self.studio}/members/{self.members()['Ansel']['id']}"
        self.teacher.patch(path, json={"groups": [saturday["id"]]})
        self.assertEqual(len(ansel.get("/api/set").json()), 1)

    def test_what_is_changed_later_does_not_touch_it(self) -> None:
        task = self.made()
        given = self.given(task, everyone=True)
        self.teacher.put(task, json=one_string(name="Other"))
        self.teacher.delete(task)
        liv = self.signed_in(self.slips["Liv"]["code"])
        self.assertEqual(liv.get(f"/api/set/{given['id']}").json()["name"], "Bring D up")

    def test_nobody_and_a_date_that_is_over_are_refused(self) -> None:
        task = self.made()
        self.refused(self.teacher.post(f"{task}/give", json={}), 422, "task")
        over = {"everyone": True, "due": (NOW - timedelta(days=1)).isoformat()}
        self.refused(self.teacher.post(f"{task}/give", json=over), 422, "task")
        foreign = {"members": ["0" * 32]}
        self.refused(self.teacher.post(f"{task}/give", json=foreign), 404, "no_such_member")

    def test_help_fades_and_cannot_be_had_by_asking(self) -> None:
        given = self.given(self.made(), everyone=True)
        liv = self.signed_in(self.slips["Liv"]["code"])
        first = self.begin_part(liv, given["id"])
        self.assertEqual(self.begin_part(liv, given["id"]), first)  # goes on, and is not another
        self.assertEqual(self.exercise_of(first).aid, "level")
        self.play(liv, first)
        second = self.begin_part(liv, given["id"])
        self.assertNotEqual(second, first)
        exercise = self.exercise_of(second)
        self.assertEqual((exercise.aid, exercise.aids), ("ear", ("ear",)))
        with liv.websocket_connect(f"/api/attempts/{second}/bench") as socket:
            socket.send_json({"kind": "hello", "tab": "liv-123456"})
            self.assertEqual(socket.receive_json()["kind"], "welcome")
            asked = {"kind": "set_aid", "aid": "level"}
            socket.send_json({"kind": "act", "number": 1, "at_s": 1.0, "action": asked})
            self.assertEqual(socket.receive_json()["code"], "aid")
        page = liv.get(f"/api/set/{given['id']}").json()["parts"][0]
        self.assertEqual(
            (page["times"], page["of"], page["open"], page["help"]), (1, 2, True, "ear")
        )

    def test_the_same_strings_for_all_and_others_the_next_time(self) -> None:
        given = self.given(self.made(one_string(starts="same")), everyone=True)
        liv, ansel = (self.signed_in(self.slips[one]["code"]) for one in ("Liv", "Ansel"))
        firsts = [self.begin_part(one, given["id"]) for one in (liv, ansel)]
        seeds = {self.exercise_of(one).seed for one in firsts}
        self.assertEqual(len(seeds), 1)
        # what a class shares can be told on; strings of one's own cannot
        self.assertFalse(any(self.exercise_of(one).fresh for one in firsts))
        self.play(liv, firsts[0])
        self.assertNotIn(self.exercise_of(self.begin_part(liv, given["id"])).seed, seeds)
        own = self.given(self.made(one_string(starts="own")), everyone=True)
        begun = [self.exercise_of(self.begin_part(one, own["id"])) for one in (liv, ansel)]
        self.assertEqual(len({one.seed for one in begun}), 2)
        self.assertTrue(all(one.fresh for one in begun))

    def test_by_the_code_without_an_account(self) -> None:
        minutes = {"kind": "two_minutes", "instrument": "guitar", "string": 5}
        made = self.teacher.post(f"{self.tasks}/ready", json=minutes).json()["id"]
        given = self.given(f"{self.tasks}/{made}", by_link=True)
        self.assertEqual(given["to"], "whoever has the code")
        code, one, two = given["code"], self.another_guest(), self.another_guest()
        self.assertEqual(one.get(f"/api/set/{code}").json()["name"], "Two minutes with everyone")
        self.refused(one.get(f"/api/set/{given['id']}"), 404, "no_such_task")
        begun = [
            self.begin_part(one, code.lower(), called="Visitor"), self.begin_part(two, code)
        ]  # fmt: skip
        self.assertEqual(self.exercise_of(begun[0]).seed, self.exercise_of(begun[1]).seed)
        names = [row["name"] for row in self.results(given)["pupils"]]
        self.assertEqual(sorted(names), ["Guest 2", "Visitor"])
        change = {"due": None, "by_link": False}
        self.teacher.patch(f"{self.studio}/given/{given['id']}", json=change)
        late = self.another_guest()
        self.refused(late.get(f"/api/set/{code}"), 404, "no_such_task")
        self.refused(one.post(f"/api/set/{code}/parts/0", json={}), 404, "no_such_task")

    def test_what_was_set_is_in_what_can_be_taken_along(self) -> None:
        given = self.given(self.made(), everyone=True)
        liv = self.signed_in(self.slips["Liv"]["code"])
        attempt = self.begin_part(liv, given["id"])
        whole = unpacked(liv.get("/api/learner/everything.zip").content)
        told = [{"exercise": "Bring D up", "part": 0, "attempt": attempt}]
        self.assertEqual(json.loads(whole["set.json"]), told)

    def test_taken_back_pupils_keep_what_they_did(self) -> None:
        given = self.given(self.made(), everyone=True)
        liv = self.signed_in(self.slips["Liv"]["code"])
        attempt = self.begin_part(liv, given["id"])
        path = f"{self.studio}/given/{given['id']}"
        self.assertEqual(self.teacher.delete(path).status_code, 204)
        self.assertEqual(liv.get("/api/set").json(), [])
        self.assertEqual(liv.get(f"/api/attempts/{attempt}").status_code, 200)

    def test_when_the_time_is_over_nothing_can_be_turned(self) -> None:
        part = {"kind": "tune", "exercise": {**ONE, "limit_s": 60.0}}
        given = self.given(self.made({"name": "Minute", "parts": [part]}), everyone=True)
        liv = self.signed_in(self.slips["Liv"]["code"])
        attempt = self.begin_part(liv, given["id"])
        with liv.websocket_connect(f"/api/attempts/{attempt}/bench") as socket:
            socket.send_json({"kind": "hello", "tab": "liv-123456"})
            socket.receive_json()
            turn = {"kind": "turn", "string": 2, "degrees": 2.0}
            socket.send_json({"kind": "act", "number": 1, "at_s": 59.0, "action": turn})
            self.assertEqual(socket.receive_json()["kind"], "now")
            socket.send_json({"kind": "act", "number": 2, "at_s": 61.0, "action": turn})
            answer = socket.receive_json()
            while answer["kind"] == "saved":  # that comes when it comes
                answer = socket.receive_json()
            self.assertEqual(answer["code"], "time_up")


class Read(TaskTest):
    def test_what_a_class_made_of_it(self) -> None:
        given = self.given(self.made(), everyone=True)
        self.assertEqual(self.results(given)["says"], "Nobody has finished it yet.")
        for name, degrees in (("Liv", 0.5), ("Ansel", 0.7)):
            client = self.signed_in(self.slips[name]["code"])
            log = [LOG[0], TimedAction(3.0, Turn(2, degrees)), *LOG[2:]]
            self.play(client, self.begin_part(client, given["id"]), log)
        idle = self.signed_in(self.slips["Tarek"]["code"])
        self.play(idle, self.begin_part(idle, given["id"]), [TimedAction(1.0, Finish())])
        found = self.results(given)
        self.assertEqual(found["says"], "2 of 2 stop low on the D string.")
        self.assertIn("1 finished without a turn.", found["more"])
        self.assertEqual(
            found["help_first"][0], {"name": "Tarek", "why": "finished without a turn"}
        )
        self.assertEqual([one["name"] for one in found["pupils"]], ["Ansel", "Liv", "Tarek"])
        string = next(one for one in found["strings"] if one["label"] == "D")
        self.assertEqual((string["low"], string["well"], string["high"]), (2, 0, 0))
        self.assertEqual({dot["pupil"] for dot in string["dots"]}, {0, 1})
        path = f"{self.studio}/given/{given['id']}/results.csv"
        rows = list(csv.DictReader(io.StringIO(self.teacher.get(path).text)))
        self.assertEqual([one["pupil"] for one in rows], ["Ansel", "Liv", "Tarek"])
        self.assertLess(float(rows[0]["D_cents"]), 0.0)
        self.assertEqual(rows[2]["D_cents"], "")
        (listed,) = self.listed_given()["given"]
        self.assertEqual((listed["done"], listed["of"]), (0, 3))  # twice is asked
        audit = self.teacher.get(f"{self.studio}/audit").json()
        looks = [one for one in audit if one["says"] == "looked at the results of an exercise"]
        self.assertEqual(len(looks), 1)  # an hour's looks are one
        attempt = found["pupils"][1]["attempt"]
        self.assertEqual(self.teacher.get(f"/api/attempts/{attempt}").status_code, 200)

    def test_how_far_each_is_page_by_page(self) -> None:
        once = {**one_string()["parts"][0], "times": 1, "helps": []}
        task = self.made({"name": "Once", "parts": [once]})
        members = {one["name"]: one["id"] for one in self.page()["members"]}
        made = [
            self.given(task, everyone=True),
            self.given(task, members=[members["Liv"], members["Ansel"]]),
            *(self.given(task, by_link=True) for _ in range(25)),
        ]
        for name, given in (("Liv", made[0]), ("Liv", made[1]), ("Tarek", made[0])):
            client = self.signed_in(self.slips[name]["code"])
            self.play(client, self.begin_part(client, given["id"]))
        begun = self.signed_in(self.slips["Ansel"]["code"])
        self.begin_part(begun, made[1]["id"])  # and not finished
        first = self.listed_given()
        self.assertEqual(len(first["given"]), 25)
        rest = self.listed_given(after=first["after"])
        self.assertIsNone(rest["after"])
        found = [*first["given"], *rest["given"]]
        self.assertEqual([one["id"] for one in found], [one["id"] for one in reversed(made)])
        told = [(one["to"], one["done"], one["of"]) for one in rest["given"]]
        self.assertEqual(told, [("Ansel and Liv", 1, 2), ("everyone", 2, 3)])
        stranger = f"{self.studio}/given?after={'0' * 32}"
        self.refused(self.teacher.get(stranger), 404, "no_such_task")

    def test_who_did_it_before_they_signed_in_has_done_it(self) -> None:
        once = {**one_string()["parts"][0], "times": 1, "helps": []}
        task = self.made({"name": "Once", "parts": [once]})
        given = self.given(task, everyone=True, by_link=True)
        guest = self.another_guest()
        self.play(guest, self.begin_part(guest, given["code"], called="Who is it"))
        self.assertEqual(self.listed_given()["given"][0]["done"], 0)
        code = {"code": self.slips["Liv"]["code"], "bring": True}
        self.assertEqual(guest.post("/api/sign-in", json=code).status_code, 200)
        self.assertEqual(self.listed_given()["given"][0]["done"], 1)
        self.assertIsNone(guest.get(f"/api/set/{given['id']}").json()["next"])
        rows = {one["name"]: one["attempt"] for one in self.results(given)["pupils"]}
        self.assertIsNotNone(rows["Liv"])
        self.assertNotIn("Who is it", rows)

    def test_by_its_code_alone_who_signs_in_later_stays_in_its_results(self) -> None:
        given = self.given(self.made(), by_link=True)
        guest = self.another_guest()
        self.play(guest, self.begin_part(guest, given["code"], called="Liv"))
        code = {"code": self.slips["Liv"]["code"], "bring": True}
        self.assertEqual(guest.post("/api/sign-in", json=code).status_code, 200)
        (row,) = self.results(given)["pupils"]
        self.assertEqual(row["name"], "Liv")
        self.assertIsNotNone(row["attempt"])

    def test_another_part_and_one_that_there_is_not(self) -> None:
        sitting = {"drill": "higher", "instrument": "viola", "string": 3}
        parts = [*one_string()["parts"], {"kind": "listen", "sitting": sitting}]
        given = self.given(self.made({"name": "Two", "parts": parts}), everyone=True)
        liv = self.signed_in(self.slips["Liv"]["code"])
        begun = liv.post(f"/api/set/{given['id']}/parts/1", json={}).json()
        self.assertEqual(begun["practice"], "drills")
        self.assertEqual(liv.get(f"/api/drills/{begun['id']}").status_code, 200)
        self.assertEqual(len(self.results(given, 1)["parts"]), 2)
        path = f"{self.studio}/given/{given['id']}?part=2"
        self.refused(self.teacher.get(path), 404, "no_such_task")
