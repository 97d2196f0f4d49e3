import unittest
from collections.abc import Callable
from itertools import pairwise

from meldrin.core.bench import (
    Damp,
    Doubt,
    Go,
    Help,
    Judge,
    Settle,
    SetTuner,
    Setup,
    Sound,
    Turn,
    matched_cents,
    replay,
)
from meldrin.core.methods import Step
from meldrin.core.scoring import RULE_IDS, Score, rubric, score
from meldrin.core.words import how_far
from tests.core.bench_hand import Hand, lost, parts, perfect, setup

Tune = Callable[[Hand, Step], None]


def guitar(start: str = "month", seed: int = 3, *behaviours: str, **more: object) -> Setup:
    return setup("guitar", "unison", start, seed, *behaviours, **more)


class WholeAttempts(unittest.TestCase):
    def test_a_perfect_hand_gets_everything(self) -> None:
        for start in ("hair", "month", "one"):
            result = Hand(guitar(start)).play()
            self.assertEqual(lost(result), {}, start)
            self.assertEqual(result.points, 100.0)
            # strings within 0.8 cents are left alone: the outer two differ by twice that at most
            self.assertAlmostEqual(result.closing_cents or 0.0, 0.0, delta=1.7)
            self.assertIn("Nothing to mend", result.advice.sentence)
            self.assertEqual(result.moments, ())

    def test_doing_nothing_brings_nothing(self) -> None:
        result = score(guitar("one", 5), [])
        self.assertEqual(result.points, 0.0)
        self.assertIn("did not listen to A, D, G, B, high E and low E", result.advice.sentence)

    def test_strings_left_out_bring_nothing_and_are_named(self) -> None:
        result = Hand(guitar()).play(lambda h, s: perfect(h, s) if s.string in (5, 4) else None)
        # 25 of the 95 that this exercise asks for, shared over six strings
        self.assertAlmostEqual(parts(result)["matched"], 25.0 * 2 / 6, places=5)
        left = [line for line in result.lines if line.string == 3]
        self.assertTrue(all(line.points == 0.0 for line in left))
        self.assertIn("You did not sound G with D", left[0].sentence)
        self.assertIn("G, B, high E and low E", result.advice.sentence)

    def test_every_line_has_its_points_and_a_sentence(self) -> None:
        everything = ("nut", "coupling", "ringing", "creep", "stroke", "reference")
        result = Hand(guitar("month", 3, *everything)).play()
        self.assertAlmostEqual(sum(line.out_of for line in result.lines), 100.0)
        for line in result.lines:
            self.assertRegex(line.sentence, r"^[A-Z0-9].*\.$")
            self.assertTrue(-1e-9 <= line.points <= line.out_of + 1e-9)

    def test_what_is_not_asked_for_is_left_out_and_the_rest_is_all_there_is(self) -> None:
        result = Hand(guitar()).play()
        self.assertAlmostEqual(sum(line.out_of for line in result.lines), 95.0)
        self.assertNotIn("reference", parts(result))
        rules = {line.rule for line in result.lines if line.rule}
        self.assertEqual(rules, set(RULE_IDS) - {"mute", "passes", "settle", "fifths"})

    def test_free_play_has_no_points_and_tells_where_the_strings_rest(self) -> None:
        made = setup("cello", "free", "month", 3)
        result = score(made, [])
        self.assertIsNone(result.points)
        self.assertEqual(len(result.strings), 4)
        self.assertEqual(result.advice.exercise.method, "each")


