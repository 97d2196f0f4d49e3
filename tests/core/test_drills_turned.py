"""Drills in which a string is turned, or an amount is said: what sounds, what is refused, what they
tell.
"""

import math
import random
import unittest
from dataclasses import replace

from meldrin.core.catalogue import instrument, instruments
from meldrin.core.drills import (
    DrillAction,
    DrillExercise,
    EndSitting,
    HearTrial,
    JudgeTrial,
    NextTrial,
    PlayString,
    Sitting,
    StartTrials,
    Sure,
    TurnTrial,
    drill_result,
    nothing_known,
    opening,
    sat,
    step,
)
from meldrin.core.drills.belief import Scale
from meldrin.core.drills.drill import Question, TrialSettings
from meldrin.core.drills.registry import drill_of
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.learner import Ear, sit
from meldrin.core.session import Timed
from meldrin.core.sound.events import Release, Retune, SoundEvent, Start

AMOUNT = Scale("amount", low=1.0, high=100.0)


def posed(drill: str, seed: int, *, difference: float = 0.0, made: str = "viola") -> Question:
    asked = TrialSettings(instrument(made), 3, 196.0, difference)
    return drill_of(drill).put(asked, random.Random(seed))


def exercise(drill: str, **changed: object) -> DrillExercise:
    made = DrillExercise(drill, "viola", 11, string=3, trials=8)
    return replace(made, **changed)  # type: ignore[arg-type]


class Sat:
    """A sitting that is gone through by hand."""

    def __init__(self, made: DrillExercise) -> None:
        self.exercise = made
        self.state: Sitting = opening(made)
        self.log: list[Timed[DrillAction]] = []
        self.do(StartTrials())

    def do(self, action: DrillAction, after_s: float = 1.0) -> tuple[SoundEvent, ...]:
        self.state, sounds = step(self.state, action, dt_s=after_s)
        self.log.append(Timed(self.state.time_s, action))
        return sounds

    def hear(self) -> tuple[SoundEvent, ...]:
        """Hear the trial, and wait until its string may be turned."""
        sounds = self.do(HearTrial())
        turned = self.state.posed.turned
        if turned and turned.begins_s:
            self.state = replace(self.state, time_s=self.state.may_turn_s)
        return sounds

    def judge(self, sure: Sure = "sure", amount: float | None = None, answer: int = 0) -> None:
        self.do(JudgeTrial(answer, sure, amount))

    def following(self) -> bool:
        """Go on; False where that was the last one."""
        if self.state.is_last:
            return False
        self.do(NextTrial())
        return True


def code_of(state: Sitting, action: DrillAction) -> Code:
    try:
        step(state, action, dt_s=0.0)
    except MeldrinError as error:
        return error.code
    raise AssertionError("it is not refused")


class Amounts(unittest.TestCase):
    """What errors tell of how far off somebody usually is."""

    def test_half_of_the_errors_lie_within_the_threshold(self) -> None:
        for wanted in (3.0, 30.0):
            draw, known = random.Random(wanted), nothing_known(AMOUNT)
            for _ in range(400):
                # half of a normal distribution lies within 0.6745 of its deviations
                known = known.after_error(draw.gauss(0.0, wanted / 0.6745))
            found = known.threshold
            self.assertTrue(found.low < wanted < found.high, (wanted, found))
            self.assertLess(found.high / found.low, 1.4)

    def test_a_slip_far_off_hardly_moves_what_is_known(self) -> None:
        draw, known = random.Random(1), nothing_known(AMOUNT)
        for _ in range(20):
            known = known.after_error(draw.gauss(0.0, 5.0))
        moved = known.after_error(150.0).threshold.middle / known.threshold.middle
        self.assertAlmostEqual(moved, 1.0, delta=0.2)

    def test_nothing_is_placed_and_no_number_is_refused(self) -> None:
        self.assertEqual(nothing_known(AMOUNT).next(random.Random(1)), 0.0)
        for error in (math.nan, math.inf):
            with self.assertRaises(MeldrinError):
                nothing_known(AMOUNT).after_error(error)


