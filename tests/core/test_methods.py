"""The methods against theory: hand values, and laws over the whole catalogue."""

import math
import unittest
from collections.abc import Iterator
from dataclasses import replace

from hypothesis import given, settings
from hypothesis import strategies as st

from meldrin.core.catalogue import Tuning, instrument, instruments, tuning_of_notes
from meldrin.core.errors import MeldrinError
from meldrin.core.methods import METHODS, Plan, Side, Wanted, plan_by, serves
from meldrin.core.methods.outcome import intervals, outcome
from meldrin.core.methods.pairs import node_fret
from meldrin.core.strings import WARNING_SHARE
from meldrin.core.temperament import EQUAL, Temperament, sweetened

COMMA = 1200.0 * math.log2(1.5) - 700.0  # 1.955 cents, a pure fifth over a tempered one


def plan(name: str, method: str, *, tuning: str = "standard", **more: object) -> Plan:
    made = instrument(name)
    return plan_by(method, replace(Wanted(made, made.tuning(tuning)), **more))  # type: ignore[arg-type]


def offsets(made: Plan) -> dict[int, float]:
    return {one.number: one.equal_cents for one in outcome(made)}


class Harmonics(unittest.TestCase):
    def test_what_they_leave_on_a_guitar_from_a(self) -> None:
        found = offsets(plan("guitar", "harmonics"))
        hand = {6: COMMA, 5: 0.0, 4: -COMMA, 3: -2 * COMMA, 2: 2 * COMMA, 1: COMMA}
        for number, cents in hand.items():
            self.assertAlmostEqual(found[number], cents, places=9)

    def test_the_third_between_g_and_b_is_sour(self) -> None:
        third = next(one for one in intervals(plan("guitar", "harmonics")) if one.lower == 3)
        self.assertAlmostEqual(third.cents, 1200.0 * math.log2(81 / 64), places=9)  # 407.820
        self.assertAlmostEqual(third.against_pure_cents, 1200.0 * math.log2(81 / 80), places=9)
        self.assertTrue(third.sour)

    def test_stiff_strings_bring_a_low_e_nearer_to_a(self) -> None:
        # 4 f_E sqrt(1+16 B_E) = 3 f_A sqrt(1+9 B_A): with B_A = 5.3e-5 and B_E = 9.5e-5 the E ends
        # 865.6 (9 B_A - 16 B_E + B_E - B_A) = -0.86 cents below the flexible +1.955
        low_e = outcome(plan("guitar", "harmonics"))[5]
        self.assertAlmostEqual(low_e.stiff_cents, 1.10, delta=0.05)

    def test_nodes_and_partials(self) -> None:
        made = plan("guitar", "harmonics")
        d_from_a = next(step for step in made.steps if step.string == 4)
        self.assertEqual((d_from_a.own.partial, d_from_a.other.partial), (3, 4))
        # 12 log2(3/2) and 12 log2(4/3) semitones above the nut
        self.assertAlmostEqual(d_from_a.own.node_fret or 0.0, 7.01955, places=4)
        self.assertAlmostEqual(d_from_a.other.node_fret or 0.0, 4.98045, places=4)
        b = next(step for step in made.steps if step.string == 2)
        self.assertEqual((b.other.string, b.other.partial, b.own.node_fret), (6, 3, None))

    def test_nodes_of_a_bare_fingerboard_are_shares_of_the_string(self) -> None:
        step = plan("double-bass", "harmonics").steps[1]
        self.assertEqual({step.own.node_share, step.other.node_share}, {1 / 3, 1 / 4})
        self.assertIn("a third of the string", step.instruction)

    def test_thirds_only_over_a_tonic(self) -> None:
        with self.assertRaisesRegex(
            MeldrinError, "third or a step .* both hands.* What can serve: unison"
        ):
            plan("ukulele", "harmonics")
        b = offsets(plan("guitar", "harmonics", tuning="open-g"))[2]
        g = offsets(plan("guitar", "harmonics", tuning="open-g"))[3]
        self.assertAlmostEqual(b - g, 1200.0 * math.log2(5 / 4) - 400.0, places=9)

    def test_a_short_string_has_its_nodes_from_its_own_nut(self) -> None:
        self.assertAlmostEqual(node_fret(2, nut_fret=5), 17.0)
        short = next(s for s in plan("banjo", "harmonics").steps if 5 in (s.string, s.other.string))
        touch = short.own if short.own.string == 5 else short.other
        self.assertIn(touch.node_fret, (None, 17.0))


