import math
import random
import unittest
from collections.abc import Callable
from dataclasses import replace
from itertools import pairwise

import numpy as np
from tools.by_number import guessed
from tools.listeners import answer_of

from meldrin.core.catalogue import instrument
from meldrin.core.drills import (
    DRILLS_PRACTICE,
    MEASURED,
    SAMPLE_RATE,
    Belief,
    DrillAction,
    DrillExercise,
    EndSitting,
    HearExample,
    HearTrial,
    JudgeTrial,
    NextTrial,
    Scale,
    Sitting,
    StartTrials,
    Sure,
    ThresholdDrill,
    drill_result,
    from_kept,
    measured,
    nothing_known,
    opening,
    posed_of,
    step,
)
from meldrin.core.drills.belief import Judged
from meldrin.core.drills.drill import Interval, Sounding, TrialSettings, Truth
from meldrin.core.drills.samples import samples_of, weighted
from meldrin.core.errors import Code, MeldrinError, OutOfRange
from meldrin.core.session import Timed
from meldrin.core.sound.events import Start
from meldrin.core.sound.render import render
from tests import slow

SCALE = Scale("side_or_same", low=0.5, high=200.0)
WHETHER = Scale("whether", low=0.05, high=10.0)


def listened(scale: Scale, threshold: float, *, trials: int, seed: int) -> Belief:
    draw, known = random.Random(seed), nothing_known(scale)
    slope = 1.5 if scale.judged == "whether" else 1.0
    for _ in range(trials):
        size = known.next(draw)
        answer = answer_of(scale, size, threshold=threshold, slope=slope, width=1.0, draw=draw)
        known = known.after(size, answer)
    return known


class Measuring(unittest.TestCase):
    def test_an_answer_counts_as_bayes_has_it(self) -> None:
        # Nothing is known. “Higher” to a difference s: threshold t then is as likely, against
        # another, as P(higher | s, t), summed over slopes, lapses and widths with their weights.
        known = nothing_known(SCALE)
        size = known.next(random.Random(4))
        size = abs(size) or max(abs(known.next(random.Random(n))) for n in range(9))
        after = known.after(size, 2)
        grid = np.geomspace(0.5, 200.0, 80)
        wanted = np.zeros(len(grid))
        for slope, a in {0.8: 0.25, 1.0: 0.5, 1.25: 0.25}.items():
            for lapse, b in {0.02: 0.4, 0.05: 0.48, 0.1: 0.06, 0.25: 0.06}.items():
                for width in (0.5, 1.0, 2.0):
                    felt = math.log(3.0) * (size / grid) ** slope
                    higher = 1.0 / (1.0 + np.exp(width - felt))
                    wanted += a * b / 3.0 * ((1.0 - lapse) * higher + lapse / 3.0)
        # the drift of one trial moves next to nothing
        found = np.reshape(after.kept, (4, 80)).sum(axis=0)  # over the shares of lapses
        np.testing.assert_allclose(found, wanted / wanted.sum(), rtol=5e-3, atol=1e-6)

    def test_the_threshold_is_found_and_said_with_care(self) -> None:
        for scale, truths in ((SCALE, (3.0, 12.0, 40.0)), (WHETHER, (0.2, 0.6, 2.0))):
            inside, ratios = 0, []
            for truth in truths:
                for seed in range(12):
                    found = listened(scale, truth, trials=40, seed=seed).threshold
                    inside += found.low <= truth <= found.high
                    ratios.append(found.middle / truth)
            self.assertGreaterEqual(inside, 29, scale)  # of 36; 9 in 10 are 32
            self.assertAlmostEqual(float(np.median(np.log(ratios))), 0.0, delta=0.2)

    def test_time_makes_it_less_sure_and_leaves_it_where_it_was(self) -> None:
        known = listened(SCALE, 10.0, trials=40, seed=3)
        before, after = known.threshold, known.since(21.0).threshold
        self.assertAlmostEqual(after.middle / before.middle, 1.0, delta=0.05)
        # independent: log widths add in squares; 3 weeks are 0.2 sqrt(3) of the log, times 1.645
        wanted = math.hypot(0.5 * math.log(before.high / before.low), 1.645 * 0.2 * math.sqrt(3.0))
        found = 0.5 * math.log(after.high / after.low)
        self.assertAlmostEqual(found / wanted, 1.0, delta=0.12)

    def test_what_is_kept_goes_on_in_the_next_sitting(self) -> None:
        first = listened(SCALE, 10.0, trials=20, seed=5)
        again = from_kept(SCALE, first.kept).threshold
        self.assertAlmostEqual(again.middle / first.threshold.middle, 1.0, delta=1e-4)

    def test_nobody_is_right_by_always_naming_a_side_or_always_the_same(self) -> None:
        for scale in (SCALE, WHETHER):
            known, draw = nothing_known(scale), random.Random(8)
            asked = [known.next(draw) for _ in range(400)]
            none = sum(size == 0.0 for size in asked)
            self.assertTrue(40 < none < 170, none)
            if scale.judged == "side_or_same":
                above = sum(size > 0.0 for size in asked)
                self.assertTrue(0.4 < above / (400 - none) < 0.6, above)
        for answer in range(3):  # deaf: the threshold ends where nothing smaller is heard
            known, draw = nothing_known(SCALE), random.Random(9)
            for _ in range(20):
                known = known.after(known.next(draw), answer)
            self.assertGreater(known.threshold.middle, 60.0, answer)

    def test_what_makes_no_sense_is_refused(self) -> None:
        with self.assertRaises(OutOfRange):
            Scale("whether", low=1.0, high=1.0)
        for size, answer in ((0.123, 1), (0.0, 3), (0.0, -1)):
            with self.assertRaises(MeldrinError) as refused:
                nothing_known(SCALE).after(size, answer)
            self.assertEqual(refused.exception.code, Code.DRILL)


