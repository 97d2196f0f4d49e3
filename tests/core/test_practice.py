"""The practice plan: what is chosen, why, and with how much help, by a fixed clock."""

import math
import random
import unittest
from datetime import UTC, date, datetime, timedelta

from meldrin.core.catalogue import instrument, instruments
from meldrin.core.drills import Threshold, drill_of
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.methods import METHODS
from meldrin.core.practice import (
    Aim,
    Brought,
    Evidence,
    Item,
    Sat,
    Skill,
    Tuned,
    chosen,
    items_for,
    most_missed,
    next_aid,
    path_of,
    side_to_begin,
    skills_for,
    standings,
)

NOW = datetime(2026, 3, 20, 17, 0, tzinfo=UTC)
VIOLA = instrument("viola")


def days_ago(days: float) -> datetime:
    return NOW - timedelta(days=days)


def sat(drill: str, known_by: str, middle: float, *, days: float = 1.0) -> Sat:
    known = Threshold(middle / 1.5, middle, middle * 1.5)
    return Sat(drill, known_by, days_ago(days), 8, 12, known)


def asked(drill: str, right: int, *, level: int = 1, days: float = 1.0) -> Sat:
    following = max(1, min(3, level + (right >= 10) - (right <= 6)))
    return Sat(drill, "all", days_ago(days), right, 12, level=level, next_level=following)


def tuned(
    ended: dict[int, float], *, began: float = -20.0, aid: str = "ripple", well: bool = True
) -> Tuned:
    strings = tuple(Brought(string, began, cents, well) for string, cents in ended.items())
    return Tuned("viola", "fifths", days_ago(2.0), aid, strings)


def everything(times: float, *, days: float = 1.0) -> list[Sat]:
    """All that there is to learn for fifths on a viola, at a multiple of the first goal."""
    found = []
    for skill in skills_for(VIOLA, "standard", "fifths"):
        if skill.is_measured:
            found.append(sat(*skill.key, times * skill.goal(0), days=days))
        else:
            found.append(asked(skill.drill, 12, level=1, days=days))
    return found


class Skills(unittest.TestCase):
    def test_every_method_has_some_on_every_instrument_it_serves(self) -> None:
        for made in instruments():
            for method in METHODS:
                skills = skills_for(made, "standard", method)
                self.assertEqual(len({one.key for one in skills}), len(skills))
                self.assertTrue(any(one.is_measured for one in skills))
                for one in skills:
                    drill_of(one.drill)
                    self.assertTrue(1 <= one.string <= len(made.strings))

    def test_a_viola_has_three_registers(self) -> None:
        # A4 at 440 Hz is high, D4 and G3 are middle, C3 at 130.8 Hz is just above low
        skills = skills_for(VIOLA, "standard", "fifths")
        places = {one.known_by for one in skills if one.drill == "higher"}
        self.assertEqual(places, {"middle", "high"})
        cello = skills_for(instrument("cello"), "standard", "fifths")
        places = {one.known_by for one in cello if one.drill == "width"}
        self.assertEqual(places, {"low fifth pure", "middle fifth pure"})

    def test_an_unknown_method_is_refused(self) -> None:
        with self.assertRaises(MeldrinError) as refused:
            skills_for(VIOLA, "standard", "guessing")
        self.assertEqual(refused.exception.code, Code.NO_SUCH_METHOD)


