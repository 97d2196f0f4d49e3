"""How a learner gets on: what is heard and how near strings come, now and a while ago."""

import statistics
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Final, Generic, TypeVar

from meldrin.core.drills import Threshold, drill_of, where_said
from meldrin.core.drills.registry import measured
from meldrin.core.drills.result import is_known
from meldrin.core.drills.sitting import EVERYWHERE, SAID, Sure
from meldrin.core.practice.figures import Brought, Sat, Tuned
from meldrin.core.practice.plan import said
from meldrin.core.practice.skills import Skill
from meldrin.core.words import capital, whole_cents

WEEK: Final = timedelta(weeks=1)
WEEKS_SHOWN: Final = 12
FARTHEST_CENTS: Final = 100.0  # a slack string counts as this
ENOUGH: Final = 3  # strings or answers, before something is said of them
LEANS_CENTS: Final = 2.0
CHANGED: Final = 1.25  # times as large, or as small, before it is said
MOST_SAID: Final = 4
PERIODS: Final = {1: "last week", 4: "four weeks ago", 12: "twelve weeks ago"}
T = TypeVar("T")


@dataclass(frozen=True, slots=True)
class Both(Generic[T]):
    """The same of the period that ends now, and of the one before it; None where nothing tells."""

    now: T | None
    before: T | None


@dataclass(frozen=True, slots=True)
class Moment:
    """What a sitting told of a threshold."""

    at: datetime
    threshold: Threshold


@dataclass(frozen=True, slots=True)
class HearingProgress:
    """What is heard at a drill, in one register and interval.

    goal: what tuning needs at first, in the drill's unit. moments: of every sitting shown.
    """

    name: str
    where: str
    unit: str
    goal: float
    threshold: Both[Threshold]
    moments: tuple[Moment, ...]
    says: str


@dataclass(frozen=True, slots=True)
class Share:
    """How many of how many were right."""

    right: int
    of: int


@dataclass(frozen=True, slots=True)
class Known:
    """What is known at a drill without a threshold, and how hard its next sitting is."""

    name: str
    instrument: str
    share: Both[Share]
    level: int


@dataclass(frozen=True, slots=True)
class Ends:
    """How strings ended: how many, how far off in the middle, and to which side on average."""

    strings: int
    size_cents: float
    bias_cents: float
    overshoots: float


@dataclass(frozen=True, slots=True)
class StringEnds:
    """How one string of an instrument ended."""

    instrument: str
    string: int
    label: str
    ends: Both[Ends]


@dataclass(frozen=True, slots=True)
class MethodEnds:
    """How strings ended by a method; closing_cents: how far the last check lay off in the middle;
    seconds: of an attempt.
    """

    method: str
    attempts: Both[int]
    ends: Both[Ends]
    closing_cents: Both[float]
    seconds: Both[float]


@dataclass(frozen=True, slots=True)
class WeekDone:
    """What was done in a week: from when, attempts, sittings, how far off strings ended, how long
    an attempt took and how many moves a string.
    """

    begins: datetime
    attempts: int
    sittings: int
    size_cents: float | None
    seconds: float | None
    moves: float | None


@dataclass(frozen=True, slots=True)
class Judged:
    """What was said of strings: how many were called right, how many were called in tune that were
    not, and how far off they were then on average.
    """

    right: Share
    too_early: int
    called_cents: float | None


@dataclass(frozen=True, slots=True)
class SureShare:
    """Answers said with one confidence."""

    sure: Sure
    share: Both[Share]


@dataclass(frozen=True, slots=True)
class Progress:
    """How a learner gets on. `says`: the most telling of it in sentences."""

    weeks: int
    says: tuple[str, ...]
    heard: tuple[HearingProgress, ...]
    known: tuple[Known, ...]
    strings: tuple[StringEnds, ...]
    methods: tuple[MethodEnds, ...]
    done: tuple[WeekDone, ...]
    judged: Both[Judged]
    sure: tuple[SureShare, ...]


def progress(
    sat: Sequence[Sat],
    tuned: Sequence[Tuned],
    *,
    now: datetime,
    weeks: int = 4,
    who: str = "",
) -> Progress:
    """Return how a learner gets on, in the last weeks against as many before.

    Args:
        sat, tuned: what has been done, the oldest first.
        who: the learner's name, where somebody else is told.
    """
    split = _Periods(now, weeks)
    heard = tuple(_heard(key, found, split, who) for key, found in _by(_measured(sat), _skill_key))
    # what was done in neither period is left out
    ends = (
        StringEnds(instrument, string, _label(found), split.both(found, _when, _ends))
        for (instrument, string), found in sorted(_by(_strings(tuned), _string_key))
    )
    strings = tuple(one for one in ends if one.ends.now or one.ends.before)
    known = (_known(key, found, split) for key, found in _by(_asked(sat), _asked_key))
    methods = (_method(key, found, split) for key, found in sorted(_by(tuned, _method_key)))
    judged = split.both(_strings(tuned), _when, _judged)
    sure = tuple(_sure(one, sat, split) for one in SAID)
    return Progress(
        weeks=weeks,
        says=(*_says(heard, strings, judged, sure, weeks, who), *_in_class_said(sat, split, who)),
        heard=heard,
        known=tuple(one for one in known if one.share.now or one.share.before),
        strings=strings,
        methods=tuple(one for one in methods if one.attempts.now or one.attempts.before),
        done=tuple(_weeks(sat, tuned, now)),
        judged=judged,
        sure=sure,
    )


