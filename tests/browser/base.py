"""The real application, started by its own command, in Debian's Chromium."""

import atexit
import os
import re
import signal
import subprocess
import sys
import tempfile
import time
import unittest
from functools import cache
from pathlib import Path

import httpx2
from playwright.sync_api import Browser, BrowserContext, Page, Request, expect, sync_playwright

ROOT = Path(__file__).resolve().parents[2]
FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--no-first-run",
]
STARTS_WITHIN_S = 40.0
expect.set_options(timeout=30_000)  # nothing is right because the machine was quick


class Application:
    """`./meldrin start` on a state folder of its own; can be killed and started again."""

    def __init__(self, state: Path, *options: str) -> None:
        self.state = state
        self._options = options
        self.address = ""
        self._process: subprocess.Popen[str] | None = None

    def start(self) -> None:
        port = self.address.rsplit(":", 1)[-1] if self.address else "0"
        environment = {
            **os.environ,
            "MELDRIN_STATE": str(self.state),
            "PYTHONPATH": str(ROOT / "src"),
        }
        self._process = subprocess.Popen(
            [sys.executable, "-m", "meldrin", "start", "--port", port, *self._options],
            env=environment,
            stdout=subprocess.PIPE,
            text=True,
        )
        assert self._process.stdout is not None
        line = self._process.stdout.readline()
        found = re.search(r"http://127\.0\.0\.1:\d+", line)
        if found is None:
            raise AssertionError(f"the application did not start: {line!r}")
        self.address = found.group(0)
        deadline = time.monotonic() + STARTS_WITHIN_S
        while time.monotonic() < deadline:
            try:
                if httpx2.get(f"{self.address}/api/health").status_code == 200:
                    return
            except httpx2.TransportError:
                time.sleep(0.05)
        raise AssertionError("the application does not answer")

    @property
    def pid(self) -> int:
        """Its process, whose children serve."""
        assert self._process is not None
        return self._process.pid

    def end(self, how: signal.Signals = signal.SIGINT) -> None:
        if self._process is not None:
            self._process.send_signal(how)
            self._process.communicate(timeout=30)
            self._process = None


@cache
def shared_application() -> Application:
    folder = tempfile.TemporaryDirectory(prefix="meldrin-browser-")
    application = Application(Path(folder.name))
    application.start()
    atexit.register(folder.cleanup)
    atexit.register(application.end)
    return application


@cache
def chromium() -> Browser:
    playwright = sync_playwright().start()
    browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
    atexit.register(playwright.stop)
    atexit.register(browser.close)
    return browser


class BrowserTest(unittest.TestCase):
    """A fresh guest in a fresh window. Any request that leaves the origin, and any error on the
    page, fails the test.
    """

    touch = False
    size = (1280, 800)

    def setUp(self) -> None:
        self.application = self.start_application()
        self.strangers: list[str] = []
        self.page_errors: list[str] = []
        self.context = self.window()
        self.page = self.context.new_page()
        self.watch(self.page)

    def start_application(self) -> Application:
        return shared_application()

    def window(self) -> BrowserContext:
        width, height = self.size
        context = chromium().new_context(
            base_url=self.application.address,
            viewport={"width": width, "height": height},
            has_touch=self.touch,
            is_mobile=self.touch,
        )
        self.addCleanup(context.close)
        return context

    def watch(self, page: Page) -> None:
        def asked(request: Request) -> None:
            if not request.url.startswith((self.application.address, "data:", "blob:")):
                self.strangers.append(request.url)

        page.on("request", asked)
        page.on("websocket", lambda ws: None if self.own(ws.url) else self.strangers.append(ws.url))
        page.on("pageerror", lambda error: self.page_errors.append(str(error)))

    def own(self, url: str) -> bool:
        return url.startswith(self.application.address.replace("http", "ws"))

    def tearDown(self) -> None:
        self.assertEqual(self.strangers, [], "requests that left the application's own origin")
        self.assertEqual(self.page_errors, [])
