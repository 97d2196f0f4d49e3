import tempfile
import time
import unittest
from collections.abc import Callable
from datetime import timedelta
from pathlib import Path
from unittest import mock

import psutil
import pymysql
from sqlalchemy import text, update
from sqlalchemy.exc import OperationalError

from meldrin.core.bench import Exercise, Finish, TimedAction, Turn
from meldrin.core.practice import Sat
from meldrin.services.attempts import import_attempt, list_attempts, open_attempt
from meldrin.services.figures import bring_in
from meldrin.services.health import AWAY, sentence_of, trouble_with
from meldrin.services.identity import actor_of, welcome_guest
from meldrin.services.limits import use
from meldrin.services.results import Results
from meldrin.services.upkeep import LEFT_EMPTY, tidy
from meldrin.store.engine import Sessions, migrate, open_engine
from meldrin.store.keeper import Keeper
from meldrin.store.mariadb import MariaDb
from meldrin.store.tables import AttemptRow, LearnerRow, UseRow
from tests.server.base import NOW, ServerTest, StoreTest, database

DAY = timedelta(days=1)
LOG = [TimedAction(1.0, Turn(5, 2.0)), TimedAction(2.0, Finish())]
PAGE = 16_384  # bytes, of InnoDB
GUITAR = Exercise("guitar", "unison", "month", 3)


class Retention(StoreTest):
    def guest(self, secret: str, *, seen: timedelta, plays: bool) -> None:
        then = NOW - seen
        actor = welcome_guest(self.session, secret=secret, now=then)
        if plays:
            import_attempt(self.session, actor, GUITAR, LOG, made=then)
            use(self.session, actor, "imports", now=then)

    def here(self) -> set[str]:
        secrets = ("new", "old", "empty", "gone", "back", "figures")
        return {
            one
            for one in secrets
            if actor_of(self.session, one, now=NOW - 999 * DAY).learner is not None
        }

    def test_guests_who_do_not_come_back_are_erased_with_everything(self) -> None:
        self.guest("new", seen=timedelta(hours=1), plays=False)
        self.guest("old", seen=399 * DAY, plays=True)
        self.guest("empty", seen=LEFT_EMPTY + DAY, plays=False)
        self.guest("gone", seen=401 * DAY, plays=True)
        self.guest("back", seen=500 * DAY, plays=True)
        self.guest("figures", seen=LEFT_EMPTY + DAY, plays=False)
        brought = actor_of(self.session, "figures", now=NOW - 999 * DAY)
        bring_in(self.session, brought, [Sat("higher", "middle", NOW - 9 * DAY, 9, 12, None)])
        actor_of(self.session, "back", now=NOW)  # is here today
        erased = tidy(self.sessions, keep=400 * DAY, now=NOW)
        self.session.expire_all()
        self.assertEqual(self.here(), {"new", "old", "back", "figures"})
        self.assertGreaterEqual(erased, 2)
        uses = self.session.query(UseRow).filter(UseRow.began_at < NOW - 3 * DAY)
        self.assertEqual(uses.count(), 0)

    def test_being_here_is_noted_once_a_day(self) -> None:
        self.guest("new", seen=2 * DAY, plays=False)
        for now in (NOW, NOW + timedelta(hours=5)):
            actor_of(self.session, "new", now=now)
        self.session.expire_all()
        actor = actor_of(self.session, "new", now=NOW)
        self.assertEqual(self.session.get_one(LearnerRow, actor.learner).seen_at, NOW)


class Rescoring(StoreTest):
    def test_on_request_and_where_it_stopped_it_goes_on(self) -> None:
        actor = welcome_guest(self.session, secret="rescored", now=NOW)
        for _ in range(4):
            import_attempt(self.session, actor, GUITAR, LOG, made=NOW)
        mine = AttemptRow.learner_id == actor.learner
        self.session.execute(update(AttemptRow).where(mine).values(engine=2, points=99.0))
        damaged = self.session.query(AttemptRow).filter(mine).first()
        assert damaged is not None
        damaged.exercise = "{}"
        self.session.commit()
        results = Results(self.sessions)
        results.catch_up()  # what a start does
        self.session.expire_all()
        with self.assertLogs("meldrin", "WARNING"):
            found = list_attempts(self.session, actor).attempts
        self.assertEqual([one.points for one in found], [99.0] * 4)
        with self.assertLogs("meldrin", "WARNING"):
            stopped = results.rescore()
            self.assertEqual([next(stopped), next(stopped)], [(1, 4), (2, 4)])
            stopped.close()
            self.assertEqual(list(results.rescore()), [(1, 3), (2, 3), (3, 3)])
        self.session.expire_all()
        with self.assertLogs("meldrin", "WARNING"):
            found = list_attempts(self.session, actor).attempts
        self.assertEqual(sorted(one.points == 99.0 for one in found), [False, False, False, True])
        self.assertEqual([one.earlier for one in found if one.points != 99.0], [False] * 3)


class ScoredOnce(StoreTest):
    def test_what_is_scored_is_not_scored_again(self) -> None:
        actor = welcome_guest(self.session, secret="once", now=NOW)
        begun = import_attempt(self.session, actor, GUITAR, LOG, made=NOW)
        results, record = Results(self.sessions), open_attempt(self.session, actor, begun.id)
        with mock.patch.object(Results, "_computed", wraps=results._computed) as computed:
            results.score(record.key)  # the journal, at the end of an attempt
            self.assertIsNotNone(results.of(record))  # the page, at once
            results.score(record.key)
        self.assertEqual(computed.call_count, 1)


