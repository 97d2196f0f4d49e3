"""The path over HTTP, and who proves its steps: learners who hear, not those who get by without."""

import json
import secrets
import unittest
from collections.abc import Callable, Sequence
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import Any
from unittest import mock

from sqlalchemy import select

from meldrin.core.bench import Exercise, Play, TimedAction, Turn
from meldrin.core.catalogue import instrument_text
from meldrin.core.learner import GOOD, practise
from meldrin.core.practice import Aim, Evidence, Sat, Tuned, beginning, path_of, path_steps
from meldrin.services.attempts import (
    Batch,
    Numbered,
    append_actions,
    erase_attempt,
    start_attempt,
    take_over,
)
from meldrin.services.everything import everything_of
from meldrin.services.exercises import drawn
from meldrin.services.figures import gone_of, keep_figure
from meldrin.services.identity import welcome_guest
from meldrin.services.practices.bench import BENCH
from meldrin.store.tables import AttemptRow
from tests.core.cheaters import (
    RULES,
    at_random,
    by_checking_first,
    by_counted_presses,
    by_hidden_level,
    by_putting_out,
    by_ripples,
    by_rule,
    idle,
)
from tests.server.base import StoreTest
from tests.server.test_studios import StudioTest
from tests.server.test_today import TodayTest

START = datetime(2026, 3, 2, 17, 0, tzinfo=UTC)
STEPS = {one.id: one for one in path_steps()}
ON_BENCH = [one for one in path_steps() if one.tuning and one.tuning.strings != "guided"]
WAYS = (Aim("unison", "guitar"), Aim("fifths", "viola"))
Player = Callable[[Exercise], Sequence[TimedAction]]
DEAF: dict[str, Player] = {
    "idle": idle,
    "at random": lambda made: at_random(made, seed=4),
    "counted presses": by_counted_presses,
    "a hidden level": by_hidden_level,
    "checked first": by_checking_first,
    "put out until it is right": by_putting_out,
    "up by a rule": lambda made: by_rule(made, RULES["always 2.25"]),
    "by a rule in turn": lambda made: by_rule(made, RULES["in turn 3.25"]),
}


def figure(made: Exercise, log: Sequence[TimedAction], day: int) -> Tuned:
    at = START + timedelta(days=day)
    found = BENCH.figure(made, BENCH.score(made, log), at, 100.0)
    assert isinstance(found, Tuned)
    return found


def begun(step: str, aim: Aim, *, methods: Sequence[str] = (), seed: int = 1) -> Exercise:
    text = instrument_text(aim.instrument_id)
    made = beginning(STEPS[step], aim, text=text, methods=methods)
    assert isinstance(made, Exercise)
    return drawn(made, seed=seed, fresh=True)


class Proven(unittest.TestCase):
    def test_who_hears_proves_every_step_of_the_bench(self) -> None:
        for aim in WAYS:
            for step in ON_BENCH:
                assert step.tuning
                tries = 4 if step.tuning.strings == "one" else step.tuning.methods
                done: list[Tuned] = []
                for day in range(tries):
                    made = begun(step.id, aim, methods=[one.method for one in done], seed=day)
                    done.append(figure(made, practise(made, GOOD, seed=day, aid="ear"), day))
                with self.subTest(instrument=aim.instrument_id, step=step.id):
                    proven = {
                        one.step.id for one in path_of(Evidence((), done)).steps if one.proven
                    }
                    self.assertIn(step.id, proven)

    def test_who_does_not_hear_proves_nothing_that_is_by_ear(self) -> None:
        for aim in WAYS:
            for step in ("ear", "whole-ear"):
                for name, player in DEAF.items():
                    done = []
                    for day in range(8 if step == "ear" else 3):
                        made = begun(step, aim, seed=100 + day)
                        found = BENCH.figure(made, BENCH.score(made, player(made)), START, 100.0)
                        done += [found] if isinstance(found, Tuned) else []
                    with self.subTest(instrument=aim.instrument_id, step=step, player=name):
                        path = path_of(Evidence((), done))
                        by_ear = {
                            one.step.id
                            for one in path.steps
                            if one.proven and one.step.tuning and one.step.tuning.help == "ear"
                        }
                        self.assertEqual(by_ear, set())

    def test_watching_ripples_proves_the_step_with_ripples_alone(self) -> None:
        done = []
        for day in range(4):
            made = begun("ripples", WAYS[0], seed=day)
            done.append(figure(made, by_ripples(made), day))
        path = path_of(Evidence((), done))
        self.assertEqual([one.step.id for one in path.steps if one.proven], ["first", "ripples"])


