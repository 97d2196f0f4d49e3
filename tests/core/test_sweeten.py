import unittest

from meldrin.core.catalogue import instrument
from meldrin.core.errors import MeldrinError
from meldrin.core.methods import Wanted, plan_by
from meldrin.core.sweeten import Chosen, chosen_said, sweeten

GUITAR = instrument("guitar")


class Offsets(unittest.TestCase):
    def test_a_third_is_made_pure_by_both_its_strings(self) -> None:
        # with A held both are free: G-B wants 386.314 - 400 = -13.686, half from each
        found = sweeten(GUITAR, GUITAR.tuning(), [Chosen(3, 2)], held=5)
        self.assertAlmostEqual(found.custom[2], -13.686 / 2, delta=0.001)
        self.assertAlmostEqual(found.custom[3], 13.686 / 2, delta=0.001)
        self.assertEqual(found.reason, "G–B pure")

    def test_the_held_string_stays(self) -> None:
        found = sweeten(GUITAR, GUITAR.tuning(), [Chosen(3, 2)], held=3)
        self.assertEqual(set(found.custom), {2})
        self.assertAlmostEqual(found.custom[2], -13.686, delta=0.001)

    def test_frets_belong_to_their_string(self) -> None:
        # low E with G at fret 1, G#: a major tenth, 1600 - 13.686; E moves up if G is held
        found = sweeten(GUITAR, GUITAR.tuning(), [Chosen(6, 3, 0, 1)], held=3)
        self.assertAlmostEqual(found.custom[6], 13.686, delta=0.001)
        self.assertEqual(found.reason, "low E–G fret 1 pure")

    def test_contradictions_are_shared_and_said(self) -> None:
        # over equal temperament: A-D pure -1.955, D-B (5:3) -15.641, A-B (9:4) +3.910. The first
        # two make -17.596, 21.506 from the third: a third of that is left of each
        against = [Chosen(5, 4), Chosen(4, 2), Chosen(5, 2)]
        found = sweeten(GUITAR, GUITAR.tuning(), against, held=5)
        self.assertEqual(found.reason, "A–D, D–B and A–B to within 7.2 cents of pure")
        # D-G (-1.955) and G-B (-13.686) make D-B (-15.641): nothing is left
        agreeing = [Chosen(4, 3), Chosen(3, 2), Chosen(4, 2)]
        found = sweeten(GUITAR, GUITAR.tuning(), agreeing, held=4)
        self.assertEqual(found.reason, "D–G, G–B and D–B pure")

    def test_the_plan_leads_there(self) -> None:
        tuning = GUITAR.tuning()
        found = sweeten(GUITAR, tuning, [Chosen(3, 2)], held=5)
        plan = plan_by("each", Wanted(GUITAR, tuning, temperament=found))
        b_hz, g_hz = plan.ideal_hz[1], plan.ideal_hz[2]
        self.assertAlmostEqual(b_hz / g_hz, 5 / 4, places=9)


class Saying(unittest.TestCase):
    def test_in_text(self) -> None:
        self.assertEqual(chosen_said("3-2, 6-3:1"), (Chosen(3, 2), Chosen(6, 3, 0, 1)))
        for wrong in ("3", "3-2-1", "a-b", "3:x-2"):
            with self.assertRaisesRegex(MeldrinError, "is not an interval"):
                chosen_said(wrong)

    def test_what_makes_no_sense(self) -> None:
        for wrong in ([], [Chosen(3, 2)] * 4, [Chosen(3, 3)], [Chosen(3, 9)], [Chosen(3, 2, 99)]):
            with self.assertRaises(MeldrinError, msg=str(wrong)):
                sweeten(GUITAR, GUITAR.tuning(), wrong, held=5)
