"""Eight weeks of practice by simulated learners: by the plan, and by the drills taken in turn.

The learners were written down before the plan was built, and are not touched for its sake. Their
figures are ranges of the literature where it has them, and judgements elsewhere:

- A threshold falls as a power of the trials, exponent 0.1 to 0.4, towards a floor of 2 to 4 cents
  for notes; for beats and their ratios the floors are judgements.
- Beginners differ by a factor (the spread of a log-normal), and each of them differs from drill to
  drill and from register to register. Low notes are harder by half.
- What is gained at a drill is kept partly in its other registers and intervals, 0.3 to 0.7.
- A week without a drill loses 5 to 20 % of what was gained at it.
- After 10 to 20 minutes without rest a threshold is a quarter larger.
- One answer in 20 is a lapse; slopes and widths are those of `tools/listeners`.
"""

import math
import random
from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from typing import Final

import numpy as np

from meldrin.core.catalogue import instrument
from meldrin.core.drills import Belief, from_kept, measured, nothing_known
from meldrin.core.practice import Sat, Skill, chosen, skills_for, standings
from tools.listeners import SLOPE, WIDTH, answer_of

LEARNERS: Final = 200
WEEKS: Final = 8
DAYS_A_WEEK: Final = 5
MINUTES_A_DAY: Final = 10
TRIALS_A_SITTING: Final = 12
MINUTES_A_SITTING: Final = 2.4  # ten seconds a trial, and the examples
# What a beginner hears at first, in the drill’s unit: an untrained listener has 10 to 30 cents.
FIRST: Final = {"higher": 18.0, "beating": 1.2, "faster": 60.0, "width": 18.0}
FLOOR: Final = {
    "higher": (2.0, 4.0), "beating": (0.15, 0.3), "faster": (8.0, 15.0), "width": (2.0, 4.0)
}  # fmt: skip
LOW_IS_HARDER: Final = 1.5
LEARNERS_DIFFER: Final = 0.5  # standard deviations of the log
SKILLS_DIFFER: Final = 0.4
EXPONENT: Final = (0.1, 0.4)
HALF_TRIALS: Final = 20.0  # trials after which the fall has begun; a judgement
CARRIES_OVER: Final = (0.3, 0.7)
LOST_A_WEEK: Final = (0.05, 0.2)
TIRED_AFTER_MIN: Final = (10.0, 20.0)
TIRED: Final = 1.25
# The goal: what the coarsest tolerance of the bench asks of the ear, 15 cents, and what
# lets the beats of such a string be followed.
GOAL: Final = {"higher": 15.0, "beating": 1.0, "faster": 50.0, "width": 15.0}


@dataclass
class Ear:
    """A simulated learner’s ear: a threshold for each drill and place (register and interval)."""

    seed: int
    places: dict[str, tuple[str, ...]]
    trials: dict[tuple[str, str], float] = field(default_factory=dict)
    idle_days: dict[str, float] = field(default_factory=dict)

    def __post_init__(self) -> None:
        draw = random.Random(f"ear {self.seed}")
        self.exponent = draw.uniform(*EXPONENT)
        self.carries = draw.uniform(*CARRIES_OVER)
        self.lost_a_week = draw.uniform(*LOST_A_WEEK)
        self.tired_after_min = draw.uniform(*TIRED_AFTER_MIN)
        own = draw.gauss(0.0, LEARNERS_DIFFER)
        self.first: dict[tuple[str, str], float] = {}
        self.floor: dict[str, float] = {}
        self.kept: dict[tuple[str, str], float] = {}
        for drill, places in self.places.items():
            self.floor[drill] = draw.uniform(*FLOOR[drill])
            for place in places:
                harder = LOW_IS_HARDER if place.startswith("low") else 1.0
                apart = math.exp(own + draw.gauss(0.0, SKILLS_DIFFER))
                first = FIRST[drill] * harder * apart
                self.first[drill, place] = max(1.2 * self.floor[drill], first)
                self.trials[drill, place] = 0.0
                self.kept[drill, place] = 1.0
            self.idle_days[drill] = 0.0

    def threshold(self, drill: str, place: str, *, tired: bool = False) -> float:
        """Return the threshold as it is now."""
        first, floor = self.first[drill, place], self.floor[drill]
        fallen = (1.0 + self.trials[drill, place] / HALF_TRIALS) ** -self.exponent
        gained = self.kept[drill, place] * (1.0 - fallen)
        now = floor + (first - floor) * (1.0 - gained)
        return float(now * (TIRED if tired else 1.0))

    def practise(self, drill: str, place: str, trials: int) -> None:
        """Learn by some trials, and a little in the other registers of the drill."""
        for other in self.places[drill]:
            share = 1.0 if other == place else self.carries
            self.trials[drill, other] += share * trials
            self.kept[drill, other] += share * (1.0 - self.kept[drill, other])
        self.idle_days[drill] = 0.0

    def pass_days(self, days: float) -> None:
        """Forget a part of what was gained at drills that were not practised."""
        for drill, places in self.places.items():
            self.idle_days[drill] += days
            if self.idle_days[drill] < 1.0:
                continue
            for place in places:
                self.kept[drill, place] *= (1.0 - self.lost_a_week) ** (days / 7.0)


# How the study is run.


MIXED: Final = (
    ("viola", "fifths"),
    ("guitar", "unison"),
    ("classical-guitar", "harmonics"),
    ("cello", "fifths"),
)
BEGINS: Final = datetime(2026, 1, 5, 17, 0, tzinfo=UTC)
SITTINGS_A_DAY: Final = int(MINUTES_A_DAY / MINUTES_A_SITTING)
WEAKEST: Final = 0.25


