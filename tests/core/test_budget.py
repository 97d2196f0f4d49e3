import itertools
import math
import random
import unittest

import numpy as np

from meldrin.core.budget import EARS, Comparison, EarErrors, covariance, ear, expected, with_check
from meldrin.core.catalogue import instrument, instruments
from meldrin.core.errors import MeldrinError, OutOfRange
from meldrin.core.methods import METHODS, Plan, Wanted, plan_by, serves

STEADY = EarErrors("steady", "2 cents, light hand", 2.0, 1.0, 0.0, 0.0)


def plan(name: str, method: str) -> Plan:
    made = instrument(name)
    return plan_by(method, Wanted(made, made.tuning()))


def chain(count: int, sd: float) -> list[Comparison]:
    return [Comparison(n, n - 1 or None, sd, 0.0) for n in range(1, count + 1)]


class Chains(unittest.TestCase):
    def test_n_comparisons_leave_the_root_of_n(self) -> None:
        table = covariance(chain(6, 1.5), 6)
        for n in range(1, 7):
            self.assertAlmostEqual(math.sqrt(table[n - 1][n - 1]), 1.5 * math.sqrt(n))
        # strings share what they have in common: cov = variance of the earlier one
        self.assertAlmostEqual(table[1][4], table[1][1])

    def test_chain_star_and_tree_of_a_guitar(self) -> None:
        # five end to end: sqrt 5; all from one string: 1; A, low E, B, high E: sqrt 3
        found = expected(plan("guitar", "harmonics"), STEADY)
        self.assertAlmostEqual(found.chain_sd_cents / 2.0, math.sqrt(5.0))
        self.assertAlmostEqual(found.star_sd_cents / 2.0, 1.0)
        self.assertAlmostEqual(found.order_sd_cents / 2.0, math.sqrt(3.0))
        self.assertAlmostEqual(found.harmonics_sd_cents or 0.0, found.order_sd_cents)

    def test_a_heavy_finger_adds_up_along_the_frets(self) -> None:
        heavy = EarErrors("heavy", "a heavy hand", 2.0, 1.0, 0.0, 3.0)
        found = expected(plan("guitar", "unison"), heavy)
        biases = {one.number: one.bias_cents for one in found.strings}
        # four stopped comparisons up from A, one down: the low E is flat once it is open
        self.assertEqual(biases, {5: 0.0, 4: 3.0, 3: 6.0, 2: 9.0, 1: 12.0, 6: -3.0})
        self.assertEqual(found.end_to_end_bias_cents, 15.0)

    def test_each_string_by_itself_adds_nothing_up(self) -> None:
        found = expected(plan("cello", "each"), STEADY)
        self.assertEqual({one.sd_cents for one in found.strings}, {2.0})
        self.assertEqual(found.order_sd_cents, 2.0)
        tuner = expected(plan("cello", "tuner"), STEADY)
        self.assertEqual({one.sd_cents for one in tuner.strings}, {1.0})


