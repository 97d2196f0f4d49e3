"""`./meldrin start`: serve without the demo's data."""

import argparse

from meldrin.ending import Ending


def add_options(parser: argparse.ArgumentParser) -> None:
    """Add what can be chosen."""
    parser.add_argument("--port", type=int, default=8430, help="8430, or the next free one")


def run(options: argparse.Namespace) -> int:
    """Serve until Ctrl-C."""
    ending = Ending()
    from meldrin.serve import serve

    return serve(port=options.port, demo=False, ending=ending)
