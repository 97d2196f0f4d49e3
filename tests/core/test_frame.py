import math
import unittest

from meldrin.core.bench import State, Turn, opening, pitch_cents, step
from meldrin.core.bench.frame import rested, slid_m
from meldrin.core.bench.rig import rig_of
from meldrin.core.bench.turning import bent, wind
from meldrin.core.catalogue import instruments
from meldrin.core.changed import changed
from meldrin.core.strings import cents_per_degree, design_tension_n, tension_at_strain
from tests.core.bench_hand import exercise, made_to_measure, run, sinh_drop


def in_tune(instrument: str, *behaviours: str) -> State:
    """Every string on its target, to a hundredth of a cent."""
    made = exercise(instrument, "each", "one", 3, *behaviours, out_string=1, out_cents=0.005)
    state = opening(made)
    rig = rig_of(made)
    strings = tuple(
        changed(now, material_m=one.path_m / (1.0 + strain), head_m=one.head_m / (1.0 + strain))
        for now, one, strain in zip(state.strings, rig.quirks, rig.target_strains, strict=True)
    )
    return changed(state, strings=strings, give_m=0.0)


def degrees(state: State, number: int, cents: float) -> float:
    """The turn of a knob that would move a string by about `cents`."""
    string = state.rig.strings[number - 1]
    turn = cents / cents_per_degree(string, tension_n=design_tension_n(string))
    return max(-90.0, min(90.0, turn))


def without(state: State, number: int) -> list[float]:
    """How far the other strings rise when one is gone, in cents."""
    gone = rested(state.with_string(number, changed(state.string(number), broken=True)))
    return [
        pitch_cents(gone, n) - pitch_cents(state, n)
        for n in range(1, len(state.strings) + 1)
        if n != number
    ]


class OneStringGone(unittest.TestCase):
    """Losing the lowest string moves the others up by what players know."""

    def test_magnitudes(self) -> None:
        for instrument, low, high in (
            ("guitar", 7.5, 16.0),
            ("classical-guitar", 0.8, 2.5),
            ("electric-guitar", 4.0, 13.5),
            ("electric-guitar-floating", 50.0, 150.0),
            ("bass", 9.5, 16.5),
            ("violin", 2.0, 16.5),
            ("cello", 15.0, 26.0),
            ("double-bass", 28.0, 36.0),
            ("banjo", 19.0, 45.0),
        ):
            state = in_tune(instrument, "coupling")
            lowest = min(
                range(1, len(state.strings) + 1), key=lambda n: state.rig.plan.targets_hz[n - 1]
            )
            rises = without(state, lowest)
            self.assertGreater(min(rises), low, instrument)
            self.assertLess(max(rises), high, instrument)

    def test_one_number_for_each_instrument_says_it_all(self) -> None:
        # to first order: delta = -c S/(1 + c sum k), k = EA/L; the others gain k delta of tension
        state = in_tune("guitar", "coupling")
        rig = state.rig
        lost_n = design_tension_n(rig.strings[5])
        stiffness = [
            string.modulus_pa * string.load_area_m2 / string.total_m for string in rig.strings[:5]
        ]
        c = rig.frame_compliance_m_per_n
        delta_m = c * lost_n / (1.0 + c * sum(stiffness))
        for n, rise in enumerate(without(state, 6), start=1):
            string = rig.strings[n - 1]
            more_n = stiffness[n - 1] * delta_m
            expected = 600.0 * math.log2(1.0 + more_n / design_tension_n(string))
            self.assertAlmostEqual(rise, expected, delta=0.15)

    def test_without_the_behaviour_no_string_moves_another(self) -> None:
        self.assertTrue(all(abs(rise) < 1e-9 for rise in without(in_tune("banjo"), 4)))


class Balance(unittest.TestCase):
    def test_the_frame_rests_where_a_bisection_finds_it(self) -> None:
        for made in instruments():
            state = in_tune(made.id, "coupling")
            last = len(state.strings)
            state, _ = step(state, Turn(1, degrees(state, 1, 30.0)), dt_s=0.1)
            state, _ = step(state, Turn(last, degrees(state, last, -80.0)), dt_s=0.1)

            def excess(give_m: float, state: State = state) -> float:
                at = changed(state, give_m=give_m)
                total = sum(
                    tension_at_strain(string, at.strain(n))
                    for n, string in enumerate(state.rig.strings, start=1)
                )
                return state.rig.frame_compliance_m_per_n * (total - state.rig.load_n) - give_m

            low, high = -0.02, 0.02
            for _ in range(80):
                middle = (low + high) / 2.0
                low, high = (middle, high) if excess(middle) > 0.0 else (low, middle)
            self.assertAlmostEqual(state.give_m, (low + high) / 2.0, delta=1e-12, msg=made.id)

    def test_tightening_one_lowers_the_others_and_undoing_it_brings_them_back(self) -> None:
        state = in_tune("cello", "coupling")
        turned = run(state, Turn(4, 5.0))
        for n in (1, 2, 3):
            self.assertLess(pitch_cents(turned, n), pitch_cents(state, n) - 0.5)
        back = run(turned, Turn(4, -5.0))
        for n in (1, 2, 3, 4):
            self.assertAlmostEqual(pitch_cents(back, n), pitch_cents(state, n), delta=1e-6)


