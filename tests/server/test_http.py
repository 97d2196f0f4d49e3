import unittest
from pathlib import Path

from tools.generate import (
    OPENAPI,
    PICTURES,
    SOUND,
    SOUND_CASES,
    TYPES,
    drawings_text,
    openapi_text,
    sound_cases_text,
    sound_text,
    types_text,
)

from meldrin.services.identity import actor_of, welcome_guest
from tests.server.base import NOW, ServerTest


class Newcomers(ServerTest):
    def test_looking_makes_no_guest_and_starting_does(self) -> None:
        self.assertEqual(self.client.get("/api/attempts").json()["attempts"], [])
        self.assertNotIn("set-cookie", self.client.get("/api/attempts").headers)
        reply = self.client.post("/api/attempts", json={})
        cookie = reply.headers["set-cookie"]
        self.assertIn("HttpOnly", cookie)
        self.assertIn("SameSite=lax", cookie)
        self.assertEqual(len(self.client.get("/api/attempts").json()["attempts"]), 1)

    def test_everything_can_be_erased(self) -> None:
        self.begin()
        self.assertEqual(self.client.delete("/api/learner").status_code, 204)
        self.assertEqual(self.client.get("/api/attempts").json()["attempts"], [])


class Pages(ServerTest):
    def test_an_open_attempt_tells_the_plan_and_not_the_score(self) -> None:
        page = self.client.get(f"/api/attempts/{self.begin()}").json()
        self.assertIsNone(page["score"])
        self.assertEqual([one["number"] for one in page["strings"]], [6, 5, 4, 3, 2, 1])
        self.assertEqual([one["kind"] for one in page["stages"]], ["step"] * 6 + ["check"] * 4)
        self.assertIsNone(page["seed"])
        self.assertNotIn("began", str(page))

    def test_an_attempt_is_erased(self) -> None:
        attempt = self.begin()
        self.assertEqual(self.client.delete(f"/api/attempts/{attempt}").status_code, 204)
        self.assertEqual(self.client.get(f"/api/attempts/{attempt}").status_code, 404)

    def test_an_attempt_has_a_name_of_its_learner_s_own_until_it_is_taken_away(self) -> None:
        attempt = self.begin()
        path = f"/api/attempts/{attempt}"
        named = self.client.patch(path, json={"title": "  before   the concert "}).json()
        self.assertEqual(named["title"], "before the concert")
        self.assertEqual(named["name"], self.client.get(path).json()["summary"]["name"])
        listed = self.client.get("/api/attempts").json()["attempts"]
        self.assertEqual(listed[0]["title"], "before the concert")
        self.assertEqual(self.client.patch(path, json={"title": "x" * 61}).status_code, 422)
        self.assertIsNone(self.client.patch(path, json={"title": ""}).json()["title"])

    def test_attempts_are_filtered_by_instrument_method_and_state(self) -> None:
        self.begin()
        self.client.post("/api/attempts", json={"instrument": "viola", "method": "fifths"})
        for query, count in (
            ("instrument=viola", 1),
            ("method=unison", 1),
            ("instrument=viola&method=unison", 0),
            ("state=open", 2),
            ("state=finished", 0),
        ):
            found = self.client.get(f"/api/attempts?{query}").json()["attempts"]
            self.assertEqual(len(found), count, query)

    def test_another_guest_finds_nothing(self) -> None:
        attempt = self.begin()
        stranger = self.another_guest()
        for call in (stranger.get, stranger.delete):
            reply = call(f"/api/attempts/{attempt}")
            self.assertEqual(reply.status_code, 404)
            self.assertEqual(reply.json()["detail"], "There is no such attempt among yours.")
        stranger.post("/api/attempts", json={})
        self.assertEqual(stranger.get(f"/api/attempts/{attempt}").status_code, 404)
        self.assertEqual(self.client.get(f"/api/attempts/{attempt}").status_code, 200)

    def test_who_looks_as_the_demo_s_pupil_finds_the_own_work_again(self) -> None:
        def who() -> str:
            return str(self.client.get("/api/learner").json()["who"])

        self.assertEqual(who(), "newcomer")
        mine = self.begin()
        self.assertEqual(who(), "guest")
        with self.client.app.state.kept.pools.requests() as session:  # type: ignore[attr-defined]
            if actor_of(session, "demo-pupil", now=NOW).learner is None:
                welcome_guest(session, secret="demo-pupil", now=NOW)
        for _ in range(2):  # also by the door twice
            self.client.get("/enter/demo-pupil", follow_redirects=False)
            self.assertEqual(who(), "demo")
            self.assertEqual(self.client.get(f"/api/attempts/{mine}").status_code, 404)
        refused = self.client.delete("/api/learner")
        self.assertEqual(refused.status_code, 403)
        self.assertIn("everybody’s here", refused.json()["detail"])
        self.client.post("/api/learner/leave")
        self.assertEqual(who(), "guest")
        self.assertEqual(self.client.get(f"/api/attempts/{mine}").status_code, 200)
        self.client.post("/api/learner/leave")  # nothing to leave
        self.assertEqual(who(), "guest")

    def test_attempts_come_a_page_at_a_time_and_none_twice(self) -> None:
        begun = [self.begin() for _ in range(7)]
        found, after = [], ""
        for most in (3, 3, 3):
            page = self.client.get(f"/api/attempts?most={most}{after}").json()
            found += [one["id"] for one in page["attempts"]]
            after = f"&after={page['after']}"
        self.assertEqual(found, begun[::-1])
        self.assertIsNone(page["after"])
        some = self.client.get("/api/attempts?state=open&most=3").json()["attempts"]
        self.assertEqual(len(some), 3)
        self.assertEqual(self.client.get("/api/attempts?state=finished").json()["attempts"], [])

    def test_the_demo_door_opens_with_its_secret_only(self) -> None:
        right = self.client.get("/enter/demo-pupil", follow_redirects=False)
        self.assertEqual((right.status_code, right.headers["location"]), (303, "/"))
        self.assertEqual(self.client.get("/enter/guess").status_code, 404)


