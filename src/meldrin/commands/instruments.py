"""`./meldrin instruments`: the catalogue."""

import argparse
from dataclasses import asdict

from meldrin.commands.output import add_json, print_json


def add_options(parser: argparse.ArgumentParser) -> None:
    """Add what can be chosen."""
    add_json(parser)


def run(options: argparse.Namespace) -> int:
    """Print the catalogue."""
    from meldrin.core.catalogue import instruments
    from meldrin.reports.catalogue import instrument_page

    pages = [instrument_page(one) for one in instruments()]
    if options.json:
        return print_json([asdict(one) for one in pages])
    for page in pages:
        print(f"{page.id}: {page.name}")
        for tuning in page.tunings:
            print(f"    {tuning.id:20} {tuning.notes}")
    return 0
