import json
import tempfile
import threading
import unittest
from pathlib import Path
from typing import Any
from unittest import mock

import pymysql
from alembic import command
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import Connection, Engine, event, text
from sqlalchemy.exc import OperationalError

from meldrin.core.bench import EXERCISES, Exercise, with_instrument
from meldrin.core.errors import MeldrinError
from meldrin.store.engine import migrate, migration_config, open_engine
from meldrin.store.mariadb import MariaDb
from meldrin.store.tables import Table
from tests.server.base import StoreTest, database


class Killed(BaseException):
    """What a kill does, as far as the database sees it."""


class Migrations(unittest.TestCase):
    statements: list[str]
    killed_at: int | None

    def another(self, name: str) -> Engine:
        """Make an empty database of this name."""
        access = database()
        engine = open_engine(access.url)
        self.addCleanup(engine.dispose)
        with engine.begin() as connection:
            connection.execute(text(f"CREATE DATABASE {name}"))
        other = open_engine(access.url.rsplit("/", 1)[0] + f"/{name}")
        self.addCleanup(other.dispose)
        return other

    def test_empty_to_head_and_back_leaves_no_difference(self) -> None:
        other = self.another("meldrin_moved")
        with other.begin() as connection:
            self.migrate(connection, command.upgrade, "head")
            context = MigrationContext.configure(connection, opts={"compare_type": True})
            self.assertEqual(compare_metadata(context, Table.metadata), [])
            self.migrate(connection, command.downgrade, "base")
            left = connection.execute(text("SHOW TABLES")).scalars().all()
            self.assertEqual(left, ["alembic_version"])
            connection.execute(text("DROP DATABASE meldrin_moved"))

    def test_a_newer_program_s_database_is_refused_and_left_as_it_is(self) -> None:
        newer = self.another("meldrin_newer")
        with newer.begin() as connection:
            connection.execute(text("CREATE TABLE alembic_version (version_num VARCHAR(32))"))
            connection.execute(text("INSERT INTO alembic_version VALUES ('20991231')"))
        with self.assertRaisesRegex(MeldrinError, "A newer version.*20991231.*nothing was changed"):
            migrate(newer)
        with newer.begin() as connection:
            tables = connection.execute(text("SHOW TABLES")).scalars().all()
            self.assertEqual(tables, ["alembic_version"])
            connection.execute(text("DROP DATABASE meldrin_newer"))

    def test_an_attempt_of_the_first_version_keeps_its_exercise_both_ways(self) -> None:
        other = self.another("meldrin_older")
        row = "SELECT instrument, method, start, seed, a4_hz FROM attempts"
        with other.begin() as connection:
            self.migrate(connection, command.upgrade, "20261123")
            connection.execute(
                text("INSERT INTO learners VALUES (1, REPEAT('x', 32), '2026-11-23 10:00:00')")
            )
            connection.execute(
                text(
                    "INSERT INTO attempts (id, public_id, learner_id, engine, instrument, method,"
                    " start, seed, a4_hz, created_at) VALUES (1, 'a', 1, 1, 'guitar', 'unison',"
                    " 'month', 77, 442.5, '2026-11-23 10:00:00')"
                )
            )
            before = connection.execute(text(row)).one()
            self.migrate(connection, command.upgrade, "head")
            stored = connection.execute(text("SELECT exercise FROM attempts")).scalar_one()
            # what came before began with ripples, and asked for no decision
            expected = with_instrument(
                Exercise(
                    "guitar", "unison", "month", 77, 442.5, aid="ripple", decides=False, rules=1
                )
            )
            self.assertEqual(EXERCISES.value(json.loads(stored)), expected)
            self.migrate(connection, command.downgrade, "20261123")
            self.assertEqual(connection.execute(text(row)).one(), before)
            connection.execute(text("DROP DATABASE meldrin_older"))

    def test_who_has_done_what_was_given_is_known_of_earlier_attempts_too(self) -> None:
        other = self.another("meldrin_given")
        with other.begin() as connection:
            self.migrate(connection, command.upgrade, "20261206")
            for statement in (
                "INSERT INTO learners (id, created_at, seen_at) VALUES (7, NOW(), NOW())",
                "INSERT INTO studios (id, public_id, name, created_at) VALUES (1, 's', 'S', NOW())",
                "INSERT INTO assignments (id, public_id, studio_id, name, record, seed, everyone,"
                " created_at) VALUES (1, 'g', 1, 'G', '{}', 1, 1, NOW())",
                *(
                    "INSERT INTO attempts (id, public_id, learner_id, practice, instrument, tuning,"
                    " method, start, state, engine, exercise, created_at) VALUES"
                    f" ({key}, '{key}', 7, 'bench', '', '', '', '', '{state}', 4, '{{}}', NOW())"
                    for key, state in ((1, "finished"), (2, "open"))
                ),
                "INSERT INTO assignment_attempts (attempt_id, assignment_id, part) VALUES"
                " (1, 1, 0), (2, 1, 0)",
            ):
                connection.execute(text(statement))
            self.migrate(connection, command.upgrade, "head")
            told = "SELECT attempt_id, learner_id, finished FROM assignment_attempts ORDER BY 1"
            self.assertEqual(connection.execute(text(told)).all(), [(1, 7, 1), (2, 7, 0)])
            connection.execute(text("DROP DATABASE meldrin_given"))

    def test_killed_at_any_statement_it_goes_on_at_the_next_start(self) -> None:
        told = self.first_version("meldrin_straight")
        migrate(told)
        straight, statements = self.contents(told), self.statements
        self.assertGreater(len(statements), 40)
        other = self.first_version("meldrin_killed")
        kills, revision = 0, self.revision(other)
        allowed = 0  # statements that are done from the start of a revision before it is killed
        while True:
            self.killed_at, self.statements = allowed, []
            try:
                migrate(other)
            except Killed:
                kills += 1
            else:
                break
            now = self.revision(other)
            allowed = allowed + 1 if now == revision else 0
            revision = now
        self.killed_at = None
        self.assertGreaterEqual(kills, len(statements))
        self.assertEqual(self.contents(other), straight)
        with other.begin() as connection:
            connection.execute(text("DROP DATABASE meldrin_killed"))
        with told.begin() as connection:
            connection.execute(text("DROP DATABASE meldrin_straight"))

    def revision(self, engine: Engine) -> str | None:
        """The form that a database says it has."""
        with engine.connect() as connection:
            return MigrationContext.configure(connection).get_current_revision()

    def first_version(self, name: str) -> Engine:
        """A database of the first version with an attempt, whose statements are counted."""
        self.killed_at = None
        engine = self.another(name)
        with engine.begin() as connection:
            self.migrate(connection, command.upgrade, "20261123")
            connection.execute(
                text("INSERT INTO learners VALUES (1, REPEAT('x', 32), '2026-11-23 10:00:00')")
            )
            connection.execute(
                text(
                    "INSERT INTO attempts (id, public_id, learner_id, engine, instrument, method,"
                    " start, seed, a4_hz, created_at, finished_at) VALUES (1, 'a', 1, 1, 'guitar',"
                    " 'unison', 'month', 77, 442.5, '2026-11-23 10:00:00', '2026-11-23 11:00:00')"
                )
            )
        self.statements = []
        event.listen(engine, "before_cursor_execute", self.count)
        return engine

    def count(self, _c: object, _u: object, statement: str, *_: object) -> None:
        if statement.lstrip().upper().startswith(("SHOW", "SELECT", "DESCRIBE")):
            return  # these change nothing
        if self.killed_at is not None and len(self.statements) >= self.killed_at:
            raise Killed
        self.statements.append(statement)

    def contents(self, engine: Engine) -> dict[str, object]:
        """How every table is made, and what is in it, but for moments of the migration itself."""
        with engine.connect() as connection:
            tables = connection.execute(text("SHOW TABLES")).scalars().all()
            made = {
                one: connection.execute(text(f"SHOW CREATE TABLE {one}")).one()[1] for one in tables
            }
            rows = {
                one: [
                    {key: value for key, value in row._mapping.items() if key != "seen_at"}
                    for row in connection.execute(text(f"SELECT * FROM {one}"))
                ]
                for one in tables
            }
        return {"made": made, "rows": rows}

    def migrate(self, connection: Connection, how: object, to: str) -> None:
        config = migration_config()
        config.attributes["connection"] = connection
        assert callable(how)
        how(config, to)