class EachHabitCostsItsOwnPart(unittest.TestCase):
    def lost(
        self, tune: Tune | None, made: Setup | None = None, *, check: bool = True
    ) -> dict[str, float]:
        return lost(Hand(made or guitar()).play(tune, check=check))

    def test_arriving_from_above(self) -> None:
        def tune(hand: Hand, stage: Step) -> None:
            hand.sound()
            hand.bring(stage, to_cents=3.0, way=1)
            hand.bring(stage, to_cents=0.0, way=-1)
            hand.sound()
            hand.do(Judge("still", 0.0), after_s=2.0)

        self.assertEqual(set(self.lost(tune)), {"from_below"})

    def test_overshooting(self) -> None:
        def tune(hand: Hand, stage: Step) -> None:
            hand.sound()
            hand.bring(stage, to_cents=-20.0, way=-1)
            hand.do(Help("ear"), after_s=2.5)
            hand.turn(stage.string, 35.0)
            hand.sound()
            hand.bring(stage, to_cents=0.0, way=1)
            hand.sound()
            hand.do(Judge("still", 0.0), after_s=2.0)

        result = Hand(guitar()).play(tune)
        self.assertEqual(set(lost(result)), {"small"})
        self.assertEqual({moment.name for moment in result.moments}, {"overshoot"})
        self.assertEqual(result.advice.button, "A hair out, small turns")

    def test_turning_in_silence_and_the_wrong_peg(self) -> None:
        def silent(hand: Hand, stage: Step) -> None:
            hand.do(Damp())
            hand.do(Turn(stage.string, 1.0))
            perfect(hand, stage)

        def wrong(hand: Hand, stage: Step) -> None:
            hand.sound()
            if stage.string == 5:
                hand.turn(6, -2.0)
                hand.turn(6, 2.0)
            perfect(hand, stage)

        self.assertEqual(set(self.lost(silent)), {"sounding"})
        result = Hand(guitar()).play(wrong)
        self.assertEqual(set(lost(result)), {"sounding"})
        self.assertIn("wrong peg", {moment.name for moment in result.moments})

    def test_turning_the_wrong_way_first(self) -> None:
        def tune(hand: Hand, stage: Step) -> None:
            hand.sound()
            off = matched_cents(hand.state, stage)
            hand.turn(stage.string, 20.0 if off > 0.0 else -20.0)
            perfect(hand, stage)

        self.assertEqual(set(self.lost(tune)), {"decide"})

    def test_loosening_a_low_string_and_tightening_it_in_one_go_is_not_the_wrong_way(self) -> None:
        made = setup("guitar", "unison", "one", 4, out_string=3, out_cents=-15.0)
        for listens in (False, True):

            def tune(hand: Hand, stage: Step, listens: bool = listens) -> None:
                hand.sound()
                if stage.string == 3:
                    hand.turn(3, -20.0)
                    if listens:
                        hand.sound()
                    hand.turn(3, 33.0)
                perfect(hand, stage)

            self.assertEqual(set(self.lost(tune, made)), {"decide"} if listens else set())

    def test_saying_nothing(self) -> None:
        def tune(hand: Hand, stage: Step) -> None:
            hand.sound()
            hand.bring(stage, to_cents=0.0, way=1)
            hand.sound()
            hand.do(Help("ear"), after_s=2.0)

        self.assertEqual(set(self.lost(tune)), {"judged", "leaning"})

    def test_judging_with_the_answer_in_sight(self) -> None:
        def level(hand: Hand, stage: Step) -> None:
            hand.do(Help("level"))
            perfect(hand, stage)

        def a_look(hand: Hand, stage: Step) -> None:
            hand.do(Help("level"))
            hand.sound()
            hand.do(Help("ear"))
            perfect(hand, stage)

        for tune in (level, a_look):
            self.assertEqual(set(self.lost(tune)), {"judged", "leaning"})

    def test_saying_it_before_looking_counts(self) -> None:
        def tune(hand: Hand, stage: Step) -> None:
            hand.sound()
            hand.bring(stage, to_cents=0.0, way=1)
            hand.sound()
            hand.do(Judge("still", 0.0), after_s=2.0)
            hand.do(Help("level"))
            hand.do(Help("ear"))

        self.assertEqual(self.lost(tune), {})

    def test_leaving_the_check_out(self) -> None:
        self.assertEqual(set(self.lost(None, check=False)), {"check"})

    def test_judging_in_the_attack_and_striking_unevenly(self) -> None:
        def rushed(hand: Hand, stage: Step) -> None:
            hand.sound()
            hand.bring(stage, to_cents=0.0, way=1)
            hand.sound()
            hand.do(Judge("still", 0.0), after_s=0.2)
            hand.do(Help("ear"), after_s=2.0)

        def uneven(hand: Hand, stage: Step) -> None:
            hand.do(Sound((stage.string,), strength=1.0))
            perfect(hand, stage)
            touch = stage.other.string
            pair = (stage.string,) if touch is None else (stage.string, touch)
            hand.do(Sound(pair, reference=touch is None, strength=0.2))

        self.assertEqual(set(self.lost(rushed)), {"stroke"})
        self.assertEqual(set(self.lost(uneven)), {"stroke"})

    def test_not_settling_where_strings_give(self) -> None:
        made = guitar("month", 3, "nut")

        def settled(hand: Hand, stage: Step) -> None:
            perfect(hand, stage)
            hand.do(Settle(stage.string))
            perfect(hand, stage)

        self.assertEqual(set(self.lost(None, made)), {"settle"})
        self.assertNotIn("settle", self.lost(settled, made))

    def test_letting_others_ring(self) -> None:
        made = guitar("hair", 3, "ringing")
        self.assertEqual(set(self.lost(None, made)), {"mute"})

    def test_a_fifth_left_before_it_locks(self) -> None:
        def hurried(hand: Hand, stage: Step) -> None:
            hand.sound()
            hand.bring(stage, to_cents=0.0, way=1)
            hand.sound()
            hand.do(Judge("still", 0.0), after_s=0.6)

        made = setup("violin", "fifths", "month", 3)
        self.assertEqual(set(self.lost(hurried, made)), {"fifths"})
        self.assertEqual(self.lost(None, made), {})

    def test_a_wrong_first_string_moves_everything_but_not_the_matches(self) -> None:
        def tune(hand: Hand, stage: Step) -> None:
            first = stage.string == 5
            hand.sound()
            hand.bring(stage, to_cents=-15.0 if first else 0.0, way=1)
            hand.sound()
            hand.do(Judge("low", 15.0) if first else Judge("still", 0.0), after_s=2.0)

        missing = self.lost(tune)
        # (24 - 15)/(24 - 6) = half: half of A's sixth of 25, and half of all 8
        self.assertAlmostEqual(missing["matched"], 25 / 12, delta=0.05)
        self.assertAlmostEqual(missing["placed"], 4.0, delta=0.3)
        self.assertEqual(set(missing), {"matched", "placed"})

    def test_polishing_one_string_while_another_hangs_far_out(self) -> None:
        made = guitar("octave", 3)

        def coarse_first(hand: Hand, stage: Step) -> None:
            if stage is hand.setup.plan.steps[0]:
                for index, other in enumerate(hand.setup.plan.steps):
                    hand.do(Go(index))
                    hand.sound()
                    while matched_cents(hand.state, other) < -40.0:
                        hand.do(Turn(other.string, 20.0))
                        hand.sound()
                hand.do(Go(0))
            perfect(hand, stage)

        careless = Hand(made).play()
        names = {moment.name for moment in careless.moments}
        self.assertIn("polished too soon", names)
        careful = Hand(made).play(coarse_first)
        self.assertNotIn("polished too soon", {moment.name for moment in careful.moments})