class Checks(unittest.TestCase):
    def test_a_check_is_a_least_squares_adjustment(self) -> None:
        # by normal equations: five comparisons in a row, and the last string with the first
        table = covariance([Comparison(1, None, 1e-6, 0.0), *chain(6, 1.5)[1:]], 6)
        design = np.zeros((7, 6))
        design[0, 0] = 1.0
        for n in range(1, 6):
            design[n, n - 1 : n + 1] = (-1.0, 1.0)
        design[6, 0], design[6, 5] = -1.0, 1.0
        weights = np.diag([1e12, *[1 / 2.25] * 5, 1 / 4.0])
        hand = np.linalg.inv(design.T @ weights @ design)
        found = np.array(with_check(table, 1, 6, sd_cents=2.0))
        np.testing.assert_allclose(found, hand, atol=1e-6)

    def test_the_check_that_tells_most_closes_the_longest_loop(self) -> None:
        extra = expected(plan("guitar", "unison"), STEADY).extra_check
        assert extra is not None
        self.assertEqual((extra.lower, extra.upper, extra.partials), (5, 1, (3, 1)))
        before = expected(plan("guitar", "unison"), STEADY).order_sd_cents
        self.assertLess(extra.sd_cents, before)

    def test_no_other_check_tells_more(self) -> None:
        # every comparison there is, each adjusted in by itself: the sum of variances against A
        made = plan("guitar", "unison")
        found = expected(made, STEADY).extra_check
        assert found is not None
        assert found.lower is not None
        parts = [Comparison(step.string, step.other.string, 2.0, 0.0) for step in made.steps]
        table = covariance(parts, 6)
        done = {frozenset((part.own, part.other)) for part in parts}

        def left_over(one: int, two: int) -> float:
            after = np.array(with_check(table, one, two, sd_cents=2.0))
            against_a = np.eye(6)
            against_a[:, 4] -= 1.0
            return float(np.trace(against_a @ after @ against_a.T))

        best = left_over(found.lower, found.upper)
        for one, two in itertools.combinations(range(1, 7), 2):
            if frozenset((one, two)) not in done:
                self.assertGreaterEqual(left_over(one, two), best - 1e-9)

    def test_no_check_is_asked_for_far_up_the_neck(self) -> None:
        for made in instruments():
            for method in METHODS:
                wanted = Wanted(made, made.tuning())
                if not serves(method, wanted):
                    continue
                extra = expected(plan_by(method, wanted), STEADY).extra_check
                if extra is not None and extra.fret is not None and extra.lower is not None:
                    fret = extra.fret - made.string(extra.lower).nut_fret
                    self.assertLessEqual(fret, 12, (made.id, method))

    def test_its_promise_is_kept(self) -> None:
        made = plan("guitar", "harmonics")
        found = expected(made, STEADY).extra_check
        assert found is not None
        assert found.lower is not None
        parts = [Comparison(step.string, step.other.string, 2.0, 0.0) for step in made.steps]
        after = np.array(with_check(covariance(parts, 6), found.lower, found.upper, sd_cents=2.0))
        start = made.steps[0].string - 1
        worst = max(after[n, n] + after[start, start] - 2.0 * after[start, n] for n in range(6))
        self.assertAlmostEqual(found.sd_cents, math.sqrt(worst))

    def test_where_no_two_strings_are_left_a_note_of_its_own(self) -> None:
        extra = expected(plan("viola", "fifths"), STEADY).extra_check
        assert extra is not None
        self.assertEqual((extra.lower, extra.upper), (None, 4))


class MonteCarlo(unittest.TestCase):
    """Whole attempts with drawn errors, against the analytic budget."""

    def test_to_three_per_cent(self) -> None:
        draw = random.Random(7)
        rounds = 8000  # the standard deviation of a standard deviation is then 0.8 %
        for name, method in (("guitar", "unison"), ("guitar", "harmonics"), ("mandolin", "fifths")):
            made = plan(name, method)
            by = EARS["beginner"]
            count = len(made.instrument.strings)
            found = expected(made, by)
            sums, squares = [0.0] * count, [0.0] * count
            ends = []
            low = min(range(count), key=lambda at: made.tuning.midis[at])
            high = max(range(count), key=lambda at: (made.tuning.midis[at], -at))
            for _ in range(rounds):
                off = self.attempt(made, by, draw)
                for at, cents in enumerate(off):
                    sums[at] += cents
                    squares[at] += cents * cents
                ends.append(off[high] - off[low])
            for at, one in enumerate(found.strings):
                mean = sums[at] / rounds
                sd = math.sqrt(squares[at] / rounds - mean * mean)
                self.assertAlmostEqual(sd / one.sd_cents, 1.0, delta=0.03)
                self.assertAlmostEqual(mean, one.bias_cents, delta=4 * sd / math.sqrt(rounds))
            if method != "fifths":  # of a course, another string may be the lowest here
                spread = float(np.std(ends))
                self.assertAlmostEqual(spread / found.end_to_end_sd_cents, 1.0, delta=0.03)

    def attempt(self, made: Plan, by: EarErrors, draw: random.Random) -> list[float]:
        """Tune string by string: an ear's error each time, and a finger on what is stopped."""
        off = [0.0] * len(made.instrument.strings)
        for step in made.steps:
            finger_own = finger_other = 0.0
            if step.own.fret:
                finger_own = by.finger_bias_cents + draw.gauss(0.0, by.finger_sd_cents)
            if step.other.fret:
                finger_other = by.finger_bias_cents + draw.gauss(0.0, by.finger_sd_cents)
            known = off[step.other.string - 1] if step.other.string else 0.0
            heard = draw.gauss(0.0, by.beats_sd_cents)
            off[step.string - 1] = known + finger_other - finger_own + heard
        return off


class Refusals(unittest.TestCase):
    def test_ears(self) -> None:
        with self.assertRaisesRegex(MeldrinError, "Unknown ear “golden”. Available: beginner"):
            ear("golden")
        with self.assertRaises(OutOfRange):
            EarErrors("x", "x", 0.0, 1.0, 0.0, 0.0)
        with self.assertRaises(OutOfRange):
            EarErrors("x", "x", 1.0, math.nan, 0.0, 0.0)
