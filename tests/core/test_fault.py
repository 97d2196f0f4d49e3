import unittest
from itertools import product

from meldrin.core.bench import FindFault, Finish, Play, Stop, TimedAction, opening, pitch_cents
from meldrin.core.bench.exercise import Exercise
from meldrin.core.bench.fault import FAULTS, OF_ONE_STRING, Fault, drawn_fault, possible, remedy_of
from meldrin.core.bench.observe import voice_series
from meldrin.core.bench.state import State
from meldrin.core.bench.step import step
from meldrin.core.catalogue import instrument, instruments
from meldrin.core.errors import MeldrinError
from meldrin.core.pitch import cents_between
from meldrin.core.scoring import Score, score

GUITAR = instrument("guitar")


def seed_of(kind: str, made: str = "guitar") -> int:
    return next(
        seed for seed in range(500) if drawn_fault(instrument(made), seed=seed).kind == kind
    )


def exercise(kind: str, made: str = "guitar") -> Exercise:
    return Exercise(made, "fault", "hair", seed_of(kind, made))


def after(state: State, *actions: object) -> State:
    for action in actions:
        state, _ = step(state, action, dt_s=1.0)  # type: ignore[arg-type]
    return state


def played_hz(state: State, string: int, fret: float, *, light: bool = False) -> float:
    """Return the first partial of a string played at a fret, as it is heard."""
    now = after(state, Stop(string, fret, light=light), Play((string,)))
    voice = next(one for one in now.ringing if one.string == string)
    series = voice_series(now, voice)
    return series.fundamental_hz


def sharp_cents(state: State, string: int, fret: int, *, light: bool = False) -> float:
    """Return how far a fret is above where it belongs over the open string."""
    open_hz = played_hz(state, string, 0)
    return cents_between(played_hz(state, string, fret, light=light), reference_hz=open_hz) - (
        100.0 * fret
    )


class WhatIsWrong(unittest.TestCase):
    def test_a_high_nut_is_sharp_low_down_and_hardly_high_up(self) -> None:
        state = opening(exercise("nut"))
        size = drawn_fault(GUITAR, seed=state.exercise.seed).size
        # as 1/distance from the nut: 1 at fret 1, 0.51 at fret 2, 0.17 at 7, 0.11 at 12
        for fret, share in ((1, 1.0), (2, 0.515), (7, 0.169), (12, 0.112)):
            self.assertAlmostEqual(sharp_cents(state, 3, fret), share * size, delta=0.02 * size)

    def test_a_saddle_that_is_off_is_sharp_high_up(self) -> None:
        state = opening(exercise("saddle"))
        size = drawn_fault(GUITAR, seed=state.exercise.seed).size
        # as 2^(n/12) - 1: 0.059 at fret 1, 0.498 at 7, 1 at 12
        for fret, share in ((1, 0.059), (7, 0.498), (12, 1.0)):
            self.assertAlmostEqual(sharp_cents(state, 3, fret), share * size, delta=0.02 * size)

    def test_a_heavy_finger_is_sharp_at_every_fret_until_it_is_light(self) -> None:
        state = opening(exercise("finger"))
        size = drawn_fault(GUITAR, seed=state.exercise.seed).size
        for fret in (1, 2, 7, 12):
            self.assertAlmostEqual(sharp_cents(state, 3, fret), size, delta=0.01)
            self.assertAlmostEqual(sharp_cents(state, 3, fret, light=True), 0.0, delta=0.01)

    def test_a_false_string_beats_by_itself_and_old_ones_all_do(self) -> None:
        for kind in ("false", "old"):
            rig = opening(exercise(kind)).rig
            assert rig.fault is not None
            split = [n for n, one in enumerate(rig.quirks, start=1) if one.splits_cents]
            self.assertEqual(split, [rig.fault.string] if kind == "false" else [1, 2, 3, 4, 5, 6])

    def test_a_peg_that_slips_lets_its_string_sink_at_each_stroke(self) -> None:
        state = opening(exercise("slip"))
        fault = state.rig.fault
        assert fault is not None
        began = pitch_cents(state, fault.string)
        other = 1 + fault.string % 6
        state = after(state, Play((fault.string,)), Play((other,)), Play((fault.string,)))
        self.assertAlmostEqual(
            pitch_cents(state, fault.string), began - 2 * fault.size, delta=0.02 * fault.size
        )
        self.assertAlmostEqual(
            pitch_cents(state, other), pitch_cents(opening(state.exercise), other)
        )

    def test_all_strings_are_in_tune_and_every_fault_is_drawn(self) -> None:
        for made in instruments():
            kinds = {drawn_fault(made, seed=seed).kind for seed in range(200)}
            self.assertEqual(kinds, set(possible(made)))
            state = opening(Exercise(made.id, "fault", "hair", 1))
            worst = max(abs(pitch_cents(state, n + 1)) for n in range(len(made.strings)))
            self.assertLessEqual(worst, 0.5 + 1e-6, made.id)
        self.assertEqual(possible(instrument("violin")), ("old", "false", "slip"))

    def test_what_does_not_go_together(self) -> None:
        with self.assertRaisesRegex(MeldrinError, "all else is in order"):
            Exercise("guitar", "fault", "month", 1)
        with self.assertRaisesRegex(MeldrinError, "all else is in order"):
            Exercise("guitar", "fault", "hair", 1, behaviours=frozenset({"creep"}))
        state = opening(exercise("nut"))
        for bad, reason in (
            (FindFault("false", 0, "string"), "Name the string"),
            (FindFault("nut", 2, "repairer"), "Name the string"),
            (FindFault("false", 9, "string"), "Unknown string 9"),
        ):
            with self.assertRaisesRegex(MeldrinError, reason):
                after(state, bad)
        with self.assertRaisesRegex(MeldrinError, "You have said"):
            said = FindFault("nut", 0, "repairer")
            after(state, said, said)
        with self.assertRaisesRegex(MeldrinError, "not fixed"):
            after(opening(exercise("old", "violin")), FindFault("nut", 0, "repairer"))
        with self.assertRaisesRegex(MeldrinError, "Nothing is wrong"):
            after(opening(Exercise("guitar", "free", "hair", 1)), FindFault("nut", 0, "repairer"))


