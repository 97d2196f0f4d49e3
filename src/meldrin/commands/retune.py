"""`./meldrin retune`: from one tuning to another."""

import argparse
from dataclasses import asdict

from meldrin.commands.output import add_json, print_json, print_table


def add_options(parser: argparse.ArgumentParser) -> None:
    """Add what can be asked for."""
    add_json(parser)
    parser.add_argument("instrument")
    parser.add_argument("--from", dest="before", default="standard", help="a tuning, or its notes")
    parser.add_argument("--to", dest="after", required=True, help="a tuning, or its notes")
    parser.add_argument("--a4", type=float, default=440.0, help="390 to 470 Hz")


def run(options: argparse.Namespace) -> int:
    """Print the retuning."""
    from meldrin.core.catalogue import instrument
    from meldrin.reports.catalogue import retuning_page
    from meldrin.services.prepare import retuning_for

    made = instrument(options.instrument)
    change = retuning_for(made, before=options.before, after=options.after, a4_hz=options.a4)
    page = retuning_page(change)
    if options.json:
        return print_json(asdict(page))
    print(f"{made.name}, A4 = {options.a4:g} Hz\n")
    print_table(
        ("string", "from", "to", "steps", "before", "after", "of breaking", "aim", "drift"),
        [
            (
                one.label,
                one.from_note,
                one.to_note,
                f"{one.semitones:+d}",
                f"{one.tension_before_n:.0f} N",
                f"{one.tension_after_n:.0f} N",
                f"{one.breaking_share:.0%}",
                f"{one.aim_cents:+.1f}" if one.semitones else "",
                f"{one.drift_cents:+.1f}",
            )
            for one in page.strings
        ],
    )
    labels = {one.number: one.label for one in page.strings}
    order = ", ".join(labels[number] for number in page.order) or "nothing to turn"
    print(f"\nOrder: {order}; then all again. Total load {page.load_change_n:+.0f} N.")
    for caution in page.cautions:
        print(f"! {caution}")
    return 0