@dataclass(frozen=True, slots=True)
class Compared:
    """What becomes of the weakest quarter of the learners by the plan and by drills in turn.

    reached: the share that reaches the goal in the whole time, by each way.
    as_far: a learner goes so far by drills in turn in the whole time; the plan needs this share of
        the minutes for it, in the middle. Added when it was seen that few reach the goal.
    all_reached, all_as_far: the same of all learners.
    """

    reached: tuple[float, float]
    as_far: float
    all_reached: tuple[float, float]
    all_as_far: float


WHOLE_MIN: Final = WEEKS * DAYS_A_WEEK * SITTINGS_A_DAY * MINUTES_A_SITTING


def practice_study(learners: int = LEARNERS) -> Compared:
    """Return what pairs of one learner, once by the plan and once in turn, come to."""
    with ProcessPoolExecutor() as pool:
        rows = np.array(list(pool.map(_pair, range(learners), chunksize=5)))
    weak = rows[rows[:, 0] >= np.quantile(rows[:, 0], 1.0 - WEAKEST)]
    found = [
        (
            (float(np.mean(some[:, 1])), float(np.mean(some[:, 2]))),
            float(np.median(some[:, 3])) / WHOLE_MIN,
        )
        for some in (weak, rows)
    ]
    return Compared(*found[0], *found[1])


def _pair(seed: int) -> tuple[float, float, float, float]:
    """Return how far from the goal a learner begins, whether the plan and the drills in turn reach
    it, and after how many minutes the plan is as far as the drills in turn are in the end.
    """
    instrument_id, method = MIXED[seed % len(MIXED)]
    made = instrument(instrument_id)
    # of the drills that came later nothing had been written down
    skills = [one for one in skills_for(made, "standard", method) if one.drill in FIRST]
    places: dict[str, tuple[str, ...]] = {}
    for one in skills:
        places[one.drill] = (*places.get(one.drill, ()), one.known_by)
    first = Ear(seed, places)
    away = float(np.mean([np.log(size / GOAL[key[0]]) for key, size in first.first.items()]))
    in_turn = _in_turn(Ear(seed, places), skills)
    by_plan = _by_plan(Ear(seed, places), skills, seed)
    as_far = next((minutes for minutes, left in by_plan if left <= in_turn), WHOLE_MIN)
    return away, float(by_plan[-1][1] <= 0.0), float(in_turn <= 0.0), as_far


def _left(ear: Ear) -> float:
    """Return the log of how many times the goal the threshold farthest from it is."""
    return max(math.log(ear.threshold(*key) / GOAL[key[0]]) for key in ear.first)


def days() -> Iterator[datetime]:
    """Yield the days of practice: the first five of each week."""
    for week in range(WEEKS):
        for day in range(DAYS_A_WEEK):
            yield BEGINS + timedelta(days=7 * week + day)


def _in_turn(ear: Ear, skills: Sequence[Skill]) -> float:
    """Return what is left to the goal after the whole time, the drills taken in turn."""
    turn, last = 0, BEGINS
    for day in days():
        ear.pass_days((day - last).days)
        last = day
        for _ in range(SITTINGS_A_DAY):
            skill = skills[turn % len(skills)]
            turn += 1
            ear.practise(skill.drill, skill.known_by, TRIALS_A_SITTING)
    return _left(ear)


def _by_plan(ear: Ear, skills: Sequence[Skill], seed: int) -> list[tuple[float, float]]:
    """Return minutes and what is left to the goal then, by what the plan knows from answers."""
    found: list[tuple[float, float]] = []
    minutes, last, draw = 0.0, BEGINS, random.Random(f"plan {seed}")
    known: dict[tuple[str, str], tuple[Belief, datetime]] = {}
    sat: list[Sat] = []
    listener = {one.key: _listener(one.drill, draw) for one in skills}
    for day in days():
        ear.pass_days((day - last).days)
        last, now, played = day, day, 0.0
        for _ in range(SITTINGS_A_DAY):
            stand, _ = standings(skills, sat, now=now)
            skill = chosen(stand, 1, now=now)[0].skill
            belief = nothing_known(measured(skill.drill).scale)
            if skill.key in known:
                before, at = known[skill.key]
                idle_days = (now - at).total_seconds() / 86_400.0
                belief = from_kept(before.scale, before.kept).since(idle_days)
            slope, width = listener[skill.key]
            for _ in range(TRIALS_A_SITTING):
                size = belief.next(draw)
                threshold = ear.threshold(
                    skill.drill, skill.known_by, tired=played > ear.tired_after_min
                )
                said = answer_of(
                    belief.scale, size, threshold=threshold, slope=slope, width=width, draw=draw
                )
                belief = belief.after(size, said)
                ear.practise(skill.drill, skill.known_by, 1)
            minutes += MINUTES_A_SITTING
            played += MINUTES_A_SITTING
            now += timedelta(minutes=MINUTES_A_SITTING)
            known[skill.key] = belief, now
            sat.append(Sat(skill.drill, skill.known_by, now, 0, TRIALS_A_SITTING, belief.threshold))
            found.append((minutes, _left(ear)))
    return found


def _listener(drill: str, draw: random.Random) -> tuple[float, float]:
    judged = measured(drill).scale.judged
    return draw.uniform(*SLOPE[judged]), draw.uniform(*WIDTH)
