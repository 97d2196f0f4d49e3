"""Drills answered by a number of their samples: how loud, how bright, how long, how they begin.

Who listens to loudness instead of what is asked learns, over many trials, which answer goes with
which number. So each number is cut into bands; each band learns its most frequent answer from one
half of the trials, and answers the other half.
"""

import random
from collections import Counter
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

from meldrin.core.drills import DRILLS, DrillExercise, MeasuredDrill, drill_of
from meldrin.core.drills.drill import EASIEST, HARDEST, SAMPLE_RATE, Interval, ThresholdDrill
from meldrin.core.drills.samples import samples_of, weighted
from meldrin.core.drills.sitting import posed_of

TRIALS: Final = 1000
BANDS: Final = 4
BEGINS_S: Final = 0.1
# In “Which string” a low note is darker than a high one: there that is what is asked.
ASKED: Final = {("which", "brightness")}
NUMBERS: Final = ("level", "brightness", "length", "beginning")
STILL_SHARE: Final = 0.3
STRINGS: Final = (1, 2, 3)


@dataclass(frozen=True, slots=True)
class Guessed:
    """How many points in a hundred above chance a drill was answered by a number of its samples."""

    drill: str
    number: str
    above: float
    trials: int


def judged_by_samples() -> list[str]:
    """Return the drills whose trials are heard and then judged, by their ids."""
    found = []
    for drill in DRILLS.values():
        posed = posed_of(_exercise(drill.id, 1, 0), 1, _difference(drill.id, random.Random(1)))
        if posed.heard is not None and posed.answers and posed.amount is None:
            found.append(drill.id)
    return found


def _exercise(drill: str, string: int, seed: int) -> DrillExercise:
    levels = (EASIEST + seed % (HARDEST - EASIEST + 1)) if not _measured(drill) else EASIEST
    intervals = getattr(drill_of(drill), "intervals", ())
    interval: Interval = intervals[seed % len(intervals)] if intervals else "unison"
    return DrillExercise(drill, "viola", seed, string=string, level=levels, interval=interval)


def _measured(drill: str) -> bool:
    return isinstance(drill_of(drill), MeasuredDrill)


def _difference(drill: str, draw: random.Random) -> float:
    """Draw a difference as a sitting might ask for: now and then none, on either side."""
    made = drill_of(drill)
    if not isinstance(made, ThresholdDrill):
        return 0.0
    scale = made.scale
    if scale.judged != "side" and draw.random() < STILL_SHARE:
        return 0.0
    size = scale.low * float((scale.high / 4.0 / scale.low) ** draw.random())
    return size * (1.0 if scale.judged == "whether" else draw.choice((-1.0, 1.0)))


def _trial(job: tuple[str, int]) -> tuple[int, tuple[float, ...]]:
    drill, seed = job
    draw = random.Random(f"by number {drill} {seed}")
    exercise = _exercise(drill, STRINGS[seed % len(STRINGS)], seed)
    difference = _difference(drill, draw)
    posed = posed_of(exercise, 1, difference)
    assert posed.heard is not None
    samples = samples_of(posed.heard)
    loud = weighted(samples)
    power = np.abs(np.fft.rfft(samples)) ** 2
    hz = np.fft.rfftfreq(len(samples), 1.0 / SAMPLE_RATE)
    begins = loud[: round(BEGINS_S * SAMPLE_RATE)]
    numbers = (
        float(10.0 * np.log10(np.mean(loud**2))),
        float(np.sum(power * hz) / np.sum(power)),
        float(len(samples)),
        float(10.0 * np.log10(np.mean(begins**2) + 1e-12)),
    )
    return posed.right, numbers


def guessed(
    drill: str, *, trials: int = TRIALS, first: int = 0, alone: bool = False
) -> list[Guessed]:
    """Return how well each number answers a drill.

    Args:
        alone: in this process.
    """
    jobs = [(drill, first + seed) for seed in range(trials)]
    if alone:
        found = [_trial(job) for job in jobs]
    else:
        with ProcessPoolExecutor() as pool:
            found = list(pool.map(_trial, jobs, chunksize=20))
    right = [answer for answer, _ in found]
    half = trials // 2
    chance = max(Counter(right[half:]).values()) / (trials - half)
    made = []
    for place, name in enumerate(NUMBERS):
        values = np.array([numbers[place] for _, numbers in found])
        hits = _hits(values, right, half)
        made.append(Guessed(drill, name, 100.0 * (hits - chance), trials))
    return made


def _hits(values: NDArray[np.float64], right: Sequence[int], half: int) -> float:
    """Return the share of the second half that the bands of the first half answer rightly."""
    edges = np.quantile(values[:half], np.linspace(0.0, 1.0, BANDS + 1)[1:-1])
    bands = np.digitize(values, edges)
    usual = Counter(right[:half]).most_common(1)[0][0]
    learned = {}
    for band in range(BANDS):
        of = [answer for answer, at in zip(right[:half], bands[:half], strict=True) if at == band]
        learned[band] = Counter(of).most_common(1)[0][0] if of else usual
    told = [learned[int(at)] for at in bands[half:]]
    return sum(a == b for a, b in zip(told, right[half:], strict=True)) / len(told)
