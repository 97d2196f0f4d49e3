"""Rounds with a class: led, joined, judged, lost and found again, over two processes; and what may
be known of them by whom.
"""

import json
from datetime import timedelta
from typing import Any

from fastapi.testclient import TestClient
from sqlalchemy import select

from meldrin.server.app import create_app
from meldrin.services.rounds import series_of
from meldrin.services.upkeep import tidy
from meldrin.settings import Settings
from meldrin.store.tables import RoundAnswerRow, RoundRow
from tests.server.base import database
from tests.server.test_accounts import unpacked
from tests.server.test_studios import StudioTest

PAIR = {"drill": "width", "instrument": "viola", "string": 2}


class RoundTest(StudioTest):
    def begun(self, **wanted: Any) -> dict[str, Any]:
        """Begin a round, and remember it."""
        made = self.teacher.post(
            f"{self.studio}/rounds", json={"sitting": PAIR, "count": 3, **wanted}
        )
        self.assertEqual(made.status_code, 201, made.text)
        page: dict[str, Any] = made.json()
        self.round, self.code = page["scene"]["id"], page["code"]
        self.version = 0
        return page

    def move(self, *moves: str) -> dict[str, Any]:
        """Lead the round on."""
        page: dict[str, Any] = {}
        for move in moves:
            reply = self.teacher.post(
                f"{self.studio}/rounds/{self.round}/moves",
                json={"move": move, "version": self.version},
            )
            self.assertEqual(reply.status_code, 200, reply.text)
            page = reply.json()
            self.version = page["scene"]["version"]
        return page

    def sits(self, client: TestClient | None = None, places: int = 1) -> TestClient:
        """Somebody who has sat down in the round."""
        client = client or self.another_guest()
        reply = client.post("/api/rounds/join", json={"code": self.code, "places": places})
        self.assertEqual(reply.status_code, 200, reply.text)
        return client

    def says(self, client: TestClient, number: int, answer: int, **more: Any) -> Any:
        said = {"number": number, "answer": answer, **more}
        return client.post(f"/api/rounds/{self.round}/answers", json=said)

    def truths(self) -> list[int]:
        """What is right at each question; no page is sent that."""
        with self.client.app.state.kept.pools.requests() as session:  # type: ignore[attr-defined]
            row = session.scalars(select(RoundRow).where(RoundRow.public_id == self.round)).one()
            series = series_of(row)
        return [series.posed(number).right for number in range(1, series.count + 1)]

    def figures(self, client: TestClient) -> list[dict[str, Any]]:
        found: list[dict[str, Any]] = client.get("/api/figures.json").json()["sittings"]
        return found