@dataclass(frozen=True, slots=True)
class _Periods:
    now: datetime
    weeks: int

    def both(
        self,
        found: Iterable[T],
        when: Callable[[T], datetime],
        make: "Callable[[list[T]], Result | None]",
    ) -> "Both[Result]":
        """Return what is made of the things of each period."""
        length = self.weeks * WEEK
        late = [one for one in found if when(one) > self.now - length]
        early = [one for one in found if self.now - 2 * length < when(one) <= self.now - length]
        return Both(make(late) if late else None, make(early) if early else None)


Result = TypeVar("Result")
K = TypeVar("K")


def _by(found: Iterable[T], key: Callable[[T], K]) -> list[tuple[K, list[T]]]:
    groups: dict[K, list[T]] = {}
    for one in found:
        groups.setdefault(key(one), []).append(one)
    return list(groups.items())


# What is heard and known


def _measured(sat: Iterable[Sat]) -> list[Sat]:
    return [one for one in sat if one.threshold is not None and one.known_by != EVERYWHERE]


def _asked(sat: Iterable[Sat]) -> list[Sat]:
    return [one for one in sat if one.known_by == EVERYWHERE and one.trials and not one.in_class]


def _skill_key(one: Sat) -> tuple[str, str]:
    return one.key


def _asked_key(one: Sat) -> tuple[str, str]:
    return one.drill, one.instrument


def _newest(found: list[Sat]) -> Threshold | None:
    """Return the newest threshold of a period that is known well enough to be said."""
    drill = measured(found[-1].drill)
    threshold = found[-1].threshold
    return threshold if threshold is not None and is_known(drill, threshold) else None


def _heard(key: tuple[str, str], found: list[Sat], split: _Periods, who: str) -> HearingProgress:
    drill = measured(key[0])
    threshold = split.both(found, lambda one: one.at, _newest)
    skill = Skill(*key)
    where = where_said(key[1])
    goal = drill.goals[0]
    return HearingProgress(
        name=drill.name,
        where=where,
        unit=drill.unit,
        goal=goal,
        threshold=threshold,
        moments=tuple(Moment(one.at, one.threshold) for one in found if one.threshold),
        says=_heard_said(skill, where, threshold, goal, split.weeks, who),
    )


def _heard_said(
    skill: Skill, where: str, threshold: Both[Threshold], goal: float, weeks: int, who: str
) -> str:
    if threshold.now is None:
        return ""
    now = said(skill, _round(threshold.now.middle))
    before = ""
    if threshold.before is not None:
        before = f"; {PERIODS.get(weeks, 'before')} {said(skill, _round(threshold.before.middle))}"
    needs = f" Tuning needs {said(skill, goal)}." if threshold.now.middle > goal else ""
    return f"{_does(who, measured(skill.drill).does, 'now ')} {now} on {where}{before}.{needs}"


def _does(who: str, does: str, when: str = "") -> str:
    """Return “you now hold within”, or “Liv now holds within” of somebody else."""
    verb, *rest = does.split(" ")
    return f"You {when}{does}" if not who else " ".join([f"{who} {when}{verb}s", *rest])


def _round(size: float) -> float:
    return float(f"{size:.2g}")


def _known(key: tuple[str, str], found: list[Sat], split: _Periods) -> Known:
    def share(some: list[Sat]) -> Share:
        return Share(sum(one.right for one in some), sum(one.trials for one in some))

    both = split.both(found, lambda one: one.at, share)
    return Known(drill_of(key[0]).name, key[1], both, found[-1].next_level)


def _sure(sure: Sure, sat: Sequence[Sat], split: _Periods) -> SureShare:
    def share(some: list[Sat]) -> Share | None:
        said = [one for each in some for one in each.sure if one.sure == sure]
        of = sum(one.answers for one in said)
        return Share(sum(one.right for one in said), of) if of else None

    return SureShare(sure, split.both(sat, lambda one: one.at, share))


# How strings end

_String = tuple[Tuned, Brought]


def _strings(tuned: Iterable[Tuned]) -> list[_String]:
    return [(attempt, one) for attempt in tuned for one in attempt.strings]


def _when(one: _String) -> datetime:
    return one[0].at


def _string_key(one: _String) -> tuple[str, int]:
    return one[0].instrument, one[1].string


def _method_key(one: Tuned) -> str:
    return one.method


def _label(found: list[_String]) -> str:
    return found[-1][1].label or str(found[-1][1].string)


def _clipped(cents: float) -> float:
    return max(-FARTHEST_CENTS, min(FARTHEST_CENTS, cents))


def _ends(found: list[_String]) -> Ends:
    ended = [_clipped(one.ended_cents) for _, one in found]
    return Ends(
        strings=len(ended),
        size_cents=statistics.median(abs(cents) for cents in ended),
        bias_cents=statistics.fmean(ended),
        overshoots=statistics.fmean(one.overshoots for _, one in found),
    )


