"""A kind of practice as the services know it."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Generic, TypeVar

from meldrin.core.practice import Figure
from meldrin.core.session import Practice, Shape, Timed
from meldrin.core.session.log import Clocked

X = TypeVar("X")
S = TypeVar("S", bound=Clocked)
A = TypeVar("A")
R = TypeVar("R")


@dataclass(frozen=True, slots=True)
class Columns:
    """What lists of attempts are filtered by."""

    instrument: str
    tuning: str
    method: str
    start: str


@dataclass(frozen=True, slots=True)
class ResultSummary:
    """What a list shows of a result: the help that gave most away, how far off the strings were in
    the middle and at worst (cents; None where they were slack), how many were judged by ear, and
    the share of technique that was right (0 to 1, None where it was not looked at). `worst`: the
    string that was worst, and its side. `sides_right`, `sides_of`: how often low or high was named
    rightly before the first turn.
    """

    aid: str
    median_cents: float | None
    worst_cents: float | None
    worst: str
    by_ear: int
    by_ear_of: int
    technique: float | None = None
    sides_right: int = 0
    sides_of: int = 0


@dataclass(frozen=True)
class PracticeKind(Generic[X, S, A, R]):
    """A kind of practice: its rules, and what is kept and shown of its attempts.

    engine: its version, raised when the same list of actions would give another end or score.
    columns: what lists are filtered by, from an exercise.
    kept: from an exercise as it was asked for to one that depends on nothing outside of it.
    name: what an exercise is called in a list.
    score: the result of an exercise and its list of actions.
    results: how results are stored.
    points, brief: what lists show of a result.
    figure: what is kept of it to see how a learner gets on, from the exercise, its result, when it
        ended and how many seconds it took; None where nothing was done.
    figures: the class of such figures, which are stored and read by it.
    from_file: a figure as it counts when it came from a file, which proves nothing.
    tells: the kind of the action that tells an answer: who leaves after it has seen that.
    """

    practice: Practice[X, S, A]
    engine: int
    columns: Callable[[X], Columns]
    kept: Callable[[X], X]
    name: Callable[[X], str]
    score: Callable[[X, Sequence[Timed[A]]], R]
    results: Shape[R]
    points: Callable[[R], float | None]
    brief: Callable[[R], ResultSummary]
    figure: Callable[[X, R, datetime, float], Figure | None]
    figures: type[Figure]
    from_file: Callable[[Any], Figure]
    tells: str