class Finished(ServerTest):
    """What an attempt gives once it is finished, and not before."""

    def play(self, attempt: str) -> None:
        with self.client.websocket_connect(f"/api/attempts/{attempt}/bench") as socket:
            socket.send_json({"kind": "hello", "tab": "tab-0001"})
            for number, action in enumerate(
                (
                    {"kind": "play", "strings": [2], "reference": True},
                    {"kind": "turn", "string": 2, "degrees": 2.0},
                    {"kind": "judge", "verdict": "low", "cents": 5},
                    {"kind": "finish"},
                ),
                start=1,
            ):
                socket.send_json(
                    {"kind": "act", "number": number, "at_s": float(number), "action": action}
                )
            while socket.receive_json() != {"kind": "saved", "number": 4}:
                pass

    def test_replay_sound_and_file(self) -> None:
        attempt = self.begin(instrument="viola", method="fifths")
        for part in ("replay", "sound.wav", "attempt.json"):
            reply = self.client.get(f"/api/attempts/{attempt}/{part}")
            self.assertEqual(reply.status_code, 422)
            self.assertIn("Finish the attempt first", reply.json()["detail"])
        self.play(attempt)
        replay = self.client.get(f"/api/attempts/{attempt}/replay").json()
        self.assertEqual(replay["duration_s"], 4.0)
        self.assertEqual(replay["frames"][0]["action"]["kind"], "play")
        sound = self.client.get(f"/api/attempts/{attempt}/sound.wav")
        self.assertEqual(sound.content[:4], b"RIFF")
        self.assertIn("attachment", sound.headers["content-disposition"])
        file = self.client.get(f"/api/attempts/{attempt}/attempt.json")
        headers = {"content-type": "text/plain"}
        brought = self.client.post("/api/attempts/import", content=file.content, headers=headers)
        self.assertEqual(brought.status_code, 201, brought.text)
        first, again = (
            self.client.get(f"/api/attempts/{one}").json()
            for one in (attempt, brought.json()["id"])
        )
        self.assertNotEqual(first["summary"]["id"], again["summary"]["id"])
        # so is what begins by a link, which says how its strings begin
        settings = {"instrument": "viola", "method": "fifths"}
        linked = self.client.post("/api/attempts?seed=5", json=settings).json()["id"]
        self.play(linked)
        told = self.client.get(f"/api/attempts/{linked}").json()["score"]["practice"]
        self.assertIn("so it is practice", told)
        # a file may have been read: what comes from it is practice, with the same points
        self.assertIn("so it is practice", again["score"].pop("practice"))
        self.assertNotIn("so it is practice", first["score"].pop("practice"))
        self.assertEqual(first["score"], again["score"])

    def test_nobody_else_s(self) -> None:
        attempt = self.begin(instrument="viola", method="fifths")
        self.play(attempt)
        stranger = self.another_guest()
        for part in ("replay", "sound.wav", "attempt.json"):
            reply = stranger.get(f"/api/attempts/{attempt}/{part}")
            self.assertEqual(reply.status_code, 404)

    def test_what_is_no_file_is_refused_in_a_sentence(self) -> None:
        headers = {"content-type": "text/plain"}
        for body in (b"", b"{}", b"\xff\xfe", b"[1]"):
            reply = self.client.post("/api/attempts/import", content=body, headers=headers)
            self.assertEqual(reply.status_code, 422, body)
            self.assertTrue(reply.json()["detail"].endswith("."))


