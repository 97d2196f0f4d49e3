import math
import random
import unittest
from dataclasses import replace

from meldrin.core.bench import (
    Exercise,
    Finish,
    Judge,
    Pace,
    Play,
    PutOut,
    State,
    TimedAction,
    Turn,
    heard,
    opening,
)
from meldrin.core.bench.actions import Action
from meldrin.core.bench.guiding import (
    WRONG_TURNS,
    answer,
    asks_pace,
    guide,
    next_string,
    pair_words,
)
from meldrin.core.bench.limits import limits
from meldrin.core.bench.music import pieces, tune_of
from meldrin.core.bench.observe import judged_cents, pitch_cents
from meldrin.core.bench.step import step
from meldrin.core.catalogue import instrument_text, instruments
from meldrin.core.errors import MeldrinError
from meldrin.core.methods import Step
from meldrin.core.practice import guided_on
from meldrin.core.scoring import score
from meldrin.core.sound.events import Release, Start

BOTH = Play((4, 5))


def guided(seed: int = 1, **kw: object) -> Exercise:
    return Exercise(
        "guitar", "unison", "one", seed, out_string=4, guided=True,
        decides=False, fresh=True, **kw,  # type: ignore[arg-type]
    )  # fmt: skip


class OnEveryInstrument(unittest.TestCase):
    def test_the_first_pair_lies_in_one_octave_and_is_said_in_fifteen_words(self) -> None:
        for made in instruments():
            exercise = replace(guided_on(instrument_text(made.id)), seed=4)
            stage = exercise.plan.steps[0]
            # both sides at one partial: nothing has to be heard an octave away
            self.assertEqual(stage.own.partial, stage.other.partial, made.id)
            self.assertEqual(made.string(stage.string).role, "playing", made.id)
            words = pair_words(exercise)
            self.assertLessEqual(len(words.split()), 15, words)
            self.assertNotIn(next_string(exercise), (None, stage.string), made.id)
            off = judged_cents(opening(exercise), stage)
            full = limits().tolerances[exercise.tolerance].full_cents
            self.assertGreater(abs(off), full, made.id)  # there is something to do
        guitar, viola = (guided_on(instrument_text(one)) for one in ("guitar", "viola"))
        self.assertEqual((guitar.method, guitar.out_string), ("unison", 4))
        self.assertEqual(
            pair_words(guitar), "The open D, and A pressed behind fret 5, should be one note."
        )
        self.assertEqual(
            pair_words(viola), "The tuner’s tone and the open A should ring without a wobble."
        )
        mandolin = pair_words(guided_on(instrument_text("mandolin")))
        self.assertEqual(
            mandolin, "The open first D, and first G pressed behind fret 7, should be one note."
        )


class Hand:
    """Plays at a guided string, one action a second."""

    def __init__(self, exercise: Exercise) -> None:
        self.exercise, self.state = exercise, opening(exercise)
        self.log: list[TimedAction] = []

    def do(self, *actions: Action) -> State:
        for one in actions:
            self.state, _ = step(self.state, one, dt_s=1.0)
            self.log.append(TimedAction(self.state.time_s, one))
        return self.state

    @property
    def off(self) -> float:
        stage = self.state.current()
        assert isinstance(stage, Step)
        return judged_cents(self.state, stage)

    def bring_in(self) -> None:
        """Turn until the pair is within a cent, by the truth."""
        for _ in range(200):
            if abs(self.off) < 1.0:
                break
            self.do(Turn(4, -math.copysign(min(6.0, abs(self.off)), self.off)))
        self.do(BOTH)


class Plan(unittest.TestCase):
    def test_it_is_one_pair_in_one_octave_and_nothing_else(self) -> None:
        plan = guided().plan
        (only,) = plan.stages
        self.assertEqual((only.own.string, only.other.string, only.other.fret), (4, 5, 5))
        self.assertEqual((only.own.partial, only.other.partial), (1, 1))

    def test_it_has_no_clock_no_tuner_and_one_string(self) -> None:
        for wrong in ({"limit_s": 60.0}, {"start": "hair", "out_string": 0}, {"method": "tuner"}):
            values = {"method": "unison", "start": "one", "out_string": 4, **wrong}
            with self.subTest(wrong), self.assertRaisesRegex(MeldrinError, "one string out"):
                Exercise(instrument_id="guitar", seed=1, guided=True, **values)  # type: ignore[arg-type]