class Danger(unittest.TestCase):
    def test_a_string_turned_far_above_its_note_costs_half_and_a_snapped_one_all(self) -> None:
        def far(hand: Hand, stage: Step) -> None:
            if stage.string == 4:
                hand.sound()
                while matched_cents(hand.state, stage) < 130.0:
                    hand.turn(4, 40.0)
                hand.bring(stage, to_cents=-20.0, way=-1)
            perfect(hand, stage)

        result = Hand(guitar()).play(far)
        (line,) = [line for line in result.lines if line.part == "safety"]
        self.assertAlmostEqual(line.points, 3.0)
        self.assertIn("D was turned", line.sentence)
        self.assertIn("danger", {moment.name for moment in result.moments})

    def test_a_broken_string_is_told_with_what_led_to_it(self) -> None:
        hand = Hand(guitar("month", 3, "breaking"))
        while not hand.state.snaps:
            hand.do(Turn(1, 30.0))
        result = score(hand.setup, hand.log)
        (line,) = [line for line in result.lines if line.part == "safety"]
        self.assertEqual(line.points, 0.0)
        self.assertRegex(line.sentence, r"snapped .* half steps above its note after \d+ turns up")


class References(unittest.TestCase):
    def reference(self, made: Setup, *said: Doubt | SetTuner) -> float:
        hand = Hand(made)
        for action in said:
            hand.do(action)
        hand.sound()
        (line,) = [x for x in score(made, hand.log).lines if x.part == "reference"]
        return line.points / line.out_of

    def test_finding_it_out_and_saying_so(self) -> None:
        made = setup("viola", "fifths", "reference", 3)
        off = Hand(made).state.reference_cents
        right, wrong = ("high", "low") if off > 0.0 else ("low", "high")
        self.assertEqual(self.reference(made, Doubt(right)), 1.0)  # type: ignore[arg-type]
        self.assertEqual(self.reference(made, Doubt(wrong)), 0.5)  # type: ignore[arg-type]
        self.assertEqual(self.reference(made, Doubt("still")), 0.0)
        self.assertEqual(self.reference(made), 0.0)

    def test_a_tuner_set_right_or_left_wrong(self) -> None:
        made = setup("mandolin", "tuner", "reference", 3)
        self.assertEqual(self.reference(made, SetTuner(440.0)), 1.0)
        self.assertEqual(self.reference(made), 0.0)

    def test_strings_matched_to_a_wrong_fork_agree_with_each_other_and_not_with_the_world(
        self,
    ) -> None:
        made = setup("viola", "fifths", "reference", 3)

        def trusting(hand: Hand, stage: Step) -> None:
            hand.sound()
            off = hand.state.reference_cents if stage.other.string is None else 0.0
            hand.bring(stage, to_cents=off, way=1)
            hand.sound()
            hand.do(Judge("still", 0.0), after_s=2.5)

        result = Hand(made).play(trusting)
        missing = lost(result)
        self.assertEqual(missing["reference"], 5.0)
        self.assertNotIn("judged", missing)  # against what sounded, it was still
        self.assertNotIn("closed", missing)
        self.assertGreater(missing["placed"], 0.5)


