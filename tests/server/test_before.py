"""Attempts that earlier versions stored open, play back and score as they did then.

`before/<date>.sql.gz` is the database of that version, with an attempt for every start and kind of
action; `before/<date>.json` is what that version itself said of each.
"""

import gzip
import json
import unittest
from functools import cache
from pathlib import Path
from typing import Any

from fastapi.testclient import TestClient
from sqlalchemy import text

from meldrin.server.app import create_app
from meldrin.settings import Settings
from meldrin.store.engine import migrate, open_engine
from tests.server.base import database

KEPT = Path(__file__).parent / "before"
SECRET = "of-the-version-before"


@cache
def restored(date: str, *, scored: bool = True) -> str:
    """Load the database of an earlier version, bring it to this one, and return its URL.

    Without what it kept of the scores if not `scored`, so that they have to be computed again.
    """
    url = database().url
    name = f"meldrin_{date}_{scored}".lower()
    engine = open_engine(url)
    with engine.begin() as connection:
        connection.execute(text(f"CREATE DATABASE {name}"))
    engine.dispose()
    url = f"{url.rsplit('/', 1)[0]}/{name}"
    engine = open_engine(url)
    with engine.begin() as connection:
        for statement in (
            gzip.decompress((KEPT / f"{date}.sql.gz").read_bytes()).decode().split(";\n")
        ):
            if statement.strip():
                connection.exec_driver_sql(statement.replace("%", "%%"))
        if not scored:
            connection.execute(text("DELETE FROM results"))
    migrate(engine)
    engine.dispose()
    return url


class Before(unittest.TestCase):
    def setUp(self) -> None:
        self.client = self.application()
        self.said = json.loads((KEPT / "20261127.json").read_text())

    def application(self, *, scored: bool = True) -> TestClient:
        url = restored("20261127", scored=scored)
        client = self.enterContext(TestClient(create_app(Settings(database_url=url), pages=None)))
        client.cookies.set("meldrin_learner", SECRET)
        return client

    def get(self, path: str) -> Any:
        reply = self.client.get(f"/api/attempts{path}")
        self.assertEqual(reply.status_code, 200, reply.text)
        return reply.json()

    def test_they_are_listed_with_their_points(self) -> None:
        listed = {one["id"]: one for one in self.get("")["attempts"]}
        self.assertEqual(set(listed), {one["id"] for one in self.said})
        for one in self.said:
            shown = listed[one["id"]]
            self.assertEqual(shown["points"], one["points"], one["id"])
            self.assertEqual(shown["finished_at"] is not None, one["finished"])
            self.assertEqual(shown["earlier"], one["earlier"])

    def test_they_open_with_the_score_they_had(self) -> None:
        for one in self.said:
            outcome = self.get(f"/{one['id']}")["score"]
            if one["score"] is None:
                self.assertIsNone(outcome, one["id"])
                continue
            score = one["score"]
            self.assertEqual(outcome["points"], score["points"])
            lines = [
                [line[key] for key in ("part", "rule", "points", "out_of", "sentence")]
                for line in outcome["lines"]
            ]
            self.assertEqual(lines, score["lines"])
            self.assertEqual([s["pitch_cents"] for s in outcome["strings"]], score["pitch_cents"])
            self.assertEqual(outcome["advice"]["sentence"], score["advice"])

    def test_they_score_as_they_did(self) -> None:
        self.client = self.application(scored=False)
        for one in self.said:
            outcome = self.get(f"/{one['id']}")["score"]
            if one["score"] is None:
                self.assertIsNone(outcome, one["id"])
                continue
            score = one["score"]
            lines = [[line["part"], line["rule"]] for line in outcome["lines"]]
            self.assertEqual(lines, [line[:2] for line in score["lines"]])
            for line, told in zip(outcome["lines"], score["lines"], strict=True):
                self.assertAlmostEqual(line["points"], told[2], delta=1e-6)
            for string, cents in zip(outcome["strings"], score["pitch_cents"], strict=True):
                if cents is None:
                    self.assertIsNone(string["pitch_cents"])
                else:
                    self.assertAlmostEqual(string["pitch_cents"], cents, delta=1e-6)

    def test_they_play_back_moment_by_moment(self) -> None:
        for one in self.said:
            if not one["finished"]:
                continue
            frames, begin = [], 0
            while begin is not None:
                page = self.get(f"/{one['id']}/replay?begin={begin}")
                frames += page["frames"]
                begin = page["next"]
            self.assertEqual(len(frames), one["frames"])
            for frame, told in zip(frames[::10], one["every_tenth"], strict=True):
                at_s, stage, cents, beats_hz, sounds = told
                self.assertEqual((frame["at_s"], frame["stage"]), (at_s, stage))
                self.assertEqual(len(frame["sounds"]), sounds)
                pair = frame["pair"]
                self.assertEqual(pair is None, beats_hz is None)
                for now, then in ((frame["cents"], cents), (pair and pair["beats_hz"], beats_hz)):
                    if then is not None:
                        # to the last digits of another machine's arithmetic
                        self.assertAlmostEqual(now, then, delta=1e-6)
                    else:
                        self.assertIsNone(now)
