"""Steps of the path: what proves each, and what does not."""

import unittest
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import Any, get_args

from meldrin.core.bench import Exercise
from meldrin.core.catalogue import instrument_text, instruments
from meldrin.core.drills import DRILLS, DrillExercise, Threshold
from meldrin.core.practice import (
    Aim,
    Brought,
    Evidence,
    Sat,
    Tuned,
    Way,
    beginning,
    in_a_row,
    path_of,
    path_steps,
    stages,
    ways,
)
from meldrin.core.practice.path import Stage

START = datetime(2026, 3, 2, 17, 0, tzinfo=UTC)
STEPS = {one.id: one for one in path_steps()}


def tuned(day: float = 0.0, *, strings: int = 4, basis: str = "ear", **other: Any) -> Tuned:
    """Every string brought in, within 6 cents, on a start that nobody knew."""
    brought = tuple(Brought(n + 1, -20.0, 1.0, True, basis=basis) for n in range(strings))
    usual = {"tolerance_cents": 6.0, "method": "fifths", "aid": basis}
    made = {**usual, "strings": brought, **other}
    return Tuned("viola", at=START + timedelta(days=day), **made)


def one_string(day: float = 0.0, **other: Any) -> Tuned:
    """One string, which a lucky turn may have brought in."""
    usual = {"strings": 1, "proves": True, "practice": "One lucky turn."}
    return tuned(day, **{**usual, **other})


def heard(drill: str, high: float, **other: Any) -> Sat:
    return Sat(drill, "middle", START, 9, 12, Threshold(high / 2.0, high / 1.5, high), **other)


