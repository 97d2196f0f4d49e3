"""Two browsers of other makes, driven by the protocols they speak themselves: Firefox by WebDriver
BiDi, which needs no driver of its own, and WebKitGTK by its WebDriver.
"""

import json
import os
import re
import shutil
import signal
import socket
import subprocess
import tempfile
import time
from collections.abc import Callable
from contextlib import ExitStack
from pathlib import Path
from typing import Any, Final, Protocol

import httpx2
from websockets.sync.client import ClientConnection, connect

STARTS_WITHIN_S: Final = 40.0
WAITS_S: Final = 60.0
PRESSES: Final = 3
ANSWERS_WITHIN_S: Final = 8.0  # a page that goes away takes what it was asked with it
SIZE: Final = (1280, 800)


class Driven(Protocol):
    """A browser at a page."""

    def open(self, address: str) -> None:
        """Go to an address."""

    def run(self, script: str) -> Any:
        """Return what an expression of the page comes to."""

    def press_at(self, x: float, y: float) -> None:
        """Press at a place of the window, as a hand does."""

    def close(self) -> None:
        """End the browser."""


class Learner:
    """What a learner does at a page: looks, waits and presses."""

    def __init__(self, browser: Driven, address: str) -> None:
        self.browser = browser
        self.address = address

    def open(self, path: str) -> None:
        self.browser.open(self.address + path)

    def see(self, expression: str, *, why: str, within_s: float = WAITS_S) -> Any:
        """Wait until an expression of the page is true, and return it.

        Raises:
            AssertionError: with what the page shows instead.
        """
        asked = f"(() => {{ {FIND} return {expression}; }})()"
        try:
            return until(lambda: self.browser.run(asked), why, within_s)
        except AssertionError as error:
            raise AssertionError(f"{error}; the page shows: {self.browser.run(SHOWS)}") from error

    def press(self, role: str, words: str) -> None:
        """Press the first button or choice that has these words and can be pressed."""
        place = self.see(f"place({role!r}, {words!r})", why=f"{role} “{words}”")
        self.browser.press_at(*place)

    def press_until(self, role: str, words: str, expression: str, *, why: str) -> None:
        """Press until it shows: who hears nothing, on a machine that is busy, presses again."""
        for _ in range(PRESSES - 1):
            self.press(role, words)
            try:
                self.see(expression, why=why, within_s=WAITS_S / PRESSES)
            except AssertionError:
                continue
            return
        self.press(role, words)
        self.see(expression, why=why)


# What stands still can be pressed; what is covered or comes in later is waited for.
FIND: Final = """
const all = (role) => [...document.querySelectorAll(
  role === "button" ? "button, [role=button]" : "[role=radio], label")];
const place = (role, words) => {
  for (const one of all(role)) {
    const said = one.getAttribute("aria-label") || one.innerText || "";
    if (!said.startsWith(words) || one.disabled) continue;
    one.scrollIntoView({block: "center"});
    const box = one.getBoundingClientRect();
    if (box.width > 0) return [box.x + box.width / 2, box.y + box.height / 2];
  }
  return null;
};
"""

SHOWS: Final = """({at: location.pathname, words: document.body.innerText.slice(0, 600),
  measures: performance.getEntriesByType("measure").map((one) => [one.name, one.startTime])})"""


def until(asked: Callable[[], Any], why: str, within_s: float = WAITS_S) -> Any:
    deadline = time.monotonic() + within_s
    while time.monotonic() < deadline:
        try:
            found = asked()
        except (httpx2.HTTPError, RuntimeError, TimeoutError):  # between two pages
            found = None
        if found:
            return found
        time.sleep(0.1)
    raise AssertionError(f"not seen within {within_s:.0f} s: {why}")