class Fifths(unittest.TestCase):
    def test_pure_fifths_outward_from_a(self) -> None:
        found = offsets(plan("violin", "fifths"))
        for number, cents in {1: COMMA, 2: 0.0, 3: -COMMA, 4: -2 * COMMA}.items():
            self.assertAlmostEqual(found[number], cents, places=9)
        self.assertAlmostEqual(offsets(plan("viola", "fifths"))[4], -3 * COMMA, places=9)
        self.assertTrue(all(step.beats_hz == 0.0 for step in plan("violin", "fifths").steps))

    def test_equal_tempered_fifths_of_a_violin_beat(self) -> None:
        # |3 f_low - 2 f_high| at 440: G-D 0.66, D-A 0.99, A-E 1.49
        made = plan("violin", "fifths", temperament=EQUAL)
        beats = {step.string: round(step.beats_hz, 2) for step in made.steps}
        self.assertEqual(beats, {2: 0.0, 1: 1.49, 3: 0.99, 4: 0.66})
        self.assertIn("narrowed by 2.0 cents", made.steps[1].interval)
        self.assertAlmostEqual(made.steps[1].target_cents, 700.0, places=9)

    def test_narrowed_fifths_add_up(self) -> None:
        made = plan("viola", "fifths", temperament=Temperament("fifths", fifth_cents=-1.0))
        found = offsets(made)
        for number, fifths in {1: 0, 2: -1, 3: -2, 4: -3}.items():
            self.assertAlmostEqual(found[number], fifths * (COMMA - 1.0), places=9)

    def test_both_strings_of_a_course(self) -> None:
        made = plan("mandolin", "fifths")
        order = [(step.string, step.other.string) for step in made.steps]
        self.assertEqual(order[:4], [(3, None), (4, 3), (1, 3), (2, 1)])
        self.assertEqual(made.steps[1].interval, "unison")

    def test_a_course_in_octaves(self) -> None:
        mandolin = instrument("mandolin")
        own = tuning_of_notes(mandolin.strings, "G3 G3 D4 D4 A4 A4 E5 E4")
        made = plan_by("fifths", Wanted(mandolin, own))
        self.assertAlmostEqual(made.ideal_hz[0] / made.ideal_hz[1], 0.5, places=9)
        second = next(step for step in made.steps if step.string == 2)
        self.assertEqual((second.other.string, second.interval), (1, "pure octave"))

    def test_an_octave_and_a_fourth_of_a_cross_tuning(self) -> None:
        made = plan("violin", "fifths", tuning="cross-a")  # A3 E4 A4 E5
        found = offsets(made)
        for number, cents in {1: COMMA, 2: 0.0, 3: COMMA, 4: 0.0}.items():
            self.assertAlmostEqual(found[number], cents, places=9)

    def test_no_fifths_between_neighbours(self) -> None:
        with self.assertRaisesRegex(MeldrinError, "fifth apart .* What can serve: harmonics"):
            plan("double-bass", "fifths")