def starts(sounding: Sounding) -> list[Start]:
    return [event for _, event in sounding.events if isinstance(event, Start)]


def asked_of(
    drill: str,
    difference: float,
    *,
    made: str = "viola",
    string: int = 3,
    hz: float = 196.0,
    interval: Interval = "unison",
    truth: Truth = "pure",
    seed: int = 1,
) -> list[Start]:
    asked = TrialSettings(instrument(made), string, hz, difference, interval, truth)
    heard = measured(drill).put(asked, random.Random(seed)).heard
    assert heard is not None
    return starts(heard.sounding)


TURNED = ("way", "hold")
JUDGED = [one for one in MEASURED if one.id not in TURNED]
PLACED = [one for one in MEASURED if isinstance(one, ThresholdDrill)]


class Sounds(unittest.TestCase):
    """What is played is what is asked, by the tables that are rendered."""

    def test_two_notes_lie_as_far_apart_as_is_asked(self) -> None:
        for cents in (-40.0, -3.0, 0.0, 7.5, 120.0):
            for made in ("viola", "guitar", "sitar"):
                first, second = asked_of("higher", cents, made=made)
                ratio = second.table.frequencies_hz[0] / first.table.frequencies_hz[0]
                self.assertAlmostEqual(1200.0 * math.log2(ratio), cents, delta=1e-6)

    def test_no_pitch_comes_again(self) -> None:
        heard = {
            round(asked_of("higher", 5.0, seed=n)[0].table.frequencies_hz[0], 3) for n in range(20)
        }
        self.assertEqual(len(heard), 20)
        for hz in heard:
            self.assertLess(abs(1200.0 * math.log2(hz / 196.0)), 50.001)

    def test_a_pair_beats_as_fast_as_is_asked(self) -> None:
        for rate in (0.0, 0.3, 2.0, 8.0):
            for made, string in (("viola", 3), ("double-bass", 4), ("guitar", 1)):
                string_start, fork = asked_of("beating", rate, made=made, string=string)
                meets = fork.table.frequencies_hz[0]
                nearest = min(abs(hz - meets) for hz in string_start.table.frequencies_hz)
                self.assertAlmostEqual(nearest, rate, delta=1e-6)

    def test_the_second_pair_beats_faster_by_so_many_percent(self) -> None:
        for percent, ratio in ((50.0, 1.5), (-100.0, 0.5), (0.0, 1.0)):
            one, fork, two, again = asked_of("faster", percent)
            rates = [
                min(abs(hz - beside.table.frequencies_hz[0]) for hz in string.table.frequencies_hz)
                for string, beside in ((one, fork), (two, again))
            ]
            self.assertAlmostEqual(rates[1] / rates[0], ratio, delta=1e-6)
            self.assertTrue(1.5 <= rates[0] <= 4.0)

    def test_a_true_interval_is_pure_or_tempered(self) -> None:
        pure = {"unison": 1.0, "octave": 2.0, "fifth": 1.5, "fourth": 4 / 3, "third": 1.25}
        for interval, ratio in pure.items():
            for truth, wanted in (("pure", 1200 * math.log2(ratio)), ("equal", None)):
                low, high, *_ = asked_of("width", 6.0, interval=interval, truth=truth)  # type: ignore[arg-type]
                cents = 1200 * math.log2(high.table.frequencies_hz[0] / low.table.frequencies_hz[0])
                if wanted is None:
                    wanted = 100.0 * round(12 * math.log2(ratio))
                self.assertAlmostEqual(cents, wanted + 6.0, delta=1e-6)

    def test_every_trial_of_a_drill_has_as_many_samples_and_plays_at_the_same_times(self) -> None:
        for drill in JUDGED:
            interval: Interval = drill.intervals[1] if drill.intervals else "unison"
            seen = set()
            for n, difference in enumerate((0.0, drill.scale.low, drill.scale.high)):
                asked = TrialSettings(instrument("guitar"), 4, 146.8, difference, interval)
                # of an amount every trial is another
                draw = random.Random(n if drill.scale.judged == "amount" else 2)
                heard = drill.put(asked, draw).heard
                assert heard is not None
                events = heard.sounding.events
                samples = render(events, duration_s=heard.duration_s, sample_rate=SAMPLE_RATE)
                times = tuple((at_s, event.kind, event.voice) for at_s, event in events)
                seen.add((len(samples), times))
                self.assertLess(np.abs(samples).max(), 0.7, drill.id)
                # it ends in silence: nothing clicks
                self.assertLess(np.abs(samples[-48:]).max(), 1e-3, drill.id)
            self.assertEqual(len(seen), 1, drill.id)

    def test_parts_follow_each_other(self) -> None:
        for drill in PLACED:
            for one, other in pairwise(drill.parts):
                self.assertLess(one.end_s, other.begin_s)


