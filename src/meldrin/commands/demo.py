"""`./meldrin demo`: serve with a made-up pupil's data."""

import argparse

from meldrin.commands.start import add_options, serving

__all__ = ["add_options", "run"]


def run(options: argparse.Namespace) -> int:
    """Serve until Ctrl-C."""
    return serving(options, demo=True)