class Choosing(ServerTest):
    def test_every_exercise_that_can_be_chosen_opens(self) -> None:
        for exercise in (
            {"instrument": "sitar", "method": "drone"},
            {"instrument": "banjo", "method": "free"},
            {"instrument": "violin", "method": "fifths", "fifth_cents": -1.5, "source": "oboe"},
            {"instrument": "guitar", "method": "tuner", "start": "retune", "tuning": "dadgad",
             "came_from": "standard"},
            {"instrument": "cello", "method": "each", "behaviours": ["creep", "room"]},
            {"instrument": "mandola", "method": "unison", "tuning": "C3 G3 D4 G4"},
        ):  # fmt: skip
            page = self.client.get(f"/api/attempts/{self.begin(**exercise)}").json()
            told = page["summary"]["exercise"]
            self.assertEqual({**told, **exercise}, told)
            self.assertNotIn("seed", told)

    def test_what_can_sound_the_reference(self) -> None:
        query = {"instrument": "viola", "method": "fifths"}
        sources = self.client.get("/api/sources", params=query).json()
        self.assertEqual(sources[0], {"source": "fork", "words": "fork"})
        self.assertIn("oboe", [one["source"] for one in sources])
        drone = self.client.get("/api/sources", params={"instrument": "sitar", "method": "drone"})
        self.assertEqual([one["source"] for one in drone.json()], ["drone"])

    def test_words_of_the_glossary_are_told_and_heard(self) -> None:
        words = self.client.get("/api/names").json()["words"]
        for word in words:
            reply = self.client.get(f"/api/words/{word['id']}").json()
            self.assertEqual(bool(reply["sounds"]), word["see"] is None, word["id"])
        missing = self.client.get("/api/words/nothing")
        self.assertEqual(missing.status_code, 404)
        self.assertIn("Unknown word “nothing”", missing.json()["detail"])

    def test_a_chord_is_heard_as_each_method_leaves_it(self) -> None:
        def third(method: str) -> float:
            path = f"/api/plan/chord?instrument=guitar&method={method}&chord=G"
            sounds = self.client.get(path).json()["sounds"]
            hz = [one["table"]["fundamental_hz"] for one in sounds]
            return float(hz[4] / hz[3])  # B over G

        # equal: 2^(400/1200) = 1.25992; by harmonics 407.8 cents: 1.26562, of which stiff strings
        # take a cent
        self.assertAlmostEqual(third("unison"), 1.25992, delta=2e-4)
        self.assertAlmostEqual(third("harmonics"), 1.26562, delta=1e-3)
        wrong = self.client.get("/api/plan/chord?instrument=guitar&method=unison&chord=Q")
        self.assertEqual(wrong.status_code, 404)
        self.assertIn("Available: C, G, D", wrong.json()["detail"])

    def test_what_is_wrong_is_not_told_before_it_is_found(self) -> None:
        wanted = {"method": "fault", "instrument": "guitar"}
        begun = self.client.post("/api/attempts?seed=7", json=wanted).json()
        page = self.client.get(f"/api/attempts/{begun['id']}").json()
        self.assertEqual(len(page["faults"]), 6)
        self.assertIsNone(page["seed"])
        other = self.client.post("/api/attempts?seed=8", json=wanted).json()
        again = self.client.get(f"/api/attempts/{other['id']}").json()
        for made in (page, again):
            del made["summary"]
        self.assertEqual(page, again)  # whatever is wrong, the page is the same

    def test_notes_go_by_the_name_that_was_asked_for(self) -> None:
        begun = self.client.post("/api/attempts", json={"naming": "solfege"}).json()
        page = self.client.get(f"/api/attempts/{begun['id']}").json()
        self.assertEqual(page["strings"][0]["label"], "low Mi")
        self.assertEqual(page["strings"][0]["note"], "Mi2")
        self.assertIn("La", page["stages"][0]["title"])
        before = self.client.get("/api/before?instrument=viola&naming=letters_h").json()
        self.assertEqual([one["label"] for one in before["strings"]], ["A", "D", "G", "C"])
        wrong = self.client.post("/api/attempts", json={"naming": "numbers"})
        self.assertEqual(wrong.status_code, 422)

    def test_the_rubric_is_told_whole(self) -> None:
        page = self.client.get("/api/rubric").json()
        self.assertEqual(sum(part["points"] for part in page["parts"]), 100.0)
        self.assertEqual(len(page["rules"]), 13)
        self.assertEqual([one["full_cents"] for one in page["tolerances"]], [15.0, 6.0, 3.0, 1.0])


