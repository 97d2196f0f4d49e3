import asyncio
import math
import tempfile
import threading
import unittest
from collections.abc import Sequence
from pathlib import Path
from typing import Any
from unittest import mock

from sqlalchemy.exc import InternalError

from meldrin.core.bench import Exercise, TimedAction, Turn
from meldrin.server.realtime.journal import Journal
from meldrin.services.attempts import (
    Numbered,
    append_actions,
    open_attempt,
    start_attempt,
    take_over,
)
from meldrin.services.identity import welcome_guest
from meldrin.services.results import Results
from meldrin.store.engine import Sessions, migrate, open_engine
from meldrin.store.mariadb import MariaDb
from tests.server.base import NOW, database


class Seat:
    """What the journal sees of a socket; it writes down what it is told."""

    practice = "bench"

    def __init__(self, key: int, holder: str) -> None:
        self.key, self.holder = key, holder
        self.told: list[str | int] = []

    def saved(self, number: int) -> None:
        self.told.append(number)

    def moved(self) -> None:
        self.told.append("moved")

    def unsaved(self) -> None:
        self.told.append("unsaved")

    def set_aside(self, numbers: Sequence[int]) -> None:
        self.told.append(f"aside {list(numbers)}")


def turn(number: int) -> Numbered:
    return Numbered(number, TimedAction(float(number), Turn(5, 1.0)))


async def until(done: object, seat: Seat) -> None:
    for _ in range(200):
        if done in seat.told:
            return
        await asyncio.sleep(0.05)
    raise AssertionError(f"{done} was never told; {seat.told}")


class JournalTest(unittest.TestCase):
    def open(self, url: str) -> None:
        engine = open_engine(url)
        self.addCleanup(engine.dispose)
        migrate(engine)
        self.sessions = Sessions(engine, expire_on_commit=False)
        with self.sessions() as session:
            self.learner = welcome_guest(session, secret=self.id(), now=NOW)

    def seat(self, holder: str) -> tuple[str, Seat]:
        with self.sessions() as session:
            exercise = Exercise("guitar", "unison", "hair", 3)
            begun = start_attempt(session, self.learner, exercise, now=NOW)
            record = take_over(session, self.learner, begun.id, holder=holder)
        return begun.id, Seat(record.key, holder)

    def kept(self, public_id: str) -> list[int]:
        with self.sessions() as session:
            record = open_attempt(session, self.learner, public_id)
        return [action.number for action in record.log]


