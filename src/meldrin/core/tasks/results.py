"""What a class made of an exercise, as a teacher reads it: one sentence, then whom to help."""

import statistics
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Final

from meldrin.core.drills import measured
from meldrin.core.practice import Brought, Sat, Skill, Tuned
from meldrin.core.practice.plan import said
from meldrin.core.scoring.rules import RULE_TITLES
from meldrin.core.tasks.task import Counts
from meldrin.core.words import listed

MOST_HELPED: Final = 3
MANY: Final = 1 / 3  # of those who did it: from here on it is said of the class
FEW: Final = 0.2  # and from here on beside it
OCTAVE_CENTS: Final = 600.0  # further off than this a string is in another octave
FAR_CENTS: Final = 50.0  # what is further off counts as this far when pupils are compared
IDLE: Final = "finished without a turn"
AID_SAID: Final = {"level": "the level", "tuner": "the tuner", "ripple": "the ripples"}


@dataclass(frozen=True, slots=True)
class Did:
    """What a pupil did of a part, the oldest first; nothing where they have not finished any."""

    name: str
    tuned: tuple[Tuned, ...] = ()
    sat: tuple[Sat, ...] = ()
    finished: int = 0

    @property
    def is_idle(self) -> bool:
        """Whether it was finished without turning or answering anything."""
        return self.finished > 0 and not self.tuned and not self.sat

    def counted(self, counts: Counts) -> Tuned | None:
        """Return the attempt that a teacher is shown, or None."""
        if not self.tuned:
            return None
        if counts == "first":
            return self.tuned[0]
        if counts == "last":
            return self.tuned[-1]
        return max(self.tuned, key=lambda one: (one.points or 0.0, one.at))


@dataclass(frozen=True, slots=True)
class Dot:
    """Where a pupil (their place in the list, from 0) left a string, in cents."""

    pupil: int
    cents: float


@dataclass(frozen=True, slots=True)
class StringResult:
    """How a class left a string: how many too low, in tune, and too high."""

    string: int
    label: str
    low: int
    well: int
    high: int
    dots: tuple[Dot, ...]

    @property
    def of(self) -> int:
        """How many pupils that are."""
        return self.low + self.well + self.high


@dataclass(frozen=True, slots=True)
class PupilResult:
    """A line of the table.

    times: how often they finished it. middle_cents, worst_cents: of the attempt that counts, None
        without one; worst: its string. sides_right, sides_of: how often low or high was named
        rightly. by_ear, by_ear_of: how many strings of how many; of 0 where it was practice.
    aid: the help that gave most away, or “”. points: of 100, or None.
    right, trials: of the newest sitting, where it is a drill.
    change: one thing to change, or “”.
    """

    name: str
    times: int
    middle_cents: float | None = None
    worst_cents: float | None = None
    worst: str = ""
    sides_right: int = 0
    sides_of: int = 0
    by_ear: int = 0
    by_ear_of: int = 0
    aid: str = ""
    points: float | None = None
    right: int = 0
    trials: int = 0
    change: str = ""


@dataclass(frozen=True, slots=True)
class Help:
    """Whom to help, and with what."""

    name: str
    why: str


@dataclass(frozen=True, slots=True)
class Rule:
    """A part of technique, and how many pupils of how many broke it."""

    rule: str
    title: str
    broke: int
    of: int


@dataclass(frozen=True, slots=True)
class ClassResult:
    """What a class made of a part of an exercise.

    says: what stands out, in one sentence. more: what else, in sentences.
    tolerance_cents: within which a string counts as in tune.
    aids: how many pupils took which help at most.
    """

    says: str
    more: tuple[str, ...]
    help_first: tuple[Help, ...]
    strings: tuple[StringResult, ...]
    pupils: tuple[PupilResult, ...]
    tolerance_cents: float
    aids: tuple[tuple[str, int], ...]
    rules: tuple[Rule, ...]


