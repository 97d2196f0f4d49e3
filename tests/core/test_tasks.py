"""Exercises that are set: help that fades, the same strings for all, files; and what a class made
of them, against results that are written down by hand.
"""

import json
import unittest
from dataclasses import replace
from datetime import UTC, datetime, timedelta

from meldrin.core.bench import BENCH, Exercise, Finish, SetAid, TimedAction, Turn
from meldrin.core.drills import DrillExercise, Threshold
from meldrin.core.errors import Code, MeldrinError, OutOfRange
from meldrin.core.practice import Brought, Sat, Tuned
from meldrin.core.practice.figures import Broken
from meldrin.core.session import played
from meldrin.core.tasks import (
    ClassResult,
    Did,
    ListenPart,
    ReadPart,
    Task,
    TunePart,
    class_result,
    first_lesson,
    seed_for,
    task_of,
    task_text,
    two_minutes,
)
from meldrin.core.tasks.task import LESS

FIFTHS = Exercise("viola", "fifths", "hair", 0)
AT = datetime(2026, 11, 21, tzinfo=UTC)


class Parts(unittest.TestCase):
    def test_help_fades_time_by_time_and_stays_at_the_last(self) -> None:
        part = TunePart(FIFTHS, helps=("level", "ripple", "ear"), times=5)
        begun = [part.begun(time, seed=7) for time in range(5)]
        self.assertEqual([one.aid for one in begun], ["level", "ripple", "ear", "ear", "ear"])
        self.assertEqual(begun[1].aids, ("ear", "ripple"))
        self.assertEqual({one.seed for one in begun}, {7})
        free = TunePart(FIFTHS).begun(3, seed=1)
        self.assertEqual((free.aid, free.aids), (None, ()))

    def test_no_help_lets_more_be_seen_than_itself(self) -> None:
        self.assertEqual(LESS["ear"], ("ear",))
        for aid in ("ripple", "level", "tuner"):
            self.assertIn("ear", LESS[aid])
            self.assertIn(aid, LESS[aid])
        self.assertNotIn("level", LESS["tuner"])  # each tells what the other does not

    def test_the_bench_refuses_help_that_may_not_be_taken_and_turns_when_time_is_over(self) -> None:
        def code(exercise: Exercise, *log: TimedAction) -> Code | None:
            try:
                list(played(BENCH, exercise, log, strict=True))
            except MeldrinError as error:
                return error.code
            return None

        by_ear = replace(FIFTHS, aid="ear", aids=("ear",))
        self.assertEqual(code(by_ear, TimedAction(1.0, SetAid("ripple"))), Code.AID)
        self.assertIsNone(code(by_ear, TimedAction(1.0, SetAid("ear"))))
        self.assertIsNone(code(FIFTHS, TimedAction(1.0, SetAid("level"))))
        minute = replace(FIFTHS, limit_s=60.0)
        self.assertIsNone(code(minute, TimedAction(60.0, Turn(1, 1.0))))
        self.assertEqual(code(minute, TimedAction(60.1, Turn(1, 1.0))), Code.TIME_UP)
        self.assertIsNone(code(minute, TimedAction(900.0, Finish())))

    def test_help_and_limits_that_make_no_sense(self) -> None:
        for wrong in (
            {"aid": "level", "aids": ("ear",)},
            {"aids": ("sonar",)},
            {"method": "tuner", "aids": ("ear", "ripple"), "aid": "ear"},
            {"limit_s": 5.0},
        ):
            with self.subTest(wrong=wrong), self.assertRaises(MeldrinError):
                replace(FIFTHS, **wrong)

    def test_the_same_strings_for_all_and_others_each_time(self) -> None:
        task = Task("Fifths", (TunePart(FIFTHS), TunePart(FIFTHS)), starts="same")
        seeds = {
            seed_for(task, seed=5, part=part, time=time, own=99)
            for part in range(2)
            for time in range(10)
        }
        self.assertEqual(len(seeds), 20)
        own = replace(task, starts="own")
        self.assertEqual(seed_for(own, seed=5, part=0, time=0, own=99), 99)

    def test_what_cannot_be_set(self) -> None:
        for make in (
            lambda: Task("Nothing", ()),
            lambda: Task("Many", (TunePart(FIFTHS),) * 9),
            lambda: Task(" spaces ", (TunePart(FIFTHS),)),
            lambda: Task("Note", (TunePart(FIFTHS),), note="x" * 301),
            lambda: TunePart(replace(FIFTHS, method="free")),
            lambda: TunePart(FIFTHS, times=11),
            lambda: ReadPart("plan", "viola"),
        ):
            with self.assertRaises((MeldrinError, OutOfRange)):
                make()

    def test_a_first_lesson_goes_from_help_to_none_either_way_round(self) -> None:
        for first, methods in (("ear", ["each", "tuner"]), ("tuner", ["tuner", "each"])):
            lesson = first_lesson("cello", string=2, first=first)  # type: ignore[arg-type]
            self.assertEqual(lesson.parts[0], ReadPart("before", "cello"))
            parts = [one for one in lesson.parts if isinstance(one, TunePart)]
            self.assertEqual([one.exercise.method for one in parts[:2]], methods)
            self.assertEqual(parts[2].helps, ("ear",))
            for one in parts:
                self.assertEqual(one.exercise.string_out, 2)
                self.assertEqual([step.string for step in one.exercise.plan.steps][:1], [2])

    def test_two_minutes_are_by_ear_on_every_instrument(self) -> None:
        for name in ("violin", "guitar", "double-bass", "sitar", "mandolin", "banjo"):
            part = two_minutes(name, string=1).parts[0]
            assert isinstance(part, TunePart)
            self.assertEqual(part.begun(0, seed=3).aids, ("ear",))

    def test_files(self) -> None:
        drill = DrillExercise("width", "viola", 0, string=2, interval="fifth")
        task = Task(
            "All kinds",
            (TunePart(FIFTHS, ("ripple",), 3), ListenPart(drill, 2), ReadPart("before", "viola")),
            note="Listen.",
            starts="same",
            counts="first",
        )
        text = task_text(task)
        self.assertEqual(task_of(text), task)
        values = json.loads(text)
        for change in (
            {"kind": "something else"},
            {"v": 99},
            {"parts": [{"kind": "dance"}]},
            {"parts": ["tune"]},
            {"parts": 3},
            {"more": 1},
            {"name": ""},
        ):
            with self.subTest(change=change), self.assertRaises(MeldrinError) as refused:
                task_of(json.dumps({**values, **change}), name="lesson.json")
            self.assertEqual(refused.exception.code, Code.TASK)
            self.assertIn("lesson.json", refused.exception.message)


