"""In which order to practise: the plan against random order, turns and the weakest first.

Nobody knows how one learner learns, so there are several models of it, written down with their
figures before the plan was tried on them, and none is touched for its sake. All of them are
judgements, in the ranges that the literature of learning to hear has.

- ``power``: a threshold falls as a power of the trials; what is gained in one register is kept in
  the others by 0.3 to 0.7; a week without a drill loses 5 to 20 % of what was gained.
- ``apart``: nothing carries over. Every register comes nearer to its floor by a share a trial, and
  a week without it loses 10 to 25 % of the gain.
- ``nights``: 24 trials of a drill in a day count in full and the rest a quarter; after each fall by
  a fifth there is a plateau of 24 to 72 trials without a gain.
- ``uneven``: as ``power``, but some drills are at their goal when it begins, and one in six has a
  floor above its goal, which nobody knows.
- ``together``: registers carry over by 0.8 to 0.95, other drills by 0.1 to 0.3, and nearly nothing
  is forgotten.

One more order is by who knows this ear and how it learns, and looks two sittings ahead: no plan can
be expected to do better than that.

What is counted is the excess: by how many goals a threshold lies above its goal, 0 where it is
reached, in the mean over what the learner has to learn.
"""

import copy
import math
import random
from collections.abc import Callable, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Final

import numpy as np

from meldrin.core.catalogue import instrument
from meldrin.core.drills import Threshold
from meldrin.core.practice import Sat, Skill, chosen, skills_for, standings
from tools.practising import (
    BEGINS,
    EXPONENT,
    FIRST,
    FLOOR,
    GOAL,
    HALF_TRIALS,
    LEARNERS_DIFFER,
    LOW_IS_HARDER,
    MIXED,
    SITTINGS_A_DAY,
    SKILLS_DIFFER,
    TRIALS_A_SITTING,
    days,
)  # fmt: skip

LEARNERS: Final = 200
SHARE_A_TRIAL: Final = (0.003, 0.012)
FULL_A_DAY, AFTER_THAT = 24, 0.25
FALL_TO_PLATEAU: Final = 0.8
PLATEAU_TRIALS: Final = (24.0, 72.0)
SPREAD_UNEVEN: Final = 0.9
UNREACHABLE: Final = 1.0 / 6.0
FLOOR_ABOVE: Final = (1.2, 2.0)  # times the goal
# What a sitting tells of a threshold: the log of it with this deviation after one sitting, falling
# as the root of what was heard, down to the least; the drills’ own studies find as much.
TELLS_SD, LEAST_SD = 0.35, 0.15
Key = tuple[str, str]


@dataclass(frozen=True, slots=True)
class Way:
    """How a learner learns.

    registers, drills: ranges of what carries over to the other registers of a drill, and to the
        other drills. lost_a_week: the range of what is lost of a gain in a week without it.
    by_share: whether it comes nearer by a share a trial, else by a power of the trials.
    nights: whether there are plateaus, and a day's gain is limited. uneven: see above.
    """

    registers: tuple[float, float] = (0.3, 0.7)
    drills: tuple[float, float] = (0.0, 0.0)
    lost_a_week: tuple[float, float] = (0.05, 0.2)
    by_share: bool = False
    nights: bool = False
    uneven: bool = False


WAYS: Final[dict[str, Way]] = {
    "power": Way(),
    "apart": Way(registers=(0.0, 0.0), lost_a_week=(0.1, 0.25), by_share=True),
    "nights": Way(nights=True),
    "uneven": Way(uneven=True),
    "together": Way(registers=(0.8, 0.95), drills=(0.1, 0.3), lost_a_week=(0.0, 0.03)),
}


class Ear:
    """A simulated learner’s ear, by one of the ways of learning."""

    def __init__(self, way: Way, seed: int, keys: Sequence[Key]) -> None:
        draw = random.Random(f"order {seed}")
        self.way, self.keys = way, keys
        self.exponent = draw.uniform(*EXPONENT)
        self.share = draw.uniform(*SHARE_A_TRIAL)
        self.registers, self.drills = draw.uniform(*way.registers), draw.uniform(*way.drills)
        self.lost_a_week = draw.uniform(*way.lost_a_week)
        self.plateau = draw.uniform(*PLATEAU_TRIALS)
        own = draw.gauss(0.0, LEARNERS_DIFFER)
        self.first, self.floor = dict[Key, float](), dict[Key, float]()
        for drill, place in keys:
            floor = draw.uniform(*FLOOR[drill])
            if draw.random() < UNREACHABLE and way.uneven:
                floor = GOAL[drill] * draw.uniform(*FLOOR_ABOVE)
            differ = SPREAD_UNEVEN if way.uneven else SKILLS_DIFFER
            harder = LOW_IS_HARDER if place.startswith("low") else 1.0
            first = FIRST[drill] * harder * math.exp(own + draw.gauss(0.0, differ))
            self.floor[drill, place] = floor
            self.first[drill, place] = max(1.2 * floor, first)
        self.trials = dict.fromkeys(keys, 0.0)
        self.kept = dict.fromkeys(keys, 1.0)
        self.idle_days = dict.fromkeys(keys, 0.0)
        self.today = dict.fromkeys(keys, 0)
        self.resting = dict.fromkeys(keys, 0.0)
        self.next_plateau = dict.fromkeys(keys, FALL_TO_PLATEAU)

    def threshold(self, key: Key) -> float:
        """Return the threshold as it is now."""
        gained = self.kept[key] * (1.0 - self._fallen(key))
        return self.floor[key] + (self.first[key] - self.floor[key]) * (1.0 - gained)

    def _fallen(self, key: Key) -> float:
        if self.way.by_share:
            return math.exp(-self.share * self.trials[key])
        return float((1.0 + self.trials[key] / HALF_TRIALS) ** -self.exponent)

    def practise(self, key: Key) -> None:
        """Learn by one trial."""
        self.today[key] += 1
        counts = 1.0
        if self.way.nights:
            counts = 1.0 if self.today[key] <= FULL_A_DAY else AFTER_THAT
            if self.resting[key] > 0.0:
                self.resting[key] -= 1.0
                counts = 0.0
        for other in self.keys:
            same = other[0] == key[0]
            share = 1.0 if other == key else self.registers if same else self.drills
            self.trials[other] += share * counts
            self.kept[other] += share * (1.0 - self.kept[other])
        self.idle_days[key] = 0.0
        if self.way.nights and self._fallen(key) < self.next_plateau[key]:
            self.next_plateau[key] *= FALL_TO_PLATEAU
            self.resting[key] = self.plateau

    def pass_days(self, days: float) -> None:
        """Forget a part of what was gained where nothing was practised."""
        for key in self.keys:
            self.today[key] = 0
            self.idle_days[key] += days
            if self.idle_days[key] >= 1.0:
                self.kept[key] *= (1.0 - self.lost_a_week) ** (days / 7.0)