class Standings(unittest.TestCase):
    def test_how_far_is_the_log_of_the_threshold_over_its_goal(self) -> None:
        skill = Skill("higher", "middle", 3)
        (one,), at = standings([skill], [sat("higher", "middle", 30.0)], now=NOW)
        self.assertEqual(at, 0)
        self.assertAlmostEqual(one.away, math.log(30.0 / 15.0), places=12)

    def test_the_newest_sitting_counts(self) -> None:
        skill = Skill("higher", "middle", 3)
        done = [sat("higher", "middle", 40.0, days=9), sat("higher", "middle", 18.0, days=1)]
        (one,), _ = standings([skill], done, now=NOW)
        self.assertAlmostEqual(one.away, math.log(18.0 / 15.0), places=12)

    def test_a_threshold_that_is_not_known_yet_counts_as_not_tried(self) -> None:
        skill = Skill("higher", "middle", 3)
        wide = Sat("higher", "middle", days_ago(1), 5, 8, Threshold(1.0, 10.0, 100.0))
        (one,), _ = standings([skill], [wide], now=NOW)
        (never,), _ = standings([skill], [], now=NOW)
        self.assertEqual(one.away, never.away)
        self.assertIsNone(never.due)

    def test_when_all_have_reached_a_step_the_next_one_is_aimed_at(self) -> None:
        skills = skills_for(VIOLA, "standard", "fifths")
        _, at = standings(skills, everything(0.9), now=NOW)
        self.assertEqual(at, 1)
        _, at = standings(skills, everything(0.9)[1:], now=NOW)
        self.assertEqual(at, 0)

    def test_what_goes_well_comes_again_later_and_later(self) -> None:
        skill, pauses, done = Skill("higher", "middle", 3), [], []
        at = days_ago(100)
        for _ in range(4):
            known = Threshold(2.0, 3.0, 4.5)
            done.append(Sat("higher", "middle", at, 9, 12, known))
            (one,), _ = standings([skill], done, now=NOW)
            assert one.due is not None
            pauses.append(one.due - at)
            at = one.due
        self.assertEqual(sorted(pauses), pauses)
        self.assertGreaterEqual(pauses[0], timedelta(days=1))
        self.assertGreater(pauses[-1], 3 * pauses[0])

    def test_what_was_forgotten_comes_again_sooner(self) -> None:
        skill = Skill("higher", "middle", 3)
        well = [sat("higher", "middle", 3.5, days=n) for n in (30, 20, 8)]
        badly = [*well[:-1], sat("higher", "middle", 60.0, days=8)]
        dues = [standings([skill], done, now=NOW)[0][0].due for done in (well, badly)]
        assert dues[0] is not None
        assert dues[1] is not None
        self.assertLess(dues[1], dues[0])


class Choosing(unittest.TestCase):
    def test_the_farthest_from_its_goal_comes_first(self) -> None:
        skills = [
            Skill("higher", "middle", 3),
            Skill("higher", "high", 1),
            Skill("faster", "middle"),
        ]
        done = [
            sat("higher", "middle", 20.0),
            sat("higher", "high", 45.0),
            sat("faster", "middle", 45.0),
        ]
        stand, _ = standings(skills, done, now=NOW)
        (first,) = chosen(stand, 1, now=NOW)
        self.assertEqual(first.skill.key, ("higher", "high"))
        keys = [one.skill.key for one in chosen(stand, 2, now=NOW)]
        self.assertIn(("higher", "middle"), keys)
        self.assertNotIn(("faster", "middle"), keys)  # it is at its goal, and was heard yesterday

    def test_what_is_due_again_gets_a_third_at_most(self) -> None:
        skills = skills_for(VIOLA, "standard", "fifths")
        done = [one for one in everything(0.9, days=60.0) if one.drill != "higher"]
        stand, _ = standings(skills, done, now=NOW)
        picked = chosen(stand, 4, now=NOW)
        self.assertEqual(sum(one.away == 0.0 for one in picked), 2)
        self.assertEqual(sum(one.skill.drill == "higher" for one in picked), 2)

    def test_after_days_away_the_easiest_comes_first(self) -> None:
        skills = [Skill("higher", "middle", 3), Skill("higher", "high", 1)]
        done = [sat("higher", "middle", 90.0, days=20), sat("higher", "high", 17.0, days=20)]
        stand, _ = standings(skills, done, now=NOW)
        keys = [one.skill.known_by for one in chosen(stand, 2, now=NOW, easy_first=True)]
        self.assertEqual(keys, ["high", "middle"])

    def test_it_always_finds_as_many(self) -> None:
        for done in ([], everything(0.5), everything(3.0)):
            stand, _ = standings(skills_for(VIOLA, "standard", "fifths"), done, now=NOW)
            for count in (1, 4, 5, 12):
                self.assertEqual(len(chosen(stand, count, now=NOW)), count)


