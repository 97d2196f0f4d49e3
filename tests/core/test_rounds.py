"""Rounds with a class: what is asked and how help fades, against sizes and rates worked out by
hand; and what answers tell, above all nothing to who has not listened.
"""

import unittest
from collections import Counter
from dataclasses import replace
from datetime import UTC, datetime, timedelta

from meldrin.core.catalogue import instrument
from meldrin.core.drills import SAMPLE_RATE, DrillExercise, Threshold
from meldrin.core.errors import Code, MeldrinError, OutOfRange
from meldrin.core.practice import Sat, progress, skills_for, standings
from meldrin.core.rounds import (
    ROUNDS,
    Judged,
    Series,
    ended_said,
    figure_of,
    of_drill,
    of_show,
    right_of,
    room_drills,
    told_said,
)
from meldrin.core.shows import SHOWS
from meldrin.core.sound.render import render

AT = datetime(2026, 11, 21, tzinfo=UTC)
UNISON = DrillExercise("width", "viola", 0, string=2)
FIFTH = replace(UNISON, interval="fifth")


def series(exercise: DrillExercise = UNISON, **wanted: object) -> Series:
    return of_drill(exercise, **{"seed": 5, "count": 9, **wanted})  # type: ignore[arg-type]


class Asked(unittest.TestCase):
    def test_differences_shrink_from_the_first_to_the_last(self) -> None:
        wanted = {"large": (40.0, 15.0), "middle": (20.0, 7.0), "small": (10.0, 3.0)}
        for size, (first, last) in wanted.items():
            sizes: dict[int, float] = {}
            for seed in range(40):
                made = series(size=size, seed=seed)
                for number in range(1, 10):
                    size_of = abs(made.difference(number) or 0.0)
                    sizes[number] = max(sizes.get(number, 0.0), size_of)
            self.assertAlmostEqual(sizes[1], first)
            self.assertAlmostEqual(sizes[9], last)
            self.assertEqual(sorted(sizes.values(), reverse=True), list(sizes.values()))

    def test_each_answer_is_right_about_equally_often(self) -> None:
        for exercise, answers in ((UNISON, 3), (replace(UNISON, drill="beating"), 2)):
            right = Counter(
                series(exercise, seed=seed).posed(number).right
                for seed in range(60)
                for number in (1, 5, 9)
            )
            self.assertEqual(len(right), answers)
            # 180 draws: a share of 1/n lies within 5 deviations
            for count in right.values():
                share = 1.0 / answers
                self.assertLess(
                    abs(count - 180 * share), 5 * (180 * share * (1 - share)) ** 0.5, right
                )

    def test_who_always_says_the_same_is_right_about_as_often_as_chance(self) -> None:
        for seed in range(200):
            made = series(seed=seed)
            right = Counter(made.posed(number).right for number in range(1, 10))
            self.assertLessEqual(max(right.values()), 4)  # of a deck with 4 of each

    def test_what_is_right_is_what_sounds(self) -> None:
        """The pair beats as fast as its difference says, at the partials that meet."""
        for number in range(1, 10):
            made = series(FIFTH)
            cents = made.difference(number) or 0.0
            (water,) = made.water(number)
            both = [
                event.table.frequencies_hz  # type: ignore[union-attr]
                for at_s, event in made.posed(number).heard.sounding.events  # type: ignore[union-attr]
                if event.kind == "start" and at_s >= water.begin_s
            ]
            low, high = sorted(both)
            # third partial of the lower note, second of the upper: stiff strings stretch a little
            self.assertAlmostEqual(water.beats_hz, abs(3 * low[0] - 2 * high[0]), delta=0.5)
            right = 1 + (cents > 0) - (cents < 0)
            self.assertEqual(made.posed(number).right, right)
            # pure 3/2, widened by the cents
            self.assertAlmostEqual(high[0] / low[0], 1.5 * 2 ** (cents / 1200), delta=1e-6)

    def test_the_water_beats_as_a_string_and_a_fork_do(self) -> None:
        made = series(replace(UNISON, drill="beating"))
        for number in range(1, 10):
            (water,) = made.water(number)
            self.assertAlmostEqual(water.beats_hz, made.difference(number) or 0.0, places=6)
            self.assertGreater(water.depth, 0.5)  # a fork that is made as loud as its partial
            self.assertLessEqual(water.depth, 1.0)
        self.assertEqual(series(replace(UNISON, drill="higher")).water(1), ())

    def test_help_fades_in_thirds_or_is_not_there(self) -> None:
        helps = [series().help(number) for number in range(1, 10)]
        self.assertEqual(helps, ["water"] * 3 + ["words"] * 3 + ["ear"] * 3)
        self.assertEqual({series(fading=False).help(n) for n in range(1, 10)}, {"ear"})
        four = series(count=4)
        self.assertEqual([four.help(n) for n in range(1, 5)], ["water", "water", "words", "ear"])

    def test_a_comparison_becomes_a_round_whose_length_tells_nothing(self) -> None:
        for show in SHOWS:
            made = of_show(show.id, seed=3, count=12)
            right = {made.posed(number).right for number in range(1, 13)}
            self.assertGreater(len(right), 1, show.id)
            lasts = {round(made.posed(n).heard.duration_s, 6) for n in range(1, 13)}  # type: ignore[union-attr]
            self.assertEqual(len(lasts), 1)
            words = [one.words for one in made.posed(1).answers]
            self.assertEqual(words, [one.words for one in show.scenes])

    def test_everything_a_room_can_judge_sounds_and_has_few_answers(self) -> None:
        for drill in room_drills():
            made = series(replace(UNISON, drill=drill.id), count=3)
            for number in (1, 2, 3):
                posed = made.posed(number)
                self.assertLessEqual(len(posed.answers), 4)
                assert posed.heard is not None
                samples = render(
                    posed.heard.sounding.events,
                    duration_s=posed.heard.duration_s,
                    sample_rate=SAMPLE_RATE,
                )
                self.assertGreater(abs(samples).max(), 0.05)
                self.assertLess(abs(samples[-20:]).max(), 0.02)  # no click at its end

    def test_a_round_is_read_as_it_was_written(self) -> None:
        for made in (series(size="small", each_plays=True), of_show("tempered", seed=1)):
            self.assertEqual(ROUNDS.value(ROUNDS.record(made)), made)

    def test_what_makes_no_round_is_refused(self) -> None:
        for drill in ("which", "hold", "count", "way"):
            with self.assertRaises(MeldrinError) as refused:
                series(replace(UNISON, drill=drill))
            self.assertEqual(refused.exception.code, Code.ROUND)
        for count in (2, 13):
            with self.assertRaises(OutOfRange):
                series(count=count)
        with self.assertRaises(MeldrinError):
            Series(None, 1)
        with self.assertRaises(MeldrinError):
            of_show("nothing", seed=1)


