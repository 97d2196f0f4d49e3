"""What is kept of each sitting and attempt to see how a learner gets on: small figures, no logs."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Annotated, Final, Protocol

from annotated_types import Ge, Le, MaxLen

from meldrin.core.bench.actions import Verdict
from meldrin.core.drills import Threshold
from meldrin.core.drills.drill import EASIEST, HARDEST
from meldrin.core.drills.sitting import Sure

MOST_TRIALS = 1000
Count = Annotated[int, Ge(0), Le(MOST_TRIALS)]
Cents = Annotated[float, Ge(-1e5), Le(1e5)]
Name = Annotated[str, MaxLen(40)]


@dataclass(frozen=True, slots=True)
class SaidSure:
    """Answers said with one confidence, and how many of them were right."""

    sure: Sure
    answers: Count
    right: Count


@dataclass(frozen=True, slots=True)
class Sat:
    """What one sitting at a drill told.

    known_by: the register and interval, or “all”.
    threshold: what is known of it afterwards, or None for a drill without one.
    level, next_level: how hard it was, and how hard the next one is.
    brier: the mean square error of what was said to be likely, or None.
    sure: by how sure the answers were.
    below, above: how many wrong answers lay on the low side of the truth, and on the high side.
    in_class: it was a round with a class, whose questions are the same for all: it measures no
        threshold.
    from_file: it was brought in, so it proves no step.
    """

    drill: Name
    known_by: Name
    at: datetime
    right: Count
    trials: Count
    threshold: Threshold | None = None
    level: Annotated[int, Ge(EASIEST), Le(HARDEST)] = EASIEST
    next_level: Annotated[int, Ge(EASIEST), Le(HARDEST)] = EASIEST
    instrument: Name = ""
    brier: Annotated[float, Ge(0.0), Le(1.0)] | None = None
    sure: Annotated[tuple[SaidSure, ...], MaxLen(3)] = ()
    below: Count = 0
    above: Count = 0
    in_class: bool = False
    from_file: bool = False

    @property
    def key(self) -> tuple[str, str]:
        """What its evidence is kept under."""
        return self.drill, self.known_by

    @property
    def share(self) -> float:
        """The share of right answers."""
        return self.right / self.trials if self.trials else 0.0


@dataclass(frozen=True, slots=True)
class Brought:
    """What an attempt made of one string.

    began_cents, ended_cents: how far it was from its target, at first and in the end.
    well: whether it was brought within tolerance.
    verdict: what was said of it last, or None; was_cents: how far out it was then.
    basis: what the last word on it rested on, or “” in figures of earlier versions.
    """

    string: Annotated[int, Ge(1), Le(40)]
    began_cents: Cents
    ended_cents: Cents
    well: bool
    label: Name = ""
    verdict: Verdict | None = None
    was_cents: Cents | None = None
    moves: Annotated[int, Ge(0), Le(100_000)] = 0
    overshoots: Annotated[int, Ge(0), Le(100_000)] = 0
    basis: Name = ""


@dataclass(frozen=True, slots=True)
class Broken:
    """A rule of technique, and the share of it that was done wrong."""

    rule: Name
    share: Annotated[float, Ge(0.0), Le(1.0)]


@dataclass(frozen=True, slots=True)
class Tuned:
    """What one attempt at the bench told.

    aid: the help that gave most away.
    closing_cents: how much wider the pair of the last check lay than the plan has it, or None.
    seconds: how long it took.
    practice: why nothing of it is called “by ear”, or “”.
    proves: a start that nobody knew, of few strings: it counts with those before and after it.
    sides_right, sides_of: how often low or high was named rightly before the first turn.
    habit, advice: what to change next, by its name and in a sentence.
    broken: the rules of technique that were broken.
    start, behaviours: what it began with, and what was real about it.
    held: the share that a minute of playing left standing, 0 to 1, or None where nothing can give.
    guided: a teacher's words stood beside it.
    """

    instrument: Name
    method: Name
    at: datetime
    aid: Name
    strings: Annotated[tuple[Brought, ...], MaxLen(40)]
    points: Annotated[float, Ge(0.0), Le(100.0)] | None = None
    closing_cents: Cents | None = None
    seconds: Annotated[float, Ge(0.0), Le(1e8)] = 0.0
    tolerance_cents: Annotated[float, Ge(0.0), Le(1000.0)] = 0.0
    habit: Name = ""
    advice: Annotated[str, MaxLen(300)] = ""
    broken: Annotated[tuple[Broken, ...], MaxLen(40)] = ()
    practice: Annotated[str, MaxLen(100)] = ""
    proves: bool = False
    sides_right: Count = 0
    sides_of: Count = 0
    start: Name = ""
    behaviours: Annotated[tuple[Name, ...], MaxLen(20)] = ()
    held: Annotated[float, Ge(0.0), Le(1.0)] | None = None
    guided: bool = False

    @property
    def by_ear(self) -> int:
        """How many strings were tuned by ear alone."""
        return 0 if self.practice else sum(one.basis == "ear" for one in self.strings)

    @property
    def won_by_ear(self) -> bool:
        """Whether every string was brought in by ear alone."""
        return self.well and all(one.basis == "ear" for one in self.strings)

    @property
    def well(self) -> bool:
        """Whether every string was brought within tolerance."""
        return bool(self.strings) and all(one.well for one in self.strings)


class Figure(Protocol):
    """What is kept of something practised, of whatever kind: when it ended, and figures of it."""

    @property
    def at(self) -> datetime: ...


IN_A_ROW: Final = 4  # starts with few strings, before luck is ruled out


def in_a_row(tuned: Sequence[Tuned], gone: Sequence[datetime] = ()) -> int:
    """Return how many starts of few strings have been won by ear in a row, up to the newest.

    Args:
        tuned: the oldest first.
        gone: when attempts were left or erased; a row does not go on over them.
    """
    row = Row(gone)
    for one in tuned:
        if one.proves:
            row.add(one.at, won=one.won_by_ear)
    return row.count


class Row:
    """Counts what was won one after the other. What went badly cannot be taken out of a row: an
    attempt that was left half way, or erased, ends it.
    """

    def __init__(self, gone: Sequence[datetime] = ()) -> None:
        self.count = 0
        self._gone = gone
        self._last: datetime | None = None

    def add(self, at: datetime, *, won: bool) -> int:
        """Add what was tried at a time, and return how many were won up to it."""
        broken = self.broken(at)
        self.count = 0 if not won else 1 if broken else self.count + 1
        return self.count

    def broken(self, at: datetime) -> bool:
        """Whether something was left or erased since this was asked last, up to a time."""
        since, self._last = self._last, at
        return any((since is None or since < one) and one <= at for one in self._gone)