Pick = Callable[[Sequence[Skill], Sequence[Sat], datetime, random.Random], Skill]


def _random(
    skills: Sequence[Skill], _sat: Sequence[Sat], _at: datetime, by: random.Random
) -> Skill:
    return by.choice(skills)


def _turns(skills: Sequence[Skill], sat: Sequence[Sat], _at: datetime, _by: random.Random) -> Skill:
    return skills[len(sat) % len(skills)]


def _weakest(
    skills: Sequence[Skill], sat: Sequence[Sat], _at: datetime, _by: random.Random
) -> Skill:
    """Return what was furthest above its goal when it was last heard; what never was, first."""
    last = {one.key: one.threshold for one in sat}

    def above(one: Skill) -> float:
        found = last.get(one.key)
        return math.inf if found is None else found.middle / GOAL[one.drill]

    return max(skills, key=above)


def _knowing(skills: Sequence[Skill], ear: Ear) -> Skill:
    """Return what lessens the excess most, were it practised in two sittings from now on."""

    def left(skill: Skill) -> float:
        ahead = copy.deepcopy(ear)
        for _ in range(2 * TRIALS_A_SITTING):
            ahead.practise(skill.key)
        return _excess(ahead)

    return min(skills, key=left)


def _plan(skills: Sequence[Skill], sat: Sequence[Sat], at: datetime, _by: random.Random) -> Skill:
    stand, _ = standings(skills, sat, now=at)
    return chosen(stand, 1, now=at)[0].skill


PICKS: Final[dict[str, Pick]] = {
    "random": _random, "turns": _turns, "weakest first": _weakest, "the plan": _plan,
}  # fmt: skip


KNOWING: Final = "who knows the ear"
ORDERS: Final = (*PICKS, KNOWING)


def excess(job: tuple[str, str, int]) -> float:
    """Return the mean excess over the goals of one learner after the whole time."""
    way, pick, seed = job
    instrument_id, method = MIXED[seed % len(MIXED)]
    made = instrument(instrument_id)
    skills = [one for one in skills_for(made, "standard", method) if one.drill in FIRST]
    ear = Ear(WAYS[way], seed, [one.key for one in skills])
    draw, sat, last = random.Random(f"{way} {pick} {seed}"), list[Sat](), BEGINS
    heard = dict.fromkeys(ear.keys, 0)
    for now in days():
        ear.pass_days((now - last).days)
        last = now
        for sitting in range(SITTINGS_A_DAY):
            at = now + timedelta(minutes=3 * sitting)
            skill = _knowing(skills, ear) if pick == KNOWING else PICKS[pick](skills, sat, at, draw)
            for _ in range(TRIALS_A_SITTING):
                ear.practise(skill.key)
            heard[skill.key] += 1
            sat.append(_sat(skill, ear.threshold(skill.key), heard[skill.key], at, draw))
    return _excess(ear)


def _excess(ear: Ear) -> float:
    return float(np.mean([max(0.0, ear.threshold(key) / GOAL[key[0]] - 1.0) for key in ear.keys]))


def _sat(skill: Skill, truth: float, heard: int, at: datetime, draw: random.Random) -> Sat:
    sd = max(LEAST_SD, TELLS_SD / math.sqrt(heard))
    middle = truth * math.exp(draw.gauss(0.0, sd))
    within = math.exp(1.645 * sd)
    told = Threshold(middle / within, middle, middle * within)
    return Sat(skill.drill, skill.known_by, at, 0, TRIALS_A_SITTING, told)


def order_study(learners: int = LEARNERS) -> dict[str, dict[str, float]]:
    """Return the mean excess over the goals, by way of learning and by order."""
    jobs = [(way, pick, seed) for way in WAYS for pick in ORDERS for seed in range(learners)]
    with ProcessPoolExecutor() as pool:
        found = list(pool.map(excess, jobs, chunksize=10))
    by: dict[str, dict[str, float]] = {way: dict.fromkeys(ORDERS, 0.0) for way in WAYS}
    for (way, pick, _), one in zip(jobs, found, strict=True):
        by[way][pick] += one / learners
    return by