class StoppedUnisons(unittest.TestCase):
    def frets(self, name: str, tuning: str = "standard") -> dict[int, tuple[int | None, int]]:
        made = plan(name, "unison", tuning=tuning)
        return {
            step.string: (step.other.string, step.other.fret or step.own.fret)
            for step in made.steps
        }

    def test_frets_that_players_know(self) -> None:
        found = self.frets("baritone-ukulele")
        self.assertEqual({n: found[n][1] for n in (3, 2, 1)}, {3: 5, 2: 4, 1: 5})
        # a banjo: 5, 4, 3 up from the low D, and the short string at the first's fret 5
        found = self.frets("banjo")
        self.assertEqual((found[2], found[1], found[5]), ((3, 4), (2, 3), (1, 5)))
        self.assertEqual(found[4], (3, 5))
        self.assertEqual({fret for other, fret in self.frets("bass").values() if other}, {5})
        courses = self.frets("mandolin")
        self.assertEqual({courses[n][1] for n in (1, 5, 7)}, {7})

    def test_a_re_entrant_string(self) -> None:
        # a soprano ukulele: E at its fret 5 with A, C at its fret 4 with E, the high G at E's 3
        self.assertEqual(self.frets("ukulele"), {1: (None, 0), 2: (1, 5), 3: (2, 4), 4: (2, 3)})

    def test_only_equal_temperament(self) -> None:
        with self.assertRaisesRegex(MeldrinError, "Frets stand in equal temperament"):
            plan("guitar", "unison", temperament=Temperament("just", tonic=2))


class Closing(unittest.TestCase):
    def octave(self, made: Plan) -> str:
        return next(one.instruction for one in made.checks if one.target_cents % 1200.0 < 20.0)

    def test_a_plucked_octave_may_beat_slowly_and_a_bowed_one_not(self) -> None:
        self.assertIn("A very slow beat may stay", self.octave(plan("guitar", "each")))
        bowed = plan("violin", "each", tuning="cross-a")
        self.assertIn("It should be still", self.octave(bowed))
        self.assertTrue(all(one.beats_hz < 1e-9 for one in bowed.checks))

    def test_an_octave_parted_by_chosen_offsets(self) -> None:
        own = Temperament("custom", custom={6: -2.0}, reason="a try")
        # 2 cents at 329.6 Hz: 329.6 * 2 * 0.000578 = 0.38 beats a second
        said = self.octave(plan("guitar", "each", temperament=own))
        self.assertIn("about 0.4 beats a second", said)

    def test_the_same_comparisons_once_more(self) -> None:
        titles = [one.title for one in plan("cello", "fifths").checks]
        self.assertEqual(titles, ["Again: D with A", "Again: G with D", "Again: C with G"])


class Drone(unittest.TestCase):
    def test_the_degrees_of_a_sitar_over_sa(self) -> None:
        made = plan("sitar", "drone")
        ratios = {1: 4 / 3, 3: 3 / 4, 4: 1 / 2, 5: 3 / 2, 9: 15 / 8, 11: 9 / 4, 12: 5 / 2}
        ratios |= {14: 8 / 3, 15: 3.0, 16: 10 / 3, 20: 5.0}
        sa_hz = 440.0 * 2.0 ** (-20 / 12)
        self.assertAlmostEqual(made.reference.hz, sa_hz, places=9)
        for number, ratio in ratios.items():
            self.assertAlmostEqual(made.ideal_hz[number - 1] / sa_hz, ratio, places=9)

    def test_playing_strings_first_and_the_tonic_first_of_all(self) -> None:
        steps = plan("sitar", "drone").steps
        self.assertEqual([step.string for step in steps[:2]], [2, 4])
        self.assertTrue(all(step.string > 7 for step in steps[7:]))

    def test_another_tonic(self) -> None:
        made = plan("violin", "drone", tonic=2)
        self.assertAlmostEqual(offsets(made)[4], -COMMA, places=9)  # G, a fourth over D: 4/3
        self.assertAlmostEqual(offsets(made)[1], 2 * COMMA, places=9)  # E, 9/8