class NutFriction(unittest.TestCase):
    """The capstan at the nut: exp(-m) < T_head/T_speaking < exp(m)."""

    def gripping(self, instrument: str, grip: float) -> State:
        return made_to_measure(in_tune(instrument, "nut"), grip=grip)

    def tensions(self, state: State, number: int) -> tuple[float, float]:
        string, now = state.rig.strings[number - 1], state.string(number)
        head = tension_at_strain(string, string.dead_nut_m / now.head_m - 1.0)
        return head, tension_at_strain(string, state.strain(number))

    def test_the_ratio_stands_at_its_limit_after_sliding_and_within_it_otherwise(self) -> None:
        state = self.gripping("guitar", 0.08)
        up = run(state, Turn(1, 60.0))
        head, speaking = self.tensions(up, 1)
        self.assertAlmostEqual(head / speaking, math.exp(0.08), delta=1e-6)
        down = run(up, Turn(1, -90.0))
        head, speaking = self.tensions(down, 1)
        self.assertAlmostEqual(head / speaking, math.exp(-0.08), delta=1e-6)
        a_little = run(up, Turn(1, -1.0))
        head, speaking = self.tensions(a_little, 1)
        self.assertTrue(math.exp(-0.08) < head / speaking < math.exp(0.08))

    def test_a_bend_drops_what_came_from_above_and_not_what_came_from_below(self) -> None:
        # 866 * 2 sinh(m) L_head/L: 3 cents on a guitar's high E at m = 0.03, 8 at 0.08;
        # 10 and 26 on a violin's A
        for instrument, number, grip, drop in (
            ("guitar", 1, 0.03, 3.0),
            ("guitar", 1, 0.08, 8.0),
            ("guitar", 3, 0.08, 21.0),
            ("violin", 2, 0.03, 10.0),
            ("violin", 2, 0.08, 26.0),
            ("cello", 1, 0.08, 20.0),
        ):
            state = self.gripping(instrument, grip)
            string = state.rig.strings[number - 1]
            self.assertAlmostEqual(
                sinh_drop(grip, string.dead_nut_m, string.total_m), drop, delta=0.16 * drop
            )
            a_turn = degrees(state, number, 40.0)
            up = run(state, Turn(number, a_turn), Turn(number, a_turn))
            self.assertAlmostEqual(
                pitch_cents(bent(up, number, cents=200.0), number),
                pitch_cents(up, number),
                delta=1e-6,
            )
            above = run(state, Turn(number, a_turn), *[Turn(number, -a_turn / 2)] * 5)
            fell = pitch_cents(above, number) - pitch_cents(
                bent(above, number, cents=400.0), number
            )
            # the formula holds at the design tension; the head's tension halves the difference at
            # most where the string's stiffness grows with its strain
            self.assertAlmostEqual(fell, drop, delta=0.3 * drop)

    def test_a_dead_turn_on_reversal(self) -> None:
        # coming from below the head must lose exp(2m) of its tension before anything moves:
        # (1 - exp(-2m)) T L_head/EA of string, 5 to 12 degrees of a guitar's first knob
        for grip, low, high in ((0.03, 4.0, 6.0), (0.08, 10.0, 13.0)):
            state = run(self.gripping("guitar", grip), Turn(1, 60.0))
            before = pitch_cents(state, 1)
            self.assertAlmostEqual(pitch_cents(run(state, Turn(1, -low)), 1), before, delta=1e-9)
            self.assertLess(pitch_cents(run(state, Turn(1, -high)), 1), before - 0.2)

    def test_many_small_turns_end_where_one_large_one_does(self) -> None:
        state = self.gripping("violin", 0.06)
        small = state
        for _ in range(40):
            small = run(small, Turn(2, 0.5), gap_s=0.0)
        large = run(state, Turn(2, 20.0))
        self.assertAlmostEqual(pitch_cents(small, 2), pitch_cents(large, 2), delta=0.01)

    def test_there_and_back_in_one_go_is_where_small_steps_lead(self) -> None:
        # friction does not know how fast: only how far down and up again
        state = self.gripping("violin", 0.06)
        state = run(state, Turn(2, 6.0))
        once = run(state, Turn(2, -4.0), Turn(2, 4.0))
        often = run(state, *[Turn(2, -0.02)] * 200, *[Turn(2, 0.02)] * 200, gap_s=0.01)
        self.assertAlmostEqual(pitch_cents(once, 2), pitch_cents(often, 2), delta=0.02)

    def test_material_over_the_nut_is_neither_made_nor_lost(self) -> None:
        state = self.gripping("guitar", 0.05)
        now, one = state.string(4), state.rig.quirks[3]
        moved = slid_m(
            one, path_m=state.path_m(4) * 1.01, material_m=now.material_m, head_m=now.head_m
        )
        self.assertLess(moved, 0.0)  # a pull draws string out of the head
        after = bent(state, 4, cents=300.0).string(4)
        self.assertAlmostEqual(
            after.material_m + after.head_m, now.material_m + now.head_m, delta=1e-15
        )

    def test_a_nut_that_slides_freely_is_the_limit_of_a_small_grip(self) -> None:
        free = wind(in_tune("guitar"), 2, knob_deg=30.0)
        nearly = wind(self.gripping("guitar", 1e-6), 2, knob_deg=30.0)
        self.assertAlmostEqual(pitch_cents(free, 2), pitch_cents(nearly, 2), delta=0.03)
        string = free.rig.strings[1]
        per_degree = cents_per_degree(string, tension_n=design_tension_n(string))
        self.assertAlmostEqual(pitch_cents(free, 2), 30.0 * per_degree, delta=1.5)
