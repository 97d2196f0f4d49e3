import unittest
from pathlib import Path

from meldrin.generate import OPENAPI, TYPES, openapi_text, types_text
from tests.server.base import ServerTest


class Newcomers(ServerTest):
    def test_looking_makes_no_guest_and_starting_does(self) -> None:
        self.assertEqual(self.client.get("/api/attempts").json(), [])
        self.assertNotIn("set-cookie", self.client.get("/api/attempts").headers)
        reply = self.client.post("/api/attempts", json={})
        cookie = reply.headers["set-cookie"]
        self.assertIn("HttpOnly", cookie)
        self.assertIn("SameSite=lax", cookie)
        self.assertEqual(len(self.client.get("/api/attempts").json()), 1)

    def test_everything_can_be_erased(self) -> None:
        self.begin()
        self.assertEqual(self.client.delete("/api/learner").status_code, 204)
        self.assertEqual(self.client.get("/api/attempts").json(), [])


class Pages(ServerTest):
    def test_an_open_attempt_tells_the_plan_and_not_the_score(self) -> None:
        page = self.client.get(f"/api/attempts/{self.begin()}").json()
        self.assertIsNone(page["outcome"])
        self.assertEqual([one["number"] for one in page["strings"]], [6, 5, 4, 3, 2, 1])
        self.assertEqual([one["kind"] for one in page["stages"]], ["step"] * 6 + ["check"])
        self.assertNotIn("seed", str(page))
        self.assertNotIn("began", str(page))

    def test_an_attempt_is_erased(self) -> None:
        attempt = self.begin()
        self.assertEqual(self.client.delete(f"/api/attempts/{attempt}").status_code, 204)
        self.assertEqual(self.client.get(f"/api/attempts/{attempt}").status_code, 404)

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

    def test_the_demo_door_opens_with_its_secret_only(self) -> None:
        right = self.client.get("/enter/demo-pupil", follow_redirects=False)
        self.assertEqual((right.status_code, right.headers["location"]), (303, "/review"))
        self.assertEqual(self.client.get("/enter/guess").status_code, 404)


class BadInput(ServerTest):
    def test_refused_with_a_sentence_that_names_the_field(self) -> None:
        for body, words in (
            ({"start": "backwards"}, "start: "),
            ({"a4_hz": 1e9}, "a4_hz: "),
            ({"a4_hz": "loud"}, "a4_hz: "),
            ({"a4_hz": 389.9}, "a4_hz: "),
            ({"instrument": "zither"}, "no instrument “zither”"),
            ({"instrument": "cello"}, "has no frets"),
            ({"instrument": "x" * 1000}, "instrument: "),
            ({"instrument": 5}, "instrument: "),
            ({"method": "magic"}, "method: "),
            ({"seed": 1}, "seed: "),
            ([], "message"),
        ):
            reply = self.client.post("/api/attempts", json=body)
            self.assertEqual(reply.status_code, 422, body)
            self.assertEqual(reply.headers["content-type"], "application/problem+json")
            self.assertIn(words.lower(), reply.json()["detail"].lower())
        self.assertEqual(self.client.get("/api/attempts").json(), [])

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
