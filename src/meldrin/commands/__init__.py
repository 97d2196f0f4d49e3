"""The command, one file for each of its words. What a word needs it imports itself when it runs: a
quick one must not wait for a web server's code.
"""

import argparse
import sys
from collections.abc import Sequence

from meldrin import __version__
from meldrin.commands import adjust, beats, demo, instruments, plan, retune, start
from meldrin.core.errors import MeldrinError

WORDS = {
    "demo": demo,
    "start": start,
    "plan": plan,
    "retune": retune,
    "beats": beats,
    "adjust": adjust,
    "instruments": instruments,
}


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command and return its exit code; 2 for input that cannot be used."""
    parser = argparse.ArgumentParser(prog="./meldrin", description="Learn to tune by ear.")
    parser.add_argument("--version", action="version", version=__version__)
    commands = parser.add_subparsers(dest="command", required=True, metavar="command")
    for word, module in WORDS.items():
        module.add_options(commands.add_parser(word, help=module.ABOUT, description=module.ABOUT))
    options = parser.parse_args(arguments)
    try:
        return int(WORDS[options.command].run(options))
    except MeldrinError as error:
        print(f"meldrin: {error.message}", file=sys.stderr)
        return 2
    except BrokenPipeError:
        sys.stderr.close()  # whoever read the output has stopped: not our fault, nothing to say
        return 0
    except KeyboardInterrupt:
        return 130