class Asked(TodayTest):
    def test_a_newcomer_sees_the_first_two_steps(self) -> None:
        page = self.client.get("/api/path").json()
        self.assertEqual(page["now"]["stage"], "Hear it")
        self.assertEqual([one["id"] for one in page["now"]["next"]], ["still", "higher"])
        self.assertEqual(
            [one["name"] for one in page["stages"]], ["Hear it", "Stop it", "Tune it", "Keep it"]
        )

    def test_any_step_can_be_tried_at_once(self) -> None:
        for step in path_steps():
            reply = self.client.post(f"/api/path/{step.id}", json={})
            self.assertEqual(reply.status_code, 201, reply.text)
            found = reply.json()
            kind = "drill" if step.listening else "bench"
            self.assertEqual(found["kind"], kind, step.id)
            area = "drills" if kind == "drill" else "attempts"
            self.assertEqual(self.client.get(f"/api/{area}/{found['attempt']}").status_code, 200)
        reply = self.client.post("/api/path/flying", json={})
        self.assertEqual(
            (reply.status_code, reply.json()["type"]), (404, "urn:meldrin:no_such_step")
        )

    def test_the_plan_of_a_newcomer_is_the_first_step_and_one_string(self) -> None:
        plan = self.plan(instrument="viola", method="fifths")
        self.assertEqual(
            [one["name"] for one in plan["items"]], ["Still or beating", "One string out"]
        )
        first = self.item(plan, 0)["items"][0]
        page = self.client.get(f"/api/drills/{first['attempt']}").json()
        self.assertEqual(page["drill"], "beating")

    def test_what_is_shown_is_found_again_after_every_sitting_and_is_erased_with_it(self) -> None:
        def proven() -> int:
            return int(self.client.get("/api/path").json()["now"]["proven"])

        for _ in range(2):
            self.assertEqual(proven(), 0)
            begun = self.client.post("/api/path/chords", json={}).json()["attempt"]
            self.finish(begun, Sat("whole", "all", START, 12, 12, level=2, next_level=3))
        self.assertEqual(proven(), 1)
        self.assertEqual(proven(), 1)  # as kept
        taken = self.client.get("/api/figures.json").text
        self.assertEqual(self.client.delete(f"/api/attempts/{begun}").status_code, 204)
        self.assertEqual(proven(), 0)
        # no file can say it
        headers = {"Content-Type": "text/plain"}
        brought = self.client.post("/api/figures", content=taken, headers=headers)
        self.assertEqual(brought.status_code, 201, brought.text)
        self.assertEqual(proven(), 0)

    def finish(self, attempt: str, figure: Sat) -> None:
        """End a sitting as if it had been sat through, with what it told."""
        at = self.tick()
        with self.client.app.state.kept.pools.requests() as session:  # type: ignore[attr-defined]
            row = session.scalars(select(AttemptRow).where(AttemptRow.public_id == attempt)).one()
            row.finished_at = at
            session.flush()
            keep_figure(session, row.id, replace(figure, at=at))
            session.commit()

    def test_the_goal_is_said_until_its_day_is_over(self) -> None:
        day = (self.now + timedelta(days=19)).date()
        aim: dict[str, Any] = {"instrument": "viola", "method": "fifths"}
        for wanted, says in (
            ({"concert": day.isoformat(), "concert_name": "Harbour concert"},
             "Harbour concert in 19 days."),
            ({"concert": (day - timedelta(days=18)).isoformat()}, "Concert tomorrow."),
            ({"concert": (day - timedelta(days=20)).isoformat()}, ""),
            ({}, ""),
        ):  # fmt: skip
            self.assertEqual(
                self.client.put("/api/today/aim", json={**aim, **wanted}).status_code, 200
            )
            self.assertEqual(self.client.get("/api/today").json()["goal"], says)


