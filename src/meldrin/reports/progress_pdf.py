"""How a learner gets on, on one page for a lesson: sentences, then what is heard, then strings."""

import io
from collections.abc import Sequence
from datetime import datetime
from typing import Final
from xml.sax.saxutils import escape

from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.platypus import Flowable, KeepInFrame, Paragraph, Spacer, Table

from meldrin.reports.paper import LINE, SOFT, a4_document, style
from meldrin.reports.progress import HeardRow, ProgressPage, StringRow

MARGIN: Final = 18 * mm
MOST_ROWS: Final = 14  # of a table, so that all of it stays on a page
UNITS: Final = {"cents": "cents", "beats a second": "beats a second", "percent": "%"}


TITLE: Final = style("title", 18, bold=True)
SAYS: Final = style("says", 12)
PLAIN: Final = style("plain", 9.5)
HEAD: Final = style("head", 9.5, bold=True, colour=SOFT)
H2: Final = style("h2", 12, bold=True)


def progress_pdf(page: ProgressPage, *, at: datetime, name: str = "") -> bytes:
    """Return the page. `name`: whose progress it is, where somebody else reads it."""
    out = io.BytesIO()
    document = a4_document(out, "Progress")
    frame = KeepInFrame(document.width, document.height, _story(page, at, name), mode="shrink")
    document.build([frame])
    return out.getvalue()


def _story(page: ProgressPage, at: datetime, name: str) -> list[Flowable]:
    weeks = "the last week" if page.weeks == 1 else f"the last {page.weeks} weeks"
    story: list[Flowable] = [
        Paragraph(escape(f"{name}: progress" if name else "Progress") + f", {weeks}", TITLE),
        Paragraph(escape(f"{at:%d %B %Y}".lstrip("0")), PLAIN),
        Spacer(1, 5 * mm),
    ]
    said = page.says or ["There is not enough yet to say anything."]
    story += [Paragraph(escape(one), SAYS) for one in said]
    for name, head, rows in _tables(page):
        if rows:
            story += [Spacer(1, 6 * mm), Paragraph(name, H2), _table(head, rows)]
    return story


def _tables(page: ProgressPage) -> list[tuple[str, Sequence[str], list[Sequence[str]]]]:
    """Return each table: its name, its heads, and its lines."""
    return [
        (
            "Listening",
            ("What is heard", "Now", "Before", "Tuning needs"),
            [
                (_name(one), *(_size(one, size) for size in (one.now, one.before, one.goal)))
                for one in page.heard
                if one.now is not None or one.before is not None
            ],
        ),
        (
            "Tuning",
            ("String", "Times", "Ends off by", "On average", "Before"),
            [_string(one) for one in page.strings if one.times or one.times_before],
        ),
        (
            "Judging",
            ("What was said", "Right", "Before"),
            [
                (one.said, _share(one.right, one.of), _share(one.right_before, one.of_before))
                for one in page.judged
            ],
        ),
    ]


def _share(right: int | None, of: int | None) -> str:
    return f"{right} of {of}" if of else "–"


def _name(one: HeardRow) -> str:
    return f"{one.drill}, {one.where}"


def _size(one: HeardRow, size: float | None) -> str:
    return "–" if size is None else f"{size:.2g} {UNITS[one.unit]}"


def _string(one: StringRow) -> tuple[str, ...]:
    side = ""
    if one.bias_cents is not None:
        side = f"{abs(one.bias_cents):.1f} cents {'low' if one.bias_cents < 0.0 else 'high'}"
    return (
        f"{one.label}, {one.instrument.replace('-', ' ')}",
        str(one.times or 0),
        "–" if one.size_cents is None else f"{one.size_cents:.1f} cents",
        side or "–",
        "–" if one.size_cents_before is None else f"{one.size_cents_before:.1f} cents",
    )


def _table(head: Sequence[str], rows: Sequence[Sequence[str]]) -> Table:
    shown = [[Paragraph(escape(cell), HEAD) for cell in head]]
    shown += [[Paragraph(escape(cell), PLAIN) for cell in row] for row in rows[:MOST_ROWS]]
    first = 62 * mm
    rest = (A4[0] - 2 * MARGIN - first) / (len(head) - 1)
    made = Table(shown, colWidths=[first, *([rest] * (len(head) - 1))], hAlign="LEFT")
    made.setStyle(
        [
            ("LINEBELOW", (0, 0), (-1, -1), 0.4, LINE),
            ("LEFTPADDING", (0, 0), (-1, -1), 0),
            ("TOPPADDING", (0, 0), (-1, -1), 2),
            ("BOTTOMPADDING", (0, 0), (-1, -1), 2),
        ]
    )
    return made
