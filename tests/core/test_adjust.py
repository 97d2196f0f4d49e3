import itertools
import math
import random
import unittest
from dataclasses import replace
from itertools import pairwise

from hypothesis import assume, given, settings
from hypothesis import strategies as st
from tools.studies import adjust_study

from meldrin.core.adjust import Adjustment, Observation, adjust
from meldrin.core.errors import MeldrinError, OutOfRange
from meldrin.core.pitch import equal_tempered_hz
from tests import slow

GUITAR = (40, 45, 50, 55, 59, 64)


def ring(cents: tuple[float, ...], *, sd: float = 1.0) -> list[Observation]:
    """The five neighbours of a guitar and its outer strings: one closed loop."""
    pairs = [*pairwise(GUITAR), (GUITAR[0], GUITAR[-1])]
    return [
        Observation(lower, upper, sd, cents=value)
        for (lower, upper), value in zip(pairs, cents, strict=True)
    ]


def offsets(found: Adjustment) -> dict[int, float]:
    return {one.midi: one.offset_cents for one in found.strings}


@slow
class Exact(unittest.TestCase):
    def test_a_tree_is_simply_added_up(self) -> None:
        found = adjust(ring((1.0, 2.0, 3.0, 4.0, 5.0, 0.0))[:5])
        self.assertEqual(found.held, 45)
        hand = {40: -1.0, 45: 0.0, 50: 2.0, 55: 5.0, 59: 9.0, 64: 14.0}
        for midi, cents in offsets(found).items():
            self.assertAlmostEqual(cents, hand[midi])
        self.assertEqual((found.redundancy, found.suspects), (0, ()))
        # sd after n comparisons of 1 cent from the string held: 1, 0, 1, sqrt 2, sqrt 3, 2
        errors = [one.error_cents for one in found.strings]
        for error, hand_error in zip(errors, (1, 0, 1, 2**0.5, 3**0.5, 2), strict=True):
            self.assertAlmostEqual(error, hand_error)

    def test_a_loops_gap_is_shared_alike(self) -> None:
        # the five add up to 6 where the sixth says 0: each takes 6/6
        found = adjust(ring((0.0, 0.0, 6.0, 0.0, 0.0, 0.0)))
        for one in found.residuals:
            self.assertAlmostEqual(abs(one.residual_cents), 1.0)
        # w = gap / sqrt(n) sd = 6 / sqrt 6
        self.assertAlmostEqual(found.residuals[0].doubt or 0.0, math.sqrt(6.0))

    def test_beats_are_cents_at_their_meeting_point(self) -> None:
        # D3-A3, partials 3:2, beating 1.005 times narrow: 698.000 cents, 2 below equal
        one = Observation(50, 57, 0.05, (3, 2), beats_hz=1.00504, side=-1)
        found = adjust([one], held=50)
        self.assertAlmostEqual(offsets(found)[57], -2.0, places=3)
        self.assertAlmostEqual(
            found.strings[1].error_cents, 0.05 / (440.4972 * 0.00057779), places=3
        )


@slow
class Directions(unittest.TestCase):
    def test_unsigned_beats_find_their_side_in_a_loop(self) -> None:
        # an equal-tempered fourth E-A beats 0.37 wide, a fifth A-E 0.37 narrow, the octave none
        rows = [
            Observation(40, 45, 0.03, (4, 3), beats_hz=0.373),
            Observation(45, 52, 0.03, (3, 2), beats_hz=0.373),
            Observation(40, 52, 0.03, (2, 1), beats_hz=0.0),
        ]
        found = adjust(rows, held=45)
        for cents in offsets(found).values():
            self.assertAlmostEqual(cents, 0.0, delta=0.05)

    def test_without_a_loop_nobody_can_tell(self) -> None:
        with self.assertRaisesRegex(MeldrinError, "never which way"):
            adjust([Observation(50, 57, 0.1, (3, 2), beats_hz=1.0)])