class Teacher(unittest.TestCase):
    def turned(self, seed: int, *, nearer: bool) -> tuple[Hand, float, float]:
        hand = Hand(guided(seed))
        hand.do(BOTH)
        was = heard(hand.state)
        assert was is not None
        way = -math.copysign(4.0, hand.off)
        hand.do(Turn(4, way if nearer else -way))
        now = heard(hand.state)
        assert now is not None
        return hand, was.beats_hz, now.beats_hz

    def test_after_the_first_turn_it_asks_and_tells_what_the_beats_did(self) -> None:
        for seed in range(6):
            for nearer in (True, False):
                hand, was, now = self.turned(seed, nearer=nearer)
                truth = "slower" if now < was else "faster"
                self.assertTrue(asks_pace(hand.state))
                for said in ("slower", "faster"):
                    with self.subTest(seed=seed, nearer=nearer, said=said):
                        other = Hand(hand.exercise)
                        other.do(*(one.action for one in hand.log), Pace(said))
                        words = guide(other.state)
                        assert words is not None
                        begins = f"Yes, {truth}." if said == truth else f"It is {truth} now."
                        self.assertTrue(words.startswith(begins), words)
                        self.assertEqual("other way" in words, truth == "faster")
                        self.assertFalse(asks_pace(other.state))

    def test_it_is_asked_once_and_never_before_a_turn(self) -> None:
        hand = Hand(guided())
        hand.do(BOTH)
        self.assertFalse(asks_pace(hand.state))
        with self.assertRaisesRegex(MeldrinError, "Turn the string first"):
            hand.do(Pace("slower"))
        hand.do(Turn(4, 2.0), Pace("faster"), Turn(4, 2.0))
        self.assertFalse(asks_pace(hand.state))

    def test_who_turns_the_wrong_way_for_a_while_is_told(self) -> None:
        hand = Hand(guided(3))
        away = math.copysign(2.0, hand.off)
        hand.do(BOTH, *[Turn(4, away)] * (WRONG_TURNS - 1))
        self.assertIsNone(guide(hand.state))
        hand.do(Turn(4, away))
        self.assertIn("other way", guide(hand.state) or "")
        hand.do(Turn(4, -away))
        self.assertIsNone(guide(hand.state))

    def test_nothing_is_said_where_it_is_not_guided(self) -> None:
        hand = Hand(Exercise("guitar", "unison", "one", 3, out_string=4))
        away = math.copysign(2.0, hand.off)
        hand.do(BOTH, *[Turn(4, away)] * 8)
        self.assertEqual((guide(hand.state), hand.state.taught), (None, None))