class BadInput(ServerTest):
    def test_refused_with_a_sentence_that_names_the_field(self) -> None:
        for body, words in (
            ({"start": "backwards"}, "“start” "),
            ({"a4_hz": 1e9}, "“a4_hz” "),
            ({"a4_hz": "loud"}, "“a4_hz” "),
            ({"a4_hz": 389.9}, "“a4_hz” "),
            ({"instrument": "zither"}, "unknown instrument “zither”"),
            ({"instrument": "cello"}, "has no frets"),
            ({"instrument": "x" * 1000}, "“instrument” "),
            ({"instrument": 5}, "“instrument” "),
            ({"method": "magic"}, "unknown method “magic”"),
            ({"behaviours": ["lies"]}, "“behaviours.0” "),
            ({"tuning": "q"}, "unknown tuning “q”"),
            ({"tuning": "E9 E9 E9 E9 E9 E9"}, "not made for it"),
            ({"start": "retune"}, "name it in came_from"),
            ({"source": "drone"}, "cannot give this reference"),
            ({"out_string": 9}, "unknown string 9"),
            ({"fifth_cents": 99}, "“fifth_cents” "),
            ({"seed": 1}, "“seed” "),
            ([], "message"),
        ):
            reply = self.client.post("/api/attempts", json=body)
            unknown = words.startswith("unknown")
            self.assertEqual(reply.status_code, 404 if unknown else 422, body)
            self.assertEqual(reply.headers["content-type"], "application/problem+json")
            self.assertRegex(reply.json()["title"], "^[A-Z][a-z’ ]+$")
            self.assertIn(words.lower(), reply.json()["detail"].lower())
        self.assertEqual(self.client.get("/api/attempts").json()["attempts"], [])

    def test_bodies_that_are_no_json(self) -> None:
        for body in (b"", b"{", b"\xff\xfe", b'{"a4_hz": NaN}', b'{"a4_hz": 1e999}'):
            reply = self.client.post(
                "/api/attempts", content=body, headers={"content-type": "application/json"}
            )
            self.assertEqual(reply.status_code, 422, body)

    def test_addresses_that_do_not_exist(self) -> None:
        for path in ("/api/attempts/" + "0" * 32, "/api/attempts/%00", "/api/attempts/ü"):
            reply = self.client.get(path)
            self.assertEqual(reply.status_code, 404)
            self.assertEqual(reply.headers["content-type"], "application/problem+json")
        self.assertEqual(self.client.get("/api/nothing").status_code, 404)
        self.assertEqual(self.client.put("/api/attempts").status_code, 405)

    def test_other_sites_may_not_act(self) -> None:
        for method in ("POST", "DELETE"):
            path = "/api/attempts" if method == "POST" else "/api/learner"
            headers = {"origin": "https://elsewhere.example"}
            reply = self.client.request(method, path, headers=headers)
            self.assertEqual(reply.status_code, 403)
        own = {"origin": "http://testserver"}
        self.assertEqual(self.client.post("/api/attempts", json={}, headers=own).status_code, 201)

    def test_pages_may_load_nothing_from_elsewhere(self) -> None:
        policy = self.client.get("/api/health").headers["content-security-policy"]
        self.assertIn("default-src 'self'", policy)


class Generated(unittest.TestCase):
    def test_the_api_document_is_the_one_the_code_gives(self) -> None:
        self.assertEqual(OPENAPI.read_text(encoding="utf-8"), openapi_text())

    def test_the_browser_types_are_those_of_the_document(self) -> None:
        self.assertEqual(Path(TYPES).read_text(encoding="utf-8"), types_text(OPENAPI))

    def test_the_constants_of_the_sound_are_those_of_the_core(self) -> None:
        self.assertEqual(SOUND.read_text(encoding="utf-8"), sound_text())
        self.assertEqual(SOUND_CASES.read_text(encoding="utf-8"), sound_cases_text())

    def test_every_picture_of_a_passphrase_has_its_drawing(self) -> None:
        self.assertEqual(PICTURES.read_text(encoding="utf-8"), drawings_text())
