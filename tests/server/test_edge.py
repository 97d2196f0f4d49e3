import asyncio
import unittest
from collections.abc import Iterator
from unittest import mock

from fastapi.testclient import TestClient

from meldrin.server.app import create_app
from meldrin.server.edge import edge
from meldrin.settings import Settings
from tests.server.base import ServerTest, database


class Bodies(ServerTest):
    def test_what_says_that_it_is_too_large_is_not_read(self) -> None:
        def never() -> Iterator[bytes]:
            self.fail("it was read")
            yield b""

        for path, most in (("/api/attempts/import", "8 MB"), ("/api/attempts", "64 kB")):
            reply = self.client.post(
                path, content=never(), headers={"content-length": str(200_000_000)}
            )
            self.assertEqual((reply.status_code, reply.json()["title"]), (413, "Too large"))
            self.assertIn(most, reply.json()["detail"])
            self.assertEqual(reply.headers["connection"], "close")

    def test_what_does_not_say_how_large_it_is_is_refused_all_the_same(self) -> None:
        flood = (b"x" * 1_000_000 for _ in range(12))
        reply = self.client.post(
            "/api/attempts/import", content=flood, headers={"content-type": "text/plain"}
        )
        self.assertEqual((reply.status_code, reply.json()["title"]), (413, "Too large"))
        self.assertEqual(self.client.get("/api/health").status_code, 200)

    def test_a_body_is_counted_as_it_comes(self) -> None:
        come = [{"type": "http.request", "body": b"x" * 60, "more_body": True}] * 9
        asked = 0

        async def receive() -> dict[str, object]:
            nonlocal asked
            asked += 1
            return come[asked]

        async def read() -> None:
            counted = edge._counted(receive, 200)
            for _ in range(9):
                await counted()

        with self.assertRaisesRegex(Exception, "too large"):
            asyncio.run(read())
        self.assertEqual(asked, 4)


class Answers(ServerTest):
    def test_every_answer_has_its_headers_and_a_number_of_its_own(self) -> None:
        numbers = set()
        for path in ("/api/health", "/api/attempts", "/api/nothing", "/api/metrics", "/nowhere"):
            reply = self.client.get(path)
            for name in edge.HEADERS:
                self.assertIn(name, reply.headers, path)
            numbers.add(reply.headers["x-request-id"])
        self.assertEqual(len(numbers), 5)

    def test_one_that_takes_too_long_is_given_up_with_a_sentence(self) -> None:
        async def long(*_: object) -> None:
            await asyncio.sleep(30)

        with (
            mock.patch.object(edge, "WITHIN_S", 0.05),
            mock.patch("meldrin.server.attempts.routes.run_in_threadpool", long),
        ):
            reply = self.client.get("/api/attempts/anything")
        self.assertEqual((reply.status_code, reply.json()["title"]), (503, "It took too long"))

    def test_figures_are_for_this_machine_alone(self) -> None:
        self.client.get("/api/attempts")
        here = TestClient(self.client.app, client=("127.0.0.1", 50_000))
        self.addCleanup(here.close)
        told = here.get("/api/metrics")
        self.assertIn('meldrin_requests_total{method="GET",route="/api/attempts"', told.text)
        for address in ("192.0.2.7", "nowhere"):
            there = TestClient(self.client.app, client=(address, 50_000))
            self.addCleanup(there.close)
            self.assertEqual(there.get("/api/metrics").status_code, 404)


class Hosts(unittest.TestCase):
    def test_only_names_it_is_known_by(self) -> None:
        settings = Settings(database_url=database().url, hosts="school.example,127.0.0.1")
        client = self.enterContext(TestClient(create_app(settings, pages=None)))
        for host, status in (
            ("school.example", 200),
            ("school.example:8430", 200),
            ("127.0.0.1:8430", 200),
            ("elsewhere.example", 400),
        ):
            reply = client.get("/api/health/live", headers={"host": host})
            self.assertEqual(reply.status_code, status, host)
            self.assertIn("x-request-id", reply.headers)
