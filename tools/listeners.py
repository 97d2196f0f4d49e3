"""Simulated listeners at drills: how well a threshold is found, and how well the page says so."""

import math
import random
import time
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from functools import partial
from typing import Final

import numpy as np

from meldrin.core.catalogue import instrument
from meldrin.core.drills import (
    MEASURED,
    DrillExercise,
    Scale,
    drill_result,
    from_kept,
    measured,
    nothing_known,
)
from meldrin.core.drills.belief import ANYWHERE, HALF_WITHIN
from meldrin.core.learner import Ear, sit
from meldrin.core.practice import Skill, skills_for
from tools.studies import accuracy_of, spearman

LISTENERS: Final = 500
FACTOR: Final = 30.0  # from the finest threshold to the coarsest
TRIALS: Final = 40
IN_A_SITTING: Final = 20
LAPSES: Final = 0.05
GAIN: Final = 0.2
ABOVE_FLOOR: Final = 1.3
# How much the slope of a listener's answers differs from the usual one of its scale, and from what
# on it says “the same”, or that it beats: drawn evenly from here, by nobody's wish.
SLOPE: Final = {"side_or_same": (0.8, 1.25), "side": (0.8, 1.25), "whether": (1.2, 1.9)}
WIDTH: Final = (0.5, 2.0)


@dataclass(frozen=True, slots=True)
class Found:
    """What is found of many listeners: by thirds, from the finest ears to the coarsest, the mean of
    what is found over the truth; the share of intervals that hold the truth; their middle width.
    """

    bias: tuple[float, float, float]
    covered: float
    width: float


def answer_of(
    scale: Scale,
    size: float,
    *,
    threshold: float,
    slope: float,
    width: float,
    draw: random.Random,
    lapses: float = LAPSES,
) -> int:
    """Return what a listener says to a difference, from 0; see `core/drills/belief`."""
    if draw.random() < lapses:
        return draw.randrange(scale.answers)
    felt = math.copysign(math.log(3.0) * (abs(size) / threshold) ** slope, size) if size else 0.0
    chance = draw.random()
    felt += math.log(chance / (1.0 - chance))
    if scale.judged == "whether":
        return int(felt > width)
    if scale.judged == "side":
        return int(felt > 0.0)
    return 0 if felt < -width else 2 if felt > width else 1


def error_of(
    scale: Scale, *, threshold: float, draw: random.Random, lapses: float = LAPSES
) -> float:
    """Return how far off a listener is who answers by an amount; see `core/drills/belief`."""
    if draw.random() < lapses:
        return draw.uniform(-1.0, 1.0) * ANYWHERE * scale.high
    return draw.gauss(0.0, threshold / HALF_WITHIN)


def _listen(
    job: tuple[int, float], *, drill: str, gain: float, lapses: float = LAPSES, trials: int = TRIALS
) -> tuple[float, float, float, float, bool]:
    """Return the threshold at the last trial, and what is found: low, middle, high, and whether the
    answers were called mixed. Sittings of 20, each an hour after the one before.
    """
    n, first = job
    scale, draw = measured(drill).scale, random.Random(f"{drill} {gain} {n}")
    amount = scale.judged == "amount"
    slope, width = draw.uniform(*SLOPE.get(scale.judged, (1.0, 1.0))), draw.uniform(*WIDTH)
    gains = draw.uniform(0.0, gain)
    known, threshold = nothing_known(scale), first
    for trial in range(trials):
        if trial and trial % IN_A_SITTING == 0:
            known = from_kept(scale, known.kept).since(1.0 / 24.0)
        threshold = first * (1.0 - gains * trial / (trials - 1))
        size = known.next(draw)
        if amount:
            known = known.after_error(
                error_of(scale, threshold=threshold, draw=draw, lapses=lapses)
            )
            continue
        said = answer_of(
            scale, size, threshold=threshold, slope=slope, width=width, draw=draw, lapses=lapses
        )
        known = known.after(size, said)
    found = known.threshold
    return threshold, found.low, found.middle, found.high, known.mixed


def drill_study(drill: str, *, gain: float = 0.0, listeners: int = LISTENERS) -> Found:
    """Return how well the thresholds of many listeners are found, which are spaced evenly in log
    over a factor of 30 in the middle of the drill's scale.
    """
    scale = measured(drill).scale
    low = math.sqrt(scale.low * scale.high / FACTOR)
    truths = np.geomspace(low, FACTOR * low, listeners)
    with ProcessPoolExecutor() as pool:
        rows = pool.map(
            partial(_listen, drill=drill, gain=gain), enumerate(truths.tolist()), chunksize=10
        )
        truth, lows, middles, highs, _ = np.array(list(rows)).T
    thirds = np.array_split(np.log(middles / truth), 3)
    fine, middle, coarse = (float(np.exp(np.mean(third))) for third in thirds)
    return Found(
        bias=(fine, middle, coarse),
        covered=float(np.mean((lows <= truth) & (truth <= highs))),
        width=float(np.median(highs / lows)),
    )


