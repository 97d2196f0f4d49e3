"""The studies that `./meldrin bench` runs: whether scores rank ears, whether advice names the habit
that costs most, whether cheating pays, whether comparisons are accused rightly, and how deep the
beats are that a plan sends an ear to.
"""

import itertools
import random
from collections.abc import Iterable, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from statistics import mean, median
from typing import Final

import numpy as np
from numpy.typing import NDArray

from meldrin.core.adjust import Adjustment, Observation, adjust
from meldrin.core.bench import (
    Behaviour,
    Exercise,
    GoTo,
    Play,
    StartKind,
    State,
    heard,
    opening,
    pitch_cents,
    replay,
    step,
)
from meldrin.core.catalogue import instruments
from meldrin.core.learner import Ear, Habit, Learner, practise
from meldrin.core.methods import METHODS, Step, Wanted, serves
from meldrin.core.scoring import Score, score
from meldrin.core.sound.events import Start
from meldrin.core.sound.partials import AUDIBLE, PartialTable

Vector = NDArray[np.float64]
EARS_CENTS: Final = (3.0, 10.0)
COSTS_FROM: Final = 3.0  # points: a habit that costs less need not be named


@dataclass(frozen=True, slots=True)
class HabitCase:
    """A habit of simulated learners, where it matters, and what its cure is called."""

    habit: Habit
    cure: str
    start: StartKind
    behaviours: tuple[Behaviour, ...] = ()


HABIT_CASES: Final = (
    HabitCase("from_above", "from_above", "high", ("nut", "pegs")),
    HabitCase("overshoots", "overshoots", "month"),
    HabitCase("wrong_way", "wrong_way", "month"),
    HabitCase("wrong_peg", "wrong_peg", "month"),
    HabitCase("octave_deaf", "wrong_octave", "octave"),
    HabitCase("wrong_note", "wrong_note", "month"),
    HabitCase("trusts_reference", "trusts_reference", "reference"),
    HabitCase("one_pass", "one_pass", "month", ("coupling",)),
    HabitCase("hurried", "hurry", "month"),
    HabitCase("no_mute", "muting", "month", ("ringing",)),
    HabitCase("rushed", "attack", "month"),
    HabitCase("stops_early", "stops_early", "month"),
    HabitCase("uses_level", "uses_level", "month"),
    HabitCase("left_lying", "left_lying", "month", ("lying",)),
)
STUDIED: Final = (
    ("guitar", "unison"),
    ("violin", "fifths"),
    ("cello", "fifths"),
    ("mandolin", "each"),
    ("bass", "harmonics"),
    ("banjo", "drone"),
)


def ear_of(cents: float, hz: float) -> Learner:
    """Return a learner who hears to within `cents` and `hz`, and turns as finely."""
    return Learner(Ear(cents, hz, spread=0.1), hand=0.1, smallest_cents=0.4)


@dataclass(frozen=True, slots=True)
class Advised:
    """What one attempt with a habit cost and what was advised."""

    case: HabitCase
    cost: float
    advised: str
    lowered: dict[str, float]


def advised(case: HabitCase, instrument: str, method: str, ear: float, seed: int) -> Advised | None:
    """Play the same attempt without and with a habit; None where it cannot show."""
    learner = ear_of(ear, 0.1 * ear)
    exercise = Exercise(instrument, method, case.start, seed, behaviours=frozenset(case.behaviours))
    if case.habit == "no_mute" and exercise.instrument.kind == "bowed":
        return None
    plain = score(exercise, practise(exercise, learner, seed=seed))
    spoiled_by = replace(learner, habits=frozenset({case.habit}))
    spoiled = score(exercise, practise(exercise, spoiled_by, seed=seed))
    cost = (plain.points or 0.0) - (spoiled.points or 0.0)
    lowered = {
        part: plain_points - by_part(spoiled).get(part, 0.0)
        for part, plain_points in by_part(plain).items()
    }
    return Advised(case, cost, spoiled.advice.habit, lowered)


