import unittest
from collections.abc import Callable

import numpy as np

from meldrin.core.bench import (
    Action,
    Finish,
    Go,
    Help,
    Judge,
    Setup,
    Sound,
    State,
    TimedAction,
    Turn,
    matched_cents,
    opening,
    step,
)
from meldrin.core.bench.setup import StartKind
from meldrin.core.learner import Ear, practise
from meldrin.core.methods import Step
from meldrin.core.scoring import Score, rubric, score
from meldrin.core.words import how_far


class Hand:
    """A hand that knows the pitch: it plays an attempt exactly, but for the habits it is given."""

    def __init__(self, seed: int = 3, start: StartKind = "month") -> None:
        self.setup = Setup("guitar", "unison", start, seed)
        self.state: State = opening(self.setup)
        self.log: list[TimedAction] = []
        self.do(Help("ear"))

    def do(self, action: Action) -> None:
        at_s = self.state.time_s + 0.5
        self.state, _ = step(self.state, action, dt_s=at_s - self.state.time_s)
        self.log.append(TimedAction(at_s, action))

    def sound(self) -> None:
        stage = self.state.current()
        pair = (stage.own.string, stage.other.string)
        self.do(Sound(tuple(n for n in pair if n is not None), reference=None in pair))

    def bring(self, stage: Step, *, to_cents: float, way: int) -> None:
        """Turn until the string is within 0.05 cents of a place, the last turn in a direction."""
        for _ in range(60):
            off = matched_cents(self.state, stage) - to_cents
            last = self.state.string(stage.string).last_turn
            if abs(off) < 0.05 and last == way:
                return
            if off * way > 0.0 or abs(off) < 0.05:
                self.do(Turn(stage.string, -way * 12.0))  # to the far side, to arrive from there
            else:
                self.do(Turn(stage.string, way * max(0.005, abs(off) * 0.55)))
        raise AssertionError("the hand did not arrive")

    def play(
        self, tune: Callable[["Hand", Step], None] | None = None, *, check: bool = True
    ) -> Score:
        for index, stage in enumerate(self.setup.plan.stages):
            self.do(Go(index))
            if isinstance(stage, Step):
                (tune or perfect)(self, stage)
            elif check:
                self.sound()
        self.do(Finish())
        return score(self.setup, self.log)


def perfect(hand: Hand, stage: Step) -> None:
    hand.sound()
    hand.bring(stage, to_cents=0.0, way=1)
    hand.do(Judge("still", 0.0))


def parts(result: Score) -> dict[str, float]:
    sums: dict[str, float] = {}
    for line in result.lines:
        sums[line.part] = sums.get(line.part, 0.0) + line.points
    return {part: round(points, 6) for part, points in sums.items()}


FULL = {
    "matched": 36.0, "placed": 12.0, "closed": 10.0, "judged": 24.0, "from_below": 12.0,
    "overshoot": 6.0,
}  # fmt: skip


class WholeAttempts(unittest.TestCase):
    def test_a_perfect_player_gets_everything(self) -> None:
        for start in ("hair", "month", "one"):
            result = Hand(start=start).play()
            self.assertEqual(result.points, 100.0)
            self.assertEqual(parts(result), FULL)
            self.assertAlmostEqual(result.closing_cents or 0.0, 0.0, delta=0.4)
            self.assertIn("Nothing to mend", result.advice)

    def test_doing_nothing_brings_nothing(self) -> None:
        result = score(Setup("guitar", "unison", "one", 5), [])
        self.assertEqual(result.points, 0.0)
        self.assertIn("did not listen to A, D, G, B, high E and low E", result.advice)

    def test_strings_left_out_bring_nothing_and_are_named(self) -> None:
        result = Hand().play(lambda h, s: perfect(h, s) if s.string in (5, 4) else None)
        self.assertAlmostEqual(parts(result)["matched"], 12.0)
        left = [line for line in result.lines if line.string == 3]
        self.assertTrue(all(line.points == 0.0 for line in left))
        self.assertIn("You did not sound G with D", left[0].sentence)
        self.assertIn("G, B, high E and low E", result.advice)

    def test_every_line_has_its_points_and_a_sentence(self) -> None:
        result = Hand().play()
        self.assertAlmostEqual(sum(line.out_of for line in result.lines), 100.0)
        for line in result.lines:
            self.assertRegex(line.sentence, r"^[A-Z].*\.$")
            self.assertTrue(0.0 <= line.points <= line.out_of)


