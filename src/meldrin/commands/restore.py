"""`./meldrin restore FILE`: the records of a backup, in the place of those that are there."""

import argparse
from pathlib import Path

from meldrin.ending import Ending


def add_options(parser: argparse.ArgumentParser) -> None:
    """Add what can be chosen."""
    parser.add_argument("file", type=Path, help="what `./meldrin backup` has written")
    parser.add_argument(
        "--replace", action="store_true", help="also where there are records, which are gone then"
    )


def run(options: argparse.Namespace) -> int:
    """Check the file and put it in place."""
    Ending()
    from meldrin.commands.records import records
    from meldrin.store.backup import check, restore

    check(options.file)
    with records() as url:
        contents = restore(url, options.file, replace=options.replace)
    print(f"Restored: {contents}, of {contents.made_at}.")
    return 0