@slow
class Culprits(unittest.TestCase):
    def test_one_loop_alone_names_nobody_and_asks_for_a_check(self) -> None:
        found = adjust(ring((0.0, 0.0, 12.0, 0.0, 0.0, 0.0)))
        self.assertEqual((found.wrong, found.suspects), (None, ()))
        # a gap of 12 over six of 1 cent, one degree of freedom: sqrt(144 / 6) times as much
        self.assertAlmostEqual(found.scatter, math.sqrt(24.0))
        assert found.deciding is not None
        self.assertGreaterEqual(len(found.deciding.groups), 2)
        self.assertEqual(sorted(at for g in found.deciding.groups for at in g), [0, 1, 2, 3, 4, 5])

    def test_with_enough_checks_one_is_named(self) -> None:
        rows = ring((0.3, -0.4, 12.0, 0.5, -0.2, 0.1))
        crossing = {(40, 50): 0.4, (45, 55): -0.3, (50, 59): 0.2, (55, 64): 0.1}
        for pair, cents in crossing.items():
            rows.append(Observation(*pair, 1.0, cents=cents))
        found = adjust(rows)
        self.assertEqual((found.wrong, found.suspects), (1, (2,)))
        self.assertIsNone(found.deciding)

    def test_where_all_scatter_more_than_was_said_that_is_said_and_nobody_named(self) -> None:
        # ten comparisons of five strings, each 3 to 4 cents off where 1 was said
        draw = random.Random(4)
        rows = [
            Observation(*pair, 1.0, cents=draw.uniform(3.0, 4.0) * draw.choice((-1, 1)))
            for pair in itertools.combinations(GUITAR[:5], 2)
        ]
        found = adjust(rows)
        self.assertEqual((found.wrong, found.suspects), (None, ()))
        # sum of squares 123 in ten directions, six of them free: about 3.5 times
        self.assertTrue(2.0 < found.scatter < 5.0, found.scatter)
        once = adjust([replace(one, sd=found.scatter) for one in rows])
        self.assertEqual(once.wrong, 0)
        for one, stated in zip(found.strings, once.strings, strict=True):
            self.assertAlmostEqual(one.error_cents, stated.error_cents)

    def test_agreement_is_left_alone(self) -> None:
        found = adjust(ring((0.4, -0.6, 0.3, 0.5, -0.2, 0.9)))
        self.assertEqual((found.suspects, found.stands_out), ((), None))

    def test_seldom_accused_without_cause_and_often_named_with_it(self) -> None:
        """Aims: 5 % as exact as was said, 10 % at twice that, named in 40 %; `./meldrin bench` runs
        more. Of 250 trials three deviations are 4.1 and 5.7 %.
        """
        for comparisons in (6, 8, 10, 12):
            found = adjust_study(250, seed=31, comparisons=comparisons)
            self.assertLessEqual(found.clean, 0.05 + 0.041, comparisons)
            self.assertLessEqual(found.twice, 0.10 + 0.057, comparisons)
            self.assertLessEqual(found.most_named, 3, comparisons)
            if comparisons == 6:  # two redundant ones name nobody
                self.assertEqual(found.named, 0.0)
            else:
                self.assertGreaterEqual(found.named, 0.4, comparisons)

    def test_of_two_that_are_wrong_nobody_is_named_who_is_not(self) -> None:
        rows = [
            Observation(*pair, 1.0, cents=0.0) for pair in itertools.combinations(GUITAR[:5], 2)
        ]
        rows[2] = replace(rows[2], cents=20.0)
        rows[7] = replace(rows[7], cents=-25.0)
        found = adjust(rows)
        self.assertLessEqual(set(found.suspects), {2, 7})


@slow
class ManyDirections(unittest.TestCase):
    def test_while_several_fit_no_string_is_named_and_a_check_decides(self) -> None:
        # a fourth, a fifth and their octave, all beating: wide and wide fit as narrow and narrow
        rows = [
            Observation(40, 45, 0.5, (4, 3), beats_hz=2.0),
            Observation(45, 52, 0.5, (3, 2), beats_hz=2.0),
            Observation(40, 52, 0.5, (2, 1), beats_hz=0.3),
        ]
        found = adjust(rows, held=45)
        self.assertGreater(len(found.choices), 1)
        self.assertEqual((found.suspects, found.stands_out), ((), None))
        assert found.deciding is not None
        self.assertEqual(found.deciding.groups, ())