def exercise(drill: str = "higher", **changed: object) -> DrillExercise:
    interval = "fifth" if drill == "width" else "unison"
    made = DrillExercise(drill, "viola", 11, string=3, interval=interval)  # type: ignore[arg-type]
    return replace(made, **changed)  # type: ignore[arg-type]


def gone_through(
    made: DrillExercise,
    answer: Callable[[Sitting], int],
    *,
    sure: Sure = "fairly",
    trials: int = 20,
) -> tuple[Sitting, list[Timed[DrillAction]]]:
    """Sit through, answering by a rule of what the trial really was."""
    state, log = opening(made), [Timed[DrillAction](1.0, StartTrials())]
    state, _ = step(state, StartTrials(), dt_s=1.0)
    for _ in range(trials):
        actions: list[DrillAction] = [HearTrial(), JudgeTrial(answer(state), sure)]
        if len(state.trials) + 1 < made.trials:
            actions.append(NextTrial())
        for action in actions:
            state, _ = step(state, action, dt_s=1.0)
            log.append(Timed(state.time_s, action))
        if state.is_last:
            break
    log.append(Timed(state.time_s + 1.0, EndSitting()))
    return state, log


def always(answer: int) -> Callable[[Sitting], int]:
    return lambda _: answer


class Sittings(unittest.TestCase):
    def test_it_goes_as_it_should_and_refuses_the_rest(self) -> None:
        state = opening(exercise(trials=8))
        for action, code in (
            (HearTrial(), Code.ACTION),
            (NextTrial(), Code.ACTION),
            (JudgeTrial(0, "sure"), Code.ACTION),
            (HearExample(3), Code.ANSWER),
        ):
            with self.assertRaises(MeldrinError) as refused:
                step(state, action, dt_s=0.0)
            self.assertEqual(refused.exception.code, code, action)
        state, _ = step(state, HearExample(2), dt_s=1.0)
        state, _ = step(state, StartTrials(), dt_s=1.0)
        with self.assertRaises(MeldrinError) as refused:
            step(state, JudgeTrial(1, "sure"), dt_s=0.0)
        self.assertEqual(refused.exception.code, Code.NOT_HEARD)
        state, _ = step(state, HearTrial(), dt_s=1.0)
        state, _ = step(state, HearTrial(), dt_s=1.0)
        state, _ = step(state, JudgeTrial(1, "sure"), dt_s=1.0)
        self.assertEqual((state.stage, state.trials[0].listens, state.time_s), ("told", 2, 5.0))
        with self.assertRaises(MeldrinError):
            step(state, JudgeTrial(0, "sure"), dt_s=0.0)  # it is known now
        state, _ = step(state, EndSitting(), dt_s=1.0)
        with self.assertRaises(MeldrinError) as refused:
            step(state, NextTrial(), dt_s=0.0)
        self.assertEqual(refused.exception.code, Code.FINISHED)

    def test_the_last_trial_is_the_last(self) -> None:
        state, _ = gone_through(exercise(trials=8), lambda _: 1)
        self.assertTrue(state.is_last)
        self.assertEqual(len(state.trials), 8)
        with self.assertRaises(MeldrinError):
            step(state, NextTrial(), dt_s=0.0)

    def test_the_same_seed_and_answers_ask_the_same(self) -> None:
        one, _ = gone_through(exercise(), lambda _: 2)
        other, _ = gone_through(exercise(), lambda _: 2)
        self.assertEqual(one.trials, other.trials)
        another, _ = gone_through(exercise(seed=12), lambda _: 2)
        self.assertNotEqual(one.trials, another.trials)

    def test_examples_are_easy_and_one_of_each(self) -> None:
        for drill in MEASURED:
            state = opening(exercise(drill.id))
            made = [one.heard.sounding for one in state.examples if one.heard]
            answers = 2 if drill.scale.judged in ("whether", "side") else 3
            self.assertEqual(len({str(one.events) for one in made}), answers)
        highest = opening(exercise()).examples[2].heard
        assert highest is not None
        first, second = starts(highest.sounding)
        ratio = second.table.frequencies_hz[0] / first.table.frequencies_hz[0]
        self.assertGreater(1200.0 * math.log2(ratio), 30.0)

    def test_a_perfect_ear_and_none(self) -> None:
        for drill in PLACED:
            made = exercise(drill.id, trials=20)
            perfect, log = gone_through(made, lambda s: s.posed.right, sure="sure")
            result = drill_result(made, log)
            assert result.threshold is not None
            self.assertEqual(result.right, 20)
            self.assertLess(result.threshold.middle, 6.0 * drill.scale.low, drill.id)
            assert perfect.belief is not None
            self.assertEqual(result.known, perfect.belief.kept)
            for answer in range(len(drill.answers)):  # whatever it says, no ear is found
                _, log = gone_through(made, always(answer))
                deaf = drill_result(made, log).threshold
                nothing = deaf is None or deaf.high / deaf.low > 20.0
                far = deaf is not None and deaf.middle > 8.0 * result.threshold.middle
                self.assertTrue(nothing or far, drill.id)
                said = drill_result(made, log).headline
                self.assertRegex(
                    said, "^(This does not|So far you do not|You said “beating”|These)"
                )

    def test_who_always_hears_beating_seems_no_finer_from_sitting_to_sitting(self) -> None:
        known: tuple[float, ...] = ()
        for seed in range(8):
            made = exercise("beating", trials=12, known=known, seed=seed)
            _, log = gone_through(made, always(1))
            found = drill_result(made, log)
            self.assertIsNone(found.threshold)
            self.assertIn("“beating” nearly every time", found.headline)
            first = opening(made).belief
            assert first is not None
            now = from_kept(first.scale, found.known).threshold
            self.assertAlmostEqual(now.middle, first.threshold.middle, delta=0.01)
            known = found.known

    def test_how_sure_is_held_against_how_right(self) -> None:
        made = exercise(trials=8)
        _, log = gone_through(made, lambda s: s.posed.right, sure="sure")
        result = drill_result(made, log)
        # 0.95 said of what was so: (1 - 0.95)^2
        self.assertAlmostEqual(result.brier or 0.0, 0.0025, places=12)
        self.assertIn("When you were sure, you were right 8 of 8 times.", result.remarks)
        wrong, log = gone_through(made, lambda s: (s.posed.right + 1) % 3, sure="guess")
        result = drill_result(made, log)
        self.assertAlmostEqual(result.brier or 0.0, (1 / 3) ** 2, places=12)
        self.assertEqual(result.right, 0)
        self.assertEqual(len(wrong.trials), 8)

    def test_who_stops_at_once_has_judged_nothing(self) -> None:
        made = exercise()
        result = drill_result(made, [Timed(1.0, EndSitting())])
        self.assertIsNone(result.threshold)
        self.assertEqual(result.headline, "Nothing was judged.")

    def test_it_is_kept_and_comes_back(self) -> None:
        made = exercise("width", truth="equal", known=nothing_known(SCALE).kept)
        shapes = DRILLS_PRACTICE.exercises, DRILLS_PRACTICE.actions
        self.assertEqual(shapes[0].value(shapes[0].record(made)), made)
        for action in (HearExample(1), JudgeTrial(2, "guess"), EndSitting()):
            self.assertEqual(shapes[1].value(shapes[1].record(action)), action)

    def test_what_does_not_go_together_is_refused(self) -> None:
        for changed in (
            {"drill": "nothing"},
            {"string": 9},
            {"interval": "fifth"},
            {"tuning": "nothing like this"},
            {"trials": 3},
            {"known": (1.0, 2.0)},
            {"truth": "tempered"},
        ):
            with self.assertRaises(MeldrinError):
                exercise(**changed)


