import gzip
import tempfile
import unittest
from pathlib import Path
from typing import Any

from sqlalchemy import Engine, text

from meldrin.core.bench import Exercise, Finish, TimedAction, Turn
from meldrin.core.errors import MeldrinError
from meldrin.services.attempts import import_attempt
from meldrin.services.identity import welcome_guest
from meldrin.services.instruments import bring_instrument
from meldrin.services.results import Results
from meldrin.store.backup import back_up, check, restore
from meldrin.store.engine import Sessions, migrate, open_engine
from meldrin.store.tables import Table
from tests.server.base import NOW, database
from tests.server.test_own_instruments import OWN

LOG = [*(TimedAction(float(n), Turn(5, 0.5)) for n in range(40)), TimedAction(41.0, Finish())]


class Backups(unittest.TestCase):
    """Two databases: one with records, and an empty one to restore into."""

    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.file = self.folder / "records.sql.gz"
        self.url, self.engine = self.another("meldrin_kept")
        migrate(self.engine)
        sessions = Sessions(self.engine, expire_on_commit=False)
        with sessions() as session:
            for name in ("a", "\\N 'quoted\n", "ü"):
                actor = welcome_guest(session, secret=name, now=NOW)
                bring_instrument(session, actor, OWN, now=NOW)
                import_attempt(
                    session, actor, Exercise("guitar", "unison", "month", 3), LOG, made=NOW
                )
        Results(sessions).catch_up()

    def another(self, name: str) -> tuple[str, Engine]:
        own = open_engine(database().url)
        self.addCleanup(own.dispose)
        for one in (name, f"{name}_restored", f"{name}_before"):
            self.addCleanup(self.drop, own, one)
        with own.begin() as connection:
            connection.execute(text(f"CREATE DATABASE {name}"))
        url = database().url.rsplit("/", 1)[0] + f"/{name}"
        engine = open_engine(url)
        self.addCleanup(engine.dispose)
        return url, engine

    def drop(self, engine: Engine, name: str) -> None:
        with engine.begin() as connection:
            connection.execute(text(f"DROP DATABASE IF EXISTS {name}"))

    def rows(self, engine: Engine) -> dict[str, list[Any]]:
        """Every row of every table."""
        with engine.connect() as connection:
            return {
                one.name: [
                    tuple(row)
                    for row in connection.execute(one.select().order_by(*one.primary_key))
                ]
                for one in Table.metadata.sorted_tables
            }

    def test_what_is_restored_is_the_same_to_the_last_row(self) -> None:
        before = self.rows(self.engine)
        self.assertEqual(len(before["actions"]), 3 * len(LOG))
        self.assertEqual(len(before["results"]), 3)
        contents = back_up(self.url, self.file)
        self.assertEqual(contents.rows["actions"], 3 * len(LOG))
        self.assertEqual(check(self.file), contents)
        self.assertEqual(self.file.stat().st_mode & 0o077, 0)
        url, other = self.another("meldrin_other")
        restore(url, self.file)
        self.assertEqual(self.rows(other), before)
        with other.connect() as connection:
            names = connection.execute(text("SHOW DATABASES")).scalars().all()
        self.assertFalse([one for one in names if one.startswith("meldrin_other_")])

    def test_records_are_replaced_only_when_that_is_said(self) -> None:
        back_up(self.url, self.file)
        with self.engine.begin() as connection:
            connection.execute(text("DELETE FROM attempts LIMIT 2"))
            connection.execute(text("UPDATE attempts SET holder = 'a tab'"))
        changed = self.rows(self.engine)
        with self.assertRaisesRegex(MeldrinError, "records of 3 learners here.*--replace"):
            restore(self.url, self.file)
        self.assertEqual(self.rows(self.engine), changed)
        restore(self.url, self.file, replace=True)
        rows = self.rows(self.engine)
        self.assertEqual(len(rows["actions"]), 3 * len(LOG))
        self.assertEqual(len(rows["attempts"]), 3)

    def test_a_file_that_is_not_whole_changes_nothing(self) -> None:
        back_up(self.url, self.file)
        whole = self.file.read_bytes()
        records = gzip.decompress(whole)
        before = self.rows(self.engine)
        for bad, why in (
            (whole[: len(whole) // 2], "no whole backup"),
            (b"", "last line is missing"),
            (b"not a backup", "no whole backup"),
            (gzip.compress(records[: records.rindex(b"-- meldrin")]), "last line is missing"),
            (gzip.compress(records.replace(b"guitar", b"sitar!", 1)), "has been changed"),
        ):
            self.file.write_bytes(bad)
            with self.assertRaisesRegex(MeldrinError, why):
                restore(self.url, self.file, replace=True)
            self.assertEqual(self.rows(self.engine), before)
        with self.assertRaisesRegex(MeldrinError, "There is no file"):
            check(self.folder / "nothing")

    def test_a_newer_program_s_backup_is_refused_before_anything_is_touched(self) -> None:
        with self.engine.begin() as connection:
            connection.execute(text("UPDATE alembic_version SET version_num = '20991231'"))
        back_up(self.url, self.file)
        with self.engine.begin() as connection:
            connection.execute(text("UPDATE alembic_version SET version_num = '20261129'"))
        before = self.rows(self.engine)
        with self.assertRaisesRegex(MeldrinError, "A newer version.*20991231"):
            restore(self.url, self.file, replace=True)
        self.assertEqual(self.rows(self.engine), before)

    def test_no_file_is_written_over_and_none_is_left_half(self) -> None:
        self.file.write_text("mine")
        with self.assertRaisesRegex(MeldrinError, "is there already"):
            back_up(self.url, self.file)
        self.assertEqual(self.file.read_text(), "mine")
        self.drop(self.engine, "meldrin_kept")
        with self.assertRaises(MeldrinError):
            back_up(self.url, self.folder / "other.sql.gz")
        self.assertEqual([one.name for one in self.folder.iterdir()], ["records.sql.gz"])
