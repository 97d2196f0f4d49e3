"""One MariaDB for the whole run, real and empty, and what most tests of the server need."""

import atexit
import tempfile
import unittest
from datetime import UTC, datetime, timedelta
from functools import cache
from pathlib import Path
from typing import Any
from unittest import mock

from fastapi.testclient import TestClient
from sqlalchemy import Engine

from meldrin.server.app import create_app
from meldrin.settings import Settings
from meldrin.store.engine import Sessions, migrate, open_engine
from meldrin.store.mariadb import Access, MariaDb

NOW = datetime(2026, 11, 21, 10, 0, tzinfo=UTC)


@cache
def database() -> Access:
    """Start MariaDB on a folder of its own; it ends with the run."""
    folder = tempfile.TemporaryDirectory(prefix="meldrin-test-")
    server = MariaDb(Path(folder.name))

    @atexit.register
    def end() -> None:
        server.stop()
        folder.cleanup()

    access = server.start()
    engine = open_engine(access.url)
    migrate(engine)
    engine.dispose()
    return access


class StoreTest(unittest.TestCase):
    """Each test in an outer transaction that is rolled back; commits inside are savepoints."""

    engine: Engine

    @classmethod
    def setUpClass(cls) -> None:
        cls.engine = open_engine(database().url)
        cls.addClassCleanup(cls.engine.dispose)

    def setUp(self) -> None:
        connection = self.engine.connect()
        self.addCleanup(connection.close)
        outer = connection.begin()
        self.addCleanup(outer.rollback)
        self.sessions = Sessions(
            connection, join_transaction_mode="create_savepoint", expire_on_commit=False
        )
        self.session = self.sessions()
        self.addCleanup(self.session.close)


class ServerTest(unittest.TestCase):
    """The application on the real database; each test is a guest of its own."""

    def setUp(self) -> None:
        self.now = NOW
        # on a slow machine the loop may be late; who is sent away then is tested on its own
        self.enterContext(mock.patch("meldrin.server.edge.traffic.LATE_S", 600.0))
        app = create_app(
            Settings(database_url=database().url, demo_secret="demo-pupil"),
            pages=None,
            now=self.tick,
        )
        self.client = self.enterContext(TestClient(app))

    def tick(self) -> datetime:
        self.now += timedelta(seconds=1)
        return self.now

    def begin(self, **wanted: Any) -> str:
        reply = self.client.post("/api/attempts", json=wanted)
        self.assertEqual(reply.status_code, 201, reply.text)
        return str(reply.json()["id"])

    def another_guest(self) -> TestClient:
        """Somebody else at the same server."""
        self.client.get("/api/health")
        other = TestClient(self.client.app)
        other.portal = self.client.portal  # in the same loop, as in one process
        self.addCleanup(other.close)
        return other