@slow
class Study(unittest.TestCase):
    """`./meldrin bench` asks 500 listeners of each; here are fewer, with wider limits."""

    def test_over_a_factor_of_thirty(self) -> None:
        cases: tuple[tuple[Judged, Scale], ...] = (("side_or_same", SCALE), ("whether", WHETHER))
        for judged, scale in cases:
            low = 3.0 * scale.low
            truths = np.geomspace(low, 30.0 * low, 90)
            found = [
                listened(scale, float(one), trials=40, seed=700 + n).threshold
                for n, one in enumerate(truths)
            ]
            covered = np.mean(
                [x.low <= one <= x.high for x, one in zip(found, truths, strict=True)]
            )
            width = float(np.median([one.high / one.low for one in found]))
            self.assertTrue(0.8 <= covered <= 0.99, (judged, covered))
            self.assertLess(width, 3.4, judged)


@slow
class ByANumber(unittest.TestCase):
    """Nobody is right by how loud, how bright or how long a trial is, or how it begins."""

    def test_no_number_of_the_samples_answers_a_drill(self) -> None:
        """A few trials of two drills; `./meldrin bench` answers all of them a thousand times.
        Of 60 answers, three deviations are 19 points.
        """
        for drill in ("beating", "alone"):
            for found in guessed(drill, trials=120):
                self.assertLess(found.above, 5.0 + 19.0, found)

    def test_a_stretch_is_as_loud_as_any_other(self) -> None:
        levels = []
        for seed in range(12):
            exercise = DrillExercise("beating", "viola", seed, string=2)
            posed = posed_of(exercise, 1, (0.0, 0.5, 3.0)[seed % 3])
            assert posed.heard is not None
            loud = weighted(samples_of(posed.heard))
            levels.append(10.0 * math.log10(float(np.mean(loud**2))))
        # equal, and then varied by 1.5 dB each way; the bell of a filter adds a little
        self.assertLess(max(levels) - min(levels), 3.3)
        self.assertGreater(max(levels) - min(levels), 0.5)

    def test_heard_again_a_trial_is_the_same(self) -> None:
        posed = posed_of(DrillExercise("beating", "viola", 4, string=2), 1, 0.5)
        assert posed.heard is not None
        once, again = samples_of(posed.heard), samples_of(posed.heard)
        self.assertTrue(np.array_equal(once, again))


