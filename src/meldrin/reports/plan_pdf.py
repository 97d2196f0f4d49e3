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
    PageBreak,
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
# Read from a music stand: nothing is smaller than this.
PT: Final = 12.0


def plan_pdf(page: PlanPage) -> bytes:
    """Return the plan card for a plan: what to do first, then the result. It takes as many pages as
    it needs at a size that is read from a music stand.
    """
    out = io.BytesIO()
    name = f"{page.instrument_name}: {page.method}"
    document = BaseDocTemplate(out, pagesize=A4, title=name, author="Meldrin", pageCompression=1)
    width, height = A4[0] - 2 * MARGIN, A4[1] - 2 * MARGIN
    frame = Frame(MARGIN, MARGIN, width, height, 0, 0, 0, 0)
    document.addPageTemplates([PageTemplate(frames=[frame])])
    document.build(_story(page, width))
    return out.getvalue()


def _story(page: PlanPage, width: float) -> list[Flowable]:
    title = _style("title", 20.0, INK, bold=True)
    small = _style("small", PT, SOFT)
    plain = _style("plain", PT, INK)
    heading = _style("h", 14.0, WATER, bold=True)
    story: list[Flowable] = [
        Paragraph(escape(f"{page.instrument_name}, {page.tuning_name.lower()}"), title),
        Paragraph(
            escape(f"{page.method_name} · {page.temperament} · A4 = {page.a4_hz:g} Hz"),
            plain,
        ),
        Spacer(1, 4 * mm),
        _steps(page, width),
    ]
    if page.checks:
        story += [Spacer(1, 3 * mm), Paragraph("At the end", heading)]
        story += [
            Paragraph(escape(f"{check.title}. {check.instruction}"), plain) for check in page.checks
        ]
    story += [
        PageBreak(),  # what stands on the stand, and what is left at home
        Paragraph("The numbers", heading),
        _numbers(page, width),
        Spacer(1, 3 * mm),
        Paragraph("The result", heading),
        _outcome(page, width),
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
        Spacer(1, 2 * mm),
        Paragraph(escape(page.marked_words), small),
        Paragraph(escape(page.care), small),
        Paragraph(
            "A string can snap: eyes and face away from it, small turns near pitch. If a peg or the"
            " neck creaks or the bridge leans, stop; set-up belongs to a repairer.",
            small,
        ),
    ]
    return story


def _steps(page: PlanPage, width: float) -> Table:
    """What to do, in sentences."""
    number = _style("n", 18.0, WATER, bold=True)
    head = _style("sh", 13.0, INK, bold=True)
    plain = _style("sp", PT, INK)
    caution = _style("sc", PT, CAUTION)
    rows = []
    said: str | None = None
    for step in page.steps:
        title, instruction = escape(step.title), escape(step.instruction)
        words = [Paragraph(title, head), Paragraph(instruction, plain)]
        if step.caution and step.caution != said:
            words.append(Paragraph(escape(step.caution), caution))
            said = step.caution
        rows.append([Paragraph(str(step.index), number), words])
    table = Table(rows, colWidths=[10 * mm, width - 10 * mm])
    table.setStyle(_ruled(0.6))
    return table


def _numbers(page: PlanPage, width: float) -> Table:
    """What to measure at each step."""
    small = _style("ls", PT, SOFT)
    plain = _style("lp", PT, INK)
    heads = ("Step", "Interval", "Meets at", "Beats a second", "A cent away", "Listen")
    rows: list[list[Paragraph]] = [[Paragraph(head, small) for head in heads]]
    rows += [
        [
            Paragraph(escape(cell), plain)
            for cell in (
                str(step.index),
                step.interval,
                f"{step.meeting_hz:.1f} Hz",
                f"{step.beats_hz:.2f}",
                f"{step.beats_hz_per_cent:.2f}",
                f"{step.seconds_to_hear or 0.0:.1f} s",
            )
        ]
        for step in page.steps
    ]
    share = (0.08, 0.36, 0.16, 0.16, 0.13, 0.11)
    table = Table(rows, colWidths=[width * part for part in share], repeatRows=1)
    table.setStyle(_ruled(0.5))
    return table


def _outcome(page: PlanPage, width: float) -> Table:
    small = _style("ls", PT, SOFT)
    plain = _style("lp", PT, INK)
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
    share = (0.17, 0.1, 0.13, 0.12, 0.15, 0.14, 0.19)
    table = Table(rows, colWidths=[width * part for part in share], repeatRows=1)
    table.setStyle(_ruled(0.5))
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
