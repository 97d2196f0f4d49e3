"""`./meldrin demo`: serve with a made-up pupil's data."""

import argparse

from meldrin.commands.start import add_options
from meldrin.ending import Ending

__all__ = ["add_options", "run"]


def run(options: argparse.Namespace) -> int:
    """Serve until Ctrl-C."""
    ending = Ending()
    from meldrin.serve import serve

    return serve(port=options.port, demo=True, ending=ending)
