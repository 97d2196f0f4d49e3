"""Every check of the project, or a part of it: style, types, layers, then the tests."""

import os
import re
import subprocess
import sys
import time
import unittest
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from coverage import Coverage

ROOT = Path(__file__).resolve().parents[1]
SLOWEST = 10
# Each a folder of tests. The engines go before the browser's tests open a
# Chromium: beside one their Firefox starves.
PARTS = ("core", "server", "engines", "browser")
BIN = Path(sys.executable).parent


def run_checks(
    part: str | None, *, names: Sequence[str] = (), quick: bool = False, coverage: bool = False
) -> int:
    """Run the checks and print what failed; 0 when nothing did.

    Args:
        part: core, server, browser, engines or web; None for all of them, style and types too.
        names: modules, classes or tests of that part; empty for all of it.
        quick: style and types, and of the tests of core those that take no long play.
        coverage: say which lines of the program no test runs.
    """
    measured = _measured() if coverage else None
    parts = ["core"] if quick else _parts(part)
    # Style, types and the tests of core need one core for a while; those of the server meanwhile
    # the other.
    apart = part is None and not quick and not coverage
    with ThreadPoolExecutor(max_workers=1) as pool:
        others = {} if part else _style()
        if part in (None, "web"):
            others["web: unit tests"] = ["npm", "--prefix", "web", "run", "--silent", "test"]
        waiting = {name: pool.submit(_passes, name, how) for name, how in others.items()}
        core = pool.submit(_tests_apart, "core") if apart else None
        if core is not None:
            parts.remove("core")
        result = _run_tests(parts, names, quick=quick)
        failed = [name for name, passed in waiting.items() if not passed.result()]
        good, bad = core.result() if core is not None else (0, 0)
    if measured is not None:
        measured.stop()
        measured.report(show_missing=True, skip_covered=True)
    bad_here = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    good += result.testsRun - bad_here + (len(others) - len(failed) if part == "web" else 0)
    bad += bad_here + len(failed)
    for name in failed:
        print(f"Failed: {name}")
    print(f"{good} passed, {bad} failed")
    return 1 if bad or good == 0 else 0


def _parts(part: str | None) -> list[str]:
    return [one for one in PARTS if part in (None, one)]


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


def _tests_apart(part: str) -> tuple[int, int]:
    """Run the tests of a part in a process of their own, and return how many passed and failed."""
    begun = time.monotonic()
    command = [sys.executable, "-m", "tools", "test", part]
    done = subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=False)
    print(f"{part}: {time.monotonic() - begun:.1f} s\n{done.stdout}{done.stderr}")
    found = re.search(r"^(\d+) passed, (\d+) failed$", done.stdout, re.MULTILINE)
    return (int(found[1]), int(found[2])) if found else (0, 1)


TOOK: list[tuple[float, str]] = []


def _timed(case: unittest.TestCase, run: Callable[..., object]) -> Callable[..., object]:
    """Return the test's run, keeping how long it took."""

    def timed(result: unittest.TestResult) -> object:
        begun = time.monotonic()
        try:
            return run(result)
        finally:
            TOOK.append((time.monotonic() - begun, case.id()))

    return timed


def _cases(suite: unittest.TestSuite) -> Iterator[unittest.TestCase]:
    for test in suite:
        if isinstance(test, unittest.TestSuite):
            yield from _cases(test)
        else:
            yield test


def _run_tests(parts: list[str], names: Sequence[str], *, quick: bool) -> unittest.TestResult:
    sys.path.insert(0, str(ROOT))
    os.chdir(ROOT)
    loader = unittest.defaultTestLoader
    if names:
        suite = loader.loadTestsFromNames(names)
    else:
        found = [loader.discover(f"tests/{part}", top_level_dir=".") for part in parts]
        suite = unittest.TestSuite(found)
    if quick:
        suite = unittest.TestSuite(one for one in _cases(suite) if not getattr(one, "slow", False))
    for case in _cases(suite):
        case.run = _timed(case, case.run)  # type: ignore[method-assign,assignment]
    result = unittest.TextTestRunner(warnings="error").run(suite)
    print("The slowest:")
    for seconds, name in sorted(TOOK, reverse=True)[:SLOWEST]:
        print(f"  {seconds:6.2f} s  {name}")
    return result
