"""What printed pages have in common: their type, so that names of many languages can be read, and
their colours.
"""

import io
from collections.abc import Sequence
from functools import cache
from importlib import resources
from typing import Final

from reportlab.lib.colors import Color, HexColor
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.platypus import Flowable, KeepInFrame, SimpleDocTemplate, Table

INK: Final = HexColor("#16303d")
SOFT: Final = HexColor("#4b6470")
LINE: Final = HexColor("#b9cad2")
MARGIN: Final = 12 * mm
PLAIN, BOLD = "Meldrin", "Meldrin-Bold"


@cache
def with_type() -> None:
    """Make the type known: Figtree, with the Greek, Cyrillic and Vietnamese letters of Noto Sans
    merged into it, so that a name in any of them is printed.
    """
    fonts = resources.files(__package__).joinpath("fonts")
    for name, file in ((PLAIN, "regular.ttf"), (BOLD, "bold.ttf")):
        with resources.as_file(fonts.joinpath(file)) as path:
            pdfmetrics.registerFont(TTFont(name, path))
    pdfmetrics.registerFontFamily(PLAIN, normal=PLAIN, bold=BOLD, italic=PLAIN, boldItalic=BOLD)


def style(
    name: str, size: float, *, bold: bool = False, colour: Color = INK, after: float = 0.0
) -> ParagraphStyle:
    """Return the style of a paragraph, with the space after it."""
    with_type()
    return ParagraphStyle(
        name,
        fontName=BOLD if bold else PLAIN,
        fontSize=size,
        leading=1.3 * size,
        spaceAfter=after,
        textColor=colour,
    )


def slip_width(columns: int, padding: float) -> float:
    """Return the width of a slip's content, by the number of slips side by side."""
    return (A4[0] - 2 * MARGIN - 4) / columns - 2 * padding  # 4: what the frame keeps


def a4_document(out: io.BytesIO, title: str) -> SimpleDocTemplate:
    """Return an empty document of A4 pages that is written to `out`."""
    return SimpleDocTemplate(
        out,
        pagesize=A4,
        leftMargin=MARGIN,
        rightMargin=MARGIN,
        topMargin=MARGIN,
        bottomMargin=MARGIN,
        title=title,
        author="Meldrin",
        pageCompression=1,
    )


def slips_on_pages(
    slips: Sequence[Sequence[Flowable]], *, columns: int, rows: int, padding: float, title: str
) -> bytes:
    """Return slips to be cut apart, several on a page, as a PDF; each is made small enough to fit
    its place.
    """
    out = io.BytesIO()
    document = a4_document(out, title)
    room = slip_width(columns, padding)
    height = (A4[1] - 2 * MARGIN - 14) / rows
    cells: list[Flowable | str] = [
        KeepInFrame(room, height - 2 * padding, list(one), mode="shrink") for one in slips
    ]
    cells += [""] * (-len(cells) % columns or columns * (not cells))
    lines = [cells[n : n + columns] for n in range(0, len(cells), columns)]
    table = Table(lines, colWidths=[room + 2 * padding] * columns, rowHeights=[height] * len(lines))
    sides = ("LEFTPADDING", "RIGHTPADDING", "TOPPADDING", "BOTTOMPADDING")
    table.setStyle(
        [
            ("GRID", (0, 0), (-1, -1), 0.5, LINE),
            ("VALIGN", (0, 0), (-1, -1), "TOP"),
            *((side, (0, 0), (-1, -1), padding) for side in sides),
        ]
    )
    document.build([table])
    return out.getvalue()
