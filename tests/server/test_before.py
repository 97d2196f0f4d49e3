"""Attempts that earlier versions stored open and play back as they did then, and keep their score.

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
from meldrin.services.results import Results
from meldrin.settings import Settings
from meldrin.store.engine import Sessions, migrate, open_engine
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
            self.assertEqual(shown["earlier"], one["finished"])

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

    def test_scored_again_the_strings_stand_where_they_stood(self) -> None:
        self.client = self.application(scored=False)
        for _ in Results(Sessions(open_engine(restored("20261127", scored=False)))).rescore():
            pass
        for one in self.said:
            outcome = self.get(f"/{one['id']}")["score"]
            self.assertEqual(outcome is not None, one["finished"], one["id"])
            if one["score"] is None:
                continue
            self.assertEqual(outcome["points"] is None, one["score"]["points"] is None)
            found = outcome["strings"]
            for string, cents in zip(found, one["score"]["pitch_cents"], strict=True):
                if cents is None:
                    self.assertIsNone(string["pitch_cents"])
                else:
                    # the plan of today may listen to a partial further up, which stiffness
                    # parts from the first: then its target lies up to 3 cents from that of then
                    self.assertAlmostEqual(string["pitch_cents"], cents, delta=3.0)

    def test_they_play_back_moment_by_moment(self) -> None:
        before, now_too, levels = 0, 0, 0
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
                # a string rings on longer or shorter than in the engine of then
                self.assertEqual(bool(frame["sounds"]), bool(sounds))
                pair = frame["pair"]
                before += beats_hz is not None
                if pair is not None and beats_hz is not None:
                    now_too += 1
                    # the same string beats faster at a higher partial, in proportion
                    times = max(1, round(pair["beats_hz"] / beats_hz)) if beats_hz > 1.0 else 1
                    if beats_hz > 1.0:
                        self.assertIn(times, (1, 2, 3, 4, 6, 8))
                        self.assertAlmostEqual(pair["beats_hz"] / times, beats_hz, delta=1.0)
                if frame["cents"] is not None and cents is not None and abs(cents) < 300.0:
                    levels += 1
                    self.assertAlmostEqual(frame["cents"], cents, delta=3.0)
        self.assertGreater(now_too, 0.6 * before)
        self.assertGreater(levels, 0)