class Steps(unittest.TestCase):
    def proven(self, step: str, *tuned: Tuned, sat: Any = (), faults: Any = ()) -> Any:
        path = path_of(Evidence(sat, tuned, faults))
        return next(one.proven for one in path.steps if one.step.id == step)

    def test_the_file_has_four_stages_in_order_and_one_proof_a_step(self) -> None:
        self.assertEqual([one.id for one in stages()], list(get_args(Stage)))
        order = [one.id for one in stages()]
        found = [order.index(one.stage) for one in path_steps()]
        self.assertEqual(found, sorted(found))
        self.assertEqual(len(STEPS), len(path_steps()))
        drills = set(DRILLS)
        for one in path_steps():
            proofs = [one.listening, one.sides, one.tuning, one.finding]
            self.assertEqual(sum(proof is not None for proof in proofs), 1, one.id)
            if one.listening:
                self.assertIn(one.listening.drill, drills)
            self.assertLessEqual(len(one.can.split()), 10, one.can)
            self.assertLessEqual(len(one.shown_by.split()), 18, one.shown_by)

    def test_who_has_done_nothing_has_proven_nothing(self) -> None:
        path = path_of(Evidence())
        self.assertEqual({one.proven for one in path.steps}, {None})
        self.assertEqual([one.id for one in path.next], ["still", "higher"])
        self.assertEqual(path.stage.name, "Hear it")

    def test_a_threshold_counts_by_its_upper_end(self) -> None:
        # one beat a second is asked for
        self.assertIsNone(self.proven("still", sat=[heard("beating", 1.1)] * 2))
        self.assertEqual(self.proven("still", sat=[heard("beating", 0.9)] * 2), START)
        self.assertIsNone(self.proven("still", sat=[heard("beating", 0.9)]))  # once may be luck
        once_each = [heard("beating", 0.9), heard("beating", 1.1), heard("beating", 0.9)]
        self.assertIsNone(self.proven("still", sat=once_each))
        for aside in ({"in_class": True}, {"from_file": True}):
            self.assertIsNone(self.proven("still", sat=[heard("beating", 0.9, **aside)] * 2))
        self.assertIsNone(self.proven("still", sat=[heard("higher", 0.9)] * 2))
        path = path_of(Evidence([heard("beating", 0.9)] * 2, sittings_gone=[START]))
        self.assertIsNotNone(path.steps[0].proven)  # it was left before the first of them

    def test_who_tunes_by_ear_need_not_sit_for_what_that_takes(self) -> None:
        row = [one_string(day) for day in range(4)]
        self.assertEqual(self.proven("still", *row), row[3].at)
        self.assertIsNone(self.proven("higher", *row))
        sides = [tuned(day, sides_right=6, sides_of=6, basis="ripple") for day in range(4)]
        self.assertEqual(self.proven("higher", *sides), sides[3].at)
        for step in path_steps():
            self.assertLessEqual(set(step.implied_by), set(STEPS))

    def test_a_chord_asks_for_the_middle_level(self) -> None:
        def sat(right: int, of: int, level: int) -> list[Sat]:
            return [Sat("whole", "all", START, right, of, level=level, next_level=level)] * 2

        self.assertIsNone(self.proven("chords", sat=sat(12, 12, 1)))
        self.assertIsNone(self.proven("chords", sat=sat(9, 12, 2)))  # 75 %
        self.assertIsNone(self.proven("chords", sat=sat(4, 4, 2)))  # too few to say
        self.assertEqual(self.proven("chords", sat=sat(10, 12, 2)), START)

    def test_one_string_takes_four_in_a_row(self) -> None:
        row = [one_string(day) for day in range(4)]
        self.assertIsNone(self.proven("ear", *row[:3]))
        self.assertEqual(self.proven("ear", *row), row[3].at)
        missed = one_string(2.5, strings=0)
        self.assertIsNone(self.proven("ear", *row[:3], missed, row[3]))
        # a start that could be known is no part of it, and breaks nothing
        known = one_string(2.5, proves=False)
        self.assertEqual(self.proven("ear", *row[:3], known, row[3]), row[3].at)

    def test_nobody_makes_a_row_by_leaving_or_erasing_what_went_badly(self) -> None:
        row = [one_string(day) for day in range(4)]
        between = START + timedelta(days=1.5)
        path = path_of(Evidence((), row, gone=[between]))
        self.assertIsNone(next(one.proven for one in path.steps if one.step.id == "ear"))
        self.assertEqual((in_a_row(row), in_a_row(row, [between])), (4, 2))
        # what was left or erased before the first, or after the last, ends nothing
        for aside in (START - timedelta(days=1), START + timedelta(days=9)):
            self.assertEqual(in_a_row(row, [aside]), 4)

        def sides(*gone: datetime) -> Any:
            done = [tuned(day, sides_right=6, sides_of=6) for day in range(4)]
            path = path_of(Evidence((), done, gone=list(gone)))
            return next(one.proven for one in path.steps if one.step.id == "side")

        self.assertIsNotNone(sides())
        self.assertIsNone(sides(between))

    def test_one_fault_found_may_be_a_guess(self) -> None:
        found = [(START + timedelta(days=day), 100.0) for day in range(3)]
        missed = (START + timedelta(days=1.5), 25.0)
        self.assertIsNone(self.proven("fault", faults=found[:2]))
        self.assertIsNone(self.proven("fault", faults=sorted([*found, missed])))
        self.assertEqual(self.proven("fault", faults=found), found[2][0])

    def test_help_proves_what_it_is_allowed_for(self) -> None:
        with_ripples = [one_string(day, basis="ripple") for day in range(4)]
        self.assertIsNone(self.proven("ear", *with_ripples))
        self.assertIsNotNone(self.proven("ripples", *with_ripples))
        with_level = [one_string(day, basis="level") for day in range(4)]
        self.assertIsNone(self.proven("ripples", *with_level))
        self.assertIsNone(self.proven("whole", tuned(basis="level")))
        self.assertIsNotNone(self.proven("whole", tuned(basis="ripple")))
        self.assertIsNone(self.proven("whole-ear", tuned(basis="ripple")))

    def test_strings_that_were_read_are_no_ear(self) -> None:
        mixed = tuned(method="mixed")
        read = replace(mixed.strings[0], basis="read")
        for step in ("whole", "whole-ear"):
            self.assertIsNotNone(self.proven(step, mixed))
            some = replace(mixed, strings=(read, *mixed.strings[1:]))
            self.assertIsNone(self.proven(step, some))

    def test_a_known_start_proves_nothing_whole(self) -> None:
        known = tuned(practice="You could know this start, so it is practice.")
        for step in ("whole", "whole-ear", "finer"):
            self.assertIsNone(self.proven(step, known))
            self.assertIsNotNone(self.proven(step, tuned()))

    def test_a_guided_string_proves_its_own_step_only(self) -> None:
        said = "A teacher’s words helped, so it is practice."
        guided = tuned(strings=1, basis="ripple", guided=True, practice=said)
        path = path_of(Evidence((), [guided] * 8))
        self.assertEqual([one.step.id for one in path.steps if one.proven], ["first"])

    def test_finer_asks_for_the_finer_tolerance(self) -> None:
        self.assertIsNone(self.proven("finest", tuned()))
        self.assertIsNotNone(self.proven("finest", tuned(tolerance_cents=3.0)))

    def test_sides_are_counted_in_blocks(self) -> None:
        def said(right: int, of: int, day: float = 0.0) -> Tuned:
            return tuned(day, sides_right=right, sides_of=of)

        self.assertIsNone(self.proven("side", said(6, 6), said(6, 6), said(6, 6)))  # 18 are not 24
        self.assertIsNotNone(self.proven("side", *[said(6, 6)] * 4))
        self.assertIsNone(self.proven("side", *[said(4, 6)] * 4))
        # 16 of 24, then 20 of 24: the second block alone; across both 20 of 24 would come sooner
        blocks = [said(3, 6), said(3, 6), *[said(5, 6, day) for day in range(1, 7)]]
        self.assertEqual(self.proven("side", *blocks), START + timedelta(days=6))

    def test_two_methods_are_two(self) -> None:
        self.assertIsNone(self.proven("methods", tuned(), tuned(1.0)))
        other = tuned(1.0, method="harmonics")
        self.assertEqual(self.proven("methods", tuned(), other), other.at)

    def test_starts_and_rooms(self) -> None:
        for step, found in (
            ("slack", {"start": "slack"}),
            ("retune", {"start": "retune"}),
            ("group", {"start": "group"}),
            ("noise", {"behaviours": ("hand", "noise")}),
            ("holds", {"behaviours": ("nut",), "held": 0.95}),
        ):
            self.assertIsNone(self.proven(step, tuned(start="hair")), step)
            self.assertIsNotNone(self.proven(step, tuned(**found)), step)
        self.assertIsNone(self.proven("holds", tuned(behaviours=("nut",), held=0.8)))

    def test_when_all_is_proven_the_last_stage_stays(self) -> None:
        done = [
            tuned(1.0, tolerance_cents=3.0, sides_right=24, sides_of=24),
            tuned(2.0, method="harmonics", start="slack", behaviours=("noise", "nut"), held=1.0),
            tuned(3.0, start="retune"),
            tuned(4.0, start="group"),
            tuned(5.0, guided=True),
        ]
        sat = 2 * [
            heard("beating", 0.5),
            heard("higher", 5.0),
            Sat("whole", "all", START, 12, 12, level=2, next_level=3),
        ]
        path = path_of(Evidence(sat, done, [(START, 100.0)] * 3))
        self.assertEqual([one.step.id for one in path.steps if one.proven is None], [])
        self.assertEqual((path.next, path.stage.name), ((), "Keep it"))


