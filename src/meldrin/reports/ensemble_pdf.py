"""Slips for a group before a concert: each has what its player's strings want, and the steps."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final
from xml.sax.saxutils import escape

from reportlab.lib.units import mm
from reportlab.platypus import Flowable, Paragraph

from meldrin.core.choose import Situation, rank
from meldrin.core.ensemble import Agreed, Player, PlayerStands
from meldrin.core.methods import Wanted, plan_by, serves
from meldrin.core.methods.plan import Step
from meldrin.core.words import beats_said, how_far, signed_cents
from meldrin.reports.paper import SOFT, slips_on_pages, style

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
    return slips_on_pages(
        [_slip(one, agreed, heading) for one in slips],
        columns=COLUMNS,
        rows=ROWS,
        padding=PADDING,
        title=f"Slips, {heading}",
    )


def _slip(slip: PlanSlip, agreed: Agreed, heading: str) -> list[Flowable]:
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
        story.append(
            Paragraph(escape(f"{one.label}: {signed_cents(one.wanted_cents)}{now}"), plain)
        )
    story.append(Paragraph("By ear", head))
    for number, step in enumerate(_steps(slip.player, agreed), start=1):
        story.append(Paragraph(escape(f"{number}. {step.title}: {_wants(step)}"), plain))
    story.append(
        Paragraph("A string can snap: face away from it, and turn a little at a time.", small)
    )
    return story


def _steps(player: Player, agreed: Agreed) -> tuple[Step, ...]:
    """Return the steps of a player's plan, by fifths where the instrument is tuned so."""
    made = player.instrument
    temperament = agreed.temperament(made) if made.kind == "bowed" else None
    wanted = Wanted(made, player.tuning, agreed.a4_hz, temperament=temperament)
    by_fifths = made.kind == "bowed" and serves("fifths", wanted)
    return plan_by("fifths" if by_fifths else rank(Situation(), wanted)[0].method, wanted).steps


def _wants(step: Step) -> str:
    """Return what a step is to sound like; a beat alone would not tell on which side of still."""
    if step.by_tuner:
        return "read the tuner"
    if step.beats_hz < STILL_HZ:
        return "still"
    return f"{step.interval}, {beats_said(float(f'{step.beats_hz:.2g}'))}"