class Led(RoundTest):
    def test_a_round_is_judged_told_and_goes_into_the_record_of_each(self) -> None:
        slips = self.listed()
        liv, guest = self.signed_in(slips["Liv"]["code"]), self.another_guest()
        self.begun(fading=False)
        for client in (liv, guest):
            self.sits(client)
        truths = self.truths()
        for number in (1, 2, 3):
            self.move("ask", "play")
            self.assertEqual(
                self.says(liv, number, truths[number - 1], sure="sure").status_code, 204
            )
            self.assertEqual(self.says(guest, number, 0).status_code, 204)
            page = self.move("tell")
            truth = page["scene"]["truth"]
            self.assertEqual(truth["right"], truths[number - 1])
            counts = [0, 0, 0]
            counts[truths[number - 1]] += 1
            counts[0] += 1
            self.assertEqual(truth["counts"], counts)
            self.assertNotIn("Liv", json.dumps(page))
        lines = self.move("end")["scene"]["lines"]
        self.assertEqual([one["of"] for one in lines], [2, 2, 2])
        (figure,) = self.figures(liv)
        self.assertEqual((figure["right"], figure["trials"]), (3, 3))
        self.assertTrue(figure["in_class"])
        (own,) = self.figures(guest)  # who came without a name has a record too
        self.assertEqual(own["right"], truths.count(0))
        told = liv.get(f"/api/rounds/{self.round}").json()["places"][0]
        self.assertIn("You were right 3 of 3 times.", told["says"])

    def test_nothing_of_the_truth_is_told_while_it_is_asked(self) -> None:
        self.begun()
        pupil = self.sits()
        for reply in (self.move("ask", "play"), pupil.get(f"/api/rounds/{self.round}").json()):
            scene = reply["scene"]
            self.assertIsNone(scene["truth"])
            self.assertEqual(scene["lines"], [])
            for part in scene["question"]["parts"]:
                self.assertEqual((part["cents"], part["beats_hz"]), (None, None))
            self.assertNotIn("seed", json.dumps(scene))
        self.refused(pupil.get(f"/api/rounds/{self.round}/sound"), 404, "no_such_round")

    def test_an_answer_comes_after_the_sound_and_before_the_truth(self) -> None:
        self.begun()
        pupil = self.sits()
        self.refused(self.says(pupil, 1, 0), 422, "decided")
        self.move("ask")
        self.refused(self.says(pupil, 1, 0), 422, "not_heard")
        tell = {"move": "tell", "version": self.version}
        moves = f"{self.studio}/rounds/{self.round}/moves"
        self.refused(self.teacher.post(moves, json=tell), 422, "not_heard")
        self.move("play")
        self.refused(self.says(pupil, 1, 5), 422, "answer")
        self.assertEqual(self.says(pupil, 1, 0).status_code, 204)
        self.assertEqual(self.says(pupil, 1, 1, sure="guess").status_code, 204)  # thinks again
        self.refused(self.says(pupil, 2, 1), 422, "decided")
        self.assertEqual(self.move("tell")["scene"]["truth"]["counts"], [0, 1, 0])
        self.refused(self.says(pupil, 1, 2), 422, "decided")

    def test_of_two_who_move_it_at_once_one_hears_that_it_has_gone_on(self) -> None:
        self.begun()
        moves = f"{self.studio}/rounds/{self.round}/moves"
        other = self.invited("Bo")
        self.assertEqual(other.post(moves, json={"move": "ask", "version": 0}).status_code, 200)
        late = self.teacher.post(moves, json={"move": "ask", "version": 0})
        self.refused(late, 422, "not_here")
        scene = self.teacher.get(f"{self.studio}/rounds/{self.round}").json()["scene"]
        self.assertEqual(scene["number"], 1)
        for move in ("ask", "nothing"):
            reply = self.teacher.post(moves, json={"move": move, "version": 1})
            self.assertEqual(reply.status_code, 422)

    def test_a_code_opens_until_it_is_over(self) -> None:
        self.begun()
        stranger = self.another_guest()
        self.assertEqual(stranger.get(f"/api/codes/{self.code}").json(), {"kind": "round"})
        self.refused(stranger.post("/api/rounds/join", json={"code": "what"}), 422, "slip")
        self.move("ask", "play", "tell", "end")
        join = stranger.post("/api/rounds/join", json={"code": self.code})
        self.refused(join, 404, "no_such_round")
        self.refused(stranger.get(f"/api/codes/{self.code}"), 404, "no_such_round")

    def test_what_was_open_when_it_ended_counts_for_nobody(self) -> None:
        self.begun(fading=False)
        pupil = self.sits()
        self.move(
            "ask",
            "play",
        )
        self.says(pupil, 1, 0)
        page = self.move("end")
        self.assertEqual(page["scene"]["lines"], [])
        self.assertEqual(self.figures(pupil), [])

    def test_where_several_sit_at_one_browser_it_is_nobody_s_record(self) -> None:
        self.begun(fading=False)
        pair = self.sits(places=2)
        self.move("ask", "play")
        for place, answer in ((1, 0), (2, 2)):
            self.assertEqual(self.says(pair, 1, answer, place=place).status_code, 204)
        self.refused(self.says(pair, 1, 0, place=3), 404, "no_such_round")
        truth = self.move("tell")["scene"]["truth"]
        self.assertEqual(truth["counts"], [1, 0, 1])
        self.move("end")
        self.assertEqual(self.figures(pair), [])

    def test_a_round_that_was_walked_away_from_ends_by_itself_and_counts(self) -> None:
        self.begun(fading=False)
        pupil = self.sits()
        self.move("ask", "play")
        self.says(pupil, 1, 0)
        self.move("tell")
        pools = self.client.app.state.kept.pools  # type: ignore[attr-defined]
        keep = timedelta(days=90)
        tidy(pools.background, keep=keep, now=self.now + timedelta(hours=2))
        self.assertEqual(self.figures(pupil), [])
        tidy(pools.background, keep=keep, now=self.now + timedelta(hours=4))
        self.assertEqual(len(self.figures(pupil)), 1)
        with pools.requests() as session:
            kept = select(RoundRow.stage, RoundRow.code).where(RoundRow.public_id == self.round)
            self.assertEqual(session.execute(kept).one(), ("over", None))
        tidy(pools.background, keep=keep, now=self.now + timedelta(days=31))
        self.refused(pupil.get(f"/api/rounds/{self.round}"), 404, "no_such_round")
        self.assertEqual(len(self.figures(pupil)), 1)  # which is the pupil's own

    def test_what_one_said_is_taken_along_and_erased_with_them(self) -> None:
        self.begun(fading=False)
        pupil, other = self.sits(), self.sits()
        self.move("ask", "play")
        self.says(pupil, 1, 2, sure="fairly")
        self.says(other, 1, 1)
        files = unpacked(pupil.get("/api/learner/everything.zip").content)
        (said,) = json.loads(files["rounds.json"])
        self.assertEqual((said["number"], said["answer"], said["sure"]), (1, 2, "fairly"))
        self.assertEqual(pupil.delete("/api/learner").status_code, 204)
        with self.client.app.state.kept.pools.requests() as session:  # type: ignore[attr-defined]
            left = (
                select(RoundAnswerRow.answer)
                .join(RoundRow, RoundRow.id == RoundAnswerRow.round_id)
                .where(RoundRow.public_id == self.round)
            )
            self.assertEqual(list(session.scalars(left)), [1])

    def test_each_device_may_play_for_itself(self) -> None:
        self.begun(each_plays=True)
        pupil = self.sits()
        sound = f"/api/rounds/{self.round}/sound"
        self.refused(pupil.get(sound), 422, "action")
        self.move("ask")
        self.assertEqual(self.says(pupil, 1, 0).status_code, 204)
        first = pupil.get(sound).json()
        self.assertEqual(first, self.teacher.get(sound).json())
        self.assertEqual(first["rate"], 24000)

    def test_a_comparison_and_an_example_are_heard(self) -> None:
        page = self.begun(sitting=None, show="chord")
        self.assertEqual([one["words"] for one in page["examples"]], ["Out", "In"])
        examples = f"{self.studio}/rounds/{self.round}/examples"
        out, into = (self.teacher.get(f"{examples}/{n}").json()["samples"] for n in (0, 1))
        self.assertNotEqual(out, into)
        self.assertEqual(len(out), len(into))
        self.refused(self.teacher.get(f"{examples}/2"), 422, "answer")
        question = self.move("ask")["scene"]["question"]
        self.assertEqual([one["words"] for one in question["answers"]], ["Out", "In"])

    def test_what_makes_no_round_is_refused(self) -> None:
        rounds = f"{self.studio}/rounds"
        for wanted, code in (
            ({}, "round"),
            ({"sitting": {"drill": "hold"}}, "round"),
            ({"show": "none"}, "no_such_show"),
            ({"sitting": PAIR, "show": "chord"}, "round"),
        ):
            reply = self.teacher.post(rounds, json=wanted)
            self.assertIn(code, reply.json()["type"])
            self.assertGreaterEqual(reply.status_code, 404)
        self.assertEqual(self.teacher.get(rounds).json(), [])