def by_part(result: Score) -> dict[str, float]:
    """Return the points of each part of a score, those of technique by rule."""
    sums: dict[str, float] = {}
    for line in result.lines:
        name = line.rule or line.part
        sums[name] = sums.get(name, 0.0) + line.points
    return sums


def advice_study(seeds: Iterable[int]) -> dict[str, list[Advised]]:
    """Return by habit every attempt of the study."""
    jobs = [
        (case, instrument, method, ear, seed)
        for case in HABIT_CASES
        for instrument, method in STUDIED
        for ear in EARS_CENTS
        for seed in seeds
    ]
    found: dict[str, list[Advised]] = {case.habit: [] for case in HABIT_CASES}
    with ProcessPoolExecutor() as pool:
        for one in pool.map(_advised, jobs, chunksize=8):
            if one is not None:
                found[one.case.habit].append(one)
    return found


# One instrument a method, the drone's own being the sitar. A tuner's method has no ear to rank.
RANKED: Final = (
    ("guitar", "unison"),
    ("viola", "fifths"),
    ("mandolin", "each"),
    ("bass", "harmonics"),
    ("sitar", "drone"),
    ("cello", "mixed"),
)
SHORT_RING: Final = ("banjo", "drone")  # it dies before the finest ears can part
ATTEMPTS: Final = 3


def accuracy_of(job: tuple[str, str, float, float, int]) -> float:
    """Return how near an ear comes in some attempts: the mean of their medians, in cents, over the
    strings that the plan leaves to the ear.
    """
    instrument, method, cents, hz, n = job
    found = []
    for attempt in range(ATTEMPTS):
        exercise = Exercise(instrument, method, "month", 10_000 + ATTEMPTS * n + attempt)
        state = replay(exercise, practise(exercise, ear_of(cents, hz), seed=exercise.seed))
        by_ear = [step.string for step in exercise.plan.steps if not step.by_tuner]
        found.append(median(abs(pitch_cents(state, number)) for number in by_ear))
    return mean(found)


def rank_study(instrument: str, method: str, count: int) -> float:
    """Return the rank correlation of ears with the accuracy they reach (Spearman, 1904).

    `count` ears are spaced evenly in log, over 1 to 30 cents and 0.1 to 2 beats a second.
    """
    cents, hz = np.geomspace(1.0, 30.0, count), np.geomspace(0.1, 2.0, count)
    jobs = [
        (instrument, method, float(c), float(h), n)
        for n, (c, h) in enumerate(zip(cents, hz, strict=True))
    ]
    with ProcessPoolExecutor() as pool:
        accuracies = list(pool.map(accuracy_of, jobs, chunksize=10))
    return spearman(cents, np.array(accuracies))


def spearman(one: Vector, other: Vector) -> float:
    """Return the rank correlation of two rows; equal values share the mean of their ranks."""
    ranks = []
    for values in (one, other):
        _, place, count = np.unique(values, return_inverse=True, return_counts=True)
        ends = np.cumsum(count)
        ranks.append((ends - (count - 1) / 2.0)[place])
    return float(np.corrcoef(ranks[0], ranks[1])[0, 1])


@dataclass(frozen=True, slots=True)
class Accused:
    """Shares of the trials of `adjust` in which something was accused: clean ones as exact as was
    said, clean ones twice as inexact, ones with one comparison in ten 3 deviations off; of those
    with one comparison 10 deviations off, the share in which it was named; and the most named.
    """

    clean: float
    twice: float
    one_in_ten: float
    named: float
    most_named: int


STRINGS: Final = (36, 43, 50, 57, 64, 71)
SD_CENTS: Final = 2.0


