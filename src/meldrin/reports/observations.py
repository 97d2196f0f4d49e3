"""Comparisons somebody measured, from a CSV file."""

import csv
import io
import re
from typing import Final

from meldrin.core.adjust import Observation
from meldrin.core.beats import meeting
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.pitch import parse_note

COLUMNS: Final = ("lower", "upper", "partials", "beats_per_s", "cents", "sd")
MOST_ROWS: Final = 500
PARTIALS: Final = re.compile(r"\s*(\d{1,2})\s*[:/]\s*(\d{1,2})\s*")


def read_observations(text: str, *, name: str) -> list[Observation]:
    """Read comparisons: columns lower, upper, partials, beats_per_s or cents, sd.

    Either beats_per_s or cents is filled in a row. A sign before the beats says on which side of
    still they are (+ wide, - narrow); without one the side is unknown. Partials may be left out
    where a pair of low ones meets.

    Raises:
        MeldrinError: code ``observations``; the message gives file, line and reason.
    """
    reader = csv.DictReader(io.StringIO(text.lstrip("\ufeff")), skipinitialspace=True)
    heads = [head.strip() for head in reader.fieldnames or ()]
    missing = [column for column in ("lower", "upper", "sd") if column not in heads]
    if missing or not {"beats_per_s", "cents"} & set(heads):
        need = "lower, upper, partials, beats_per_s or cents, sd"
        raise MeldrinError(Code.OBSERVATIONS, f"{name}, line 1: the columns must be {need}.")
    reader.fieldnames = heads
    rows: list[Observation] = []
    for row in reader:
        if not any((value or "").strip() for value in row.values() if isinstance(value, str)):
            continue
        if len(rows) == MOST_ROWS:
            raise MeldrinError(Code.OBSERVATIONS, f"{name}: more than {MOST_ROWS} rows.")
        try:
            rows.append(_observation({key: (row.get(key) or "").strip() for key in COLUMNS}))
        except MeldrinError as error:
            message = f"{name}, line {reader.line_num}: {error.message}"
            raise MeldrinError(Code.OBSERVATIONS, message) from error
    return rows


def _observation(row: dict[str, str]) -> Observation:
    lower, upper = parse_note(row["lower"]), parse_note(row["upper"])
    if lower > upper:
        raise MeldrinError(Code.OBSERVATIONS, f"{row['lower']} is not the lower of the two.")
    partials = _partials(row["partials"], lower, upper)
    sd = _number(row["sd"], "sd")
    if row["cents"] and row["beats_per_s"]:
        raise MeldrinError(Code.OBSERVATIONS, "Fill in cents or beats_per_s, not both.")
    if row["cents"]:
        return Observation(
            lower, upper, sd, partials or (1, 1), cents=_number(row["cents"], "cents")
        )
    if not row["beats_per_s"]:
        raise MeldrinError(Code.OBSERVATIONS, "Neither cents nor beats_per_s is filled in.")
    if partials is None:
        raise MeldrinError(
            Code.OBSERVATIONS, "Say which partials beat, such as 3:2; no low ones meet there."
        )
    beats = _number(row["beats_per_s"], "beats_per_s")
    side = {"+": 1, "-": -1}.get(row["beats_per_s"][0], 0)
    return Observation(lower, upper, sd, partials, beats_hz=abs(beats), side=side)


def _partials(text: str, lower: int, upper: int) -> tuple[int, int] | None:
    if not text:
        return meeting(upper - lower)
    found = PARTIALS.fullmatch(text)
    if found is None:
        raise MeldrinError(Code.OBSERVATIONS, f"“{text}” are no partials; write them as 3:2.")
    return int(found.group(1)), int(found.group(2))


def _number(text: str, column: str) -> float:
    try:
        return float(text)
    except ValueError:
        raise MeldrinError(
            Code.OBSERVATIONS, f"“{text}” in column {column} is not a number."
        ) from None
