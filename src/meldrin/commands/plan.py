"""`./meldrin plan`: what to do, string by string, by one method."""

import argparse
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING

from meldrin.commands.asked import add_fields, asked_for
from meldrin.commands.output import add_json, print_json, print_table, write_bytes
from meldrin.services.prepare import Asked, plan_for

if TYPE_CHECKING:
    from meldrin.reports.plan import ExtraCheck, PlanPage


def add_options(parser: argparse.ArgumentParser) -> None:
    """Add what can be asked for."""
    add_json(parser)
    add_fields(parser, Asked)
    parser.add_argument("--pdf", type=Path, help="write the plan card to this file too")


def run(options: argparse.Namespace) -> int:
    """Print the plan."""
    from meldrin.core.catalogue import instrument
    from meldrin.reports.plan import plan_page

    planned = plan_for(asked_for(options, Asked), instrument(options.instrument))
    page = plan_page(planned.plan, planned.expected)
    if options.pdf is not None:
        from meldrin.reports.plan_pdf import plan_pdf

        write_bytes(options.pdf, plan_pdf(page))
    if options.json:
        return print_json(asdict(page))
    _print_plan(page)
    return 0


def _print_plan(page: "PlanPage") -> None:
    print(
        f"{page.instrument_name}, {page.tuning_name.lower()}, by {page.method},"
        f" {page.temperament}, A4 = {page.a4_hz:g} Hz\n"
    )
    for step in page.steps:
        print(f"{step.index:2}. {step.title} ({step.interval})")
        print(f"    {step.instruction}")
        print(
            f"    meets at {step.meeting_hz:.1f} Hz, {step.beats_hz:.2f} beats/s at the"
            f" target, {step.beats_hz_per_cent:.2f} a cent away; listen"
            f" {step.seconds_to_hear or 0.0:.1f} s"
        )
        if step.caution:
            print(f"    ! {step.caution}")
    for check in page.checks:
        print(f"    {check.title}: {check.instruction}")
    print("\nThe result, in cents against equal temperament:")
    errors = {one.number: one.sd_cents for one in page.expected.strings}
    print_table(
        ("string", "note", "ideal Hz", "cents", "on these strings", "+-", "tension", "of breaking"),
        [
            (
                one.written,
                one.note,
                f"{one.frequency_hz:.2f}",
                f"{one.equal_cents:+.2f}",
                f"{one.stiff_cents:+.2f}",
                f"{errors[one.number]:.1f}",
                f"{one.tension_n:.0f} N",
                f"{one.breaking_share:.0%}",
            )
            for one in page.strings
        ],
    )
    for one in page.intervals:
        if one.sour:
            names = {string.number: string.note for string in page.strings}
            print(
                f"Sour: {names[one.lower]}-{names[one.upper]}, {one.name},"
                f" {one.against_equal_cents:+.1f} cents against equal and"
                f" {one.against_pure_cents:+.1f} against pure"
            )
    _print_expected(page)
    print(page.marked_words)


def _print_expected(page: "PlanPage") -> None:
    expect = page.expected
    others = [f"chain {expect.chain_sd_cents:.1f}", f"star {expect.star_sd_cents:.1f}"]
    if expect.harmonics_sd_cents is not None:
        others.append(f"harmonics {expect.harmonics_sd_cents:.1f}")
    print(
        f"\nExpected of a {expect.ear} ear: worst string +-{expect.order_sd_cents:.1f} cents"
        f" in this order ({', '.join(others)}), end to end +-{expect.end_to_end_sd_cents:.1f}"
        f" and {expect.end_to_end_bias_cents:+.1f} from the finger"
    )
    extra = expect.extra_check
    if extra is not None:
        print(f"The most useful check: {_extra(page, extra)}.")


def _extra(page: "PlanPage", extra: "ExtraCheck") -> str:
    names = {string.number: string.label for string in page.strings}
    after = f"worst string then +-{extra.sd_cents:.1f}"
    if extra.lower is None:
        return f"{names[extra.upper]} against a note or a reading of its own; {after}"
    how = (
        f"partials {extra.partials[0]}:{extra.partials[1]}"
        if extra.fret is None
        else f"{names[extra.lower]} at fret {extra.fret}"
    )
    pair = f"{names[extra.lower]} with {names[extra.upper]}"
    return f"{pair} ({extra.interval}, {how}); {after}"
