"""Drills with a share of right answers: what is asked, what sounds, and what is right."""

import math
import random
import unittest
from itertools import pairwise

from meldrin.core.catalogue import instrument, instruments
from meldrin.core.drills import (
    DrillAction,
    DrillExercise,
    EndSitting,
    HearExample,
    HearTrial,
    JudgeTrial,
    MarkedPeg,
    NextTrial,
    Question,
    QuestionDrill,
    Sitting,
    StartTrials,
    TunerShown,
    drill_of,
    drill_result,
    opening,
    step,
)
from meldrin.core.drills.drill import TrialSettings
from meldrin.core.drills.sitting import posed_of
from meldrin.core.drills.which import turn_said
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.session import Timed
from meldrin.core.sound.events import Start
from meldrin.core.sound.render import render
from meldrin.core.strings import strain_sounding, wound
from tests import slow

IDS = ("which", "names", "readings", "alone", "whole")
NOTES = ["C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B"]


def posed(
    drill: str, number: int, *, made: str = "viola", level: int = 1, seed: int = 3
) -> Question:
    found = drill_of(drill)
    assert isinstance(found, QuestionDrill)
    asked = TrialSettings(instrument(made), 1, 440.0, 0.0, level=level, number=number)
    return found.posed(asked, random.Random(f"{seed} {number}"))


def said(one: Question) -> str:
    return one.answers[one.right].words


def tables(one: Question) -> list[Start]:
    assert one.heard is not None
    return [event for _, event in one.heard.sounding.events if isinstance(event, Start)]


def cents(low_hz: float, high_hz: float) -> float:
    return 1200.0 * math.log2(high_hz / low_hz)