class _Started:
    """A process with a home of its own, which both go in the end."""

    def __init__(self, *command: str, **environment: str) -> None:
        self.folder = Path(tempfile.mkdtemp(prefix="meldrin-engine-"))
        with (self.folder / "said").open("w") as said:
            self.process = subprocess.Popen(
                command,
                env={
                    **os.environ,
                    "HOME": str(self.folder),
                    "XDG_RUNTIME_DIR": str(self.folder),
                    **environment,
                },
                stdout=subprocess.DEVNULL,
                stderr=said,
                start_new_session=True,
            )

    def said(self) -> str:
        return (self.folder / "said").read_text(errors="replace")

    def end(self) -> None:
        if self.process.returncode is None:
            os.killpg(self.process.pid, signal.SIGKILL)
            self.process.wait()
            shutil.rmtree(self.folder, ignore_errors=True)


class Speaker:
    """A sound device that takes what it gets as fast as a real one would, and drops it."""

    def __init__(self) -> None:
        folder = Path(tempfile.mkdtemp(prefix="meldrin-speaker-"))
        self._socket = folder / "socket"
        self._started = _Started(
            "/usr/bin/pulseaudio",
            "-n",
            "--daemonize=no",
            "--exit-idle-time=-1",
            "--use-pid-file=no",
            "-L",
            "module-null-sink",
            "-L",
            f"module-native-protocol-unix auth-anonymous=1 socket={self._socket}",
        )
        until(self._socket.exists, "a sound device")

    @property
    def surroundings(self) -> dict[str, str]:
        """What a browser is started with to play there."""
        return {"PULSE_SERVER": f"unix:{self._socket}"}

    def close(self) -> None:
        """Unplug it."""
        self._started.end()
        shutil.rmtree(self._socket.parent, ignore_errors=True)


NO_SPEAKER: Final = {"PULSE_SERVER": "unix:/nonexistent", "ALSA_CONFIG_PATH": "/dev/null"}


PREFERENCES: Final = """
user_pref("browser.shell.checkDefaultBrowser", false);
user_pref("browser.startup.page", 0);
user_pref("datareporting.policy.dataSubmissionEnabled", false);
user_pref("app.update.enabled", false);
user_pref("network.captive-portal-service.enabled", false);
user_pref("network.connectivity-service.enabled", false);
user_pref("browser.safebrowsing.malware.enabled", false);
user_pref("media.autoplay.default", 0);
"""


class Firefox:
    """Debian's Firefox, by WebDriver BiDi."""

    def __init__(self, speaker: Speaker | None) -> None:
        self._number = 0
        self._lines = ExitStack()
        profile = Path(tempfile.mkdtemp(prefix="meldrin-profile-"))
        (profile / "user.js").write_text(PREFERENCES)
        self._profile = profile
        width, height = SIZE
        self._started = _Started(
            "/usr/bin/firefox-esr",
            "--headless",
            "--no-remote",
            f"--width={width}",
            f"--height={height}",
            "--profile",
            str(profile),
            "--remote-debugging-port=0",
            **(speaker.surroundings if speaker else NO_SPEAKER),
        )
        try:
            self._line = self._connected()
            self._send("session.new", capabilities={})
            tree = self._send("browsingContext.getTree")
            self._tab = tree["contexts"][0]["context"]
        except BaseException:
            self.close()
            raise

    def _connected(self) -> ClientConnection:
        pattern = re.compile(r"WebDriver BiDi listening on (ws://\S+)")
        found = until(lambda: pattern.search(self._started.said()), "Firefox listens")
        return self._lines.enter_context(connect(f"{found.group(1)}/session", max_size=None))

    def _send(self, method: str, **params: Any) -> Any:
        self._number += 1
        self._line.send(json.dumps({"id": self._number, "method": method, "params": params}))
        while True:
            reply = json.loads(self._line.recv(timeout=ANSWERS_WITHIN_S))
            if reply.get("id") != self._number:
                continue  # an event
            if reply["type"] == "error":
                raise RuntimeError(f"{method}: {reply['error']}: {reply['message']}")
            return reply["result"]

    def open(self, address: str) -> None:
        self._send("browsingContext.navigate", context=self._tab, url=address, wait="complete")

    def run(self, script: str) -> Any:
        reply = self._send(
            "script.evaluate",
            expression=f"JSON.stringify({script} ?? null)",
            target={"context": self._tab},
            awaitPromise=False,
        )
        if reply["type"] == "exception":
            raise RuntimeError(reply["exceptionDetails"]["text"])
        return json.loads(reply["result"]["value"])

    def press_at(self, x: float, y: float) -> None:
        self._send("input.performActions", context=self._tab, actions=_press(x, y))

    def close(self) -> None:
        self._lines.close()
        self._started.end()
        shutil.rmtree(self._profile, ignore_errors=True)