def adjust_study(trials: int, *, seed: int, comparisons: int) -> Accused:
    """Return how often comparisons of five strings (of six, where there are more than ten) are
    accused falsely and rightly.
    """
    draw = random.Random(seed)
    clean, twice, tenth, named, most = 0, 0, 0, 0, 0
    for _ in range(trials):
        pairs = connected_pairs(draw, comparisons)
        errors = [draw.gauss(0.0, SD_CENTS) for _ in pairs]
        clean += bool(_adjusted(pairs, errors).suspects)
        twice += bool(_adjusted(pairs, [2.0 * one for one in errors]).suspects)
        some = [one + 3.0 * SD_CENTS * (draw.random() < 0.1) for one in errors]
        tenth += bool(_adjusted(pairs, some).suspects)
        culprit = draw.randrange(len(pairs))
        errors[culprit] += 10.0 * SD_CENTS * draw.choice((-1, 1))
        suspects = _adjusted(pairs, errors).suspects
        named += culprit in suspects
        most = max(most, len(suspects))
    return Accused(clean / trials, twice / trials, tenth / trials, named / trials, most)


def connected_pairs(draw: random.Random, count: int) -> list[tuple[int, int]]:
    """Return `count` different pairs of five or six strings that connect them all."""
    strings = STRINGS[:5] if count <= 10 else STRINGS
    while True:
        pairs = draw.sample(list(itertools.combinations(strings, 2)), count)
        reached = {pairs[0][0]}
        for _ in strings:
            reached |= {one for pair in pairs if reached & set(pair) for one in pair}
        if reached == set(strings):
            return pairs


def _adjusted(pairs: Sequence[tuple[int, int]], cents: Sequence[float]) -> Adjustment:
    return adjust(
        [
            Observation(lower, upper, SD_CENTS, cents=value)
            for (lower, upper), value in zip(pairs, cents, strict=True)
        ]
    )


@dataclass(frozen=True, slots=True)
class Beating:
    """How deep a step's two partials beat while one listens (mean of 0 to 1), as they sound."""

    instrument: str
    method: str
    step: int
    depth: float


def beat_depths() -> list[Beating]:
    """Return the depth of the beat over the hearing time of every step of every plan that is for
    the ear, from what the bench plays: 0 where one of the two is too faint to be heard.
    """
    found = []
    for made in instruments():
        for method in METHODS:
            if not serves(method, Wanted(made, made.tuning())):
                continue
            state = opening(Exercise(made.id, method, "hair", 3))
            for index, stage in enumerate(state.rig.plan.steps):
                if not stage.by_tuner:
                    depth = _depth(state, index, stage)
                    found.append(Beating(made.id, method, index, depth))
    return found


def _depth(state: State, index: int, stage: Step) -> float:
    at_stage, _ = step(state, GoTo(index), dt_s=0.0)
    play = Play(stage.strings, reference=stage.with_reference)
    after, sounds = step(at_stage, play, dt_s=0.5)
    pair = heard(after)
    if pair is None:
        return 0.0
    tables = {one.voice: one.table for one in sounds if isinstance(one, Start)}
    times = np.linspace(0.06, max(0.3, min(stage.seconds_to_hear, 30.0)), 200)
    own = _levels(tables[pair.own_voice], pair.own_partial - 1, times)
    other = _levels(tables[pair.other_voice], pair.other_partial - 1, times)
    low, high = np.minimum(own, other), np.maximum(own, other)
    return float(np.mean(np.where(low > AUDIBLE, low / high, 0.0)))


def _levels(table: PartialTable, place: int, times: Vector) -> Vector:
    falling = np.maximum(0.0, times - table.sustain_s)
    level = table.amplitudes[place] * np.exp(-falling / table.decays_s[place])
    if table.second_amplitudes:
        second = np.exp(-falling / table.second_decays_s[place])
        level = level + table.second_amplitudes[place] * second
    return np.asarray(np.abs(level))


def _advised(job: tuple[HabitCase, str, str, float, int]) -> Advised | None:
    return advised(*job)
