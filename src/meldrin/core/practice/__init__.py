"""The practice plan: what to do today, from what drills and bench have told."""

from meldrin.core.practice.bench_core import Missed, most_missed, next_aid, side_to_begin
from meldrin.core.practice.choosing import chosen
from meldrin.core.practice.figures import (
    IN_A_ROW,
    Broken,
    Brought,
    Figure,
    SaidSure,
    Sat,
    Tuned,
    in_a_row,
)
from meldrin.core.practice.path import (
    Evidence,
    Path,
    PathStep,
    path_of,
    path_steps,
    stages,
)
from meldrin.core.practice.path_begins import beginning, guided_on
from meldrin.core.practice.plan import MINUTES, Aim, Item, ItemKind, Minutes, goal_said, items_for
from meldrin.core.practice.progress import Both, Progress, progress
from meldrin.core.practice.skills import Skill, skills_for
from meldrin.core.practice.standing import Standing, standings
from meldrin.core.practice.ways import Way, ways
