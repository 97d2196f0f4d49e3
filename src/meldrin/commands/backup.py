"""`./meldrin backup FILE`: all records in one file, also while it is being played."""

import argparse
from pathlib import Path

from meldrin.ending import Ending


def add_options(parser: argparse.ArgumentParser) -> None:
    """Add what can be chosen."""
    parser.add_argument("file", type=Path, help="where to; must not be there yet")
    parser.add_argument(
        "--check", action="store_true", help="write nothing: look whether this backup is whole"
    )


def run(options: argparse.Namespace) -> int:
    """Write the file and check it."""
    Ending()
    from meldrin.commands.records import records
    from meldrin.store.backup import back_up, check

    if options.check:
        contents = check(options.file)
        print(f"{options.file} is whole: {contents}, of {contents.made_at}.")
        return 0
    with records() as url:
        contents = back_up(url, options.file)
    size = options.file.stat().st_size
    print(f"{options.file}: {contents}; {size / 1e6:.1f} MB, checked.")
    return 0