@slow
class Questions(unittest.TestCase):
    def test_every_instrument_is_asked_what_can_be_answered(self) -> None:
        for made in instruments():
            for drill in IDS:
                for number in range(6):
                    one = posed(drill, number, made=made.id, level=1 + number % 3)
                    words = [answer.words for answer in one.answers]
                    self.assertEqual(len(set(words)), len(words), (made.id, drill, words))
                    self.assertTrue(0 <= one.right < len(words))
                    for sentence in (one.says, one.tells):
                        self.assertRegex(sentence, r"^[A-Z0-9].*\.$")

    def test_the_right_answer_stands_anywhere(self) -> None:
        for drill in IDS:
            places = {posed(drill, 0, seed=n).right for n in range(40)}
            self.assertGreaterEqual(len(places), 3, drill)

    def test_the_string_asked_for_is_the_one_that_sounds(self) -> None:
        open_hz = {"1": 440.0, "2": 293.665, "3": 195.998, "4": 130.813}
        for seed in range(8):
            first, second = tables(one := posed("which", 0, seed=seed))
            self.assertLess(abs(cents(440.0, first.table.frequencies_hz[0])), 0.5)
            wanted = open_hz[said(one)[0]]
            self.assertLess(abs(cents(wanted, second.table.frequencies_hz[0])), 0.5)

    def test_the_octave_is_told_from_the_pipe(self) -> None:
        away = {"octave low": -12, "same octave": 0, "octave high": 12}
        seen = set()
        for seed in range(12):
            pipe, string = tables(one := posed("which", 2, seed=seed))
            steps = cents(pipe.table.frequencies_hz[0], string.table.frequencies_hz[0]) / 100.0
            self.assertAlmostEqual(steps, away[" ".join(said(one).split()[-2:])], delta=0.02)
            seen.add(said(one))
        self.assertEqual(len(seen), 3)

    def test_pegs_are_those_of_the_instrument(self) -> None:
        for made in ("viola", "banjo", "guitar"):
            strings = instrument(made).strings
            for seed in range(6):
                one = posed("which", 1, made=made, seed=seed)
                assert isinstance(one.shown, MarkedPeg)
                self.assertTrue(said(one).startswith(strings[one.shown.string - 1].written))
                way = posed("which", 3, made=made, seed=seed)
                assert isinstance(way.shown, MarkedPeg)
                tightens = strings[way.shown.string - 1].peg.tightens
                loosens = "clockwise" if tightens == "anticlockwise" else "anticlockwise"
                wanted = tightens if "tighten" in way.question else loosens
                self.assertEqual(said(way).lower(), wanted)

    def test_a_turn_of_that_size_moves_the_string_so_far(self) -> None:
        for seed in range(8):
            one = posed("which", 5, made="guitar", seed=seed)
            number = int(one.question.split()[1].strip(","))
            low_by = float(one.question.split(" is ")[1].split()[0])
            string = instrument("guitar").strings[number - 1]
            goal_hz = 440.0 * 2.0 ** ((string.midi - 69) / 12.0)
            low_hz = goal_hz * 2.0 ** (-low_by / 1200.0)
            low, goal = (
                strain_sounding(string, frequency_hz=hz, fret=0, number=1)
                for hz in (low_hz, goal_hz)
            )
            # the knob that takes up what lies between the two: by bisection over `wound`
            begin_m = string.total_m / (1.0 + low)
            few, many = 0.0, 2000.0
            for _ in range(60):
                middle = 0.5 * (few + many)
                strain = string.total_m / wound(string, begin_m, knob_deg=middle) - 1.0
                few, many = (middle, many) if strain < goal else (few, middle)
            # within the rounding of the words, and half a step of the ladder
            self.assertEqual(said(one).lower(), turn_said(few))

    def test_names_are_counted(self) -> None:
        for seed in range(30):
            one = posed("names", 0, level=3, seed=seed)
            shown, wanted = (part.split()[-1] for part in one.question.split(". ")[:2])
            move = midi_of(wanted) - midi_of(shown)
            way = "Up" if move > 0 else "Down"
            unit = "semitone" if abs(move) == 1 else "semitones"
            self.assertEqual(said(one), f"{way} {abs(move)} {unit}")
            counted = one.says.split(": ")[1].rstrip(".").split(", ")
            self.assertEqual(len(counted), abs(move) + 1)

    def test_the_fret_of_the_next_open_string(self) -> None:
        # 5-5-5-4-5 on a guitar; the banjo’s first four are 5-4-3
        frets = {"A": 5, "D": 5, "G": 5, "B": 4, "high E": 5}
        for seed in range(20):
            one = posed("names", 1, made="guitar", seed=seed)
            name = one.question.split("the open ")[1].split(" string")[0]
            self.assertEqual(said(one), f"Fret {frets[name]}")

    def test_no_question_of_names_comes_twice(self) -> None:
        for made in ("viola", "guitar", "sitar"):
            for seed in range(6):
                exercise = DrillExercise("names", made, seed=seed, trials=12)
                asked = [posed_of(exercise, n, 0.0).question for n in range(1, 13)]
                self.assertEqual(len(set(asked)), 12, (made, seed))
                self.assertNotIn(" key", " ".join(asked))  # a viola has none

    def test_one_note_has_two_names(self) -> None:
        pairs = {"C#": "Db", "D#": "Eb", "F#": "Gb", "G#": "Ab", "A#": "Bb"}
        both = pairs | {flat: sharp for sharp, flat in pairs.items()}
        for seed in range(10):
            one = posed("names", 3, seed=seed)
            self.assertEqual(said(one), both[one.question.split()[-1].rstrip("?")])

    def test_the_tuner_shows_what_is_the_matter(self) -> None:
        seen = set()
        for seed in range(24):
            one = posed("readings", 0, seed=seed)
            assert isinstance(one.shown, TunerShown)
            note = one.question.split(" be ")[1].split(",")[0]
            frames = [(name, off) for _, name, off in one.shown.frames if name]
            names = {name for name, _ in frames}
            first, last = frames[0][1], frames[-1][1]
            cause = one.answers[one.right].id
            seen.add(cause)
            right_a = one.shown.a4_hz == 440.0
            self.assertEqual(right_a, cause != "set")
            if cause in ("low", "high"):
                self.assertEqual(names, {note})
                self.assertEqual(last < -4.0, cause == "low")
                self.assertEqual(last > 4.0, cause == "high")
            elif cause == "wait":
                self.assertGreater(first, 10.0)
                self.assertLess(abs(last), 1.0)
            elif cause == "mute":
                self.assertGreaterEqual(len(names), 2)
            elif cause == "mode":
                self.assertNotEqual(one.shown.mode, "all notes")
                self.assertNotIn(note, names)
        self.assertEqual(len(seen), 6)

    def test_a_false_string_beats_alone_and_one_that_is_out_does_not(self) -> None:
        for seed in range(9):
            one = posed("alone", 0, made="guitar", seed=seed)
            alone, _, fork = tables(one)
            cause = one.answers[one.right].id
            meets = fork.table.frequencies_hz[0]
            near = sorted(alone.table.frequencies_hz, key=lambda hz: abs(hz - meets))
            doubled = abs(near[1] - near[0]) < 20.0
            self.assertEqual(doubled, cause == "false")
            if cause == "false":
                self.assertTrue(2.4 < abs(near[1] - near[0]) < 4.8)  # 3 to 4, each a little other
            else:
                self.assertEqual(abs(near[0] - meets) > 2.9, cause == "out")

    def test_one_string_is_out_and_all_others_are_not(self) -> None:
        for seed in range(10):
            one = posed("whole", 0, made="guitar", level=2, seed=seed)
            wanted = [82.407, 110.0, 146.832, 195.998, 246.942, 329.628]
            singly = tables(one)[:6]
            off = [
                cents(hz, string.table.frequencies_hz[0])
                for hz, string in zip(wanted, singly, strict=True)
            ]
            out = [at for at, size in enumerate(off) if abs(size) > 1.0]
            self.assertEqual(len(out), 1)
            self.assertTrue(24.0 < abs(off[out[0]]) < 36.0)
            self.assertEqual(one.right, 2 * out[0] + (off[out[0]] > 0.0))

    def test_what_sounds_does_not_clip_or_click(self) -> None:
        for drill in IDS:
            for made in ("viola", "guitar", "sitar"):
                one = posed(drill, 0, made=made)
                heard = one.heard or one.afterwards
                assert heard is not None
                for part, after in pairwise(heard.parts):
                    self.assertLessEqual(part.end_s, after.begin_s)
                samples = render(
                    heard.sounding.events, duration_s=heard.duration_s + 0.1, sample_rate=24_000
                )
                self.assertLess(abs(samples).max(), 0.8, (drill, made))
                self.assertLess(abs(samples[-48:]).max(), 2e-3, (drill, made))


