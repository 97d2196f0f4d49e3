"""The command, one file for each of its words; only the file of the word that is said is imported,
so that a quick one does not wait for another's code.
"""

import argparse
import sys
from collections.abc import Sequence
from importlib import import_module

from meldrin import __version__
from meldrin.core.errors import MeldrinError

WORDS = {
    "demo": "start with a made-up pupil's twelve weeks, and print the address",
    "start": "start without the demo's data",
    "backup": "all records in one file, running or stopped",
    "restore": "the records of a backup back in their place",
    "rescore": "scores of earlier versions by this one",
    "plan": "what to do, string by string, by one method",
    "retune": "from one tuning to another and how far to aim off",
    "beats": "how fast two partials of two notes beat",
    "adjust": "offsets and the likely culprit from measured intervals",
    "instruments": "the catalogue: instruments and their tunings",
}


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command and return its exit code; 2 for input that cannot be used."""
    parser = argparse.ArgumentParser(prog="./meldrin", description="Learn to tune by ear.")
    parser.add_argument("--version", action="version", version=__version__)
    commands = parser.add_subparsers(dest="command", required=True, metavar="command")
    said = sys.argv[1:] if arguments is None else list(arguments)
    for word, about in WORDS.items():
        command = commands.add_parser(word, help=about, description=about)
        if said[:1] == [word]:
            module = import_module(f"meldrin.commands.{word}")
            module.add_options(command)
    options = parser.parse_args(said)
    try:
        return int(module.run(options))
    except MeldrinError as error:
        print(f"meldrin: {error.message}", file=sys.stderr)
        return 2
    except BrokenPipeError:
        sys.stderr.close()  # whoever read the output has stopped: not our fault, nothing to say
        return 0
    except KeyboardInterrupt:
        return 130