class Together(JournalTest):
    def setUp(self) -> None:
        self.open(database().url)

    def test_saved_is_said_when_it_is_on_disk_and_each_hears_of_its_own(self) -> None:
        first_id, first = self.seat("a")
        second_id, second = self.seat("b")

        async def play() -> None:
            journal = Journal(self.sessions, lambda: NOW, Results(self.sessions))
            running = asyncio.create_task(journal.run())
            for number in (1, 2, 5):
                journal.put(first, turn(number))
            journal.put(second, turn(7))
            await until(5, first)
            self.assertEqual(self.kept(first_id), [1, 2, 5])
            await until(7, second)
            running.cancel()

        asyncio.run(play())
        self.assertEqual(self.kept(second_id), [7])
        self.assertEqual(second.told, [7])

    def test_what_is_left_is_written_when_it_closes(self) -> None:
        public_id, seat = self.seat("a")

        async def play() -> None:
            journal = Journal(self.sessions, lambda: NOW, Results(self.sessions))
            journal.put(seat, turn(1))
            await journal.close()

        asyncio.run(play())
        self.assertEqual(self.kept(public_id), [1])

    def test_a_replaced_tab_is_told_and_the_others_are_written(self) -> None:
        lost_id, lost = self.seat("a")
        other_id, other = self.seat("b")
        with self.sessions() as session:
            take_over(session, self.learner, lost_id, holder="newer")

        async def play() -> None:
            journal = Journal(self.sessions, lambda: NOW, Results(self.sessions))
            journal.put(lost, turn(1))
            journal.put(other, turn(1))
            await journal.close()

        asyncio.run(play())
        self.assertEqual((lost.told, other.told), (["moved"], [1]))
        self.assertEqual((self.kept(lost_id), self.kept(other_id)), ([], [1]))

    def test_what_cannot_be_written_is_set_aside_and_stops_nobody(self) -> None:
        seats = [self.seat(f"tab {number}") for number in range(5)]
        no_action: Any = object()

        async def play() -> None:
            journal = Journal(self.sessions, lambda: NOW, Results(self.sessions))
            for number in (1, 2, 3):
                for _, seat in seats:
                    journal.put(seat, turn(number))
            journal.put(seats[3][1], Numbered(4, TimedAction(4.0, no_action)))
            journal.put(seats[3][1], turn(5))
            journal.put(seats[1][1], Numbered(4, TimedAction(math.nan, Turn(5, 1.0))))
            await journal.close()

        with self.assertLogs("meldrin.journal", "ERROR") as logs:
            asyncio.run(play())
        self.assertEqual(len(logs.records), 2)
        self.assertIn("action 4 of attempt", logs.output[0])
        for place, (public_id, seat) in enumerate(seats):
            kept = [1, 2, 3, 5] if place == 3 else [1, 2, 3]
            self.assertEqual(self.kept(public_id), kept)
            aside = ["aside [4]"] if place in (1, 3) else []
            self.assertEqual(seat.told, [kept[-1], *aside])

    def test_a_tab_that_said_hello_during_a_write_is_not_told_saved_of_what_was_not(self) -> None:
        public_id, seat = self.seat("a")
        writing, go_on = threading.Event(), threading.Event()

        def held_up(*what: Any, **how: Any) -> set[tuple[int, str]]:
            writing.set()
            self.assertTrue(go_on.wait(20))
            return append_actions(*what, **how)

        async def play() -> None:
            journal = Journal(self.sessions, lambda: NOW, Results(self.sessions))
            journal.put(seat, turn(1))
            closing = asyncio.create_task(journal.close())
            await asyncio.to_thread(writing.wait, 20)
            with self.sessions() as session:
                take_over(session, self.learner, public_id, holder="b")
            journal.forget(seat)
            seat.holder = "b"
            journal.put(seat, turn(2))
            go_on.set()
            await closing

        with mock.patch("meldrin.server.realtime.journal.append_actions", held_up):
            asyncio.run(play())
        self.assertEqual((seat.told, self.kept(public_id)), ([2], [2]))

    def test_a_connection_lost_in_the_middle_of_a_write_sets_nothing_aside(self) -> None:
        public_id, seat = self.seat("a")
        lost = InternalError("INSERT", {}, Exception("wrong packet"), connection_invalidated=True)
        answers = iter([lost])

        def lost_once(*what: Any, **how: Any) -> set[tuple[int, str]]:
            for error in answers:
                raise error
            return append_actions(*what, **how)

        async def play() -> None:
            journal = Journal(self.sessions, lambda: NOW, Results(self.sessions))
            journal.put(seat, turn(1))
            await journal.close()

        with (
            mock.patch("meldrin.server.realtime.journal.append_actions", lost_once),
            self.assertLogs("meldrin.journal", "WARNING"),
        ):
            asyncio.run(play())
        self.assertEqual((seat.told, self.kept(public_id)), (["unsaved", 1], [1]))


class DatabaseAway(JournalTest):
    def test_actions_wait_until_it_is_back_and_keep_their_order(self) -> None:
        folder = self.enterContext(tempfile.TemporaryDirectory())
        server = MariaDb(Path(folder))
        self.addCleanup(server.stop)
        self.open(server.start().url)
        public_id, seat = self.seat("a")

        async def play() -> None:
            journal = Journal(self.sessions, lambda: NOW, Results(self.sessions))
            running = asyncio.create_task(journal.run())
            journal.put(seat, turn(1))
            await until(1, seat)
            server.stop()
            journal.put(seat, turn(2))
            await until("unsaved", seat)
            journal.put(seat, turn(3))
            await asyncio.to_thread(server.start)
            await until(3, seat)
            running.cancel()

        with self.assertLogs("meldrin.journal", "WARNING"):
            asyncio.run(play())
        self.assertEqual(self.kept(public_id), [1, 2, 3])
