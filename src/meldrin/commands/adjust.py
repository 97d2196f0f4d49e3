"""`./meldrin adjust`: offsets and the likely culprit from measured intervals."""

import argparse
from pathlib import Path

from meldrin.commands.output import add_json, print_json, print_table, read_text


def add_options(parser: argparse.ArgumentParser) -> None:
    """Add what can be asked for."""
    add_json(parser)
    parser.add_argument(
        "observations", type=Path, help="CSV: lower, upper, partials, beats_per_s or cents, sd"
    )
    parser.add_argument("--held", help="the string taken as right, such as A2")
    parser.add_argument("--a4", type=float, default=440.0, help="390 to 470 Hz")


def run(options: argparse.Namespace) -> int:
    """Print the adjustment."""
    from meldrin.core.adjust import adjust
    from meldrin.core.pitch import parse_note
    from meldrin.reports.adjust_record import adjustment_record, adjustment_sentences
    from meldrin.reports.observations import read_observations

    held = None if options.held is None else parse_note(options.held)
    rows = read_observations(read_text(options.observations), name=options.observations.name)
    found = adjust(rows, a4_hz=options.a4, held=held)
    record = adjustment_record(found)
    if options.json:
        return print_json({**record, "sentences": adjustment_sentences(found)})
    print(f"Offsets from equal temperament, {record['held']} held:")
    print_table(
        ("string", "cents", "+-"),
        [
            (one["note"], f"{one['offset_cents']:+.2f}", f"{one['standard_error_cents']:.2f}")
            for one in record["strings"]
        ],
    )
    print()
    print_table(
        ("row", "interval", "observed", "adjusted", "left", "doubt"),
        [
            (
                str(index),
                f"{one['lower']}-{one['upper']}",
                f"{one['observed_cents']:+.2f}",
                f"{one['adjusted_cents']:+.2f}",
                f"{one['residual_cents']:+.2f}",
                "unchecked" if one["doubt"] is None else f"{one['doubt']:.1f}",
            )
            for index, one in enumerate(record["observations"], 1)
        ],
    )
    print()
    for sentence in adjustment_sentences(found):
        print(sentence)
    return 0
