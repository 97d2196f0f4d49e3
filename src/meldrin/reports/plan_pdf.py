"""The plan card as a PDF: the steps on one page, sentences beside numbers, and the result."""

import io
from typing import Final
from xml.sax.saxutils import escape

from reportlab.lib.colors import Color, HexColor
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import (
    BaseDocTemplate,
    Flowable,
    Frame,
    PageTemplate,
    Paragraph,
    Spacer,
    Table,
    TableStyle,
)

from meldrin.reports.paper import INK, LINE, SOFT, style
from meldrin.reports.plan import PlanPage

WATER: Final = HexColor("#1f7a99")
CAUTION: Final = HexColor("#8a5a00")
MARGIN: Final = 16 * mm
SMALLEST_SHARE: Final = 0.55  # of the full size; below it nobody reads a card from a music stand


def plan_pdf(page: PlanPage) -> bytes:
    """Return the plan card for a plan, one page where it can be read at that size.

    Cards of many strings go on to a second page rather than become too small to read.
    """
    out = io.BytesIO()
    name = f"{page.instrument_name}: {page.method}"
    document = BaseDocTemplate(out, pagesize=A4, title=name, author="Meldrin", pageCompression=1)
    width, height = A4[0] - 2 * MARGIN, A4[1] - 2 * MARGIN
    frame = Frame(MARGIN, MARGIN, width, height, 0, 0, 0, 0)
    document.addPageTemplates([PageTemplate(frames=[frame])])
    size = _fitting_size(page, width, height)
    document.build(_story(page, size, width))
    return out.getvalue()


def _fitting_size(page: PlanPage, width: float, height: float) -> float:
    """Return the largest scale at which everything stands on one page, down to the smallest."""
    size = 1.0
    while size > SMALLEST_SHARE:
        used = sum(_height(part, width) for part in _story(page, size, width))
        if used <= height:
            break
        size -= 0.05
    return size


def _height(part: Flowable, width: float) -> float:
    _, height = part.wrap(width, 10_000.0)
    return float(height + part.getSpaceBefore() + part.getSpaceAfter())


def _story(page: PlanPage, size: float, width: float) -> list[Flowable]:
    title = _style("title", 17 * size, INK, bold=True)
    small = _style("small", 8.5 * size, SOFT)
    plain = _style("plain", 9.5 * size, INK)
    heading = _style("h", 11 * size, WATER, bold=True)
    story: list[Flowable] = [
        Paragraph(escape(f"{page.instrument_name}, {page.tuning_name.lower()}"), title),
        Paragraph(
            escape(f"{page.method_name} · {page.temperament} · A4 = {page.a4_hz:g} Hz"),
            plain,
        ),
        Spacer(1, 4 * mm * size),
        _steps(page, size, width),
    ]
    if page.checks:
        story += [Spacer(1, 3 * mm * size), Paragraph("At the end", heading)]
        story += [
            Paragraph(escape(f"{check.title}. {check.instruction}"), plain) for check in page.checks
        ]
    story += [
        Spacer(1, 3 * mm * size),
        Paragraph("The result", heading),
        _outcome(page, size, width),
    ]
    sour = [one for one in page.intervals if one.sour]
    if sour:
        names = {one.number: one.note for one in page.strings}
        words = "; ".join(
            f"{names[one.lower]}–{names[one.upper]} ({one.name},"
            f" {one.against_equal_cents:+.1f} against equal, {one.against_pure_cents:+.1f}"
            " against pure)"
            for one in sour
        )
        story.append(Paragraph(escape(f"Sour: {words}."), plain))
    story += [
        Spacer(1, 2 * mm * size),
        Paragraph(escape(page.marked_words), small),
        Paragraph(escape(page.care), small),
        Paragraph(
            "A string can snap: eyes and face away from it, small turns near pitch. If a peg or the"
            " neck creaks or the bridge leans, stop; set-up belongs to a repairer.",
            small,
        ),
    ]
    return story


def _steps(page: PlanPage, size: float, width: float) -> Table:
    number = _style("n", 15 * size, WATER, bold=True)
    head = _style("sh", 10.5 * size, INK, bold=True)
    plain = _style("sp", 9.5 * size, INK)
    small = _style("ss", 8.5 * size, SOFT)
    caution = _style("sc", 8.5 * size, CAUTION)
    rows = []
    said: str | None = None
    for step in page.steps:
        title, instruction = escape(step.title), escape(step.instruction)
        words = [Paragraph(title, head), Paragraph(instruction, plain)]
        if step.caution and step.caution != said:
            words.append(Paragraph(escape(step.caution), caution))
            said = step.caution
        numbers = [
            Paragraph(escape(step.interval), small),
            Paragraph(f"meets at {step.meeting_hz:.1f} Hz", small),
            Paragraph(
                f"{step.beats_hz:.2f} beats/s; {step.beats_hz_per_cent:.2f} a cent away",
                small,
            ),
            Paragraph(f"listen {step.seconds_to_hear or 0.0:.1f} s", small),
        ]
        rows.append([Paragraph(str(step.index), number), words, numbers])
    table = Table(rows, colWidths=[10 * mm, width - 58 * mm, 48 * mm])
    table.setStyle(_ruled(size))
    return table


def _outcome(page: PlanPage, size: float, width: float) -> Table:
    small = _style("ls", 8.5 * size, SOFT)
    plain = _style("lp", 9 * size, INK)
    errors = {one.number: one.sd_cents for one in page.expected.strings}
    heads = ("String", "Note", "Hz", "Cents", "On these strings", "Expected ±", "Tension")
    rows: list[list[Paragraph]] = [[Paragraph(head, small) for head in heads]]
    rows += [
        [
            Paragraph(escape(cell), plain)
            for cell in (
                f"{one.written} ({one.label})",
                one.note,
                f"{one.frequency_hz:.2f}",
                f"{one.equal_cents:+.2f}",
                f"{one.stiff_cents:+.2f}",
                f"{errors[one.number]:.1f}",
                f"{one.tension_n:.0f} N, {one.breaking_share:.0%} of breaking",
            )
        ]
        for one in page.strings
    ]
    share = (0.17, 0.09, 0.12, 0.11, 0.17, 0.12, 0.22)
    table = Table(rows, colWidths=[width * part for part in share], repeatRows=1)
    table.setStyle(_ruled(size * 0.5))
    return table


def _ruled(size: float) -> TableStyle:
    return TableStyle(
        [
            ("VALIGN", (0, 0), (-1, -1), "TOP"),
            ("LINEBELOW", (0, 0), (-1, -1), 0.5, LINE),
            ("TOPPADDING", (0, 0), (-1, -1), 4 * size),
            ("BOTTOMPADDING", (0, 0), (-1, -1), 5 * size),
            ("LEFTPADDING", (0, 0), (0, -1), 0),
        ]
    )


def _style(name: str, size: float, colour: Color, *, bold: bool = False) -> ParagraphStyle:
    return style(name, size, bold=bold, colour=colour, after=0.15 * size)
