"""The command: serving, checking and computing. A thin shell over the layers below."""

import argparse
import sys
from collections.abc import Sequence

from meldrin.core.errors import MeldrinError
from meldrin.preparing import add_commands


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command and return its exit code; 2 for input that cannot be used."""
    parser = argparse.ArgumentParser(prog="./meldrin", description="Learn to tune by ear.")
    commands = parser.add_subparsers(dest="command", required=True, metavar="command")
    for name, text in (
        ("demo", "start with a made-up pupil's twelve weeks, and print the address"),
        ("start", "start without the demo's data"),
    ):
        command = commands.add_parser(name, help=text)
        command.add_argument("--port", type=int, default=8430, help="8430, or the next free one")
    add_commands(commands)
    test = commands.add_parser("test", help="run every check, or a part of them")
    test.add_argument("part", nargs="?", choices=["core", "server", "browser"])
    test.add_argument("names", nargs="*", help="only these, such as tests.core.test_plan")
    test.add_argument("--quick", action="store_true", help="style, types and the quickest tests")
    commands.add_parser("bench", help="measure speed and memory, and print a table")
    commands.add_parser("generate", help="write docs/openapi.json and the browser's types")
    commands.add_parser("shots", help="take the screenshots in docs/screenshots again")
    options = parser.parse_args(arguments)
    try:
        return _run(options)
    except MeldrinError as error:
        print(f"meldrin: {error.message}", file=sys.stderr)
        return 2
    except BrokenPipeError:
        sys.stderr.close()  # whoever read the output has stopped: not our fault, nothing to say
        return 0
    except KeyboardInterrupt:
        return 130


def _run(options: argparse.Namespace) -> int:
    # Each command imports what it needs itself: a quick one must not wait for a web server's code.
    if "run" in options:
        return int(options.run(options))
    match options.command:
        case "demo" | "start":
            from meldrin.serve import serve

            return serve(port=options.port, demo=options.command == "demo")
        case "test":
            from meldrin.checks import run_checks

            return run_checks(options.part, names=options.names, quick=options.quick)
        case "bench":
            from meldrin.measure import run_bench

            return run_bench()
        case "generate":
            from meldrin.generate import generate

            return generate()
        case _:
            from meldrin.shots import take_shots

            return take_shots()


if __name__ == "__main__":
    sys.exit(main())