class Told(unittest.TestCase):
    def judged(self, made: Series, *, hears: bool, answer: int = 1) -> list[Judged]:
        return [
            Judged(n, made.posed(n).right if hears else answer, "sure")
            for n in range(1, made.count + 1)
        ]

    def test_a_class_is_told_how_many_said_what_was_right(self) -> None:
        posed = series().posed(1)
        counts = [2, 2, 2]
        counts[posed.right] = 7
        words = posed.answers[posed.right].words
        self.assertEqual(told_said(posed, counts), f"7 of 11 said “{words}”.")
        self.assertEqual(told_said(posed, [0, 0, 0]), "Nobody has said anything.")

    def test_who_hears_all_is_told_so_and_who_guesses_is_not_praised(self) -> None:
        made = series()
        self.assertEqual(
            ended_said(made, self.judged(made, hears=True)),
            "You were right 9 of 9 times. You heard every one.",
        )
        for answer in (0, 1, 2):  # the same all along, without listening
            said = ended_said(made, self.judged(made, hears=False, answer=answer))
            self.assertIn("Guessing gives about as many", said)
        self.assertEqual(ended_said(made, []), "You have not judged anything.")
        lucky = self.judged(made, hears=True)[:1]  # one is right by chance 1 time in 3
        self.assertNotIn("every", ended_said(made, lucky))

    def test_the_record_takes_what_was_judged_without_the_water(self) -> None:
        made = series()
        figure = figure_of(made, self.judged(made, hears=True), at=AT)
        assert figure is not None
        self.assertEqual((figure.right, figure.trials), (6, 6))
        self.assertTrue(figure.in_class)
        self.assertIsNone(figure.threshold)
        self.assertEqual(figure.known_by, "middle unison pure")  # D4, at 294 Hz
        self.assertAlmostEqual(figure.brier or 0.0, 0.05**2)  # sure is 95 in 100
        watched = [one for one in self.judged(made, hears=True) if one.number <= 3]
        self.assertIsNone(figure_of(made, watched, at=AT))
        show = of_show("chord", seed=1)
        self.assertIsNone(figure_of(show, self.judged(show, hears=True), at=AT))
        self.assertEqual(right_of(show, self.judged(show, hears=True)), (3, 3))

    def test_how_sure_somebody_was_is_known_of_what_they_said(self) -> None:
        made = series(fading=False)
        silent = [replace(one, sure=None) for one in self.judged(made, hears=True)]
        figure = figure_of(made, [*silent[:7], *self.judged(made, hears=True)[7:]], at=AT)
        assert figure is not None
        self.assertEqual(figure.trials, 9)
        self.assertEqual([one.answers for one in figure.sure if one.answers], [2])

    def test_a_round_does_not_unsettle_what_a_sitting_measured(self) -> None:
        made = series(fading=False)
        luck = figure_of(made, self.judged(made, hears=False), at=AT + timedelta(days=1))
        assert luck is not None
        made_for = skills_for(instrument("viola"), "standard", "fifths")
        skills = [one for one in made_for if one.drill == "width"]
        measured = Sat("width", skills[0].known_by, AT, 8, 12, Threshold(0.6, 0.8, 1.1))
        luck = replace(luck, known_by=skills[0].known_by)
        now = AT + timedelta(days=2)
        before, _ = standings(skills, [measured], now=now)
        after, _ = standings(skills, [measured, luck], now=now)
        self.assertEqual(before[0].away, after[0].away)
        says = progress([measured, luck], [], now=now, who="Liv").says
        self.assertIn(f"In rounds with the class Liv was right {luck.right} of 9 times.", says)