def midi_of(note: str) -> int:
    name, octave = note[:-1], int(note[-1])
    sharp = {"Db": "C#", "Eb": "D#", "Gb": "F#", "Ab": "G#", "Bb": "A#"}.get(name, name)
    return NOTES.index(sharp) + 12 * (octave + 1)


def _sat(
    made: DrillExercise, answer: int | None, *, trials: int
) -> tuple[Sitting, list[Timed[DrillAction]]]:
    """Sit through with one answer always, or with the right one."""
    state = opening(made)
    log: list[Timed[DrillAction]] = []
    for number in range(trials):
        begins: DrillAction = NextTrial() if number else StartTrials()
        state, _ = step(state, begins, dt_s=1.0)
        log.append(Timed(state.time_s, begins))
        one = state.posed
        said = one.right if answer is None else min(answer, len(one.answers) - 1)
        actions: list[DrillAction] = [HearTrial()] if one.heard else []
        for action in (*actions, JudgeTrial(said, "sure")):
            state, _ = step(state, action, dt_s=1.0)
            log.append(Timed(state.time_s, action))
    log.append(Timed(state.time_s + 1.0, EndSitting()))
    return state, log


@slow
class Sittings(unittest.TestCase):
    def exercise(self, drill: str, *, level: int = 1) -> DrillExercise:
        return DrillExercise(drill, "viola", 5, trials=12, level=level)

    def test_who_knows_goes_up_a_level_and_who_does_not_goes_down(self) -> None:
        for drill in IDS:
            made = self.exercise(drill, level=2)
            result = drill_result(made, _sat(made, None, trials=12)[1])
            self.assertEqual((result.right, result.level, result.next_level), (12, 2, 3))
            self.assertEqual(result.headline, "You were right 12 of 12 times.")
            self.assertIn("The next sitting will be harder.", result.remarks)
            self.assertEqual(result.threshold, None)
            few = drill_result(made, _sat(made, None, trials=4)[1])
            self.assertEqual(few.next_level, 2)  # too few to tell

    def test_who_always_says_the_same_is_not_praised(self) -> None:
        for drill in IDS:
            praised = 0
            for seed in range(6 if drill == "readings" else 20):
                made = DrillExercise(drill, "viola", seed, trials=12, level=2)
                result = drill_result(made, _sat(made, seed % 4, trials=12)[1])
                praised += result.next_level > 2
                if result.next_level > 2:
                    self.assertNotIn("Guessing", " ".join(result.remarks))
            self.assertEqual(praised, 0, drill)

    def test_who_slips_more_and_more_is_told_to_rest(self) -> None:
        def result(right: list[bool]) -> str:
            made, log = self.exercise("names"), list[Timed[DrillAction]]()
            state = opening(made)
            for number, is_right in enumerate(right):
                begins: DrillAction = NextTrial() if number else StartTrials()
                state, _ = step(state, begins, dt_s=1.0)
                log.append(Timed(state.time_s, begins))
                one = state.posed
                said = one.right if is_right else (one.right + 1) % len(one.answers)
                judged = JudgeTrial(said, "guess")
                state, _ = step(state, judged, dt_s=1.0)
                log.append(Timed(state.time_s, judged))
            told = drill_result(made, log)
            self.assertEqual(told.rest, "Rest your ears" in " ".join(told.remarks))
            return " ".join(told.remarks)

        self.assertIn("Rest your ears", result([True] * 8 + [False] * 4))
        self.assertNotIn("Rest", result([False] * 4 + [True] * 8))
        self.assertNotIn("Rest", result([True, False] * 6))

    def test_what_makes_no_sound_is_judged_without(self) -> None:
        state, _ = step(opening(self.exercise("names")), StartTrials(), dt_s=0.0)
        with self.assertRaises(MeldrinError) as refused:
            step(state, HearTrial(), dt_s=0.0)
        self.assertEqual(refused.exception.code, Code.ACTION)
        state, _ = step(state, JudgeTrial(0, "guess"), dt_s=0.0)
        state, _ = step(state, HearTrial(), dt_s=0.0)  # now it is counted aloud
        self.assertEqual(state.stage, "told")

    def test_there_are_examples_of_each_kind(self) -> None:
        for drill, least in zip(IDS, (7, 3, 6, 3, 3), strict=True):
            state = opening(self.exercise(drill))
            self.assertGreaterEqual(len(state.examples), least)
            for number, example in enumerate(state.examples):
                self.assertTrue(example.heard or example.shown)
                if example.heard:
                    step(state, HearExample(number), dt_s=0.0)