class Beginnings(unittest.TestCase):
    def test_every_step_begins_on_every_instrument_and_could_be_proven_by_it(self) -> None:
        for made in instruments():
            text = instrument_text(made.id)
            for aim in (Aim("unison", made.id), Aim("tuner", made.id)):
                for step in path_steps():
                    with self.subTest(instrument=made.id, step=step.id):
                        begun = beginning(step, aim, text=text)
                        self.assertIsInstance(begun, DrillExercise if step.listening else Exercise)
                        asked = step.tuning
                        if asked is None or not isinstance(begun, Exercise):
                            continue
                        self.assertTrue(begun.plan.steps)
                        self.assertEqual(begun.guided, asked.strings == "guided")
                        self.assertTrue(not asked.starts or begun.start in asked.starts)
                        self.assertLessEqual(set(asked.behaviours), set(begun.behaviours))

    def test_a_second_method_is_another(self) -> None:
        step, text = STEPS["methods"], instrument_text("viola")
        begun = beginning(step, Aim("fifths", "viola"), text=text, methods={"fifths"})
        assert isinstance(begun, Exercise)
        self.assertNotEqual(begun.method, "fifths")


class Ways(unittest.TestCase):
    def of(self, instrument: str, *done: Tuned) -> dict[str, Way]:
        found = ways(instrument_text(instrument), "standard", tuned=done)
        self.assertEqual([one.id for one in found], ["one", "month", "ear"])
        return {one.id: one for one in found}

    def test_on_every_instrument_all_three_can_be_begun(self) -> None:
        for made in instruments():
            for way in self.of(made.id).values():
                self.assertTrue(way.exercise.plan.steps, (made.id, way.id))

    def test_what_was_done_says_by_which_method_and_how_fine(self) -> None:
        first = self.of("viola")
        self.assertEqual(first["month"].about, "Four strings, by fifths, with Ripples.")
        self.assertEqual(first["ear"].about, "Within 6 cents.")
        # within 6 cents by ear, by harmonics: 3 cents are next
        later = self.of("viola", tuned(method="harmonics"))
        self.assertEqual(later["month"].about, "Four strings, by harmonics, with Ripples.")
        self.assertEqual(later["ear"].about, "As last time, finer: within 3 cents.")
        self.assertEqual(later["ear"].exercise.tolerance, "together")
        # with help, or on a known start, it was not by ear
        for aside in (tuned(basis="ripple"), tuned(practice="You could know this start.")):
            self.assertEqual(self.of("viola", aside)["ear"].about, "Within 6 cents.")
        # there is nothing finer than 1 cent
        finest = self.of("viola", tuned(tolerance_cents=1.0))
        self.assertEqual(finest["ear"].about, "Within 1 cent.")

    def test_who_used_a_tuner_is_given_an_ear_for_one_string(self) -> None:
        found = self.of("violin", tuned(method="tuner"))
        self.assertEqual(found["month"].exercise.method, "tuner")
        for way in ("one", "ear"):
            self.assertNotIn(found[way].exercise.method, ("tuner", "mixed"))
