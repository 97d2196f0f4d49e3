"""What nobody would send: over the API document, as files, and over a line."""

import json
import tempfile
import unittest
from datetime import timedelta
from pathlib import Path
from typing import Any

import httpx2
import schemathesis
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    response_schema_conformance,
    status_code_conformance,
)
from tools.load import begin
from tools.server import Server

from meldrin.core.bench import Exercise, Finish, Play, TimedAction
from meldrin.reports.attempt_record import attempt_text
from meldrin.server.bench.schemas import FromBrowser
from tests.server.base import NOW, ServerTest

CHECKS = (
    not_a_server_error,
    status_code_conformance,
    content_type_conformance,
    response_schema_conformance,
)
CHOSEN = settings(
    max_examples=10,
    deadline=None,
    derandomize=True,
    database=None,
    suppress_health_check=list(HealthCheck),
)
ANYTHING = st.recursive(
    st.none()
    | st.booleans()
    | st.integers(-(2**70), 2**70)
    | st.floats()
    | st.text(max_size=20)
    | st.sampled_from(["\ud800", "\x00", "hello", "act", "play", "turn", "1e999"]),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=8), inner),
    max_leaves=12,
)


class Document(unittest.TestCase):
    """The real server, asked for everything its document has."""

    slow = True

    def test_no_server_errors_and_no_answers_that_are_not_in_it(self) -> None:
        folder = Path(self.enterContext(tempfile.TemporaryDirectory(prefix="meldrin-test-")))
        server = Server(folder)
        server.start()
        self.addCleanup(server.stop)
        attempt, secret = begin(server.address, "guitar", "unison")
        schema = schemathesis.openapi.from_url(f"{server.address}/openapi.json")
        asked = 0
        for found in schema.get_all_operations():
            operation: Any = found.ok()  # type: ignore[union-attr]

            @CHOSEN
            @given(case=operation.as_strategy())
            def ask(case: Any) -> None:
                nonlocal asked
                asked += 1
                if "attempt_id" in (case.path_parameters or {}) and asked % 2:
                    case.path_parameters["attempt_id"] = attempt
                reply = case.call(cookies={"meldrin_learner": secret})
                case.validate_response(reply, checks=CHECKS)

            with self.subTest(operation.label):
                ask()
        self.assertGreater(asked, 300)
        self.assertTrue(httpx2.get(f"{server.address}/api/health", trust_env=False).json()["ready"])


class Files(ServerTest):
    """Attempts’ files with something else in some place."""

    def setUp(self) -> None:
        super().setUp()
        log = [TimedAction(1.0, Play((5,), True)), TimedAction(2.0, Finish())]
        text = attempt_text(Exercise("guitar", "unison", "month", 3), log, made=NOW)
        self.whole = json.loads(text)
        self.begin()

    def tick(self) -> Any:
        self.now += timedelta(hours=2)  # no limit is met
        return self.now

    def places(self, value: Any, at: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
        inner = (
            value.items()
            if isinstance(value, dict)
            else enumerate(value)
            if isinstance(value, list)
            else ()
        )
        return [at, *(one for key, part in inner for one in self.places(part, (*at, key)))]

    def test_whatever_stands_where_it_is_taken_whole_or_refused_and_the_list_goes_on(self) -> None:
        places = self.places(self.whole)[1:]

        @settings(CHOSEN, max_examples=250)
        @given(place=st.sampled_from(places), instead=ANYTHING)
        def bring(place: tuple[Any, ...], instead: Any) -> None:
            file = json.loads(json.dumps(self.whole))
            part = file
            for key in place[:-1]:
                part = part[key]
            part[place[-1]] = instead
            text = json.dumps(file).encode(errors="surrogatepass")
            reply = self.client.post(
                "/api/attempts/import", content=text, headers={"content-type": "text/plain"}
            )
            self.assertIn(reply.status_code, (201, 404, 422), f"{place} {instead!r}")
            if reply.status_code == 201:
                opened = self.client.get(f"/api/attempts/{reply.json()['id']}")
                self.assertEqual(opened.status_code, 200, f"{place} {instead!r}")

        bring()
        self.assertEqual(self.client.get("/api/attempts").status_code, 200)


class Lines(ServerTest):
    def test_whatever_is_said_it_is_answered_and_the_line_goes_on(self) -> None:
        attempt = self.begin()
        path = f"/api/attempts/{attempt}/bench"
        number = 1
        with self.client.websocket_connect(path) as socket:
            socket.send_json({"kind": "hello", "tab": "fuzzing-tab"})
            socket.receive_json()

            def asks_again() -> None:
                """It is still the line that it was."""
                nonlocal number
                number += 1
                action = {"kind": "mute_all"}
                socket.send_json({"kind": "act", "number": number, "at_s": 1.0, "action": action})
                while True:
                    told = socket.receive_json()
                    if told["kind"] == "now" and told["number"] == number:
                        return
                    self.assertIn(told["kind"], ("refused", "saved", "shown"))
                    self.assertNotIn(told.get("code"), ("unexpected", "store_away"))

            kinds = st.sampled_from(["hello", "act", "listen", "saved", 3, None])
            message = st.fixed_dictionaries(
                {},
                optional={
                    "kind": kinds,
                    "number": ANYTHING,
                    "at_s": ANYTHING,
                    "action": ANYTHING,
                    "tab": ANYTHING,
                },
            )

            @settings(CHOSEN, max_examples=200)
            @given(said=ANYTHING | message)
            def say(said: Any) -> None:
                text = json.dumps(said)
                try:
                    FromBrowser.validate_json(text)
                except ValueError:
                    pass
                else:
                    return  # it makes sense after all
                socket.send_text(text)
                asks_again()

            say()
