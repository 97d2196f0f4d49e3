"""The real command on a state folder of its own, to be measured and broken."""

import contextlib
import os
import re
import ssl
import subprocess
import sys
import time
from collections.abc import Sequence
from pathlib import Path
from typing import Final

import httpx2
import psutil

ROOT: Final = Path(__file__).resolve().parents[1]
STARTS_WITHIN_S: Final = 90.0


class Server:
    """`./meldrin start` or `demo`; can be killed and started again at the same port.

    launched: by the script that sees to what is missing first.
    """

    def __init__(
        self,
        state: Path,
        *words: str,
        word: str = "start",
        database_url: str | None = None,
        verify: ssl.SSLContext | bool = True,
        launched: bool = False,
    ) -> None:
        self._state = state
        self._words = (word, *words)
        self._database_url = database_url
        self._verify = verify
        self._command = [str(ROOT / "meldrin")] if launched else [sys.executable, "-m", "meldrin"]
        self._process: psutil.Popen | None = None
        self.address = ""

    def start(self) -> float:
        """Start, wait until it is ready, and return the seconds it took."""
        begun = time.perf_counter()
        environment = {
            **os.environ,
            "MELDRIN_STATE": str(self._state),
            "PYTHONPATH": str(ROOT / "src"),
        }
        if self._database_url is not None:
            environment["MELDRIN_DATABASE_URL"] = self._database_url
        port = self.address.rpartition(":")[2] or "0"
        self._process = psutil.Popen(
            [*self._command, *self._words, "--port", port],
            env=environment,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            text=True,
        )
        line = self._process.stdout.readline()
        found = re.search(r"https?://\S+", line)
        if found is None:
            raise RuntimeError(f"it does not start: {line!r}")
        self.address = found.group(0)
        while True:
            try:
                live = f"{self.address}/api/health/live"
                if httpx2.get(live, verify=self._verify, trust_env=False).is_success:
                    return time.perf_counter() - begun
            except httpx2.TransportError:
                if time.perf_counter() - begun > STARTS_WITHIN_S:
                    raise
                time.sleep(0.02)

    def stop(self) -> None:
        """End it in order."""
        if self._process is not None:
            self._process.terminate()
            self._process.communicate()
            self._process = None

    def kill(self) -> None:
        """End all its processes at once, but for the database."""
        if self._process is None:
            return
        for one in (*self.workers(), self._process):
            end_at_once(one)
        self._process.communicate()
        self._process = None

    def kill_database(self) -> None:
        """End its database at once."""
        with contextlib.suppress(OSError, ValueError, psutil.Error):  # it has ended already
            pid = int((self._state / "database" / "server.pid").read_text())
            end_at_once(psutil.Process(pid))

    def workers(self) -> Sequence[psutil.Process]:
        """Return the processes that serve: its children, or itself alone."""
        assert self._process is not None
        found = [one for one in self._process.children(recursive=True) if _is_worker(one)]
        return found or [self._process]

    def database(self) -> list[psutil.Process]:
        """Return its own database server."""
        file = self._state / "database" / "server.pid"
        return [psutil.Process(int(file.read_text()))] if file.exists() else []

    def memory_mb(self) -> float:
        """Return the largest memory of a process that serves."""
        return max(one.memory_info().rss for one in self.workers()) / 1e6


def end_at_once(process: psutil.Process) -> None:
    """Kill a process, if it is there."""
    with contextlib.suppress(psutil.Error):
        process.kill()


def _is_worker(process: psutil.Process) -> bool:
    try:
        return "spawn_main" in " ".join(process.cmdline())
    except psutil.Error:  # it has just ended
        return False
