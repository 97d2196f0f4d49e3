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
from dataclasses import dataclass, field
from typing import Final

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
        """Learn by so many trials, and somewhat in the other places of the drill."""
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

    def at_goal(self) -> bool:
        """Return whether every threshold is as small as it has to be."""
        return all(self.threshold(*one) <= GOAL[one[0]] for one in self.first)
