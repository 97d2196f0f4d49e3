"""Movable frets: where the plan wants them, how they slide, and that they can be set by ear."""

import math
import unittest
from dataclasses import replace
from fractions import Fraction

from meldrin.core.bench import (
    EXERCISES,
    Exercise,
    GoTo,
    Judge,
    Play,
    SlideFret,
    State,
    Stop,
    opening,
    replay,
    step,
)
from meldrin.core.bench.observe import own_series
from meldrin.core.bench.sliding import OUT_CENTS, frets_now
from meldrin.core.catalogue import instrument, tuning_said
from meldrin.core.errors import MeldrinError
from meldrin.core.learner import Ear, Learner, practise
from meldrin.core.methods import Check, Plan, Wanted, plan_by
from meldrin.core.pitch import cents_between
from meldrin.core.scoring import score
from meldrin.core.sound.events import Retune
from meldrin.core.strings import stopped_cents

SITAR = Exercise("sitar", "drone", "hair", 5, frets=True, rules=3)
# Just intonation: what a degree is over the tonic.
DEGREES = {
    1: Fraction(16, 15),
    2: Fraction(9, 8),
    3: Fraction(6, 5),
    4: Fraction(5, 4),
    5: Fraction(4, 3),
    6: Fraction(45, 32),
    7: Fraction(3, 2),
    8: Fraction(8, 5),
    9: Fraction(5, 3),
    10: Fraction(16, 9),
    11: Fraction(15, 8),
    12: Fraction(2),
}
SA = 2  # the string of the sitar that sounds the tonic over the frets


def planned(tuning: str = "standard") -> Plan:
    made = instrument("sitar")
    return plan_by("drone", Wanted(made, tuning_said(made, tuning), frets=True))


def setting(plan: Plan) -> list[Check]:
    return [one for one in plan.checks if one.sets_fret]


def at_fret(state: State, fret: int) -> State:
    stage = next(
        n
        for n, one in enumerate(state.rig.plan.stages)
        if isinstance(one, Check) and one.sets_fret and one.own.fret == fret
    )
    return step(state, GoTo(stage), dt_s=1.0)[0]


def cents_over_open(state: State, fret: int) -> float:
    fretted, opened = (own_series(state, SA, fret=n).fundamental_hz for n in (fret, 0))
    return cents_between(fretted, reference_hz=opened)


class Plans(unittest.TestCase):
    def test_frets_lie_where_the_just_degrees_are(self) -> None:
        string = planned().instrument.string(SA)
        for fret, ratio in DEGREES.items():
            with self.subTest(fret=fret):
                wanted = 1200.0 * math.log2(ratio)
                self.assertAlmostEqual(stopped_cents(string, fret), wanted, places=6)

    def test_the_frets_of_the_scale_are_set_and_no_others(self) -> None:
        scales = {
            "standard": [2, 4, 5, 7, 9, 11, 12],
            "all-flat": [1, 3, 5, 7, 8, 10, 12],
        }
        for tuning, frets in scales.items():
            with self.subTest(tuning=tuning):
                self.assertEqual([one.own.fret for one in setting(planned(tuning))], frets)

    def test_each_is_set_by_the_tonic_string_and_its_degree_found_on_it(self) -> None:
        plan = planned()
        tonic = plan.tuning.midi(SA)
        for place, one in enumerate(plan.checks):
            if not one.sets_fret:
                continue
            self.assertEqual(one.own.string, SA)
            found = plan.checks[place + 1]
            self.assertEqual((found.other.string, found.other.fret), (SA, one.own.fret))
            assert found.own.string is not None
            apart = plan.tuning.midi(found.own.string) - tonic - one.own.fret
            self.assertEqual(apart % 12, 0)
            self.assertEqual(plan.instrument.string(found.own.string).role, "sympathetic")

    def test_where_the_drone_has_nothing_low_a_string_of_that_degree_leads(self) -> None:
        raised = next(one for one in setting(planned("raised-fourth")) if one.own.fret == 6)
        assert raised.other.string is not None
        self.assertLessEqual(raised.own.partial, 4)

    def test_the_steps_and_targets_are_those_without_frets(self) -> None:
        made = instrument("sitar")
        without = plan_by("drone", Wanted(made, tuning_said(made, "standard")))
        self.assertEqual(planned().steps, without.steps)
        self.assertEqual(planned().targets_hz, without.targets_hz)

    def test_it_is_refused_where_frets_stand_firm_and_without_a_drone(self) -> None:
        guitar, sitar = instrument("guitar"), instrument("sitar")
        for made, method, said in (
            (guitar, "drone", "no frets that move"),
            (sitar, "tuner", "over a drone"),
        ):
            with self.assertRaisesRegex(MeldrinError, said):
                plan_by(method, Wanted(made, tuning_said(made, "standard"), frets=True))