class OneByOne(unittest.TestCase):
    def test_each_and_tuner_leave_equal_temperament(self) -> None:
        for method in ("each", "tuner", "mixed"):
            for cents in offsets(plan("cello", method)).values():
                self.assertAlmostEqual(cents, 0.0, places=9)

    def test_the_tuner_says_the_offset_to_read(self) -> None:
        own = Temperament("custom", custom={6: -2.0}, reason="songs in G")
        step = next(s for s in plan("guitar", "tuner", temperament=own).steps if s.string == 6)
        self.assertIn("until it says E2 and -2.0 cents", step.instruction)

    def test_a_tempered_fork_is_left_on_one_side(self) -> None:
        midis = dict(enumerate(instrument("guitar").tuning().midis, start=1))
        own = sweetened(midis, tonic=7, share=1.0)  # A is 9/8 over G: 3.91 cents high
        first = plan("guitar", "mixed", temperament=own).steps[0]
        self.assertAlmostEqual(first.offset_cents, 2 * COMMA, places=9)
        self.assertIn("a little above", first.instruction)

    def test_a_mixed_plan_is_checked_by_ear(self) -> None:
        checks = plan("guitar", "mixed").checks
        octave = next(one for one in checks if one.target_cents == 2400.0)
        self.assertEqual((octave.own.string, octave.other.string), (6, 1))
        self.assertGreaterEqual(len(checks), 4)


def everything() -> Iterator[tuple[str, Tuning, str, Plan]]:
    for made in instruments():
        for tuning in made.tunings:
            wanted = Wanted(made, tuning)
            for method in METHODS:
                if serves(method, wanted):
                    yield made.id, tuning, method, plan_by(method, wanted)


def by_hand(made: Plan) -> dict[int, float]:
    """Carry a plan out on strings without stiffness: partial n at n f0, frets at 2^(fret/12)."""
    hz: dict[int, float] = {}

    def sounding(touch: Side, f0: float) -> float:
        nut = 0 if touch.string is None else made.instrument.string(touch.string).nut_fret
        stopped = touch.fret - nut if touch.fret else 0
        return f0 * touch.partial * math.pow(2.0, stopped / 12.0)

    for step in made.steps:
        f0 = hz[step.other.string] if step.other.string else step.other.hz
        assert f0 is not None
        goal = sounding(step.other, f0) * 2.0 ** (step.offset_cents / 1200.0)
        hz[step.string] = goal / sounding(step.own, 1.0)
    return hz


class TheWholeCatalogue(unittest.TestCase):
    def test_every_plan(self) -> None:
        for name, tuning, method, made in everything():
            with self.subTest(instrument=name, tuning=tuning.id, method=method):
                numbers = [string.number for string in made.instrument.strings]
                self.assertEqual(sorted(step.string for step in made.steps), numbers)
                known: set[int] = set()
                for step in made.steps:
                    self.assertTrue(step.other.string is None or step.other.string in known)
                    known.add(step.string)
                    self.assertTrue(math.isfinite(step.seconds_to_hear))
                done = by_hand(made)
                for row in outcome(made):
                    equal = 440.0 * 2.0 ** ((tuning.midi(row.number) - 69) / 12.0)
                    ended = 1200.0 * math.log2(done[row.number] / equal)
                    self.assertAlmostEqual(ended, row.equal_cents, places=6)
                    self.assertLessEqual(row.breaking_share, WARNING_SHARE)

    def test_where_a_method_cannot_serve_it_names_one_that_can(self) -> None:
        for made in instruments():
            for tuning in made.tunings:
                wanted = Wanted(made, tuning)
                for method in METHODS:
                    try:
                        plan_by(method, wanted)
                    except MeldrinError as error:
                        instead = error.facts["instead"]
                        self.assertTrue(serves(str(instead), wanted), (made.id, method))

    @settings(deadline=None)
    @given(st.integers(0, 5), st.integers(-3, 3))
    def test_tunings_of_ones_own(self, number: int, semitones: int) -> None:
        guitar = instrument("guitar")
        midis = list(guitar.tuning().midis)
        midis[number] += semitones
        own = Tuning("own", "Own", tuple(midis), None, "")
        try:
            wanted = Wanted(guitar, own)
        except MeldrinError as error:
            self.assertEqual(error.code, "unsafe_tuning")
            return
        for method in METHODS:
            if serves(method, wanted):
                found = plan_by(method, wanted)
                self.assertEqual(len({step.string for step in found.steps}), 6)