class Health(unittest.TestCase):
    def test_what_errors_mean(self) -> None:
        for number, words in (
            (1021, "disk of the database is full"),
            (1114, "disk of the database is full"),
            (1932, "is missing.*Restore"),
            (1034, "is damaged.*Restore"),
            (1877, "is damaged.*Restore"),
            (1047, "Too few nodes"),
            (1290, "takes no writes"),
            (2013, "does not answer"),
        ):
            error = OperationalError("", None, pymysql.err.OperationalError(number, "table t"))
            self.assertRegex(sentence_of(error, table="t"), words)

    def test_a_disk_that_is_nearly_full_is_told_of_in_time(self) -> None:
        engine = open_engine(database().url)
        self.addCleanup(engine.dispose)
        nearly = mock.Mock(free=50_000_000)
        with mock.patch("shutil.disk_usage", return_value=nearly):
            found = trouble_with(Sessions(engine), process="p", now=NOW, folder="/")
        self.assertEqual(found, "The disk has only 50 MB left. Make room before it is full.")
        full = OperationalError("", None, pymysql.err.OperationalError(1030, "Got error 28 from"))
        self.assertIn("is full", sentence_of(full, table="t"))


class Watched(unittest.TestCase):
    """A database of one's own, to be broken."""

    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory(prefix="meldrin-test-")))
        self.database = MariaDb(self.folder)
        self.keeper = Keeper(self.database)
        self.access = self.keeper.start()
        self.addCleanup(self.keeper.stop)
        self.engine = open_engine(self.access.url)
        self.addCleanup(self.engine.dispose)
        migrate(self.engine)
        self.sessions = Sessions(self.engine)

    def trouble(self) -> str | None:
        return trouble_with(self.sessions, process="p", now=NOW)

    def until_well(self) -> None:
        deadline = time.monotonic() + 60.0
        while self.trouble() is not None:
            self.assertLess(time.monotonic(), deadline, "it did not come back")
            time.sleep(0.1)

    def test_one_that_dies_is_started_again_as_often_as_that(self) -> None:
        for _ in range(2):
            before = self.database.pid
            assert before is not None
            with self.assertLogs("meldrin.database", "WARNING") as logs:
                psutil.Process(before).kill()
                while self.database.pid == before or not self.database.alive:
                    time.sleep(0.05)
                self.until_well()
                while "runs again" not in logs.output[-1]:
                    time.sleep(0.05)
            self.assertIn("ended by itself", logs.output[0])
            self.assertNotEqual(self.database.pid, before)
        self.assertTrue((self.folder / "tmp").is_dir())
        with self.engine.connect() as connection:
            where = connection.scalar(text("SELECT @@tmpdir"))
        self.assertEqual(where, str(self.folder / "tmp"))

    def changed_while_stopped(self, change: Callable[[Path], None]) -> None:
        self.engine.dispose()
        self.keeper.stop()
        change(self.folder / "data" / "meldrin" / "actions.ibd")
        self.keeper = Keeper(self.database)
        self.keeper.start()
        self.addCleanup(self.keeper.stop)

    def test_a_table_that_is_damaged_is_said(self) -> None:
        with self.sessions() as session:
            actor = welcome_guest(session, secret="damaged", now=NOW)
            log = [TimedAction(float(n), Turn(5, 0.2)) for n in range(2000)]
            import_attempt(session, actor, GUITAR, log, made=NOW)

        def damage(file: Path) -> None:
            pages = bytearray(file.read_bytes())
            for at in range(3 * PAGE, len(pages), PAGE):
                pages[at + 100 : at + 300] = bytes(range(200))
            file.write_bytes(pages)

        self.changed_while_stopped(damage)
        self.assertEqual(
            self.trouble(), "The table actions of the database is damaged. Restore a backup."
        )

    def test_a_file_that_is_missing_is_said(self) -> None:
        self.changed_while_stopped(Path.unlink)
        self.assertRegex(
            str(self.trouble()), "A file .* is missing, .*table actions. Restore a backup"
        )

    def test_away_is_said(self) -> None:
        self.keeper.stop()
        self.assertEqual(self.trouble(), AWAY)


class Asked(ServerTest):
    def test_live_says_nothing_of_the_database_and_ready_does(self) -> None:
        self.assertEqual(self.client.get("/api/health/ready").json()["ready"], True)
        with (
            mock.patch("meldrin.server.health.routes.ASKS_EVERY_S", 0.0),
            mock.patch("meldrin.server.health.routes.trouble_with", return_value="It is gone."),
        ):
            reply = self.client.get("/api/health/ready")
            self.assertEqual((reply.status_code, reply.json()["trouble"]), (503, "It is gone."))
            self.assertEqual(self.client.get("/api/health").status_code, 503)
            self.assertEqual(self.client.get("/api/health/live").json()["live"], True)

    def test_however_often_it_is_asked_it_looks_once_a_second(self) -> None:
        with mock.patch("meldrin.server.health.routes.trouble_with", return_value=None) as looked:
            for _ in range(5):
                self.client.get("/api/health")
        self.assertLessEqual(looked.call_count, 2)