class WebKit:
    """WebKitGTK's small browser, by its WebDriver, on a screen of its own."""

    def __init__(self, speaker: Speaker | None) -> None:
        self._screen = _Started("/usr/bin/Xvfb", "-displayfd", "2", "-screen", "0", "1400x1000x24")
        self._started: _Started | None = None
        try:
            display = until(lambda: re.search(r"^(\d+)$", self._screen.said(), re.M), "a screen")
            port = _free_port()
            self._started = _Started(
                "/usr/bin/WebKitWebDriver",
                f"--port={port}",
                DISPLAY=f":{display.group(1)}",
                WEBKIT_DISABLE_SANDBOX_THIS_IS_DANGEROUS="1",
                LIBGL_ALWAYS_SOFTWARE="1",
                **(speaker.surroundings if speaker else NO_SPEAKER),
            )
            self._at = f"http://127.0.0.1:{port}"
            until(self._is_ready, "WebKit’s driver")
            options = {"binary": str(_mini_browser()), "args": ["--automation"]}
            wanted = {"alwaysMatch": {"webkitgtk:browserOptions": options}}
            session = self._send("POST", "/session", {"capabilities": wanted})
            self._at += f"/session/{session['sessionId']}"
            width, height = SIZE
            self._send("POST", "/window/rect", {"width": width, "height": height + 60})
        except BaseException:
            self.close()
            raise

    def _is_ready(self) -> bool:
        return bool(self._send("GET", "/status")["ready"])

    def _send(self, how: str, path: str, body: Any = None) -> Any:
        reply = httpx2.request(how, self._at + path, json=body, timeout=STARTS_WITHIN_S)
        value = reply.json()["value"]
        if reply.status_code != 200:
            raise RuntimeError(f"{path}: {value['error']}: {value['message']}")
        return value

    def open(self, address: str) -> None:
        self._send("POST", "/url", {"url": address})

    def run(self, script: str) -> Any:
        return self._send("POST", "/execute/sync", {"script": f"return {script};", "args": []})

    def press_at(self, x: float, y: float) -> None:
        self._send("POST", "/actions", {"actions": _press(x, y)})

    def close(self) -> None:
        if self._started is not None:
            self._started.end()
        self._screen.end()


def _press(x: float, y: float) -> list[dict[str, Any]]:
    return [
        {
            "type": "pointer",
            "id": "hand",
            "parameters": {"pointerType": "mouse"},
            "actions": [
                {"type": "pointerMove", "x": round(x), "y": round(y), "origin": "viewport"},
                {"type": "pointerDown", "button": 0},
                {"type": "pause", "duration": 60},
                {"type": "pointerUp", "button": 0},
            ],
        }
    ]


def _free_port() -> int:
    with socket.socket() as found:
        found.bind(("127.0.0.1", 0))
        return int(found.getsockname()[1])


def _mini_browser() -> Path:
    found = sorted(Path("/usr/lib").glob("*/webkit2gtk-4*/MiniBrowser"))
    if not found:
        raise AssertionError("WebKitGTK’s MiniBrowser is not installed")
    return found[-1]