class ToItself(unittest.TestCase):
    """Nothing at hand: one string is trusted as it is."""

    def test_every_other_string_follows_it_upwards_too(self) -> None:
        guitar = instrument("guitar")
        made = plan_by("unison", Wanted(guitar, guitar.tuning(), start=6, itself=True))
        self.assertEqual((made.trusted, made.reference.kind), (6, "itself"))
        pairs = [(step.string, step.other.string) for step in made.steps]
        self.assertEqual(pairs, [(5, 6), (4, 5), (3, 4), (2, 3), (1, 2)])
        self.assertIn("You trust low E as it is", made.steps[0].instruction)
        self.assertIn("may be off for playing with others", made.steps[0].instruction)

    def test_it_leaves_what_the_method_leaves_counted_from_that_string(self) -> None:
        viola = instrument("viola")
        made = plan_by("fifths", Wanted(viola, viola.tuning(), start=3, itself=True))
        # pure fifths up from G: +1.955 each, and one down to C
        offs = {one.number: one.equal_cents for one in outcome(made)}
        for number, cents in {4: -1.955, 3: 0.0, 2: 1.955, 1: 3.910}.items():
            self.assertAlmostEqual(offs[number], cents, places=3)

    def test_methods_that_need_a_source_say_so_and_name_another(self) -> None:
        guitar = instrument("guitar")
        for method in ("each", "drone", "tuner", "mixed"):
            with self.assertRaisesRegex(MeldrinError, "cannot start from one string. What can"):
                plan_by(method, Wanted(guitar, guitar.tuning(), itself=True))

    def test_the_order_is_the_players_where_a_method_allows_it(self) -> None:
        guitar = instrument("guitar")
        for method in ("each", "tuner"):
            for order, numbers in (("up", [6, 5, 4, 3, 2, 1]), ("down", [1, 2, 3, 4, 5, 6])):
                wanted = Wanted(guitar, guitar.tuning(), order=order)  # type: ignore[arg-type]
                made = plan_by(method, wanted)
                self.assertEqual([step.string for step in made.steps], numbers)


class Requests(unittest.TestCase):
    def test_none_such(self) -> None:
        with self.assertRaisesRegex(MeldrinError, "Unknown method “scales”. Available: each"):
            plan("guitar", "scales")
        with self.assertRaisesRegex(MeldrinError, "Unknown string 9"):
            plan("guitar", "unison", start=9)

    def test_an_offset_past_what_a_string_should_bear(self) -> None:
        # a tenor guitar's A4 sits at 77 %; 50 cents up are 2^(100/1200) = 6 % more tension: 82 %
        own = Temperament("custom", custom={1: 50.0}, reason="a try")
        with self.assertRaisesRegex(MeldrinError, "String 1 would be at 8[12]%"):
            plan("tenor-guitar", "tuner", temperament=own)

    def test_a_chosen_string_to_begin_with(self) -> None:
        made = plan("violin", "fifths", start=3)
        self.assertEqual((made.steps[0].string, made.reference.kind), (3, "tone"))
        self.assertAlmostEqual(offsets(made)[2], COMMA, places=9)  # A, a pure fifth over an equal D

    def test_notes_string_by_string_or_course_by_course(self) -> None:
        mandolin = instrument("mandolin")
        own = tuning_of_notes(mandolin.strings, "G3 G3 D4 D4 A4 A4 E5 E5")
        self.assertEqual(own.midis, mandolin.tuning().midis)
        self.assertEqual(tuning_of_notes(mandolin.strings, "G3 D4 A4 E5").midis, own.midis)