class Screens(RoundTest):
    """What screens are told, by two processes at once."""

    def setUp(self) -> None:
        super().setUp()
        app = create_app(Settings(database_url=database().url), pages=None, now=self.tick)
        self.elsewhere = self.enterContext(TestClient(app))

    def at_the_other(self, client: TestClient) -> TestClient:
        """The same browser, served by the other process."""
        self.elsewhere.get("/api/health")
        other = TestClient(self.elsewhere.app)
        other.portal = self.elsewhere.portal
        self.addCleanup(other.close)
        for cookie in client.cookies.jar:
            other.cookies.set(cookie.name, cookie.value or "", domain=cookie.domain, path="/")
        return other

    def until(self, socket: Any, **wanted: Any) -> dict[str, Any]:
        """Read a line until the round stands so."""
        for _ in range(200):
            scene: dict[str, Any] = socket.receive_json()
            if all(scene[name] == value for name, value in wanted.items()):
                return scene
        raise AssertionError(wanted)

    def test_every_screen_of_both_processes_hears_of_every_change(self) -> None:
        self.begun()
        here, there = self.sits(), self.sits()
        there = self.at_the_other(there)
        line = f"/api/rounds/{self.round}/line"
        with (
            self.teacher.websocket_connect(line) as wall,
            here.websocket_connect(line) as one,
            there.websocket_connect(line) as two,
        ):
            self.until(wall, here=2, stage="gathering")
            self.move("ask", "play")
            for socket in (wall, one, two):
                scene = self.until(socket, stage="asked", plays=1)
                self.assertIsNone(scene["truth"])
            self.says(there, 1, 0)
            for socket in (wall, one, two):
                self.until(socket, answered=1)
            self.says(here, 1, 1)
            self.move("tell")
            told = [self.until(socket, stage="told") for socket in (wall, one, two)]
            self.assertEqual(told[0], told[1])
            self.assertEqual(told[1], told[2])
            self.assertEqual(sum(told[0]["truth"]["counts"]), 2)

    def test_who_is_lost_is_counted_out_and_comes_back_with_what_they_said(self) -> None:
        self.begun()
        pupil, other = self.sits(), self.sits()
        line = f"/api/rounds/{self.round}/line"
        with self.teacher.websocket_connect(line) as wall:
            with pupil.websocket_connect(line), other.websocket_connect(line):
                self.move("ask", "play")
                self.says(pupil, 1, 2)
                self.until(wall, here=2, answered=1)
            # what was said stays, and whoever said it counts among all
            self.until(wall, here=1, answered=1)
            back = self.at_the_other(pupil)
            again = back.post("/api/rounds/join", json={"code": self.code}).json()
            self.assertEqual([one["answer"] for one in again["places"][0]["said"]], [2])
            late = self.sits()
            self.assertEqual(self.says(late, 1, 2).status_code, 204)
            self.until(wall, answered=2)

    def test_who_has_no_seat_hears_nothing(self) -> None:
        self.begun()
        line = f"/api/rounds/{self.round}/line"
        for stranger in (self.another_guest(), self.joined("Neighbour")):
            with stranger.websocket_connect(line) as socket:
                self.assertEqual(socket.receive_json()["code"], "no_such_round")
            self.refused(stranger.get(f"/api/rounds/{self.round}"), 404, "no_such_round")
            self.refused(self.says(stranger, 1, 0), 404, "no_such_round")

    def test_an_erased_round_lets_its_screens_go(self) -> None:
        self.begun()
        pupil = self.sits()
        with pupil.websocket_connect(f"/api/rounds/{self.round}/line") as socket:
            self.until(socket, stage="gathering")
            path = f"{self.studio}/rounds/{self.round}"
            self.assertEqual(self.teacher.delete(path).status_code, 204)
            closed = socket.receive()
            while closed["type"] != "websocket.close":
                closed = socket.receive()
            self.assertEqual(closed["code"], 4404)