@slow
class MixedAnswers(unittest.TestCase):
    def sat(self, threshold: float, *, guesses: float, seed: int) -> Belief:
        draw, scale = random.Random(seed), measured("width").scale
        known = nothing_known(scale)
        for _ in range(80):
            size = known.next(draw)
            said = answer_of(
                scale,
                size,
                threshold=threshold,
                slope=1.0,
                width=1.0,
                draw=draw,
                lapses=guesses,
            )
            known = known.after(size, said)
        return known

    def test_who_guesses_one_answer_in_four_is_noticed_and_who_listens_is_not(self) -> None:
        # about seven in ten of those who guess one in four, and one in twenty of the others
        guessing = [self.sat(4.0, guesses=0.25, seed=seed).mixed for seed in range(30)]
        listening = [self.sat(4.0, guesses=0.05, seed=seed).mixed for seed in range(30)]
        self.assertGreaterEqual(sum(guessing), 15)
        self.assertLessEqual(sum(listening), 5)

    def test_from_sitting_to_sitting_who_guesses_is_not_taken_for_a_coarse_ear(self) -> None:
        # What 80 answers tell at once they tell in four sittings too: with many lapses the same
        # answers speak for a finer ear, and that is kept.
        scale = measured("width").scale
        for seed in range(4):
            draw = random.Random(seed)
            at_once = sittings = nothing_known(scale)
            for number in range(80):
                size = at_once.next(draw)
                said = answer_of(
                    scale, size, threshold=4.0, slope=1.0, width=1.0, draw=draw, lapses=0.25
                )
                at_once, sittings = at_once.after(size, said), sittings.after(size, said)
                if number % 20 == 19:
                    sittings = from_kept(scale, sittings.kept)
            wanted, found = at_once.threshold, sittings.threshold
            for one, other in zip(
                (wanted.low, wanted.middle, wanted.high),
                (found.low, found.middle, found.high),
                strict=True,
            ):
                self.assertAlmostEqual(math.log(one / other), 0.0, delta=0.6)

    def test_what_is_kept_holds_the_lapses_and_an_older_record_is_read(self) -> None:
        known = self.sat(4.0, guesses=0.25, seed=3)
        again = from_kept(known.scale, known.kept)
        self.assertEqual(again.mixed, known.mixed)
        self.assertTrue(np.allclose(again.lapsing, known.lapsing, atol=1e-4))
        # before, thresholds were kept alone, whatever the lapses
        older = from_kept(known.scale, known.likely.sum(axis=1).tolist())
        self.assertAlmostEqual(older.threshold.middle, known.threshold.middle, delta=0.1)
        self.assertTrue(np.allclose(older.lapsing, nothing_known(known.scale).lapsing))
        # a week later little is left of it
        self.assertLess(known.since(14.0).lapsing[-1], known.lapsing[-1])


@slow
class AlwaysTheSame(unittest.TestCase):
    def test_always_two_a_second_is_never_praised(self) -> None:
        for always in (1.5, 2.0, 2.5, 3.0):
            kept: tuple[float, ...] = ()
            for seed in range(4):
                exercise = DrillExercise("count", "viola", seed, string=2, known=kept)
                state, log = opening(exercise), []
                actions: list[DrillAction] = [StartTrials()]
                for number in range(12):
                    actions += [HearTrial(), JudgeTrial(0, "fairly", amount=always)]
                    actions += [NextTrial()] if number < 11 else [EndSitting()]
                for at, action in enumerate(actions):
                    state, _ = step(state, action, dt_s=10.0)
                    log.append(Timed(10.0 * (at + 1), action))
                result = drill_result(exercise, log)
                kept = result.known
                self.assertNotIn("within", result.headline, (always, seed))