class Connections(StoreTest):
    def test_strict_and_in_utc(self) -> None:
        mode = self.session.scalar(text("SELECT @@sql_mode"))
        self.assertIn("STRICT_ALL_TABLES", str(mode))
        self.assertEqual(self.session.scalar(text("SELECT @@time_zone")), "+00:00")

    def test_the_user_has_its_own_database_and_no_more(self) -> None:
        databases = self.session.scalars(text("SHOW DATABASES")).all()
        self.assertNotIn("mysql", databases)

    def test_on_this_machine_no_certificates_are_read_for_a_connection(self) -> None:
        with self.engine.connect() as connection:
            driver: Any = connection.connection.dbapi_connection
            self.assertFalse(driver.ssl)
            self.assertFalse(hasattr(driver, "ctx"))

    def test_over_a_network_it_is_encrypted_where_the_database_offers_it(self) -> None:
        user = "mariadb+pymysql://user:secret"
        for url, wanted in (
            (f"{user}@127.0.0.1:3306/m", True),
            (f"{user}@127.0.0.1:3306/m?ssl_ca=/etc/ca.pem", False),
            (f"{user}@db.school:3306/m", False),
            (f"{user}@/m?host=127.0.0.1:1&host=127.0.0.1:2", True),
            (f"{user}@/m?host=127.0.0.1:1&host=10.0.0.2:2", False),
        ):
            engine = open_engine(url)
            nobody = mock.Mock(side_effect=pymysql.OperationalError(2003, "nobody is there"))
            with (
                mock.patch("pymysql.connect", nobody),
                self.assertRaises((pymysql.OperationalError, OperationalError)),
            ):
                engine.connect()
            asked = nobody.call_args_list[0].kwargs
            self.assertEqual(asked.get("ssl_disabled", False), wanted, url)

    def test_other_databases_are_refused(self) -> None:
        with self.assertRaisesRegex(MeldrinError, "must be MariaDB"):
            open_engine("sqlite:///:memory:")


