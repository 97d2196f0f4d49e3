"""The figures of a learner as files: JSON and a table, out and in."""

import csv
import io
import json
from collections.abc import Sequence
from dataclasses import fields
from typing import Any, Final

from pydantic import BaseModel, ConfigDict, ValidationError

from meldrin.core.errors import Code, MeldrinError
from meldrin.core.practice import Brought, Figure, Sat, Tuned

FORMAT: Final = "meldrin figures"
VERSION: Final = 1


class _File(BaseModel):
    model_config = ConfigDict(extra="forbid")
    format: str
    version: int
    sittings: list[Sat]
    attempts: list[Tuned]


def figures_text(sat: Sequence[Sat], tuned: Sequence[Tuned]) -> str:
    """Return the figures as JSON."""
    made = _File(format=FORMAT, version=VERSION, sittings=list(sat), attempts=list(tuned))
    return made.model_dump_json(indent=1) + "\n"


# The columns of a line: of a sitting with its figures and a threshold's three, or of a string.
SAT_COLUMNS: Final = (
    "drill", "known_by", "right", "trials", "low", "middle", "high", "level", "next_level", "brier",
    "guess", "guess_right", "fairly", "fairly_right", "sure", "sure_right", "below", "above",
    "in_class",
)  # fmt: skip
TUNED_COLUMNS: Final = ("method", "aid", "points", "closing_cents", "seconds", "tolerance_cents")
BROUGHT_COLUMNS: Final = tuple(column.name for column in fields(Brought))
COLUMNS: Final = ("kind", "at", "instrument", *SAT_COLUMNS, *TUNED_COLUMNS, *BROUGHT_COLUMNS)


def figures_csv(sat: Sequence[Sat], tuned: Sequence[Tuned]) -> str:
    """Return the figures as a table: a line for each sitting, and for each string of an attempt."""
    out = io.StringIO()
    writer = csv.DictWriter(out, COLUMNS, restval="", lineterminator="\r\n")
    writer.writeheader()
    for one in sat:
        writer.writerow(_sat_row(one))
    for attempt in tuned:
        for string in attempt.strings:
            shared = {name: getattr(attempt, name) for name in TUNED_COLUMNS}
            own = {name: getattr(string, name) for name in BROUGHT_COLUMNS}
            row = {"instrument": attempt.instrument, **shared, **own}
            writer.writerow({"kind": "string", "at": attempt.at.isoformat(), **cells(row)})
    return out.getvalue()


def _sat_row(one: Sat) -> dict[str, object]:
    same = (
        "instrument", "drill", "known_by", "right", "trials", "level", "next_level", "brier",
        "below", "above", "in_class",
    )  # fmt: skip
    row: dict[str, object] = {name: getattr(one, name) for name in same}
    if one.threshold is not None:
        row |= {name: getattr(one.threshold, name) for name in ("low", "middle", "high")}
    for said in one.sure:
        row |= {said.sure: said.answers, f"{said.sure}_right": said.right}
    return {"kind": "sitting", "at": one.at.isoformat(), **cells(row)}


def cells(row: dict[str, object]) -> dict[str, object]:
    """Return values as a table has them; a formula of a spreadsheet stays a word."""
    found = {}
    for name, value in row.items():
        if value is None:
            value = ""
        elif isinstance(value, bool):
            value = "yes" if value else "no"
        elif isinstance(value, str) and value[:1] in "=+-@":
            value = f"'{value}"
        found[name] = value
    return found


def read_figures(text: str) -> list[Figure]:
    """Return the figures of a file, JSON or table.

    Raises:
        MeldrinError: code ``figures``, with what is wrong and where.
    """
    try:
        if text.lstrip().startswith("{"):
            return _read_json(text)
        return _read_table(text)
    except ValidationError as error:
        first = error.errors()[0]
        where = " ".join(str(part) for part in first["loc"])
        said = f"These figures cannot be read: {where}: {first['msg']}."
        raise MeldrinError(Code.FIGURES, said) from error
    except (ValueError, TypeError, KeyError, csv.Error) as error:
        said = "These figures cannot be read; take them out again."
        raise MeldrinError(Code.FIGURES, said) from error


def _read_json(text: str) -> list[Figure]:
    record = json.loads(text)
    if not isinstance(record, dict) or record.get("format") != FORMAT:
        raise MeldrinError(Code.FIGURES, "This is not a file of figures.")
    if record.get("version") != VERSION:
        raise MeldrinError(Code.FIGURES, f"This program reads figures of version {VERSION}.")
    made = _File.model_validate_json(text)
    return [*made.sittings, *made.attempts]


def _read_table(text: str) -> list[Figure]:
    reader = csv.DictReader(io.StringIO(text))
    if tuple(reader.fieldnames or ()) != COLUMNS:
        raise MeldrinError(Code.FIGURES, "This is not a table of figures.")
    sat: list[dict[str, Any]] = []
    tuned: dict[tuple[str, str], dict[str, Any]] = {}
    for row in reader:
        given = {name: _meant(value) for name, value in row.items() if value}
        kind = given.pop("kind", "")
        if kind == "sitting":
            sat.append(_sat_of(given))
        elif kind == "string":
            key = (row["at"], row["instrument"])
            shared = {name: given.get(name) for name in ("at", "instrument", *TUNED_COLUMNS)}
            own = {name: given[name] for name in BROUGHT_COLUMNS if name in given}
            tuned.setdefault(key, {**_without_none(shared), "strings": []})["strings"].append(own)
        else:
            raise MeldrinError(Code.FIGURES, f"A line of this table is of no known kind: “{kind}”.")
    made = _File.model_validate(
        {"format": FORMAT, "version": VERSION, "sittings": sat, "attempts": list(tuned.values())}
    )
    return [*made.sittings, *made.attempts]


def _meant(value: str) -> str | bool:
    if value in ("yes", "no"):
        return value == "yes"
    return value[1:] if value[:2] in ("'=", "'+", "'-", "'@") else value


def _sat_of(given: dict[str, Any]) -> dict[str, Any]:
    threshold = {name: given.pop(name) for name in ("low", "middle", "high") if name in given}
    sure = [
        {"sure": name, "answers": given.pop(name), "right": given.pop(f"{name}_right", 0)}
        for name in ("guess", "fairly", "sure")
        if name in given
    ]
    return {**given, "threshold": threshold or None, "sure": sure}


def _without_none(row: dict[str, Any]) -> dict[str, Any]:
    return {name: value for name, value in row.items() if value is not None}