class AtOnce(unittest.TestCase):
    def test_who_brought_it_in_is_told_so(self) -> None:
        hand = Hand(guided(2))
        hand.do(BOTH)
        hand.bring_in()
        self.assertIsNone(answer(hand.state))
        hand.do(Judge("in_tune", 0.0))
        found = answer(hand.state)
        assert found is not None
        self.assertEqual(found.sentence, "In tune. You heard the wobble stop.")

    def test_what_is_left_of_the_wobble_is_said_and_no_stop_is_claimed(self) -> None:
        for seed in range(4):
            hand = Hand(guided(seed))
            hand.do(BOTH)
            for _ in range(400):
                if 3.0 <= abs(hand.off) <= 5.5:
                    break
                hand.do(Turn(4, -math.copysign(min(3.0, abs(abs(hand.off) - 4.0)), hand.off)))
            hand.do(BOTH)
            beats = heard(hand.state)
            hand.do(Judge("in_tune", 0.0))
            found = answer(hand.state)
            assert found is not None and beats is not None
            self.assertEqual(found.verdict, "in_tune")
            self.assertNotIn("stop", found.sentence)
            self.assertIn(f"wobble of {1.0 / beats.beats_hz:.0f} seconds", found.sentence)

    def test_who_did_not_is_told_the_side_and_nothing_is_ticked(self) -> None:
        for seed in range(8):
            hand = Hand(guided(seed))
            hand.do(BOTH, Judge("in_tune", 0.0))
            found = answer(hand.state)
            assert found is not None
            low = pitch_cents(hand.state, 4) < 0.0
            with self.subTest(seed=seed):
                self.assertEqual(found.verdict, "low" if low else "high")
                self.assertIn("low" if low else "high", found.sentence.lower())
                self.assertIn("Listen once more.", found.sentence)
                self.assertEqual(hand.state.string(4).seen, "level")
                self.assertIsNone(answer(hand.do(Turn(4, 1.0))))

    def test_without_it_nothing_is_told(self) -> None:
        hand = Hand(Exercise("guitar", "unison", "one", 3, out_string=4))
        hand.do(BOTH, Judge("in_tune", 0.0))
        self.assertIsNone(answer(hand.state))

    def test_the_deaf_who_ask_until_it_is_right_win_little(self) -> None:
        """Say “in tune”, read the side from the answer, turn by it, say it again, and so on."""
        for seed in range(20):
            hand = Hand(Exercise(
                "guitar", "unison", "one", seed, out_string=4, answers=True, decides=False,
                aid="ear", fresh=True,
            ))  # fmt: skip
            size = 8.0
            hand.do(BOTH)
            for _ in range(20):
                hand.do(Judge("in_tune", 0.0))
                found = answer(hand.state)
                assert found is not None
                if found.verdict == "in_tune":
                    break
                hand.do(Turn(4, size if found.verdict == "low" else -size), BOTH)
                size = max(1.0, 0.7 * size)
            hand.do(Finish())
            result = score(hand.exercise, hand.log)
            assert result.points is not None
            # each began out of tune, and the answer to the first word told which way
            self.assertEqual(result.strings[0].basis, "level")
            self.assertLessEqual(result.points, 60.0)

    def test_the_deaf_who_have_it_put_out_until_they_are_lucky_win_little(self) -> None:
        """Say “in tune”, have it put out again where it was not, turn by chance, say it again."""
        for seed in range(12):
            draw = random.Random(seed)
            hand = Hand(Exercise(
                "guitar", "unison", "one", seed, out_string=4, answers=True, decides=False,
                aid="ear", fresh=True,
            ))  # fmt: skip
            hand.do(BOTH, Judge("in_tune", 0.0))
            for _ in range(40):
                found = answer(hand.state)
                assert found is not None
                if found.verdict == "in_tune":
                    break
                hand.do(PutOut(), Turn(4, draw.choice((-1, 1)) * draw.uniform(3.0, 12.0)), BOTH)
                hand.do(Judge("in_tune", 0.0))
            result = score(hand.exercise, hand.log)
            assert result.points is not None
            with self.subTest(seed=seed):
                self.assertNotEqual(result.strings[0].basis, "ear")
                self.assertLessEqual(result.points, 60.0)

    def test_the_first_word_counts_and_mending_is_not_fined(self) -> None:
        hand = Hand(guided(2))
        hand.do(BOTH, Judge("in_tune", 0.0))
        left = score(hand.exercise, [*hand.log, TimedAction(hand.state.time_s + 1.0, Finish())])
        hand.do(BOTH)
        hand.bring_in()
        hand.do(Judge("in_tune", 0.0), Finish())
        mended = score(hand.exercise, hand.log)
        assert mended.points is not None and left.points is not None
        self.assertGreaterEqual(mended.points, left.points)
        judged = mended.strings[0].judgement
        assert judged is not None
        self.assertEqual(judged.was_cents, left.strings[0].judgement.was_cents)  # type: ignore[union-attr]

    def test_put_out_before_it_was_said_it_is_asked_afresh(self) -> None:
        hand = Hand(guided(2))
        hand.do(BOTH, Turn(4, 1.0), Pace("slower"), PutOut(), BOTH, Turn(4, 2.0))
        self.assertTrue(asks_pace(hand.state))
        hand.do(Judge("low", 5.0), PutOut())
        self.assertIsNone(answer(hand.state))
        self.assertFalse(asks_pace(hand.state))


class Fair(unittest.TestCase):
    def test_the_deaf_who_climb_by_the_teacher_s_words_have_not_tuned_by_ear(self) -> None:
        """With no picture: turn until it is said that this is the wrong way, then as far back."""
        for seed in range(12):
            hand = Hand(guided(seed, aid="ear"))
            hand.do(BOTH)
            way = 0.5
            for _ in range(3):
                for _ in range(300):
                    hand.do(Turn(4, way))
                    if "other way" in (guide(hand.state) or ""):
                        break
                way = -way
            hand.do(*[Turn(4, way)] * WRONG_TURNS, BOTH, Judge("in_tune", 0.0), Finish())
            result = score(hand.exercise, hand.log)
            assert result.points is not None
            with self.subTest(seed=seed):
                self.assertNotEqual(result.strings[0].basis, "ear")
                self.assertLessEqual(result.points, 80.0)

    def test_it_neither_counts_for_an_ear_nor_against_it(self) -> None:
        hand = Hand(guided(2))
        hand.do(BOTH, Judge("in_tune", 0.0), Finish())
        result = score(hand.exercise, hand.log)
        self.assertFalse(result.counts_in_a_row)
        self.assertIn("teacher", result.practice)

    def test_who_does_what_is_said_loses_nothing_but_for_the_ripples(self) -> None:
        """Listen, turn the way that was told, as far as the page turns, and say it."""
        for seed in range(12):
            hand = Hand(guided(seed))
            hand.do(BOTH)
            way = 1.0
            for _ in range(200):
                pair = heard(hand.state)
                assert pair is not None
                if pair.beats_hz < limits().still_hz:
                    break
                size = 4.0 if pair.beats_hz > limits().very_slow_hz else 0.8
                before = pair.beats_hz
                hand.do(Turn(4, way * size))
                if asks_pace(hand.state):
                    now = heard(hand.state)
                    assert now is not None
                    hand.do(Pace("slower" if now.beats_hz < before else "faster"))
                hand.do(BOTH)
                pair = heard(hand.state)
                assert pair is not None
                if pair.beats_hz > before:
                    way = -way
            hand.do(Judge("in_tune", 0.0), Finish())
            result = score(hand.exercise, hand.log)
            with self.subTest(seed=seed):
                self.assertEqual(result.points, 80.0, result.lines)