class Server(unittest.TestCase):
    def test_a_folder_that_is_no_database_is_left_as_it_is_and_said(self) -> None:
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        (folder / "data").mkdir()
        only = folder / "data" / "ibdata1"
        only.write_bytes(b"twelve weeks")
        with self.assertRaisesRegex(MeldrinError, "is not empty.*Nothing was changed"):
            MariaDb(folder).start()
        self.assertEqual(only.read_bytes(), b"twelve weeks")
        self.assertEqual(sorted(one.name for one in (folder / "data").iterdir()), ["ibdata1"])

    def test_a_first_start_that_was_killed_hinders_no_later_one(self) -> None:
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        for name in ("data", "data.new"):  # made by hand, as a kill may leave them
            (folder / name).mkdir()
        (folder / "data.new" / "half").write_bytes(b"")
        server = MariaDb(folder)
        self.addCleanup(server.stop)
        engine = open_engine(server.start().url)
        self.addCleanup(engine.dispose)
        with engine.connect() as connection:
            self.assertEqual(connection.scalar(text("SELECT 1")), 1)

    def test_it_is_found_running_and_keeps_its_port_and_data(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            first = MariaDb(Path(folder) / "a folder" / "database")
            access = first.start()
            self.addCleanup(first.stop)
            again = MariaDb(Path(folder) / "a folder" / "database")
            self.assertEqual(again.start(), access)
            self.assertEqual(again.pid, first.pid)
            again.stop()
            self.assertEqual(first.start(), access)
            first.stop()


class SettingUp(unittest.TestCase):
    slow = True

    def test_what_another_one_tidies_away_meanwhile_is_not_its_own(self) -> None:
        """A server that starts removes what others left in the folder for temporary files."""
        over = threading.Event()

        def tidy_away() -> None:
            while not over.is_set():
                for left in Path(tempfile.gettempdir()).glob("#sql*"):
                    left.unlink(missing_ok=True)

        tidying = threading.Thread(target=tidy_away)
        tidying.start()
        self.addCleanup(tidying.join)
        self.addCleanup(over.set)
        folder = self.enterContext(tempfile.TemporaryDirectory(prefix="meldrin-test-"))
        server = MariaDb(Path(folder))
        self.addCleanup(server.stop)
        self.assertGreater(server.start().port, 0)