class OfAClass(StudioTest):
    def test_a_teacher_sees_where_each_pupil_stands_and_it_is_written_down(self) -> None:
        self.listed()
        reply = self.teacher.get(f"{self.studio}/path")
        self.assertEqual(reply.status_code, 200, reply.text)
        found = reply.json()
        self.assertEqual(found["stages"], ["Hear it", "Stop it", "Tune it", "Keep it"])
        seen = [(one["name"], one["stage"], one["next"]) for one in found["pupils"]]
        first = ("Hear it", "Hear still from beating")
        self.assertEqual(seen, [(name, *first) for name in ("Ansel", "Liv", "Tarek")])
        says = [one["says"] for one in self.teacher.get(f"{self.studio}/audit").json()]
        self.assertIn("looked at what the class can do", says)
        self.assertEqual(found["unread"], 0)
        # a pupil sees their own path, not the class
        pupil = self.joined("Mirre")
        self.assertEqual(pupil.get(f"{self.studio}/path").status_code, 404)

    def test_a_large_class_is_read_a_few_at_a_time_and_kept(self) -> None:
        self.listed()
        with mock.patch("meldrin.services.path.READS_FOR_S", 0.0):  # one at a time
            for read in (1, 2, 3, 3):
                found = self.teacher.get(f"{self.studio}/path").json()
                self.assertEqual((len(found["pupils"]), found["unread"]), (read, 3 - read))
        self.assertEqual([one["name"] for one in found["pupils"]], ["Ansel", "Liv", "Tarek"])


class Gone(StoreTest):
    """What was left half way or erased is not taken out of a row."""

    def setUp(self) -> None:
        super().setUp()
        self.actor = welcome_guest(self.session, secret=secrets.token_hex(16), now=START)

    def played(self, *, turned: bool, finished: bool = True, method: str = "fifths") -> str:
        made = drawn(Exercise("viola", method, "one", 0))
        begun = start_attempt(self.session, self.actor, made, now=START)
        row = self.session.scalars(select(AttemptRow).where(AttemptRow.public_id == begun.id)).one()
        log = [TimedAction(1.0, Play((3,))), *([TimedAction(2.0, Turn(3, 2.0))] * turned)]
        actions = [Numbered(number, timed) for number, timed in enumerate(log, start=1)]
        record = take_over(self.session, self.actor, begun.id, holder="tab")
        append_actions(self.session, [Batch(record.key, "tab", tuple(actions), "bench")], now=START)
        if finished:
            row.finished_at = START + timedelta(minutes=3)
            self.session.commit()
        return begun.id

    def test_one_that_was_left_after_a_turn(self) -> None:
        self.played(turned=False, finished=False)  # looked at, and left
        self.played(turned=True, finished=False, method="free")  # no plan, nothing to win
        self.played(turned=True)
        self.assertEqual(gone_of(self.session, self.actor), [])
        self.played(turned=True, finished=False)
        self.assertEqual(gone_of(self.session, self.actor), [START])

    def test_one_that_was_erased_leaves_its_time_and_nothing_else(self) -> None:
        erased = self.played(turned=True)
        erase_attempt(self.session, self.actor, erased)
        self.assertEqual(gone_of(self.session, self.actor), [START + timedelta(minutes=3)])
        told = dict(everything_of(self.session, self.actor))
        kept = [set(one) for one in json.loads(told["erased.json"])]
        self.assertEqual(kept, [{"at", "practice"}])
        self.assertNotIn(erased, " ".join(told.values()))

    def test_one_that_was_left_is_not_got_rid_of_by_erasing_it(self) -> None:
        left = self.played(turned=True, finished=False)
        erase_attempt(self.session, self.actor, left)
        self.assertEqual(gone_of(self.session, self.actor), [START])