@dataclass(frozen=True, slots=True)
class Mixed:
    """What is found of listeners of whose answers some are guessed: the share that is noticed, and
    of those that are not the share of intervals that hold the truth.
    """

    noticed: float
    covered: float


def mixed_study(
    drill: str, *, lapses: float, trials: int = 80, listeners: int = LISTENERS
) -> Mixed:
    """Return how often it is noticed that answers are guessed, after four sittings."""
    scale = measured(drill).scale
    low = math.sqrt(scale.low * scale.high / FACTOR)
    truths = np.geomspace(low, FACTOR * low, listeners)
    listen = partial(_listen, drill=drill, gain=0.0, lapses=lapses, trials=trials)
    with ProcessPoolExecutor() as pool:
        rows = pool.map(listen, enumerate(truths.tolist()), chunksize=10)
        truth, lows, _, highs, noticed = np.array(list(rows)).T
    left = noticed == 0.0
    held = (lows <= truth) & (truth <= highs)
    covered = float(np.mean(held[left])) if left.any() else 1.0
    return Mixed(float(np.mean(noticed)), covered)


@dataclass(frozen=True, slots=True)
class Model:
    """How a drill's threshold, as it is measured, goes with the accuracy at the bench.

    rank: their rank correlation, over the ears above the bench's floor. slope: of the log of the
    accuracy over that of the threshold. floor_cents: what the finest ears reach.
    """

    drill: str
    rank: float
    slope: float
    floor_cents: float


def one_model(instrument_id: str, method: str, count: int) -> Model:
    """Return how far one model of ears serves drills and bench: `count` ears are spaced evenly in
    log over a factor of 30, sit twice at the drill that serves the method, and tune by it.
    """
    cents, slowest_hz = np.geomspace(1.0, FACTOR, count), np.geomspace(0.1, 0.1 * FACTOR, count)
    made = instrument(instrument_id)
    skill = next(one for one in skills_for(made, "standard", method) if one.is_measured)
    jobs = [
        (instrument_id, method, float(c), float(h), n)
        for n, (c, h) in enumerate(zip(cents, slowest_hz, strict=True))
    ]
    with ProcessPoolExecutor() as pool:
        accuracies = np.array(list(pool.map(accuracy_of, jobs, chunksize=10)))
        measured_by = partial(_measured, skill=skill, instrument_id=instrument_id)
        thresholds = np.array(list(pool.map(measured_by, jobs, chunksize=10)))
    floor = float(np.median(accuracies[: max(3, count // 10)]))
    # above the floor: from the ear on whose neighbours are all clearly worse than the finest ones
    smooth = np.convolve(accuracies, np.ones(9) / 9.0, mode="same")
    above = int(np.argmax(smooth > ABOVE_FLOOR * floor))
    x, y = np.log(thresholds[above:]), np.log(accuracies[above:])
    return Model(skill.drill, spearman(x, y), float(np.polyfit(x, y, 1)[0]), floor)


def _measured(
    job: tuple[str, str, float, float, int], *, skill: Skill, instrument_id: str
) -> float:
    """Return what two sittings find of an ear's threshold."""
    _, _, cents, slowest_hz, n = job
    ear = Ear(cents, slowest_hz, spread=0.1)
    kept: tuple[float, ...] = ()
    for sitting in range(TRIALS // IN_A_SITTING):
        exercise = DrillExercise(
            skill.drill,
            instrument_id,
            seed=2 * n + sitting,
            string=skill.string,
            interval=skill.interval,
            trials=IN_A_SITTING,
            known=kept,
        )
        result = drill_result(exercise, sit(exercise, ear, seed=2 * n + sitting))
        kept = result.known
    assert result.threshold is not None
    return result.threshold.middle


def next_trial_s() -> float:
    """Return how long it takes to choose a trial, at the slowest drill: the quickest of ten."""
    draw, slowest = random.Random(1), 0.0
    for drill in MEASURED:
        if drill.scale.judged == "amount":  # nothing is chosen there
            continue
        known = nothing_known(drill.scale)
        took: list[float] = []
        while len(took) < 10:
            begun = time.perf_counter()
            size = known.next(draw)
            if size:  # a trial with nothing to hear is not weighed
                took.append(time.perf_counter() - begun)
        slowest = max(slowest, min(took))
    return slowest