def brought(string: int, label: str, cents: float, **more: object) -> Brought:
    """A string that ended so far off; within 3 cents it is in tune."""
    usual = {"moves": 4, "basis": "ear", "well": abs(cents) <= 3.0}
    return Brought(string, -20.0, cents, label=label, **{**usual, **more})  # type: ignore[arg-type]


def tuned(*strings: Brought, points: float = 90.0, day: int = 0, **more: object) -> Tuned:
    usual = {"aid": "ear", "tolerance_cents": 3.0, "points": points}
    return Tuned("viola", "fifths", AT + timedelta(days=day), strings=strings, **{**usual, **more})  # type: ignore[arg-type]


def one(name: str, *cents: float) -> Did:
    """A pupil who left A, D, G and C so far off."""
    labels = ("A", "D", "G", "C")
    strings = [
        brought(n, label, c) for n, (label, c) in enumerate(zip(labels, cents, strict=True), 1)
    ]
    return Did(name, (tuned(*strings),), finished=1)


class Classes(unittest.TestCase):
    def result(self, *did: Did, **more: object) -> ClassResult:
        return class_result(did, counts="best", **more)  # type: ignore[arg-type]

    def test_what_most_do_is_said_first(self) -> None:
        found = self.result(
            one("Mirre", 0.4, -0.3, 1.0, -1.1),
            one("Tarek", 0.2, -1.0, -4.0, -6.5),
            one("Liv", 0.1, 0.2, 0.3, -5.0),
            Did("Silas"),
        )
        self.assertEqual(found.says, "2 of 3 stop low on the C string.")
        self.assertEqual(found.more, ("1 has not finished it yet.",))
        self.assertEqual([(h.name, h.why) for h in found.help_first], [
            ("Tarek", "stops low on G and C"), ("Liv", "stops low on C"),
        ])  # fmt: skip
        c = found.strings[3]
        self.assertEqual((c.label, c.low, c.well, c.high, c.of), ("C", 2, 1, 0, 3))
        self.assertEqual(
            [(dot.pupil, dot.cents) for dot in c.dots], [(0, -1.1), (1, -6.5), (2, -5.0)]
        )
        tarek = found.pupils[1]
        self.assertAlmostEqual(tarek.middle_cents or 0.0, 2.5)  # of 0.2, 1.0, 4.0 and 6.5
        self.assertEqual((tarek.worst_cents, tarek.worst), (6.5, "C low"))
        self.assertEqual((tarek.by_ear, tarek.by_ear_of), (4, 4))
        self.assertEqual(found.pupils[3].times, 0)

    def test_a_class_that_does_well_is_told_so(self) -> None:
        found = self.result(*(one(name, 0.1, 0.2, -0.3, 0.4) for name in "ABCDE"))
        self.assertEqual(found.says, "5 of 5 bring every string in.")
        self.assertEqual((found.more, found.help_first), ((), ()))

    def test_nobody_and_idle_ones_are_not_praised(self) -> None:
        self.assertEqual(self.result(Did("A"), Did("B")).says, "Nobody has finished it yet.")
        idle = self.result(Did("A", finished=2), one("B", 0.1, 0.1, 0.1, 0.1))
        self.assertIn("1 finished without a turn.", idle.more)
        self.assertEqual(idle.help_first[0].why, "finished without a turn")
        self.assertEqual(
            idle.says, "1 of 1 brings every string in."
        )  # who did nothing is not in it
        fault = self.result(Did("A", finished=1), Did("B"), is_measured=False)
        self.assertEqual(fault.says, "1 of 2 have finished it.")

    def test_leaning_on_the_picture_and_wrong_octaves_are_named(self) -> None:
        a = brought(1, "A", 0.0)
        seen = [brought(n, label, 0.2, basis="level") for n, label in ((1, "A"), (2, "D"))]
        leans = Did("Liv", (tuned(*seen, aid="level"),), finished=1)
        octave = Did("Ansel", (tuned(a, brought(2, "D", -1200.0)),), finished=1)
        left = Did("Noor", (tuned(a, brought(2, "D", 9.0, moves=0)),), finished=1)
        found = self.result(leans, octave, left)
        whys = {one.name: one.why for one in found.help_first}
        self.assertEqual(whys["Liv"], "used the level for every string")
        self.assertEqual(whys["Ansel"], "wrong octave on D")
        self.assertEqual(whys["Noor"], "left D without a turn")
        self.assertEqual(found.help_first[0].name, "Ansel")
        for said in (
            "1 has a string an octave off.",
            "1 used the level.",
            "1 left a string as it was.",
        ):
            self.assertIn(said, found.more)
        self.assertEqual(dict(found.aids), {"ear": 2, "level": 1})

    def test_overshoots_wrong_words_and_technique(self) -> None:
        over = Did(
            "A",
            (
                tuned(
                    brought(1, "A", 0.0, overshoots=2),
                    brought(2, "D", 5.0, verdict="in_tune", was_cents=5.0),
                    broken=(Broken("small_turns", 0.5),),
                    advice="Make the turns smaller.",
                ),
            ),
            finished=1,
        )
        found = self.result(over)
        self.assertIn("1 turns past the pitch.", found.more)
        self.assertIn("1 says “in tune” of a string that is not.", found.more)
        self.assertEqual((found.rules[0].broke, found.rules[0].of), (1, 1))
        self.assertEqual(found.pupils[0].change, "Make the turns smaller.")

    def test_which_time_counts(self) -> None:
        times = tuple(
            tuned(brought(1, "A", cents), points=points, day=day)
            for day, (cents, points) in enumerate(((9.0, 40.0), (1.0, 95.0), (5.0, 60.0)))
        )
        did = Did("A", times, finished=3)
        for counts, cents in (("first", 9.0), ("best", 1.0), ("last", 5.0)):
            found = class_result([did], counts=counts)  # type: ignore[arg-type]
            self.assertEqual(found.pupils[0].worst_cents, cents)

    def test_drills(self) -> None:
        def sat(right: int, middle: float, below: int, above: int) -> Sat:
            threshold = Threshold(middle / 2, middle, 2 * middle)
            return Sat(
                "higher", "middle unison", AT, right, 12, threshold, below=below, above=above
            )

        found = self.result(
            Did("A", sat=(sat(11, 6.0, 1, 0),), finished=1),
            Did("B", sat=(sat(7, 20.0, 4, 1),), finished=1),
            Did("C", sat=(sat(6, 30.0, 5, 1),), finished=1),
            Did("D"),
        )
        self.assertEqual(found.says, "In the middle, pupils hear 20 cents.")
        self.assertIn("2 of 3 miss what lies low.", found.more)
        self.assertEqual([one.name for one in found.help_first], ["C", "B"])
        self.assertEqual(
            [(p.right, p.trials) for p in found.pupils], [(11, 12), (7, 12), (6, 12), (0, 0)]
        )
