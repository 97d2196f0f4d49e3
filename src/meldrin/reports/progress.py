"""How a learner gets on, as flat tables that the API, files and the page for a lesson share."""

import csv
import io
from collections.abc import Sequence
from dataclasses import dataclass, fields
from datetime import datetime
from typing import Final

from meldrin.core.methods import METHODS
from meldrin.core.practice import Progress
from meldrin.core.practice.progress import Ends, HearingProgress, Known, MethodEnds, StringEnds
from meldrin.reports.shape import number


@dataclass(frozen=True, slots=True)
class HeardRow:
    """What is heard at a drill; of each period the threshold, or None where nothing tells."""

    drill: str
    where: str
    unit: str
    goal: float
    now: float | None
    now_low: float | None
    now_high: float | None
    before: float | None
    says: str


@dataclass(frozen=True, slots=True)
class KnownRow:
    """How many answers were right at a drill without a threshold."""

    drill: str
    instrument: str
    right: int | None
    of: int | None
    right_before: int | None
    of_before: int | None
    level: int


@dataclass(frozen=True, slots=True)
class StringRow:
    """How a string ended: how far off in the middle, and how far above its target on average."""

    instrument: str
    string: int
    label: str
    times: int | None
    size_cents: float | None
    bias_cents: float | None
    overshoots: float | None
    times_before: int | None
    size_cents_before: float | None
    bias_cents_before: float | None


@dataclass(frozen=True, slots=True)
class MethodRow:
    """How strings ended by a method, how far the last check lay off, and how long it took."""

    method: str
    name: str
    attempts: int | None
    size_cents: float | None
    closing_cents: float | None
    seconds: float | None
    attempts_before: int | None
    size_cents_before: float | None


@dataclass(frozen=True, slots=True)
class WeekRow:
    """What was done in a week."""

    begins: datetime
    attempts: int
    sittings: int
    size_cents: float | None
    seconds: float | None
    moves: float | None


@dataclass(frozen=True, slots=True)
class JudgedRow:
    """What was said, against the truth: of strings at the bench, or of answers by how sure they
    were. `cents`: how far off strings were on average that were called in tune.
    """

    said: str
    right: int | None
    of: int | None
    cents: float | None
    right_before: int | None
    of_before: int | None


@dataclass(frozen=True, slots=True)
class ProgressPage:
    """How a learner gets on, in the last weeks against as many before. `says`: the most telling of
    it in sentences.
    """

    weeks: int
    says: list[str]
    heard: list[HeardRow]
    known: list[KnownRow]
    strings: list[StringRow]
    methods: list[MethodRow]
    done: list[WeekRow]
    judged: list[JudgedRow]


TABLES: Final[dict[str, type]] = {
    "heard": HeardRow,
    "known": KnownRow,
    "strings": StringRow,
    "methods": MethodRow,
    "done": WeekRow,
    "judged": JudgedRow,
}
SURE: Final = {"guess": "A guess", "fairly": "Fairly sure", "sure": "Sure"}


def progress_page(found: Progress) -> ProgressPage:
    """Return progress as flat tables."""
    return ProgressPage(
        weeks=found.weeks,
        says=list(found.says),
        heard=[_heard(one) for one in found.heard],
        known=[_known(one) for one in found.known],
        strings=[_string(one) for one in found.strings],
        methods=[_method(one) for one in found.methods],
        done=[
            WeekRow(
                one.begins,
                one.attempts,
                one.sittings,
                _rounded(one.size_cents),
                _rounded(one.seconds),
                _rounded(one.moves),
            )
            for one in found.done
        ],
        judged=_judged(found),
    )


def _rounded(value: float | None) -> float | None:
    return None if value is None else number(value)


def _heard(one: HearingProgress) -> HeardRow:
    now, before = one.threshold.now, one.threshold.before
    return HeardRow(
        drill=one.name,
        where=one.where,
        unit=one.unit,
        goal=one.goal,
        now=_rounded(now.middle) if now else None,
        now_low=_rounded(now.low) if now else None,
        now_high=_rounded(now.high) if now else None,
        before=_rounded(before.middle) if before else None,
        says=one.says,
    )


def _known(one: Known) -> KnownRow:
    now, before = one.share.now, one.share.before
    return KnownRow(
        drill=one.name,
        instrument=one.instrument,
        right=now.right if now else None,
        of=now.of if now else None,
        right_before=before.right if before else None,
        of_before=before.of if before else None,
        level=one.level,
    )


def _string(one: StringEnds) -> StringRow:
    now, before = one.ends.now, one.ends.before
    return StringRow(
        instrument=one.instrument,
        string=one.string,
        label=one.label,
        times=now.strings if now else None,
        size_cents=_size(now),
        bias_cents=_rounded(now.bias_cents) if now else None,
        overshoots=_rounded(now.overshoots) if now else None,
        times_before=before.strings if before else None,
        size_cents_before=_size(before),
        bias_cents_before=_rounded(before.bias_cents) if before else None,
    )


def _size(ends: Ends | None) -> float | None:
    return _rounded(ends.size_cents) if ends else None


def _method(one: MethodEnds) -> MethodRow:
    return MethodRow(
        method=one.method,
        name=METHODS[one.method].name if one.method in METHODS else one.method,
        attempts=one.attempts.now,
        size_cents=_size(one.ends.now),
        closing_cents=_rounded(one.closing_cents.now),
        seconds=_rounded(one.seconds.now),
        attempts_before=one.attempts.before,
        size_cents_before=_size(one.ends.before),
    )


def _judged(found: Progress) -> list[JudgedRow]:
    now, before = found.judged.now, found.judged.before
    rows = []
    if now or before:
        rows.append(
            JudgedRow(
                said="Strings at the bench",
                right=now.right.right if now else None,
                of=now.right.of if now else None,
                cents=_rounded(now.called_cents) if now else None,
                right_before=before.right.right if before else None,
                of_before=before.right.of if before else None,
            )
        )
    for one in found.sure:
        late, early = one.share.now, one.share.before
        if late or early:
            rows.append(
                JudgedRow(
                    said=SURE[one.sure],
                    right=late.right if late else None,
                    of=late.of if late else None,
                    cents=None,
                    right_before=early.right if early else None,
                    of_before=early.of if early else None,
                )
            )
    return rows


SITTING: Final = ("drill", "where", "unit", "goal", "at", "low", "middle", "high")


def progress_csv(found: Progress, table: str) -> str:
    """Return one of the tables; that of what is heard has a line for each sitting."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    if table == "heard":
        writer.writerow(SITTING)
        for one in found.heard:
            for moment in one.moments:
                told = moment.threshold
                sizes = (number(size) for size in (told.low, told.middle, told.high))
                at = moment.at.isoformat()
                writer.writerow([one.name, one.where, one.unit, one.goal, at, *sizes])
        return out.getvalue()
    columns = [column.name for column in fields(TABLES[table])]
    rows: Sequence[object] = getattr(progress_page(found), table)
    writer.writerow(columns)
    for row in rows:
        writer.writerow([_cell(getattr(row, name)) for name in columns])
    return out.getvalue()


def _cell(value: object) -> object:
    return f"'{value}" if isinstance(value, str) and value[:1] in "=+-@" else value