class Help(unittest.TestCase):
    def test_it_fades_after_two_that_went_well_and_comes_back_after_two_that_did_not(self) -> None:
        def gone(*went: bool, aid: str = "ripple") -> list[Tuned]:
            return [tuned({1: 0.0}, aid=aid, well=one) for one in went]

        self.assertEqual(next_aid([]), "ripple")
        self.assertEqual(next_aid(gone(True)), "ripple")
        self.assertEqual(next_aid(gone(True, True)), "ear")
        self.assertEqual(next_aid(gone(True, False, True)), "ripple")
        self.assertEqual(next_aid(gone(False, False)), "level")
        back = [*gone(True, True), *gone(False, False, aid="ear")]
        self.assertEqual(next_aid(back), "ripple")
        up = [*gone(False, False), *gone(True, True, aid="level")]
        self.assertEqual(next_aid(up), "ripple")

    def test_who_looks_at_more_help_does_not_lose_it_by_that(self) -> None:
        looked = [tuned({1: 0.0}, aid="level") for _ in range(5)]
        self.assertEqual(next_aid(looked), "ripple")
        self.assertEqual(next_aid([tuned({1: 0.0}, aid="tuner") for _ in range(5)]), "ripple")


class OneString(unittest.TestCase):
    def test_the_string_and_side_that_are_missed_most(self) -> None:
        found = most_missed(
            VIOLA,
            "standard",
            [
                tuned({3: -9.0, 2: 1.0}, began=-20.0),
                tuned({3: -7.0, 2: 2.0}, began=-20.0),
                tuned({3: 1.0}, began=20.0),
                tuned({3: 1.0}, began=20.0),
            ],
        )
        assert found is not None
        self.assertEqual((found.string, found.began), (3, "low"))
        # the newest counts most: 0.8^2 * 7 and 0.8^3 * 9 over their weights are 7.9
        self.assertEqual(found.reason, "Your G string ends 8 cents low most often.")

    def test_one_cent_is_one_cent(self) -> None:
        found = most_missed(VIOLA, "standard", [tuned({3: -1.2}, began=-20.0)] * 4)
        assert found is not None
        self.assertEqual(found.reason, "Your G string ends 1 cent low most often.")

    def test_nobody_knows_the_side_before_it_sounds(self) -> None:
        draw = random.Random(4)
        put = [side_to_begin("low", draw) for _ in range(400)]
        low = put.count("low") / len(put)
        self.assertTrue(0.6 < low < 0.8, low)  # 0.7 of 400 is within 0.07 (three deviations)

    def test_once_says_nothing(self) -> None:
        self.assertIsNone(most_missed(VIOLA, "standard", [tuned({3: -9.0})]))
        self.assertIsNone(most_missed(VIOLA, "standard", []))


