"""Every check of the project, or a part of it: style, types, layers, then the tests."""

import os
import signal
import subprocess
import sys
import time
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest
from coverage import Coverage

ROOT = Path(__file__).resolve().parents[1]
SLOWEST = 30
# Each a folder of tests; those in one row run together. A browser's tests leave a loop running,
# which those of the server cannot have; and beside a Chromium the engines' Firefox starves.
PARTS = (("core", "server"), ("engines",), ("browser",))
ALONE = ("engines",)
MOST_PROCESSES = 4
BIN = Path(sys.executable).parent


class Counted:
    """Counts the tests that passed, and those that failed."""

    def __init__(self) -> None:
        self.passed = 0
        self.failed: set[str] = set()

    def pytest_runtest_logreport(self, report: pytest.TestReport) -> None:
        """Count what is known of a test; its parts, which have a context, only where they fail."""
        if report.failed:
            self.failed.add(report.nodeid)
            print(f"\nFailed: {report.nodeid}\n{report.longreprtext}", flush=True)
        elif report.when == "call" and report.passed and not hasattr(report, "context"):
            self.passed += 1

    def pytest_collectreport(self, report: pytest.CollectReport) -> None:
        """Count a file that could not be read as a test that failed."""
        if report.failed:
            self.failed.add(report.nodeid)


def run_checks(
    part: str | None, *, names: Sequence[str] = (), quick: bool = False, coverage: bool = False
) -> int:
    """Run the checks and print what failed; 0 when nothing did.

    Args:
        part: core, server, browser, engines or web; None for all of them, style and types too.
        names: modules, classes or tests, as `tests.core.test_plan`; empty for all of the part.
        quick: style and types, and of the tests of core those that take no long play.
        coverage: say which lines of the program no test runs.
    """
    # as Ctrl-C does, and in a shell's background too, which ignores that
    for one in (signal.SIGINT, signal.SIGTERM):
        signal.signal(one, signal.default_int_handler)
    measured = _measured() if coverage else None
    others = {} if part else _style()
    if part in (None, "web"):
        others["web: unit tests"] = ["npm", "--prefix", "web", "run", "--silent", "test"]
    with ThreadPoolExecutor(max_workers=1) as pool:
        waiting = {name: pool.submit(_passes, name, how) for name, how in others.items()}
        counted, ended = Counted(), True
        for folders in [("core",)] if quick else _parts(part):
            ended = ended and _run_tests(
                folders, names, counted=counted, quick=quick, apart=measured is None
            )
        failed = [name for name, passed in waiting.items() if not passed.result()]
    if measured is not None:
        measured.stop()
        measured.report(show_missing=True, skip_covered=True)
    good = counted.passed + len(others) - len(failed)
    for name in (*failed, *sorted(counted.failed)):
        print(f"Failed: {name}")
    bad = len(failed) + len(counted.failed) + (not ended)
    print(f"{good} passed, {bad} failed")
    return 1 if bad or good == 0 else 0


def _parts(part: str | None) -> list[tuple[str, ...]]:
    if part == "web":
        return []
    return list(PARTS) if part is None else [(part,)]


def _measured() -> Coverage:
    """Return what counts the lines that run from now on; whatever runs in a process of its own,
    such as the server under a browser's tests, is not counted.
    """
    measured = Coverage(source=[str(ROOT / "src")], branch=True, data_file=None)
    measured.start()
    return measured


def _style() -> dict[str, list[str]]:
    return {
        "ruff": [str(BIN / "ruff"), "check", "."],
        "ruff format": [str(BIN / "ruff"), "format", "--check", "."],
        "mypy": [str(BIN / "mypy")],
        "layers": [str(BIN / "lint-imports"), "--no-logo"],
        "web: types, eslint, prettier": ["npm", "--prefix", "web", "run", "--silent", "check"],
    }


def _passes(name: str, command: list[str]) -> bool:
    begun = time.monotonic()
    done = subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=False)
    print(f"{name}: {'ok' if done.returncode == 0 else 'FAILED'}, {time.monotonic() - begun:.1f} s")
    if done.returncode != 0:
        print(done.stdout + done.stderr)
    return done.returncode == 0


def _run_tests(
    folders: Sequence[str], names: Sequence[str], *, counted: Counted, quick: bool, apart: bool
) -> bool:
    """Run the tests of some folders, or those named, and tell whether that came to its end.

    Args:
        apart: in as many processes as there are cores, which take from one queue; else in this one.
    """
    os.chdir(ROOT)
    wanted = [_place(name) for name in names] or [f"tests/{folder}" for folder in folders]
    how = [
        "-q",
        "-p",
        "no:cacheprovider",
        "-W",
        "error",
        "-o",
        "verbosity_subtests=0",
        f"--durations={SLOWEST}",
    ]
    if apart and not any(folder in ALONE for folder in folders):
        how += ["-n", str(min(MOST_PROCESSES, os.cpu_count() or 1)), "--dist", "worksteal"]
    if quick:
        how.append("--quick")
    told = pytest.main([*how, *wanted], plugins=[counted])
    return told in (pytest.ExitCode.OK, pytest.ExitCode.TESTS_FAILED)


def _place(name: str) -> str:
    """Return where a test lies that is named as a module, a class or a test of it.

    >>> _place("tests.core.test_plan.Options.test_all")
    'tests/core/test_plan.py::Options::test_all'
    """
    parts = name.split(".")
    for count in range(len(parts), 0, -1):
        folder = ROOT.joinpath(*parts[:count])
        for found in (folder, folder.with_suffix(".py")):
            if found.exists():
                return "::".join([str(found.relative_to(ROOT)), *parts[count:]])
    return name