class Judgement(unittest.TestCase):
    def share(self, off_cents: float, said: Judge) -> float:
        def tune(hand: Hand, stage: Step) -> None:
            hand.sound()
            hand.bring(stage, to_cents=off_cents, way=1)
            hand.sound()
            hand.do(said, after_s=2.0)

        result = Hand(guitar()).play(tune)
        line = next(x for x in result.lines if x.part == "judged" and x.string == 5)
        return line.points / line.out_of

    def test_the_side_is_half_and_the_amount_the_other(self) -> None:
        self.assertEqual(self.share(-10.0, Judge("low", 10.0)), 1.0)
        self.assertEqual(self.share(-10.0, Judge("high", 10.0)), 0.0)
        self.assertEqual(self.share(-10.0, Judge("still", 0.0)), 0.0)
        # 25 cents said of 10: 15 off, half way from 6 to 24, so half of the half
        self.assertAlmostEqual(self.share(-10.0, Judge("low", 25.0)), 0.75, delta=0.01)

    def test_at_the_limit_of_still_both_answers_are_right(self) -> None:
        # settled: still is within 3 cents, and a cent of slack
        self.assertEqual(self.share(-2.9, Judge("still", 0.0)), 1.0)
        self.assertEqual(self.share(-2.9, Judge("low", 3.0)), 1.0)

    def test_a_leaning_is_told(self) -> None:
        def tune(hand: Hand, stage: Step) -> None:
            hand.sound()
            hand.bring(stage, to_cents=-12.0, way=1)
            hand.sound()
            hand.do(Judge("low", 4.0), after_s=2.0)

        result: Score = Hand(guitar()).play(tune)
        # 8 cents higher than it was, every time
        self.assertAlmostEqual(result.leaning_cents or 0.0, 8.0, delta=0.2)
        (line,) = [line for line in result.lines if line.part == "leaning"]
        self.assertIn("8.0 cents higher", line.sentence)
        # twice 8 against 6 and 24
        self.assertAlmostEqual(line.points / line.out_of, (24 - 16) / 18, delta=0.03)


class Advising(unittest.TestCase):
    def test_the_exercise_for_it_can_be_started_and_trains_what_was_lost(self) -> None:
        def above(hand: Hand, stage: Step) -> None:
            hand.sound()
            hand.bring(stage, to_cents=0.0, way=-1)
            hand.sound()
            hand.do(Judge("still", 0.0), after_s=2.0)

        advice = Hand(guitar()).play(above).advice
        self.assertIn("come up to the pitch", advice.sentence)
        self.assertIn("nut", advice.exercise.behaviours)
        self.assertEqual(replay(advice.exercise, []).stage, 0)

    def test_one_string_far_off_is_named_and_put_out_again(self) -> None:
        def tune(hand: Hand, stage: Step) -> None:
            hand.sound()
            far = stage.string == 2
            hand.bring(stage, to_cents=-23.0 if far else 0.0, way=1)
            hand.sound()
            hand.do(Judge("low", 23.0) if far else Judge("still", 0.0), after_s=2.0)

        # each string to its own note: no other string follows this one
        advice = Hand(setup("guitar", "each", "month", 3)).play(tune).advice
        self.assertIn("B", advice.button)
        self.assertEqual((advice.exercise.start, advice.exercise.out_string), ("one", 2))


class Rules(unittest.TestCase):
    def test_share_falls_evenly_between_its_limits(self) -> None:
        settled = rubric().tolerances["settled"]
        for cents, share in ((0.0, 1.0), (-6.0, 1.0), (15.0, 0.5), (24.0, 0.0), (-90.0, 0.0)):
            self.assertAlmostEqual(settled.share(cents), share)

    def test_levels_get_stricter(self) -> None:
        levels = list(rubric().tolerances.values())
        self.assertEqual([one.full_cents for one in levels], [15.0, 6.0, 3.0, 1.0])
        for looser, stricter in pairwise(levels):
            self.assertGreater(looser.nothing_cents, stricter.nothing_cents)
            self.assertGreaterEqual(looser.still_cents, stricter.still_cents)

    def test_words(self) -> None:
        self.assertEqual(how_far(0.04), "still")
        self.assertEqual(how_far(-1.0), "1.0 cent low")
        self.assertEqual(how_far(12.34), "12.3 cents high")
        self.assertEqual(how_far(-1200.0), "12.0 half steps low")
        self.assertEqual(how_far(float("-inf")), "slack")