class Plans(unittest.TestCase):
    def items(self, aim: Aim | None = None, *, done: list[Sat] | None = None) -> tuple[Item, ...]:
        """With nothing said of what was done, somebody who is nearly at the first goals."""
        found = everything(1.2) if done is None else done
        aim = aim or Aim("fifths", "viola")
        path = path_of(Evidence(found))
        return items_for(aim, VIOLA, sat=found, tuned=[], path=path, now=NOW)

    def test_it_takes_as_long_as_was_asked_for(self) -> None:
        for minutes in (5, 10, 20):
            for concert in (None, NOW.date() + timedelta(days=3)):
                aim = Aim("fifths", "viola", minutes=minutes, concert=concert)
                took = sum(one.minutes for one in self.items(aim))
                self.assertTrue(minutes - 1 <= took <= minutes, (minutes, took))

    def test_a_newcomers_day_is_one_drill_and_one_string(self) -> None:
        for minutes in (5, 10, 20):
            items = self.items(Aim("fifths", "viola", minutes=minutes), done=[])
            self.assertEqual([one.kind for one in items], ["drill", "one_string"])

    def test_a_newcomer_begins_with_what_the_path_begins_with(self) -> None:
        self.assertEqual(
            [(one.name, one.step) for one in self.items(done=[])][:1],
            [("Still or beating", "still")],
        )

    def test_no_drill_is_in_it_twice(self) -> None:
        for done in (everything(0.5), everything(3.0), everything(2.0, days=30.0)):
            for minutes in (5, 10, 20):
                items = self.items(Aim("fifths", "viola", minutes=minutes), done=done)
                drills = [one.skill.drill for one in items if one.skill]
                self.assertEqual(len(drills), len(set(drills)))

    def test_the_next_step_says_how_the_whole_instrument_is_tuned(self) -> None:
        items = self.items(Aim("fifths", "viola", minutes=20))
        self.assertEqual(items[-1].name, "The whole instrument")  # one string comes before it
        one = Tuned(
            "viola", "fifths", days_ago(3.0), "ear", (Brought(3, -20.0, 1.0, True, basis="ear"),),
            tolerance_cents=6.0, proves=True, sides_right=6, sides_of=6,
            practice="One lucky turn can do this.",
        )  # fmt: skip
        heard = [sat("beating", "middle", 0.4), sat("higher", "middle", 8.0)]
        done = Evidence([*everything(0.4), *heard, *heard], [one] * 4)
        aim = Aim("fifths", "viola", minutes=20)
        items = items_for(aim, VIOLA, sat=done.sat, tuned=done.tuned, path=path_of(done), now=NOW)
        self.assertEqual((items[-1].name, items[-1].step), ("Tune a whole instrument", "whole"))

    def test_every_item_has_a_reason_in_one_or_two_sentences(self) -> None:
        for done in ([], everything(0.5), everything(3.0), everything(2.0, days=30.0)):
            for one in self.items(done=done):
                self.assertRegex(one.reason, r"^[A-Z].*[.?]$")
                self.assertLessEqual(len(one.reason.split()), 16, one.reason)

    def test_the_bench_is_always_in_it(self) -> None:
        for minutes in (5, 10, 20):
            kinds = [one.kind for one in self.items(Aim("fifths", "viola", minutes=minutes))]
            self.assertIn("one_string", kinds)
        self.assertEqual(kinds[-2:], ["rest", "attempt"])

    def test_reasons_say_what_was_measured(self) -> None:
        done = everything(0.9)
        done[-5:] = [one for one in done[-5:] if one.drill != "higher"]
        done.append(sat("higher", "middle", 24.0))
        done.append(sat("higher", "high", 12.0))
        said = [one.reason for one in self.items(done=done)]
        self.assertIn("You hear 24 cents here. The goal is 15 cents.", said)

    def test_after_days_away_it_says_so_once(self) -> None:
        said = [one.reason for one in self.items(done=everything(2.0, days=12.0))]
        away = [one for one in said if one.startswith("You were away for 12 days.")]
        self.assertEqual(said[:1], away)

    def test_before_a_concert_all_strings_are_tuned(self) -> None:
        aim = Aim("fifths", "viola", concert=NOW.date() + timedelta(days=1))
        last = self.items(aim)[-1]
        self.assertEqual(last.kind, "attempt")
        self.assertEqual(
            last.reason, "You play tomorrow: all strings, as you will tune them there."
        )
        past = Aim("fifths", "viola", concert=date(2026, 3, 1))
        self.assertEqual(self.items(past)[-1].kind, "one_string")

    def test_what_cannot_be_is_refused(self) -> None:
        with self.assertRaises(MeldrinError) as refused:
            Aim("fifths", "viola", minutes=7)  # type: ignore[arg-type]
        self.assertEqual(refused.exception.code, Code.PRACTICE)
        with self.assertRaises(MeldrinError) as refused:
            Aim("guessing", "viola")
        self.assertEqual(refused.exception.code, Code.NO_SUCH_METHOD)