def class_result(did: Sequence[Did], *, counts: Counts, is_measured: bool = True) -> ClassResult:
    """Return what a class made of a part.

    Args:
        did: what each pupil did, in the order of the list.
        counts: which of several attempts counts.
        is_measured: whether what was done has figures at all.
    """
    if any(one.sat for one in did):
        return _heard(did)
    counted = [(place, one.counted(counts)) for place, one in enumerate(did)]
    there = [(place, one) for place, one in counted if one is not None]
    strings = tuple(_strings(there))
    tolerance = max((one.tolerance_cents for _, one in there), default=0.0)
    attempts = [one for _, one in there]
    aids = Counter(one.aid for one in attempts)
    idle = [one.name for one in did if one.is_idle] if is_measured else []
    return ClassResult(
        says=_says(did, attempts, strings),
        more=tuple(_more(did, attempts, idle)),
        help_first=(*(Help(one, IDLE) for one in idle), *_help_first(did, there))[:MOST_HELPED],
        strings=strings,
        pupils=tuple(_pupil(one, attempt) for one, (_, attempt) in zip(did, counted, strict=True)),
        tolerance_cents=tolerance,
        aids=tuple(sorted(aids.items())),
        rules=tuple(_rules(attempts)),
    )


def _strings(there: Sequence[tuple[int, Tuned]]) -> Iterable[StringResult]:
    found: dict[int, list[tuple[int, Brought, float]]] = {}
    for place, attempt in there:
        for one in attempt.strings:
            found.setdefault(one.string, []).append((place, one, attempt.tolerance_cents))
    for string, each in found.items():
        sides = Counter(_side(one, tolerance) for _, one, tolerance in each)
        yield StringResult(
            string=string,
            label=each[0][1].label,
            low=sides["low"],
            well=sides["well"],
            high=sides["high"],
            dots=tuple(Dot(place, one.ended_cents) for place, one, _ in each),
        )


def _side(one: Brought, tolerance_cents: float) -> str:
    """Return on which side of its target a string was left, as the picture shows it."""
    if abs(one.ended_cents) <= tolerance_cents:
        return "well"
    return "low" if one.ended_cents < 0.0 else "high"


def _says(did: Sequence[Did], attempts: Sequence[Tuned], strings: Sequence[StringResult]) -> str:
    finished = sum(one.finished > 0 for one in did)
    if not finished:
        return "Nobody has finished it yet."
    if not attempts:
        return f"{finished} of {len(did)} have finished it."
    sides = [
        (count, side, one)
        for one in strings
        for count, side in ((one.low, "low"), (one.high, "high"))
    ]
    of = len(attempts)
    count, side, worst = max(sides, key=lambda each: each[0])
    if count >= MANY * of and (count >= 2 or of == 1):
        verb = "stops" if count == 1 else "stop"
        return f"{count} of {of} {verb} {side} on the {worst.label} string."
    well = sum(not _off(one) for one in attempts)
    verb = "brings" if well == 1 else "bring"
    if well:
        return f"{well} of {of} {verb} every string in."
    return f"None of {of} brings every string in, each in a way of their own."


def _more(did: Sequence[Did], attempts: Sequence[Tuned], idle: Sequence[str]) -> Iterable[str]:
    of = len(attempts)

    def counted(count: int, one: str, several: str) -> Iterable[str]:
        if count and count >= FEW * of:
            yield f"{count} {one if count == 1 else several}."

    yield from counted(len(idle), IDLE, IDLE)
    octave = sum(
        any(OCTAVE_CENTS < abs(one.ended_cents) < 5000.0 for one in attempt.strings)
        for attempt in attempts
    )
    yield from counted(octave, "has a string an octave off", "have a string an octave off")
    for aid in ("level", "tuner"):
        used = sum(
            attempt.aid == aid and any(one.basis == aid for one in attempt.strings)
            for attempt in attempts
        )
        yield from counted(used, f"used {AID_SAID[aid]}", f"used {AID_SAID[aid]}")
    untouched = sum(any(not one.moves for one in _off(attempt)) for attempt in attempts)
    yield from counted(untouched, "left a string as it was", "left strings as they were")
    over = sum(sum(one.overshoots for one in attempt.strings) >= 2 for attempt in attempts)
    yield from counted(over, "turns past the pitch", "turn past the pitch")
    wrong = sum(
        any(
            one.verdict == "in_tune"
            and one.was_cents is not None
            and abs(one.was_cents) > attempt.tolerance_cents
            for one in attempt.strings
        )
        for attempt in attempts
    )
    yield from counted(
        wrong,
        "says “in tune” of a string that is not",
        "say “in tune” of a string that is not",
    )
    waiting = sum(not one.finished for one in did)
    if waiting:
        yield f"{waiting} {'has' if waiting == 1 else 'have'} not finished it yet."


def _help_first(did: Sequence[Did], there: Sequence[tuple[int, Tuned]]) -> Iterable[Help]:
    ranked = sorted(there, key=lambda each: _need(each[1]), reverse=True)
    needing = [(place, one) for place, one in ranked if _need(one) > 0.0]
    for place, one in needing[:MOST_HELPED]:
        yield Help(did[place].name, _why(one))


