"""Which partials meet, where they are touched, and in which order strings follow."""

import itertools
import math
import unittest

from hypothesis import given
from hypothesis import strategies as st

from meldrin.core.beats import FIFTH_FAMILY, MEETING, interval_name, meeting
from meldrin.core.catalogue import Tuning, instrument, instruments
from meldrin.core.methods.pairs import apart, leaders, node_fret, outward


class Meeting(unittest.TestCase):
    def test_partials_meet_where_the_tempered_interval_is(self) -> None:
        for semitones, (of_lower, of_upper) in MEETING.items():
            pure = 1200.0 * math.log2(of_lower / of_upper)
            limit = 2.0 if semitones in FIFTH_FAMILY else 16.0  # cents from equal temperament
            self.assertLess(abs(pure - 100.0 * semitones), limit, semitones)
            self.assertEqual(math.gcd(of_lower, of_upper), 1)

    def test_no_lower_pair_meets(self) -> None:
        for semitones, pair in MEETING.items():
            for lower in itertools.product(range(1, max(pair)), repeat=2):
                off = abs(1200.0 * math.log2(lower[0] / lower[1]) - 100.0 * semitones)
                self.assertGreater(off, 16.0, (semitones, lower))

    def test_where_nothing_low_meets(self) -> None:
        for semitones in (1, 2, 6, 10, 11, 13, 37):
            self.assertIsNone(meeting(semitones))

    def test_names(self) -> None:
        names = {
            0: "unison",
            5: "fourth",
            7: "fifth",
            12: "octave",
            16: "major third and an octave",
        }
        names |= {24: "two octaves", 31: "fifth and two octaves", 36: "three octaves"}
        for semitones, name in names.items():
            self.assertEqual(interval_name(semitones), name)


class Nodes(unittest.TestCase):
    def test_a_node_lies_where_the_rest_of_the_string_is_whole(self) -> None:
        # stopped at that fret the string would be (n - 1)/n as long
        for partial in range(2, 9):
            length = 2.0 ** (-node_fret(partial) / 12.0)
            self.assertAlmostEqual(length, (partial - 1) / partial)

    @given(st.integers(2, 16), st.integers(1, 12))
    def test_a_short_string_has_them_as_far_from_its_own_nut(self, partial: int, nut: int) -> None:
        shifted = node_fret(partial, nut_fret=nut)
        self.assertAlmostEqual(shifted - nut, node_fret(partial), places=9)


class Outward(unittest.TestCase):
    """Prim's tree against all trees there are."""

    @given(st.lists(st.integers(40, 76), min_size=4, max_size=5, unique=True), st.integers(0, 3))
    def test_the_cheapest_of_all_trees(self, midis: list[int], first: int) -> None:
        tuning = Tuning("own", "Own", tuple(midis), None, "")
        numbers = list(range(1, len(midis) + 1))

        def cost(new: int, old: int) -> float | None:
            pair = meeting(abs(midis[new - 1] - midis[old - 1]))
            return None if pair is None else float(max(pair))

        pairs, lost = outward(tuning, numbers, start=first + 1, cost=cost)
        reached = {first + 1, *(new for new, _ in pairs)}
        self.assertEqual(reached | set(lost), set(numbers))
        for at, (new, old) in enumerate(pairs):
            self.assertIn(old, {first + 1, *(one for one, _ in pairs[:at])})
            self.assertNotEqual(new, old)
        if lost:
            return
        spent = sum(cost(*pair) or 0.0 for pair in pairs)
        edges = [pair for pair in itertools.combinations(numbers, 2) if cost(*pair) is not None]
        cheapest = min(
            sum(cost(*pair) or 0.0 for pair in tree)
            for tree in itertools.combinations(edges, len(numbers) - 1)
            if self.spans(tree, numbers)
        )
        self.assertAlmostEqual(spent, cheapest)

    def spans(self, tree: tuple[tuple[int, int], ...], numbers: list[int]) -> bool:
        reached = {numbers[0]}
        for _ in numbers:
            for pair in tree:
                if reached & set(pair):
                    reached |= set(pair)
        return len(reached) == len(numbers)

    def test_upward_before_downward_among_equals(self) -> None:
        viola = instrument("viola")
        pairs, _ = outward(viola.tuning(), [1, 2, 3, 4], start=3, cost=lambda _new, _old: 1.0)
        self.assertEqual([new for new, _ in pairs], [2, 1, 4])


class Courses(unittest.TestCase):
    def test_one_leader_each(self) -> None:
        self.assertEqual(leaders(instrument("mandolin")), [1, 3, 5, 7])
        self.assertEqual(leaders(instrument("violin")), [1, 2, 3, 4])
        for made in instruments():
            courses = {string.course for string in made.strings}
            self.assertEqual(len(leaders(made)), len(courses))

    def test_how_far_across(self) -> None:
        mandolin = instrument("mandolin")
        self.assertEqual(apart(mandolin, 1, 2), 0)
        self.assertEqual(apart(mandolin, 1, 8), 3)
