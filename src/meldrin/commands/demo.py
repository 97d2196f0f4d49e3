"""`./meldrin demo`: serve with a made-up pupil's data."""

import argparse

from meldrin.commands.start import add_options

ABOUT = "start with a made-up pupil's twelve weeks, and print the address"

__all__ = ["ABOUT", "add_options", "run"]


def run(options: argparse.Namespace) -> int:
    """Serve until Ctrl-C."""
    from meldrin.serve import serve

    return serve(port=options.port, demo=True)