class Sliding(unittest.TestCase):
    def test_frets_begin_out_and_all_others_lie_right(self) -> None:
        state = opening(SITAR)
        of_plan = {one.own.fret for one in setting(state.rig.plan)}
        low, high = OUT_CENTS
        for fret, off in enumerate(state.frets_cents, start=1):
            if fret in of_plan:
                self.assertTrue(low <= abs(off) <= high, (fret, off))
            else:
                self.assertEqual(off, 0.0)

    def test_a_fret_that_slides_sounds_by_its_distance_from_the_bridge(self) -> None:
        state = at_fret(opening(SITAR), 7)
        before = cents_over_open(state, 7)
        after = cents_over_open(step(state, SlideFret(7, 3.0), dt_s=1.0)[0], 7)
        scale_mm = 1000.0 * state.rig.strings[SA - 1].scale_m
        from_bridge_mm = scale_mm / 2.0 ** (before / 1200.0)
        expected = 1200.0 * math.log2(scale_mm / (from_bridge_mm - 3.0))
        self.assertAlmostEqual(after, expected, places=6)
        self.assertGreater(after, before)

    def test_it_moves_the_note_of_every_string_at_that_fret_and_no_open_one(self) -> None:
        state = opening(SITAR)
        later, _ = step(state, SlideFret(4, -2.0), dt_s=1.0)
        for number in (1, SA, 3):
            for fret, moves in ((0, False), (4, True), (5, False)):
                hz = [own_series(one, number, fret=fret).fundamental_hz for one in (state, later)]
                self.assertEqual(hz[0] > hz[1], moves, (number, fret))

    def test_what_rings_over_it_glides_along(self) -> None:
        state = at_fret(opening(SITAR), 5)
        state, _ = step(state, Play((SA,), reference=True), dt_s=1.0)
        state, sounds = step(state, SlideFret(5, 1.0), dt_s=1.0)
        (glide,) = [one for one in sounds if isinstance(one, Retune)]
        self.assertAlmostEqual(glide.fundamental_hz, own_series(state, SA, fret=5).fundamental_hz)

    def test_it_stops_at_its_neighbour_and_comes_back(self) -> None:
        state = opening(SITAR)
        with self.assertRaisesRegex(MeldrinError, "next fret is in the way"):
            for _ in range(4):
                state, _ = step(state, SlideFret(2, 15.0), dt_s=1.0)
        step(state, SlideFret(2, -5.0), dt_s=1.0)

    def test_where_none_are_set_none_slides(self) -> None:
        for made in (replace(SITAR, frets=False), Exercise("guitar", "unison", "hair", 5)):
            with self.assertRaisesRegex(MeldrinError, "stay where they are"):
                step(opening(made), SlideFret(4, 1.0), dt_s=1.0)
        for fret in (0, 21):
            with self.assertRaisesRegex(MeldrinError, "no fret"):
                step(opening(SITAR), SlideFret(fret, 1.0), dt_s=1.0)

    def test_it_is_said_after_it_was_heard_since_it_was_slid(self) -> None:
        state = at_fret(opening(SITAR), 7)
        with self.assertRaisesRegex(MeldrinError, "Play it with its partner"):
            step(state, Judge("in_tune", 0.0), dt_s=1.0)
        state, _ = step(state, Play((SA,), reference=True), dt_s=1.0)
        said, _ = step(state, Judge("low", 5.0), dt_s=2.0)
        self.assertEqual([(one.fret, one.verdict) for one in said.frets_set], [(7, "low")])
        self.assertEqual(said.judgements, ())
        slid, _ = step(said, SlideFret(7, 1.0), dt_s=20.0)
        with self.assertRaisesRegex(MeldrinError, "Play it with its partner"):
            step(slid, Judge("in_tune", 0.0), dt_s=0.1)


class Setting(unittest.TestCase):
    def test_an_ear_sets_every_fret(self) -> None:
        ear = Learner(Ear(threshold_cents=6.0, slowest_hz=0.3))
        for tuning in ("standard", "raised-fourth"):
            made = replace(SITAR, tuning=tuning, fresh=True)
            log = practise(made, ear, seed=3)
            frets = frets_now(replay(made, log))
            self.assertLess(max(abs(cents) for _, cents in frets), 3.0, tuning)
            self.assertGreater(score(made, log).points or 0.0, 95.0)

    def test_frets_left_as_they_are_cost_the_closing_part_and_are_named(self) -> None:
        ear = Learner(Ear(threshold_cents=6.0, slowest_hz=0.3))
        log = [one for one in practise(SITAR, ear, seed=3) if not isinstance(one.action, SlideFret)]
        result = score(SITAR, log)
        set_right = score(SITAR, practise(SITAR, ear, seed=3))
        self.assertLess(result.points or 0.0, (set_right.points or 0.0) - 2.0)
        said = " ".join(line.sentence for line in result.lines)
        self.assertRegex(said, r"Fret 4, the third: [\d.]+ cents low\.")

    def test_it_is_kept_with_the_exercise_and_usual_for_none(self) -> None:
        self.assertEqual(EXERCISES.value(EXERCISES.record(SITAR)), SITAR)
        self.assertFalse(Exercise("sitar", "drone", "hair", 5).frets)
        plain = opening(replace(SITAR, frets=False))
        self.assertEqual(plain.frets_cents, ())
        pressed, _ = step(plain, Stop(SA, 7.0), dt_s=1.0)
        just = 1200.0 * math.log2(DEGREES[7])  # as the catalogue has them
        self.assertAlmostEqual(cents_over_open(pressed, 7), just, places=6)


if __name__ == "__main__":
    unittest.main()