def _off(one: Tuned) -> list[Brought]:
    """Return the strings that were left out of tune."""
    return [each for each in one.strings if _side(each, one.tolerance_cents) != "well"]


def _need(one: Tuned) -> float:
    """Return how much help somebody needs: by how far strings are off, in tolerances, and by what
    was leaned on.
    """
    if not one.strings:
        return 0.0
    off = sum(
        min(abs(each.ended_cents), FAR_CENTS) / max(one.tolerance_cents, 0.5) for each in _off(one)
    )
    leaned = sum(each.basis in ("level", "tuner") for each in one.strings)
    return off / len(one.strings) + 0.5 * leaned / len(one.strings)


def _why(one: Tuned) -> str:
    octave = [each.label for each in one.strings if OCTAVE_CENTS < abs(each.ended_cents) < 5000.0]
    if octave:
        return f"wrong octave on {listed(octave)}"
    off = _off(one)
    left = [each.label for each in off if not each.moves]
    if left and len(left) == len(off):
        return f"left {listed(left)} without a turn"
    for side in ("low", "high"):
        there = [each.label for each in off if _side(each, one.tolerance_cents) == side]
        if there and 2 * len(there) >= len(off):
            return f"{'stops' if side == 'low' else 'ends'} {side} on {listed(there)}"
    leaned = [each.basis for each in one.strings if each.basis in ("level", "tuner")]
    if leaned:
        every = "every string" if len(leaned) == len(one.strings) else f"{len(leaned)} strings"
        return f"used {AID_SAID[leaned[0]]} for {every}"
    raise AssertionError("who needs no help is not asked about")


def _pupil(one: Did, attempt: Tuned | None) -> PupilResult:
    if attempt is None or not attempt.strings:
        return PupilResult(one.name, one.finished)
    sizes = [abs(each.ended_cents) for each in attempt.strings]
    worst = max(attempt.strings, key=lambda each: abs(each.ended_cents))
    side = "low" if worst.ended_cents < 0.0 else "high"
    return PupilResult(
        name=one.name,
        times=one.finished,
        middle_cents=statistics.median(sizes),
        worst_cents=abs(worst.ended_cents),
        worst=f"{worst.label} {side}",
        sides_right=attempt.sides_right,
        sides_of=attempt.sides_of,
        by_ear=attempt.by_ear,
        by_ear_of=0 if attempt.practice else len(attempt.strings),
        aid=attempt.aid,
        points=attempt.points,
        change=attempt.advice,
    )


def _rules(attempts: Sequence[Tuned]) -> Iterable[Rule]:
    broke = Counter(one.rule for attempt in attempts for one in attempt.broken)
    for rule, count in broke.most_common():
        yield Rule(rule, RULE_TITLES.get(rule, rule), count, len(attempts))  # type: ignore[call-overload]


def _heard(did: Sequence[Did]) -> ClassResult:
    """Return what a class made of a drill."""
    newest = [(one, one.sat[-1]) for one in did if one.sat]
    known = [sat.threshold.middle for _, sat in newest if sat.threshold is not None]
    low = sum(sat.below > 2 * sat.above for _, sat in newest if sat.below + sat.above >= 2)
    high = sum(sat.above > 2 * sat.below for _, sat in newest if sat.below + sat.above >= 2)
    of = len(newest)
    if known:
        skill = Skill(*newest[0][1].key)
        size = said(skill, float(f"{statistics.median(known):.2g}"))
        says = f"In the middle, pupils {measured(skill.drill).does} {size}."
    else:
        right = statistics.median(sat.share for _, sat in newest)
        says = f"In the middle, {round(10 * right)} of 10 answers are right."
    more = []
    if low >= max(2, MANY * of):
        more.append(f"{low} of {of} miss what lies low.")
    if high >= max(2, MANY * of):
        more.append(f"{high} of {of} miss what lies high.")
    ranked = sorted(newest, key=lambda each: each[1].share)
    help_first = tuple(
        Help(one.name, f"{sat.right} of {sat.trials} right")
        for one, sat in ranked[:MOST_HELPED]
        if sat.share < 0.75
    )
    pupils = tuple(
        PupilResult(
            one.name,
            one.finished,
            right=one.sat[-1].right if one.sat else 0,
            trials=one.sat[-1].trials if one.sat else 0,
        )
        for one in did
    )
    return ClassResult(says, tuple(more), help_first, (), pupils, 0.0, (), ())