class Counting(unittest.TestCase):
    def test_it_beats_as_often_as_it_says(self) -> None:
        for seed in range(6):
            one = posed("count", seed)
            assert one.heard is not None and one.amount is not None
            string, fork = [
                event.table for _, event in one.heard.sounding.events if isinstance(event, Start)
            ]
            apart = min(abs(hz - fork.frequencies_hz[0]) for hz in string.frequencies_hz)
            self.assertAlmostEqual(apart, one.amount.of, delta=1e-6)
            self.assertTrue(0.7 <= one.amount.of <= 6.0)

    def test_twice_and_half_are_equally_far(self) -> None:
        amount = posed("count", 1).amount
        assert amount is not None
        self.assertAlmostEqual(amount.error(2.0 * amount.of), 69.3147, delta=1e-3)
        self.assertAlmostEqual(amount.error(0.5 * amount.of), -69.3147, delta=1e-3)
        self.assertEqual(amount.error(amount.of), 0.0)

    def test_a_good_count_a_bad_one_and_none(self) -> None:
        one = Sat(exercise("count"))
        while True:
            one.hear()
            amount = one.state.posed.amount
            assert amount is not None
            one.judge(amount=amount.of * 1.05)
            if not one.following():
                break
        result = drill_result(one.exercise, one.log)
        assert result.threshold is not None
        self.assertEqual(result.right, 8)
        self.assertTrue(result.threshold.low < 4.9 < result.threshold.high)
        self.assertRegex(result.headline, "^You count within [0-9.]+ percent.$")
        deaf = Sat(exercise("count", trials=20))
        while True:
            deaf.hear()
            deaf.judge(amount=2.0)
            if not deaf.following():
                break
        self.assertRegex(drill_result(deaf.exercise, deaf.log).headline, "^(So far|This does not)")
        one = Sat(exercise("count"))
        one.hear()
        for said in (None, 0.0):
            self.assertEqual(code_of(one.state, JudgeTrial(0, "sure", said)), Code.ANSWER)
        with self.assertRaises(MeldrinError):
            JudgeTrial(0, "sure", math.inf)


class Way(unittest.TestCase):
    """A pair beats; tightening slows a string that is low, and hurries one that is high."""

    def test_a_turn_changes_the_beats_by_so_many_percent(self) -> None:
        for difference in (-20.0, 35.0, -90.0):
            for seed in range(4):
                turned = posed("way", seed, difference=difference).turned
                assert turned is not None
                (fork,) = turned.along
                rates = [self.rate(turned.at(steps), fork) for steps in (-1, 0, 1)]
                self.assertTrue(1.5 <= rates[1] <= 4.0)
                share = abs(difference) / 100.0
                slows, hurries = (1.0 - share) * rates[1], (1.0 + share) * rates[1]
                wanted = (slows, hurries) if difference > 0 else (hurries, slows)
                self.assertAlmostEqual(rates[0], wanted[0], delta=0.003)
                self.assertAlmostEqual(rates[2], wanted[1], delta=0.003)

    def rate(self, string: object, fork: object) -> float:
        meets = fork.frequencies_hz[0]  # type: ignore[attr-defined]
        return float(min(abs(hz - meets) for hz in string.frequencies_hz))  # type: ignore[attr-defined]

    def test_it_goes_a_step_either_way_and_glides(self) -> None:
        one = Sat(exercise("way"))
        sounds = one.hear()
        self.assertEqual([event.kind for event in sounds], ["start", "start"])
        (glide,) = one.do(TurnTrial(1))
        assert isinstance(glide, Retune) and isinstance(sounds[0], Start)
        self.assertEqual(glide.voice, sounds[0].voice)
        self.assertGreater(glide.fundamental_hz, sounds[0].table.fundamental_hz)
        self.assertEqual(one.do(TurnTrial(1)), ())  # it goes no farther
        self.assertEqual(one.state.steps, 1)
        one.do(TurnTrial(-2))
        self.assertEqual((one.state.steps, one.state.turns), (-1, 2))
        again = one.do(PlayString())
        self.assertTrue(any(isinstance(event, Release) for event in again))
        voices = {event.voice for event in again if isinstance(event, Start)}
        self.assertFalse(voices & {event.voice for event in sounds})

    def test_a_guesser_is_not_praised(self) -> None:
        for answer in (0, 1):
            one = Sat(exercise("way", trials=20))
            while True:
                one.hear()
                one.judge(answer=answer)
                if not one.following():
                    break
            self.assertRegex(
                drill_result(one.exercise, one.log).headline, "^(So far|This does|These)"
            )


