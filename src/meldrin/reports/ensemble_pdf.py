"""Slips for a group before a concert: each has what its player's strings want, and the steps."""

import io
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final
from xml.sax.saxutils import escape

from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.platypus import Flowable, KeepInFrame, Paragraph, SimpleDocTemplate, Table

from meldrin.core.choose import Situation, rank
from meldrin.core.ensemble import Agreed, Player, PlayerStands
from meldrin.core.methods import Wanted, plan_by, serves
from meldrin.core.methods.plan import Step
from meldrin.core.words import beats_said, how_far
from meldrin.reports.paper import LINE, SOFT, style

MARGIN: Final = 12 * mm
COLUMNS, ROWS = 2, 2
PADDING: Final = 6 * mm
STILL_HZ: Final = 0.05


@dataclass(frozen=True, slots=True)
class PlanSlip:
    """A slip: who it is for, what they play, and how their strings stand."""

    player: Player
    stands: PlayerStands


def ensemble_pdf(slips: Sequence[PlanSlip], agreed: Agreed, *, heading: str) -> bytes:
    """Return the slips, four on a page.

    Args:
        heading: stands above each, such as the name of the concert.
    """
    out = io.BytesIO()
    document = SimpleDocTemplate(
        out,
        pagesize=A4,
        leftMargin=MARGIN,
        rightMargin=MARGIN,
        topMargin=MARGIN,
        bottomMargin=MARGIN,
        title=f"Slips, {heading}",
        author="Meldrin",
        pageCompression=1,
    )
    width = (A4[0] - 2 * MARGIN - 4) / COLUMNS  # less what the frame keeps
    height = (A4[1] - 2 * MARGIN - 14) / ROWS
    cells: list[Flowable | str] = [
        _slip(one, agreed, heading, width=width, height=height) for one in slips
    ]
    cells += [""] * (-len(cells) % COLUMNS)
    rows = [cells[n : n + COLUMNS] for n in range(0, len(cells), COLUMNS)] or [["", ""]]
    table = Table(rows, colWidths=[width] * COLUMNS, rowHeights=[height] * len(rows))
    table.setStyle([("GRID", (0, 0), (-1, -1), 0.5, LINE), ("VALIGN", (0, 0), (-1, -1), "TOP")])
    document.build([table])
    return out.getvalue()


def _slip(
    slip: PlanSlip, agreed: Agreed, heading: str, *, width: float, height: float
) -> KeepInFrame:
    small, plain = style("small", 9, colour=SOFT), style("plain", 11)
    name, head = style("name", 17, bold=True), style("head", 11, bold=True)
    made = slip.player.instrument
    story: list[Flowable] = [
        Paragraph(escape(heading), small),
        Paragraph(escape(slip.player.name), name),
        Paragraph(escape(f"{made.name} · A = {agreed.a4_hz:g} Hz"), plain),
        Paragraph("On a tuner at this A", head),
    ]
    for one in slip.stands.strings:
        now = "" if one.off_cents is None else f"; now {how_far(one.off_cents)}"
        story.append(Paragraph(escape(f"{one.label}: {one.wanted_cents:+.1f}{now}"), plain))
    story.append(Paragraph("By ear", head))
    for number, step in enumerate(_steps(slip.player, agreed), start=1):
        story.append(Paragraph(escape(f"{number}. {step.title}: {_wants(step)}"), plain))
    story.append(
        Paragraph("A string can snap: face away from it, and turn a little at a time.", small)
    )
    return KeepInFrame(width - 2 * PADDING, height - 2 * PADDING, story, mode="shrink")


def _steps(player: Player, agreed: Agreed) -> tuple[Step, ...]:
    """Return the steps of a player's plan, by fifths where the instrument is tuned so."""
    made = player.instrument
    wanted = Wanted(made, player.tuning, agreed.a4_hz)
    if made.kind == "bowed" and serves("fifths", wanted):
        wanted = Wanted(made, player.tuning, agreed.a4_hz, temperament=agreed.temperament(made))
        return plan_by("fifths", wanted).steps
    return plan_by(rank(Situation(), wanted)[0].method, wanted).steps


def _wants(step: Step) -> str:
    if step.by_tuner:
        return "read the tuner"
    return "still" if step.beats_hz < STILL_HZ else beats_said(float(f"{step.beats_hz:.2g}"))
