"""`./meldrin test | bench | generate | shots | dev`."""

import argparse
import sys


def main() -> int:
    """Run one command of the developers and return its exit code."""
    parser = argparse.ArgumentParser(prog="./meldrin", description="For those who work on it.")
    commands = parser.add_subparsers(dest="command", required=True, metavar="command")
    test = commands.add_parser("test", help="run every check, or a part of them")
    test.add_argument("part", nargs="?", choices=["core", "server", "browser", "engines", "web"])
    test.add_argument("names", nargs="*", help="only these, such as tests.core.test_plan")
    test.add_argument("--quick", action="store_true", help="style, types and the quickest tests")
    test.add_argument("--coverage", action="store_true", help="say which lines no test runs")
    bench = commands.add_parser("bench", help="measure speed and memory, and print a table")
    bench.add_argument("what", nargs="?", choices=["speed", "studies", "faults"], help="only that")
    commands.add_parser("generate", help="write the API document, its types and other copies")
    commands.add_parser("shots", help="take the screenshots in docs/screenshots again")
    commands.add_parser("dev", help="serve server and page, both new at every change")
    options = parser.parse_args()
    match options.command:
        case "test":
            from tools.checks import run_checks

            return run_checks(
                options.part,
                names=options.names,
                quick=options.quick,
                coverage=options.coverage,
            )
        case "bench":
            if options.what == "faults":
                from tools.faults import run_faults

                return run_faults()
            from tools.benchmark import run_bench

            return run_bench(options.what)
        case "generate":
            from tools.generate import generate

            return generate()
        case "dev":
            from tools.dev import develop

            return develop()
        case _:
            from tools.shots import take_shots

            return take_shots()


if __name__ == "__main__":
    sys.exit(main())
