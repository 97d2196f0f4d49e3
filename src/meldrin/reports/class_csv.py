"""What a class made of an exercise, as a table for a spreadsheet."""

import csv
import io

from meldrin.core.tasks import ClassResult
from meldrin.reports.figures import cells

HEAD = (
    "pupil", "times", "middle_cents", "worst_cents", "worst", "sides_right", "sides_of",
    "by_ear", "by_ear_of", "aid", "points", "right", "trials", "change",
)  # fmt: skip


def class_csv(result: ClassResult) -> str:
    """Return a line for each pupil, with where each string ended (cents) after the rest."""
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\r\n")
    rows.writerow([*HEAD, *(f"{one.label}_cents" for one in result.strings)])
    ended = [{dot.pupil: dot.cents for dot in one.dots} for one in result.strings]
    for place, pupil in enumerate(result.pupils):
        row: dict[str, object] = {"pupil": pupil.name}
        row |= {name: getattr(pupil, name) for name in HEAD[1:]}
        strings = [string.get(place) for string in ended]
        rows.writerow([*map(_cell, cells(row).values()), *map(_cell, strings)])
    return out.getvalue()


def _cell(value: object) -> object:
    return "" if value is None else round(value, 2) if isinstance(value, float) else value