@slow
class Beats(unittest.TestCase):
    @given(
        st.lists(st.floats(-45.0, 45.0), min_size=4, max_size=4),
        st.integers(0, 3),
    )
    @settings(max_examples=60, deadline=None)
    def test_offsets_come_back_exactly_whatever_string_is_held(
        self, cents: list[float], held: int
    ) -> None:
        """Noise-free signed beats of fifths, computed from the frequencies themselves."""
        midis = (36, 43, 50, 57)
        offs = [one - cents[held] for one in cents]
        hz = [
            equal_tempered_hz(midi, a4_hz=440.0) * 2 ** (off / 1200)
            for midi, off in zip(midis, offs, strict=True)
        ]
        rows = []
        for at in range(3):
            wide = 2.0 * hz[at + 1] - 3.0 * hz[at]
            assume(abs(wide) < 30.0)
            pair = (midis[at], midis[at + 1])
            rows.append(
                Observation(*pair, 0.05, (3, 2), beats_hz=abs(wide), side=1 if wide > 0 else -1)
            )
        found = adjust(rows, held=midis[held])
        for one, true in zip(found.strings, offs, strict=True):
            self.assertAlmostEqual(one.offset_cents, true, delta=0.001)


@slow
class Errors(unittest.TestCase):
    def test_standard_errors_are_those_of_many_trials(self) -> None:
        draw = random.Random(11)
        rounds = 4000
        ends = []
        for _ in range(rounds):
            found = adjust(ring(tuple(draw.gauss(0.0, 2.0) for _ in range(6)), sd=2.0))
            ends.append(offsets(found)[64])
        sd = math.sqrt(sum(one * one for one in ends) / rounds)
        # from A to high E: 4 comparisons one way, 2 the other, 2 cents each: 2 sqrt(4*2/6)
        self.assertAlmostEqual(sd / (2.0 * math.sqrt(8 / 6)), 1.0, delta=0.035)
        self.assertAlmostEqual(found.strings[-1].error_cents, 2.0 * math.sqrt(8 / 6))

    @given(st.lists(st.floats(-40, 40), min_size=5, max_size=5), st.floats(-30, 30))
    def test_consistent_loops_are_given_back(self, steps: list[float], extra: float) -> None:
        total = sum(steps)
        cents = tuple(max(-199.0, min(199.0, one)) for one in (*steps, total))
        found = adjust(ring(cents))
        if abs(total) <= 199.0:
            self.assertAlmostEqual(offsets(found)[64] - offsets(found)[40], total, places=6)
            self.assertAlmostEqual(found.chi_squared, 0.0, places=6)
        moved = adjust(ring(cents), a4_hz=440.0 + extra)
        self.assertEqual(offsets(moved), offsets(found))  # cents do not depend on calibration


@slow
class Refusals(unittest.TestCase):
    def test_what_cannot_be_adjusted(self) -> None:
        with self.assertRaisesRegex(MeldrinError, "no comparison to adjust"):
            adjust([])
        apart = [Observation(40, 45, 1.0, cents=0.0), Observation(59, 64, 1.0, cents=0.0)]
        with self.assertRaisesRegex(MeldrinError, "No comparison connects B3, E4 with E2"):
            adjust(apart)
        with self.assertRaisesRegex(MeldrinError, "C4 is not among"):
            adjust(apart[:1], held=60)
        with self.assertRaisesRegex(MeldrinError, "two different strings"):
            Observation(40, 40, 1.0, cents=0.0)
        with self.assertRaisesRegex(MeldrinError, "either cents or beats"):
            Observation(40, 45, 1.0)
        with self.assertRaisesRegex(MeldrinError, "do not meet"):
            Observation(40, 45, 1.0, (3, 2), beats_hz=1.0)
        for sd in (0.0, math.nan, -1.0):
            with self.assertRaises(OutOfRange):
                Observation(40, 45, sd, cents=0.0)