def _method(method: str, found: list[Tuned], split: _Periods) -> MethodEnds:
    def when(one: Tuned) -> datetime:
        return one.at

    def closing(some: list[Tuned]) -> float | None:
        sizes = [abs(_clipped(one.closing_cents)) for one in some if one.closing_cents is not None]
        return statistics.median(sizes) if sizes else None

    return MethodEnds(
        method=method,
        attempts=split.both(found, when, len),
        ends=split.both(_strings(found), _when, _ends),
        closing_cents=split.both(found, when, closing),
        seconds=split.both(found, when, lambda some: statistics.median(o.seconds for o in some)),
    )


def _judged(found: list[_String]) -> Judged | None:
    """Return how true what was said of strings was; a string counts as in tune within the
    tolerance of its attempt.
    """
    of = right = too_early = 0
    called: list[float] = []
    for attempt, one in found:
        if one.verdict is None or one.was_cents is None:
            continue
        within = abs(one.was_cents) <= attempt.tolerance_cents
        truth = "in_tune" if within else "low" if one.was_cents < 0.0 else "high"
        of += 1
        right += one.verdict == truth
        if one.verdict == "in_tune":
            called.append(_clipped(one.was_cents))
            too_early += not within
    if not of:
        return None
    return Judged(Share(right, of), too_early, statistics.fmean(called) if called else None)


def _weeks(sat: Sequence[Sat], tuned: Sequence[Tuned], now: datetime) -> Iterable[WeekDone]:
    for back in range(WEEKS_SHOWN - 1, -1, -1):
        ends = now - back * WEEK
        begins = ends - WEEK
        some = [one for one in tuned if begins < one.at <= ends]
        strings = _strings(some)
        yield WeekDone(
            begins=begins,
            attempts=len(some),
            sittings=sum(begins < one.at <= ends for one in sat),
            size_cents=_ends(strings).size_cents if strings else None,
            seconds=statistics.median(one.seconds for one in some) if some else None,
            moves=statistics.fmean(one.moves for _, one in strings) if strings else None,
        )


# In words


def _says(
    heard: Sequence[HearingProgress],
    strings: Sequence[StringEnds],
    judged: Both[Judged],
    sure: Sequence[SureShare],
    weeks: int,
    who: str,
) -> Iterable[str]:
    found: list[str] = []
    both = [one for one in heard if one.threshold.now and one.threshold.before]
    if both:
        found.append(max(both, key=_gained).says)
    elif any(one.says for one in heard):
        found.append(next(one.says for one in reversed(heard) if one.says))
    found += _strings_said(strings, weeks)
    if judged.now is not None and judged.now.called_cents is not None:
        cents, of = judged.now.called_cents, judged.now.right.of
        if of >= ENOUGH and abs(cents) >= LEANS_CENTS:
            side = "low" if cents < 0.0 else "high"
            size = whole_cents(round(abs(cents)))
            found.append(f"{_does(who, 'say')} “in tune” {size} {side} on average.")
    certain = sure[-1].share.now
    if certain is not None and certain.of >= ENOUGH:
        times = round(10 * certain.right / certain.of)
        subject = f"{who} is" if who else "you are"
        found.append(f"When sure, {subject} right {times} times in 10.")
    return found[:MOST_SAID]


def _in_class_said(sat: Sequence[Sat], split: _Periods, who: str) -> Iterable[str]:
    """Return what rounds with a class told: the same for all, so that they measure nobody."""

    def share(some: list[Sat]) -> Share:
        return Share(sum(one.right for one in some), sum(one.trials for one in some))

    rounds = [one for one in sat if one.in_class]
    now = split.both(rounds, lambda one: one.at, share).now
    if now is not None:
        subject = f"{who} was" if who else "you were"
        yield f"In rounds with the class {subject} right {now.right} of {now.of} times."


def _gained(one: HearingProgress) -> float:
    assert one.threshold.now is not None
    assert one.threshold.before is not None
    return one.threshold.before.middle / one.threshold.now.middle


def _strings_said(strings: Sequence[StringEnds], weeks: int) -> Iterable[str]:
    known = [
        (one, one.ends.now)
        for one in strings
        if one.ends.now is not None and one.ends.now.strings >= ENOUGH
    ]
    if not known:
        return
    worst, ends = max(known, key=lambda item: item[1].size_cents)
    side = ""
    if abs(ends.bias_cents) >= max(LEANS_CENTS, 0.6 * ends.size_cents):
        side = ", mostly low" if ends.bias_cents < 0.0 else ", mostly high"
    before = worst.ends.before
    then = ""
    if before is not None and before.strings >= ENOUGH:
        change = before.size_cents / max(ends.size_cents, 0.1)
        if not 1.0 / CHANGED < change < CHANGED:
            then = f"; {PERIODS.get(weeks, 'before')} {before.size_cents:.0f}"
    label = capital(f"{worst.label} on the {worst.instrument.replace('-', ' ')}")
    yield f"{label} ends {whole_cents(round(ends.size_cents))} off{side}{then}."