class Next(unittest.TestCase):
    def test_every_end_is_scored_and_leads_on_to_a_guided_string(self) -> None:
        for bring_in, string in ((True, 3), (False, 4)):
            for seed in range(3):
                hand = Hand(guided(seed))
                hand.do(BOTH)
                if bring_in:
                    hand.bring_in()
                hand.do(Judge("in_tune", 0.0), Finish())
                found = score(hand.exercise, hand.log).advice
                self.assertTrue(found.exercise.guided)
                self.assertEqual(found.exercise.out_string, string)
        for log in ([], [TimedAction(1.0, Finish())]):
            self.assertIsNotNone(score(guided(), log).points)


class Music(unittest.TestCase):
    def test_it_is_the_same_music_and_only_the_tuned_string_differs(self) -> None:
        hand = Hand(guided(5))
        hand.do(BOTH)
        hand.bring_in()
        was, now = opening(hand.exercise), hand.state
        for piece in pieces(was, now):
            with self.subTest(piece.id):
                before = [one for one in piece.was if isinstance(one, Start)]
                after = [one for one in piece.now if isinstance(one, Start)]
                self.assertEqual([one.delay_s for one in before], [one.delay_s for one in after])
                pairs = zip(before, after, strict=True)
                moved = [
                    1200.0 * math.log2(b.table.fundamental_hz / a.table.fundamental_hz)
                    for a, b in pairs
                ]
                change = pitch_cents(now, 4) - pitch_cents(was, 4)
                loud = [one for one in moved if abs(one) > 1.0]
                self.assertTrue(loud)
                for one in loud:
                    self.assertAlmostEqual(one, change, delta=1.5)

    def test_every_instrument_has_a_tune_that_ends_and_every_note_is_let_go(self) -> None:
        tunes = set()
        for made in instruments():
            with self.subTest(made.id):
                notes = tune_of(made)
                self.assertTrue(6.0 <= notes[-1].at_s + notes[-1].lasts_s <= 20.0)
                courses = {number for one in notes for number, _ in one.strings}
                self.assertGreaterEqual(len(courses), 3)
                tunes.add(tuple(one.strings for one in notes))
                state = opening(Exercise(made.id, "free", "hair", 1))
                for piece in pieces(state, state):
                    starts = [one for one in piece.now if isinstance(one, Start)]
                    ends = {one.voice: one.delay_s for one in piece.now if isinstance(one, Release)}
                    self.assertTrue(starts)
                    for one in starts:
                        self.assertGreater(ends[one.voice], one.delay_s)
                        self.assertLessEqual(ends[one.voice], piece.lasts_s + 0.2)
        self.assertGreaterEqual(len(tunes), 15)

    def test_a_broken_string_is_silent_and_the_others_are_not(self) -> None:
        hand = Hand(Exercise("guitar", "free", "hair", 1, behaviours=frozenset({"breaking"})))
        whole = pieces(hand.state, hand.state)
        while not hand.state.string(4).broken:
            hand.do(Turn(4, 90.0))
        of_string = [1 for one in tune_of(hand.exercise.instrument) if one.strings == ((4, 0),)]
        tunes = [piece for found in (whole, pieces(hand.state, hand.state)) for piece in found]
        before, after = (
            sum(isinstance(one, Start) for one in piece.now)
            for piece in tunes
            if piece.id == "tune"
        )
        self.assertGreater(len(of_string), 0)
        self.assertEqual(before - after, len(of_string))


class Words(unittest.TestCase):
    def test_the_pair_is_named_in_few_words(self) -> None:
        said = {
            ("guitar", "unison", 4): "The open D, and A pressed behind fret 5, should be one note.",
            ("viola", "fifths", 3): (
                "The open G and D, played together, should ring without a wobble."
            ),
        }
        for (made, method, string), words in said.items():
            exercise = Exercise(made, method, "one", 1, out_string=string, guided=True)
            self.assertEqual(pair_words(exercise), words)
            self.assertLessEqual(len(words.split()), 15)

    def test_one_string_after_the_other_goes_round(self) -> None:
        seen, string = [], 4
        for _ in range(6):
            seen.append(string)
            exercise = Exercise("guitar", "unison", "one", 1, out_string=string, guided=True)
            string = next_string(exercise) or 0
        self.assertEqual(seen[0], seen[5])
        self.assertEqual(sorted(seen[:5]), [1, 2, 3, 4, 6])  # A is the fork’s, two octaves up
