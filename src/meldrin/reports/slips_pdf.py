"""Slips to be cut apart: each says who it is for, and brings them back to their work."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final
from xml.sax.saxutils import escape

from reportlab.graphics.barcode.qr import QrCodeWidget
from reportlab.graphics.shapes import Drawing
from reportlab.lib.units import mm
from reportlab.platypus import Flowable, Paragraph, Table

from meldrin.reports.paper import SOFT, slip_width, slips_on_pages, style

COLUMNS, ROWS = 2, 4
PADDING: Final = 5 * mm
QR: Final = 24 * mm


@dataclass(frozen=True, slots=True)
class PrintedSlip:
    """A slip. called: who it is for. name: what they sign in as. pictures: their words, in order.
    code: opens their work too. link: an address that does the same, for a camera.
    """

    called: str
    name: str
    pictures: tuple[str, ...]
    code: str
    link: str


def slips_pdf(slips: Sequence[PrintedSlip], *, heading: str, address: str) -> bytes:
    """Return the slips, eight on a page.

    Args:
        heading: stands above each: the name of the studio, or of the program.
        address: where to open the program.
    """
    return slips_on_pages(
        [_slip(one, heading, address) for one in slips],
        columns=COLUMNS,
        rows=ROWS,
        padding=PADDING,
        title=f"Slips, {heading}",
    )


def _slip(one: PrintedSlip, heading: str, address: str) -> list[Flowable]:
    quiet, plain = style("quiet", 9, colour=SOFT), style("plain", 10.5)
    pictures = ", ".join(f"{n} {words}" for n, words in enumerate(one.pictures, start=1))
    told: list[Flowable] = [
        Paragraph(escape(heading), quiet),
        Paragraph(escape(one.called), style("called", 16, bold=True)),
        Paragraph(f"Name here: <b>{escape(one.name)}</b>", plain),
        Paragraph(f"Pictures: <b>{escape(pictures)}</b>", plain),
    ]
    code: list[Flowable] = [
        Paragraph("Or this code:", quiet),
        Paragraph(escape(one.code), style("code", 12, bold=True)),
        Paragraph(escape(address), quiet),
        Paragraph("Keep this slip to yourself: it opens your work.", quiet),
    ]
    below = Table([[code, _square(one.link)]], colWidths=[slip_width(COLUMNS, PADDING) - QR, QR])
    below.setStyle(
        [
            ("VALIGN", (0, 0), (-1, -1), "TOP"),
            ("LEFTPADDING", (0, 0), (-1, -1), 0),
            ("RIGHTPADDING", (0, 0), (-1, -1), 0),
            ("TOPPADDING", (0, 0), (-1, -1), 3),
        ]
    )
    return [*told, below]


def _square(link: str) -> Drawing:
    """A square that a camera reads the link from."""
    code = QrCodeWidget(link, barWidth=QR, barHeight=QR, barBorder=1)
    drawing = Drawing(QR, QR)
    drawing.add(code)
    return drawing
