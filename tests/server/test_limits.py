import asyncio
import threading
import unittest
from datetime import timedelta
from typing import Any
from unittest import mock

import pymysql
from fastapi.testclient import TestClient
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session
from starlette.responses import PlainTextResponse
from starlette.types import Receive, Scope, Send
from starlette.websockets import WebSocketDisconnect

from meldrin.core.errors import MeldrinError
from meldrin.server.edge import traffic
from meldrin.server.edge.edge import MOST_BYTES, Edge
from meldrin.server.edge.traffic import A_CLASS, Traffic, Turns
from meldrin.services import limits
from meldrin.services.actor import NEWCOMER, Actor
from meldrin.services.identity import new_secret, welcome_guest
from meldrin.services.instruments import bring_instrument, own_instruments
from meldrin.services.limits import (
    LIMITS,
    LINE_LASTS,
    MOST_LINES,
    keep_places,
    leave_place,
    take_place,
    use,
)
from meldrin.store.engine import MOST_TRIES, Sessions, in_transaction, open_engine
from tests.server.base import NOW, ServerTest, StoreTest, database
from tests.server.test_own_instruments import OWN


class Counted(StoreTest):
    def setUp(self) -> None:
        super().setUp()
        self.actor = welcome_guest(self.session, secret=new_secret(), now=NOW)

    def test_so_many_an_hour_and_then_again(self) -> None:
        for _ in range(LIMITS["imports"].most):
            use(self.session, self.actor, "imports", now=NOW)
        with self.assertRaisesRegex(MeldrinError, "a lot of files") as refused:
            use(self.session, self.actor, "imports", now=NOW)
        self.assertEqual(refused.exception.facts["after_s"], 3600)  # NOW is a full hour
        use(self.session, self.actor, "attempts", now=NOW)  # each counts for itself
        other = welcome_guest(self.session, secret=new_secret(), now=NOW)
        use(self.session, other, "imports", now=NOW)
        use(self.session, self.actor, "imports", now=NOW + timedelta(hours=1))
        use(self.session, NEWCOMER, "imports", now=NOW)

    def test_places_for_lines_are_taken_given_back_and_lost_with_their_process(self) -> None:
        places = {
            take_place(self.session, self.actor, process="a", now=NOW) for _ in range(MOST_LINES)
        }
        self.assertEqual(places, set(range(1, MOST_LINES + 1)))
        with self.assertRaisesRegex(MeldrinError, f"{MOST_LINES} attempts open"):
            take_place(self.session, self.actor, process="b", now=NOW)
        leave_place(self.session, self.actor, 7, process="b")  # not its own: nothing happens
        leave_place(self.session, self.actor, 5, process="a")
        self.assertEqual(take_place(self.session, self.actor, process="b", now=NOW), 5)
        later = NOW + LINE_LASTS + timedelta(seconds=1)
        keep_places(self.session, process="b", now=later)  # a has died
        found = {
            take_place(self.session, self.actor, process="c", now=later)
            for _ in range(MOST_LINES - 1)
        }
        self.assertEqual(found, places - {5})