class Holding(unittest.TestCase):
    def test_a_note_a_silence_and_a_string_beside_it(self) -> None:
        silences, broken = set(), 0
        for seed in range(60):
            one = posed("hold", seed)
            assert one.turned is not None and one.amount is not None
            wanted, _, end_s = one.turned.before[0]
            out = 1200.0 * math.log2(one.turned.at(0).fundamental_hz / wanted.fundamental_hz)
            self.assertTrue(40.0 <= abs(out) <= 160.0)
            self.assertAlmostEqual(one.amount.error(0.0), out, places=6)
            up = 1200.0 * math.log2(
                one.turned.at(10).fundamental_hz / one.turned.at(0).fundamental_hz
            )
            self.assertAlmostEqual(up, 20.0, places=6)
            self.assertAlmostEqual(one.turned.begins_s - end_s, one.amount.of, places=9)
            silences.add(one.amount.of)
            broken += len(one.turned.before) > 1
            for _, begin_s, until_s in one.turned.before[1:]:
                self.assertTrue(end_s < begin_s and until_s < one.turned.begins_s)
        self.assertEqual(silences, {2.0, 5.0, 10.0, 20.0})
        self.assertTrue(4 <= broken <= 24)

    def test_the_string_waits_and_what_was_before_it_ends(self) -> None:
        one = Sat(exercise("hold"))
        self.assertEqual(code_of(one.state, JudgeTrial(0, "sure")), Code.NOT_HEARD)
        sounds = one.do(HearTrial())
        turned = one.state.posed.turned
        assert turned is not None
        string = next(event for event in sounds if isinstance(event, Start))
        self.assertEqual(string.delay_s, turned.begins_s)
        ends = [event.delay_s for event in sounds if isinstance(event, Release)]
        for _, _, end_s in turned.before:
            self.assertIn(round(end_s - 0.09, 9), [round(one, 9) for one in ends])
        for action in (TurnTrial(1), PlayString(), JudgeTrial(0, "sure")):
            self.assertEqual(code_of(one.state, action), Code.NOT_HEARD)
        one.do(TurnTrial(1), after_s=turned.begins_s)
        alone = [event for event in one.do(PlayString()) if isinstance(event, Start)]
        self.assertEqual([event.delay_s for event in alone], [0.0])
        self.assertEqual(alone[0].table.fundamental_hz, turned.at(1).fundamental_hz)
        # who hears the note again waits again
        one.do(HearTrial())
        self.assertEqual(code_of(one.state, TurnTrial(1)), Code.NOT_HEARD)

    def left(self, cents: float, trials: int = 8) -> Sat:
        """A sitting whose strings are left as near as steps allow to so far off."""
        one = Sat(exercise("hold", trials=trials))
        while True:
            one.hear()
            amount = one.state.posed.amount
            assert amount is not None
            steps = round((cents - amount.error(0.0)) / 2.0)
            while steps:
                turn = max(-100, min(100, steps))
                one.do(TurnTrial(turn))
                steps -= turn
            one.judge()
            if not one.following():
                return one

    def test_what_it_tells(self) -> None:
        one = self.left(-6.0)
        result = drill_result(one.exercise, one.log)
        assert result.threshold is not None
        for trial in result.trials:
            self.assertTrue(-7.0 <= (trial.error or 0.0) <= -5.0)
            self.assertRegex(trial.says, "You left it [567] cents low.")
        self.assertEqual(result.right, 8)
        self.assertTrue(result.threshold.low < 6.0 < result.threshold.high)
        self.assertRegex(result.headline, "^You hold a note within [0-9.]+ cents.$")
        self.assertTrue(any("Mostly you left it low" in remark for remark in result.remarks))
        heard = one.state.heard
        assert heard is not None
        self.assertAlmostEqual(heard.parts[1].cents, -6.0, delta=1.0)

    def test_who_turns_nothing_holds_nothing(self) -> None:
        one = Sat(exercise("hold", trials=20))
        while True:
            one.hear()
            one.judge()
            if not one.following():
                break
        result = drill_result(one.exercise, one.log)
        self.assertEqual(result.right, 0)
        self.assertRegex(result.headline, "^(So far|This does not)")
        self.assertIn("You never turned the string.", result.remarks)


class Together(unittest.TestCase):
    def test_on_every_instrument_an_ear_sits_and_is_found(self) -> None:
        ear = Ear(8.0, 0.5, spread=0.1)
        for made in instruments():
            for drill, low, high in (("count", 2.0, 15.0), ("way", 2.0, 45.0), ("hold", 4.0, 60.0)):
                begun = DrillExercise(drill, made.id, 5, string=1, trials=12)
                log = sit(begun, ear, seed=3)
                result = drill_result(begun, log)
                self.assertEqual(len(result.trials), 12)
                assert result.threshold is not None
                self.assertTrue(
                    low <= result.threshold.middle <= high, (made.id, drill, result.threshold)
                )
                # the list alone brings it back
                self.assertEqual(sat(begun, log).trials, result.trials)

    def test_what_a_drill_does_not_have_is_refused(self) -> None:
        one = Sat(exercise("higher"))
        one.do(HearTrial())
        for action in (TurnTrial(1), PlayString()):
            self.assertEqual(code_of(one.state, action), Code.ACTION)
        with self.assertRaises(MeldrinError):
            TurnTrial(101)
        one = Sat(exercise("way"))
        one.hear()
        released = one.do(EndSitting())  # what still sounds is let go
        self.assertTrue(released and all(isinstance(event, Release) for event in released))