class EachHabitCostsItsOwnPart(unittest.TestCase):
    def lost(self, tune: Callable[[Hand, Step], None] | None, **options: bool) -> dict[str, float]:
        got = parts(Hand().play(tune, **options))
        return {part: FULL[part] - got[part] for part in FULL if FULL[part] - got[part] > 1e-6}

    def test_arriving_from_above(self) -> None:
        def tune(hand: Hand, stage: Step) -> None:
            hand.sound()
            hand.bring(stage, to_cents=-30.0, way=-1)
            hand.bring(stage, to_cents=2.5, way=1)
            hand.bring(stage, to_cents=0.0, way=-1)
            hand.do(Judge("still", 0.0))

        self.assertEqual(self.lost(tune), {"from_below": 12.0})

    def test_overshooting_once_costs_half_and_twice_all(self) -> None:
        def tune(times: int) -> Callable[[Hand, Step], None]:
            def over(hand: Hand, stage: Step) -> None:
                hand.sound()
                for _ in range(times):
                    hand.bring(stage, to_cents=-20.0, way=-1)
                    hand.bring(stage, to_cents=6.0, way=1)
                hand.bring(stage, to_cents=-20.0, way=-1)
                hand.bring(stage, to_cents=0.0, way=1)
                hand.do(Judge("still", 0.0))

            return over

        self.assertEqual(self.lost(tune(1)), {"overshoot": 3.0})
        self.assertEqual(self.lost(tune(2)), {"overshoot": 6.0})

    def test_saying_nothing(self) -> None:
        def tune(hand: Hand, stage: Step) -> None:
            hand.sound()
            hand.bring(stage, to_cents=0.0, way=1)

        self.assertEqual(self.lost(tune), {"judged": 24.0})

    def test_judging_with_the_answer_in_sight(self) -> None:
        def tune(hand: Hand, stage: Step) -> None:
            hand.do(Help("level"))
            perfect(hand, stage)

        self.assertEqual(self.lost(tune), {"judged": 24.0})

    def test_a_look_at_the_answer_counts_though_the_picture_is_gone_again(self) -> None:
        def tune(hand: Hand, stage: Step) -> None:
            hand.do(Help("level"))
            hand.do(Help("ear"))
            perfect(hand, stage)

        self.assertEqual(self.lost(tune), {"judged": 24.0})

    def test_leaving_the_check_out(self) -> None:
        self.assertEqual(self.lost(None, check=False), {"closed": 10.0})

    def test_a_wrong_fork_string_moves_everything_but_not_the_matches(self) -> None:
        def tune(hand: Hand, stage: Step) -> None:
            hand.sound()
            hand.bring(stage, to_cents=-8.5 if stage.string == 5 else 0.0, way=1)
            hand.do(Judge("low", 8.0) if stage.string == 5 else Judge("still", 0.0))

        lost = self.lost(tune)
        # (15 - 8.5)/(15 - 2) = half: three of the six for A's match, and half of all places
        self.assertAlmostEqual(lost["matched"], 3.0, delta=0.1)
        self.assertAlmostEqual(lost["placed"], 6.0, delta=0.4)
        self.assertEqual(set(lost), {"matched", "placed"})


class Judgement(unittest.TestCase):
    def points(self, off_cents: float, said: Judge) -> float:
        def tune(hand: Hand, stage: Step) -> None:
            hand.sound()
            hand.bring(stage, to_cents=off_cents, way=1)
            hand.do(said)

        result = Hand().play(tune)
        return next(x.points for x in result.lines if x.part == "judged" and x.string == 5)

    def test_the_side_is_half_and_the_amount_the_other(self) -> None:
        self.assertEqual(self.points(-10.0, Judge("low", 10.0)), 4.0)
        self.assertEqual(self.points(-10.0, Judge("high", 10.0)), 0.0)
        self.assertEqual(self.points(-10.0, Judge("still", 0.0)), 0.0)
        # 25 cents said of 10: 15 off, so nothing for the amount
        self.assertAlmostEqual(self.points(-10.0, Judge("low", 25.0)), 2.0, delta=0.02)

    def test_at_the_limit_of_still_both_answers_are_right(self) -> None:
        self.assertEqual(self.points(-1.9, Judge("still", 0.0)), 4.0)
        self.assertEqual(self.points(-1.9, Judge("low", 2.0)), 4.0)


class GradedEars(unittest.TestCase):
    def test_the_score_ranks_ears(self) -> None:
        ears = np.geomspace(0.2, 3.0, 10)
        means = []
        for stops in ears:
            points = []
            for seed in range(8):
                setup = Setup("guitar", "unison", "month", seed)
                log = practise(setup, Ear(float(stops), 0.1, 1.0, True), seed=seed)
                points.append(score(setup, log).points)
            means.append(np.mean(points))
        order = np.argsort(np.argsort(-np.array(means)))
        rank = np.corrcoef(np.arange(len(ears)), order)[0, 1]
        self.assertGreaterEqual(rank, 0.95)
        self.assertGreater(means[0], 94.0)
        self.assertLess(means[-1], 40.0)


class Rules(unittest.TestCase):
    def test_share_falls_evenly_between_its_limits(self) -> None:
        rules = rubric()
        for cents, share in ((0.0, 1.0), (-2.0, 1.0), (8.5, 0.5), (15.0, 0.0), (-90.0, 0.0)):
            self.assertAlmostEqual(rules.share(cents), share)

    def test_words(self) -> None:
        self.assertEqual(how_far(0.04), "still")
        self.assertEqual(how_far(-1.0), "1.0 cent low")
        self.assertEqual(how_far(12.34), "12.3 cents high")
