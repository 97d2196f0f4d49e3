"""Who wins without hearing: deaf players of fixed rules on drawn starts, and beginners who hear."""

from collections.abc import Callable, Iterable, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from typing import Final

import numpy as np
from tests.core.cheaters import (
    RULES,
    Log,
    by_checking_first,
    by_copying,
    by_counted_presses,
    by_hidden_level,
    by_putting_out,
    by_ripples,
    by_rule,
    counted_unevenly,
    counted_with_ripples,
    idle,
)

from meldrin.core.bench import Exercise, StartKind, with_start
from meldrin.core.bench.limits import Tolerance
from meldrin.core.learner import Ear, Learner, practise
from meldrin.core.scoring import score

WON: Final = 60.0  # points: an attempt that went well
MANY: Final = (
    ("guitar", "unison"),
    ("violin", "fifths"),
    ("viola", "each"),
    ("mandolin", "each"),
    ("bass", "harmonics"),
    ("cello", "mixed"),
)
ONE: Final = (("guitar", "unison"), ("viola", "fifths"))
BALANCED: Final[tuple[StartKind, ...]] = ("hair", "month", "group")
# Who has just begun: hears the side of 10 to 30 cents, and beats down to one in two seconds.
BEGINNERS: Final = tuple(
    Learner(Ear(cents, hz, spread=0.3), hand=0.25, smallest_cents=1.0)
    for cents, hz in ((10.0, 0.3), (20.0, 0.5), (30.0, 0.7))
)


@dataclass(frozen=True, slots=True)
class Points:
    """What players have got, by what they did."""

    by_rule: dict[str, list[float]]

    def worst(self, of: str) -> float:
        """The most that any rule gets: “mean”, “share under 40” (the least of it), “won”."""
        found = [np.array(one) for one in self.by_rule.values()]
        match of:
            case "mean":
                return max(float(one.mean()) for one in found)
            case "under 40":
                return min(float((one < 40.0).mean()) for one in found)
            case _:
                return max(float((one >= WON).mean()) for one in found)


def deaf(
    cases: Sequence[tuple[str, str]],
    starts: Sequence[StartKind],
    tolerances: Sequence[Tolerance],
    seeds: Iterable[int],
) -> Points:
    """Return the points of every fixed rule, over all these attempts."""
    jobs = [
        (name, instrument, method, start, tolerance, seed)
        for name in RULES
        for instrument, method in cases
        for start in starts
        for tolerance in tolerances
        for seed in seeds
    ]
    found: dict[str, list[float]] = {name: [] for name in RULES}
    with ProcessPoolExecutor() as pool:
        for job, points in zip(jobs, pool.map(_deaf, jobs, chunksize=32), strict=True):
            found[job[0]].append(points)
    return Points(found)


def _deaf(job: tuple[str, str, str, StartKind, Tolerance, int]) -> float:
    name, instrument, method, start, tolerance, seed = job
    made = with_start(Exercise(instrument, method, start, 0, tolerance=tolerance), seed=seed)
    return score(made, by_rule(made, RULES[name])).points or 0.0


@dataclass(frozen=True, slots=True)
class Cheated:
    """What a way to cheat has won, and what it may win at most."""

    name: str
    mean: float
    most: float
    by_ear: int
    aim: str


CHEATS: Final[tuple[tuple[str, Callable[[Exercise], Log], str], ...]] = (
    ("Level to 0 cents, hidden, presses counted", by_counted_presses, "at most 60; 0"),
    ("Ripples to still, hidden, presses counted", counted_with_ripples, "at most 80; 0"),
    ("presses counted by an uneven hand", counted_unevenly, "at most 60; 0"),
    ("deaf, checked with the tuner, turned by what it showed", by_checking_first, "at most 60; 0"),
    ("Level hidden just before judging", by_hidden_level, "at most 60; 0"),
    ("Ripples by their word, hidden before judging", by_ripples, "at most 80; 0"),
    ("a start put out again, turned by a guess", by_putting_out, "mean at most 25"),
    ("idle, everything called in tune", idle, "at most 10; 0"),
    ("a start that was met before, copied", by_copying, "0 by ear"),
)


def cheat_study(seeds: Sequence[int]) -> list[Cheated]:
    """Play each way to cheat on every instrument and method of `MANY` but the mixed one."""
    found = []
    for name, play, aim in CHEATS:
        results = [
            score(made, play(made))
            for instrument, method in MANY[:5]
            for seed in seeds
            for made in [
                replace(
                    with_start(Exercise(instrument, method, "month", 0), seed=seed),
                    fresh=play is not by_copying,
                )
            ]
        ]
        points = [one.points or 0.0 for one in results]
        by_ear = sum(one.by_ear for one in results)
        found.append(Cheated(name, float(np.mean(points)), max(points), by_ear, aim))
    return found


def beginners_capped(
    cases: Sequence[tuple[str, str]],
    starts: Sequence[StartKind],
    tolerances: Sequence[Tolerance],
    seeds: Iterable[int],
) -> tuple[int, int]:
    """Return how many attempts of beginners who hear are capped as luck, of how many."""
    jobs = [
        (who, instrument, method, start, tolerance, seed)
        for who in range(len(BEGINNERS))
        for instrument, method in cases
        for start in starts
        for tolerance in tolerances
        for seed in seeds
    ]
    with ProcessPoolExecutor() as pool:
        capped = list(pool.map(_capped, jobs, chunksize=16))
    return sum(capped), len(capped)


def _capped(job: tuple[int, str, str, StartKind, Tolerance, int]) -> bool:
    who, instrument, method, start, tolerance, seed = job
    made = with_start(Exercise(instrument, method, start, 0, tolerance=tolerance), seed=seed)
    caps = score(made, practise(made, BEGINNERS[who], seed=seed)).caps
    return any(cap.kind == "luck" for cap in caps)
