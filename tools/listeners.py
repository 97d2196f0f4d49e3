"""Simulated listeners at drills: how well a threshold is found, and how well the page says so."""

import math
import random
import time
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from functools import partial
from typing import Final

import numpy as np

from meldrin.core.drills import MEASURED, Scale, from_kept, measured, nothing_known

LISTENERS: Final = 500
FACTOR: Final = 30.0  # from the finest threshold to the coarsest
TRIALS: Final = 40
IN_A_SITTING: Final = 20
LAPSES: Final = 0.05
GAIN: Final = 0.2
# How much the slope of a listener's answers differs from the usual one of its scale, and from what
# on it says “the same”, or that it beats: drawn evenly from here, by nobody's wish.
SLOPE: Final = {"side_or_same": (0.8, 1.25), "whether": (1.2, 1.9)}
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
    scale: Scale, size: float, *, threshold: float, slope: float, width: float, draw: random.Random
) -> int:
    """Return what a listener says to a difference, from 0; see `core/drills/belief`."""
    if draw.random() < LAPSES:
        return draw.randrange(scale.answers)
    felt = math.copysign(math.log(3.0) * (abs(size) / threshold) ** slope, size) if size else 0.0
    chance = draw.random()
    felt += math.log(chance / (1.0 - chance))
    if scale.judged == "whether":
        return int(felt > width)
    return 0 if felt < -width else 2 if felt > width else 1


def _listen(
    job: tuple[int, float], *, drill: str, gain: float
) -> tuple[float, float, float, float]:
    """Return the threshold at the last trial, and what is found: low, middle, high. Two sittings,
    the second an hour later.
    """
    n, first = job
    scale, draw = measured(drill).scale, random.Random(f"{drill} {gain} {n}")
    slope, width = draw.uniform(*SLOPE[scale.judged]), draw.uniform(*WIDTH)
    gains = draw.uniform(0.0, gain)
    known, threshold = nothing_known(scale), first
    for trial in range(TRIALS):
        if trial == IN_A_SITTING:
            known = from_kept(scale, known.kept).since(1.0 / 24.0)
        threshold = first * (1.0 - gains * trial / (TRIALS - 1))
        size = known.next(draw)
        said = answer_of(scale, size, threshold=threshold, slope=slope, width=width, draw=draw)
        known = known.after(size, said)
    found = known.threshold
    return threshold, found.low, found.middle, found.high


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
        truth, lows, middles, highs = np.array(list(rows)).T
    thirds = np.array_split(np.log(middles / truth), 3)
    fine, middle, coarse = (float(np.exp(np.mean(third))) for third in thirds)
    return Found(
        bias=(fine, middle, coarse),
        covered=float(np.mean((lows <= truth) & (truth <= highs))),
        width=float(np.median(highs / lows)),
    )


def next_trial_s() -> float:
    """Return how long it takes to choose a trial, at the slowest drill: the quickest of ten."""
    draw, slowest = random.Random(1), 0.0
    for drill in MEASURED:
        known = nothing_known(drill.scale)
        took: list[float] = []
        while len(took) < 10:
            begun = time.perf_counter()
            size = known.next(draw)
            if size:  # a trial with nothing to hear is not weighed
                took.append(time.perf_counter() - begun)
        slowest = max(slowest, min(took))
    return slowest