# What a player does who goes through the usual checks, on any instrument.
def usual_checks(made: Exercise) -> list[object]:
    strings = [one.number for one in made.instrument.strings if one.role == "playing"]
    found: list[object] = [Play((number,)) for number in strings]
    found += [Play((number,)) for number in strings]
    if made.instrument.fretting == "fixed":
        fingers = (Stop(3, 12, touch=True), Stop(3, 12), Stop(3, 2), Stop(3, 1))
        for finger in (*fingers, Stop(3, 1, light=True)):
            found += [finger, Play((3,))]
    return found


def result_of(made: Exercise, *actions: object) -> Score:
    log = [
        TimedAction(float(place), action)  # type: ignore[arg-type]
        for place, action in enumerate((*actions, Finish()), start=1)
    ]
    return score(made, log)


def said_of(fault: Fault, made: Exercise) -> FindFault:
    return FindFault(fault.kind, fault.string, remedy_of(fault, made.instrument))


class WhatItEarns(unittest.TestCase):
    def test_who_checks_and_says_it_right_gets_all_of_it(self) -> None:
        for name in ("guitar", "viola", "banjo", "sitar"):
            for kind in possible(instrument(name)):
                made = exercise(kind, name)
                fault = drawn_fault(made.instrument, seed=made.seed)
                result = result_of(made, *usual_checks(made), said_of(fault, made))
                self.assertEqual(result.points, 100.0, (name, kind))
                self.assertRegex(result.found, "^Found: ")

    def test_a_right_guess_earns_a_quarter(self) -> None:
        for kind in FAULTS:
            made = exercise(kind)
            fault = drawn_fault(GUITAR, seed=made.seed)
            result = result_of(made, said_of(fault, made))
            self.assertEqual(result.points, 25.0, kind)
            self.assertIn("no check that shows it", result.lines[0].sentence)

    def test_who_is_deaf_and_always_says_the_same_gets_little(self) -> None:
        # Of six faults one is right; all checks are made, nothing is heard.
        for kind, remedy in product(FAULTS, ("repairer", "string")):
            points = []
            for seed in range(60):
                made = Exercise("guitar", "fault", "hair", seed)
                said = FindFault(kind, 3 if kind in OF_ONE_STRING else 0, remedy)  # type: ignore[arg-type]
                points.append(result_of(made, *usual_checks(made), said).points or 0.0)
            self.assertLess(sum(points) / len(points), 30.0, (kind, remedy))

    def test_the_wrong_string_the_wrong_remedy_and_nothing_said(self) -> None:
        made = exercise("false")
        fault = drawn_fault(GUITAR, seed=made.seed)
        other = 1 + fault.string % 6
        checks = usual_checks(made)
        wrong = result_of(made, *checks, FindFault("false", other, "string"))
        self.assertEqual(wrong.points, 0.4 * 75.0 + 25.0)
        self.assertRegex(wrong.found, "^Nearly: one string is false")
        remedy = result_of(made, *checks, FindFault("false", fault.string, "repairer"))
        self.assertEqual(remedy.points, 75.0)
        silent = result_of(made, *checks)
        self.assertEqual((silent.points, silent.lines[0].points), (0.0, 0.0))
        self.assertRegex(silent.found, "^Not found: ")
        amiss = result_of(made, *checks, FindFault("nut", 0, "repairer"))
        self.assertEqual(amiss.points, 0.0)
        self.assertRegex(amiss.lines[0].sentence, r"Play each string alone: one beats by itself\.")