class AtOnce(unittest.TestCase):
    """What several do at the same moment, on the real database."""

    def setUp(self) -> None:
        engine = open_engine(database().url, pool_size=12)
        self.addCleanup(engine.dispose)
        self.sessions = Sessions(engine, expire_on_commit=False)
        with self.sessions() as session:
            self.actor = welcome_guest(session, secret=new_secret(), now=NOW)

    def together(self, many: int, work: Any) -> list[Any]:
        found: list[Any] = [None] * many

        def one(place: int) -> None:
            try:
                found[place] = in_transaction(self.sessions, lambda session: work(session, place))
            except MeldrinError as error:
                found[place] = error

        threads = [threading.Thread(target=one, args=(place,)) for place in range(many)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        return found

    def test_no_two_lines_have_one_place_and_no_more_than_there_are(self) -> None:
        many = MOST_LINES + 4
        found = self.together(
            many, lambda session, _: take_place(session, self.actor, process="p", now=NOW)
        )
        places = [one for one in found if isinstance(one, int)]
        self.assertEqual(sorted(places), list(range(1, MOST_LINES + 1)))

    def test_every_use_counts(self) -> None:
        with mock.patch.dict(LIMITS, {"imports": limits.Limit(8, limits.HOUR, "No more.")}):
            found = self.together(
                12, lambda session, _: use(session, self.actor, "imports", now=NOW)
            )
        self.assertEqual(sum(isinstance(one, MeldrinError) for one in found), 4)

    def test_of_those_who_count_first_and_then_add_none_gets_too_many(self) -> None:
        def bring(session: Session, place: int) -> None:
            text = OWN.replace('id = "', f'id = "n{place}-', 1)
            bring_instrument(session, self.actor, text, now=NOW)

        with mock.patch("meldrin.services.instruments.MOST_OWN", 5):
            self.together(10, bring)
        with self.sessions() as session:
            self.assertEqual(len(own_instruments(session, self.actor)), 5)


class BegunAgain(StoreTest):
    def second(self) -> OperationalError:
        """What a transaction gets that met another one which was first."""
        return OperationalError("", None, pymysql.err.OperationalError(1213, "Deadlock found"))

    def test_who_is_second_begins_again_from_the_start(self) -> None:
        begun: list[int] = []

        def work(_: Session) -> str:
            begun.append(1)
            if len(begun) < 4:
                raise self.second()
            return "done"

        self.assertEqual(in_transaction(self.sessions, work), "done")
        self.assertEqual(len(begun), 4)

    def test_not_for_ever_and_not_for_anything_else(self) -> None:
        begun: list[int] = []

        def never(_: Session) -> None:
            begun.append(1)
            raise self.second()

        with self.assertRaises(OperationalError):
            in_transaction(self.sessions, never)
        self.assertEqual(len(begun), MOST_TRIES)

        def bad(_: Session) -> None:
            begun.append(1)
            raise ValueError

        with self.assertRaises(ValueError):
            in_transaction(self.sessions, bad)
        self.assertEqual(len(begun), MOST_TRIES + 1)


class Requests(ServerTest):
    def test_too_many_is_said_with_429_and_when_to_come_back(self) -> None:
        self.begin()
        with mock.patch.dict(LIMITS, {"attempts": limits.Limit(1, limits.HOUR, "Later.")}):
            reply = self.client.post("/api/attempts", json={})
        self.assertEqual((reply.status_code, reply.json()["detail"]), (429, "Later."))
        self.assertGreater(int(reply.headers["Retry-After"]), 0)

    def test_a_request_that_was_second_is_done_again(self) -> None:
        self.begin()
        real, met = use, list[int]()

        def once(*args: Any, **more: Any) -> None:
            if not met:
                met.append(1)
                raise OperationalError("", None, pymysql.err.OperationalError(1213, "Deadlock"))
            real(*args, **more)

        with mock.patch("meldrin.server.attempts.routes.use", once):
            self.begin()
        self.assertEqual(len(self.client.get("/api/attempts").json()["attempts"]), 2)

    def test_more_lines_than_a_learner_may_have_are_sent_away_with_a_sentence(self) -> None:
        attempt = self.begin()
        path = f"/api/attempts/{attempt}/bench"
        for _ in range(MOST_LINES):
            socket = self.enterContext(self.client.websocket_connect(path))
            socket.send_json({"kind": "hello", "tab": "tab-0001"})
            self.assertEqual(socket.receive_json()["kind"], "welcome")
        with self.client.websocket_connect(path) as socket:
            refused = socket.receive_json()
            self.assertEqual((refused["code"], refused["number"]), ("too_many", None))
            with self.assertRaises(WebSocketDisconnect):
                socket.receive_json()

    def test_a_line_that_has_ended_gives_its_place_back(self) -> None:
        attempt = self.begin()
        for _ in range(MOST_LINES + 3):
            with self.client.websocket_connect(f"/api/attempts/{attempt}/bench") as socket:
                socket.send_json({"kind": "hello", "tab": "tab-0001"})
                self.assertEqual(socket.receive_json()["kind"], "welcome")
        self.assertEqual(self.client.app.state.kept.traffic.lines, 0)  # type: ignore[attr-defined]

    def test_with_too_much_to_do_what_is_new_is_sent_away_and_what_has_begun_goes_on(self) -> None:
        attempt = self.begin()
        with self.client.websocket_connect(f"/api/attempts/{attempt}/bench") as socket:
            socket.send_json({"kind": "hello", "tab": "tab-0001"})
            socket.receive_json()
            late = mock.PropertyMock(return_value=True)
            with mock.patch.object(Traffic, "busy", late):
                reply = self.client.get("/api/attempts")
                self.assertEqual(reply.status_code, 503)
                self.assertEqual(reply.json()["detail"], traffic.BUSY)
                self.assertEqual(self.client.get("/api/health").status_code, 200)
                with self.client.websocket_connect(f"/api/attempts/{attempt}/bench") as other:
                    self.assertEqual(other.receive_json()["code"], "busy")
                action = {"kind": "turn", "string": 5, "degrees": 2.0}
                socket.send_json({"kind": "act", "number": 1, "at_s": 1.0, "action": action})
                self.assertEqual(socket.receive_json()["kind"], "now")


class FromOneAddress(unittest.TestCase):
    def test_a_school_of_three_hundred_behind_one_address_is_let_in(self) -> None:
        found = Traffic()
        for _ in range(300):
            for _ in range(20):  # what opening the page asks for
                found.request_from("school")
            found.guest_from("school")
            found.line_from("school")
        self.assertEqual(found.lines, 300)

    def test_a_flood_is_not_and_others_do_not_notice(self) -> None:
        found = Traffic()
        with self.assertRaisesRegex(MeldrinError, "from your network"):
            for _ in range(traffic.FROM_ONE_ADDRESS.amount + 1):
                found.request_from("flood")
        with self.assertRaisesRegex(MeldrinError, "from your network"):
            for _ in range(traffic.NEW_FROM_ONE_ADDRESS.amount + 1):
                found.guest_from("flood")
        found.request_from("another")
        found.guest_from("another")

    def test_lines_are_counted_down_again(self) -> None:
        found = Traffic()
        with mock.patch.object(traffic, "LINES_FROM_ONE_ADDRESS", 3):
            for _ in range(3):
                found.line_from("a")
            with self.assertRaises(MeldrinError):
                found.line_from("a")
            found.line_ends("a")
            found.line_from("a")
        for _ in range(3):
            found.line_ends("a")
        self.assertEqual((found.lines, found.by_address), (0, {}))


class TooMuch(unittest.TestCase):
    def test_on_a_slow_machine_a_class_is_let_in_and_a_crowd_is_sent_away(self) -> None:
        slow = Traffic(late_s=5.0, requests=1)
        for _ in range(30):
            slow.line_from("school")
        with self.assertRaisesRegex(MeldrinError, "Too many are here just now"):
            slow.line_from("school")
        slow.line_ends("school")
        slow.line_from("school")

    def test_on_a_quick_one_both_are(self) -> None:
        quick = Traffic(late_s=0.01, requests=100)
        quick.line_from("school")
        self.assertFalse(quick.busy)

    def test_what_is_asked_counts_until_it_is_answered_or_refused(self) -> None:
        found, during = Traffic(), []

        async def answers(scope: Scope, receive: Receive, send: Send) -> None:
            during.append(found.requests)
            if scope["path"] == "/fails":
                raise ValueError
            await PlainTextResponse("done")(scope, receive, send)

        client = TestClient(Edge(answers, traffic=found))
        for path, status in (("/api/works", 200), ("/fails", 500)):
            self.assertEqual(client.get(path).status_code, status)
        too_large = client.post("/api/works", content=b"x" * (MOST_BYTES + 1))
        self.assertEqual(too_large.status_code, 413)
        self.assertEqual((during, found.requests), ([1, 1], 0))

    def test_a_loop_that_is_held_up_is_busy_and_then_not_any_more(self) -> None:
        found = Traffic(lines=A_CLASS + 1)

        async def held_up() -> list[bool]:
            watching = asyncio.create_task(found.watch())
            await asyncio.sleep(0.01)
            threading.Event().wait(0.8)  # holds the loop, as one long computation would
            await asyncio.sleep(0.15)
            once = found.busy
            for _ in range(8):  # too much all the time
                threading.Event().wait(0.5)
                await asyncio.sleep(0)
            during = found.busy
            for _ in range(100):
                await asyncio.sleep(0.1)
                if not found.busy:
                    break
            watching.cancel()
            return [once, during, found.busy]

        self.assertEqual(asyncio.run(held_up()), [False, True, False])


class InTurn(unittest.TestCase):
    def test_a_few_at_once_and_each_learner_one(self) -> None:
        running: list[int] = []
        most: list[int] = []

        async def all_of_them() -> None:
            turns = Turns(at_once=2)

            async def one(learner: int) -> None:
                async with turns.turn(Actor(learner)):
                    running.append(learner)
                    self.assertEqual(len(running), len(set(running)))  # none twice
                    most.append(len(running))
                    await asyncio.sleep(0.01)
                    running.remove(learner)

            await asyncio.gather(*(one(learner) for learner in (1, 1, 1, 2, 2, 3)))

        asyncio.run(all_of_them())
        self.assertEqual(max(most), 2)

    def test_who_asks_for_many_is_refused_and_another_is_served(self) -> None:
        async def greedy() -> list[BaseException | None]:
            turns = Turns(at_once=2, most=8)
            open_ = asyncio.Event()

            async def one(learner: int) -> None:
                async with turns.turn(Actor(learner)):
                    await open_.wait()

            mine = [asyncio.create_task(one(1)) for _ in range(5)]
            await asyncio.sleep(0.01)
            other = asyncio.create_task(one(2))
            await asyncio.sleep(0.01)
            open_.set()
            return list(await asyncio.gather(*mine, other, return_exceptions=True))

        *mine, other = asyncio.run(greedy())
        self.assertEqual([one is None for one in mine], [True, True, False, False, False])
        self.assertIsNone(other)

    def test_waiting_ends_with_a_sentence(self) -> None:
        async def wait() -> None:
            turns = Turns(at_once=1, within_s=0.05)
            async with turns.turn(Actor(1)):
                with self.assertRaisesRegex(MeldrinError, "Too many are here"):
                    async with turns.turn(Actor(2)):
                        self.fail("there was no turn")
            async with turns.turn(Actor(2)):
                pass

        asyncio.run(wait())
