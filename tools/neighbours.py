"""Greedy and hostile clients, each in a process of its own, and somebody who plays beside them."""

import asyncio
import json
import multiprocessing
import socket
import tempfile
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, Final

import httpx2
import websockets

from meldrin.core.bench import Exercise, Finish, TimedAction, Turn
from meldrin.reports.attempt_record import attempt_text
from meldrin.server.browser import COOKIE
from tools.load import acts, begin
from tools.players import SAVED_WITHIN_S, Player
from tools.server import Server

LONG: Final = 20_000  # actions, as many as an attempt takes
PATIENT_S: Final = 60.0  # a browser does not hang up by itself


def long_attempt(address: str, *, finished: bool) -> tuple[str, str]:
    """Bring in an attempt of as many actions as there may be; return its id and the secret."""
    log = [TimedAction(0.5 * n, Turn(5, 0.2 if n % 2 else -0.2)) for n in range(LONG - 1)]
    if finished:
        log.append(TimedAction(0.5 * LONG, Finish()))
    made = datetime.now(UTC)
    text = attempt_text(Exercise("guitar", "unison", "month", 3), log, made=made)
    with httpx2.Client(base_url=address, timeout=60.0, trust_env=False) as client:
        reply = client.post(
            "/api/attempts/import", content=text, headers={"content-type": "text/plain"}
        )
        reply.raise_for_status()
        return str(reply.json()["id"]), str(client.cookies[COOKIE])


def nonsense(address: str, lasts_s: float) -> None:
    """A socket that sends what nobody understands, as fast as it can."""
    attempt, secret = begin(address, "guitar", "unison")
    text = '{"kind": "act", "number": "x"}' * 30
    asyncio.run(_pour(address, attempt, secret, lambda _: text, lasts_s=lasts_s))


def hellos(address: str, lasts_s: float) -> None:
    """A socket that says hello again and again at a long attempt."""
    attempt, secret = long_attempt(address, finished=False)
    hello = json.dumps({"kind": "hello", "tab": "again-and-again"})
    asyncio.run(_pour(address, attempt, secret, lambda _: hello, lasts_s=lasts_s))


def actions(address: str, lasts_s: float) -> None:
    """A socket that acts as fast as it can."""
    attempt, secret = begin(address, "sitar", "each")
    action = {"kind": "play", "strings": [1, 2, 3, 4, 5]}

    def act(number: int) -> str:
        if number == 0:
            return json.dumps({"kind": "hello", "tab": "fast-tab"})
        return json.dumps({"kind": "act", "number": number, "at_s": 1.0, "action": action})

    asyncio.run(_pour(address, attempt, secret, act, lasts_s=lasts_s))


def unread(address: str, lasts_s: float) -> None:
    """Sockets that act and read nothing of what they are told."""
    with ThreadPoolExecutor(4) as pool:
        list(pool.map(_deaf, [address] * 4, [lasts_s] * 4))


def finishes(address: str, lasts_s: float) -> None:
    """Attempts of 20,000 actions that end, and are scored."""
    until_s = time.monotonic() + lasts_s
    while time.monotonic() < until_s:
        attempt, secret = long_attempt(address, finished=True)
        _get(address, f"/api/attempts/{attempt}", secret)


def replays(address: str, _: float) -> None:
    """Many at once who look at a long attempt again from anywhere."""
    attempt, secret = long_attempt(address, finished=True)
    paths = [f"/api/attempts/{attempt}/replay?begin={n * 1800}" for n in range(10)]
    with ThreadPoolExecutor(10) as pool:
        list(pool.map(lambda path: _get(address, path, secret), paths))


def sounds(address: str, lasts_s: float) -> None:
    """Twenty slow readers of the sound of a long attempt."""
    attempt, secret = long_attempt(address, finished=True)
    host, _, port = address.rpartition("//")[2].partition(":")
    lines = []
    for _ in range(20):
        line = socket.create_connection((host, int(port)))
        path = f"/api/attempts/{attempt}/sound.wav"
        line.sendall(
            f"GET {path} HTTP/1.1\r\nHost: {host}\r\nCookie: {COOKIE}={secret}\r\n\r\n".encode()
        )
        lines.append(line)
    time.sleep(lasts_s)
    for line in lines:
        line.close()


def cards(address: str, _: float) -> None:
    """A class that prints its plans at once, several times."""
    with ThreadPoolExecutor(20) as pool:
        path = "/api/plan.pdf?instrument=guitar&method=unison"
        list(pool.map(lambda _: _get(address, path, ""), range(100)))


def floods(address: str, lasts_s: float) -> None:
    """Bodies of 200 MB where a file is expected, and requests that never say what they want."""
    host, _, port = address.rpartition("//")[2].partition(":")
    lines = [socket.create_connection((host, int(port))) for _ in range(200)]
    for line in lines:
        line.sendall(b"GET /api/attempts HTTP/1.1\r\nHost: ")

    def body() -> Any:
        for _ in range(200):
            yield b"x" * 1_000_000

    for _ in range(4):
        try:
            httpx2.post(
                f"{address}/api/attempts/import",
                content=body(),
                headers={"content-type": "text/plain"},
                timeout=30.0,
                trust_env=False,
            )
        except httpx2.TransportError:
            continue  # it hangs up, as it should
    time.sleep(lasts_s)
    for line in lines:
        line.close()


NEIGHBOURS: Final[dict[str, Callable[[str, float], None]]] = {
    one.__name__: one
    for one in (
        nonsense,
        hellos,
        actions,
        unread,
        finishes,
        replays,
        sounds,
        cards,
        floods,
    )
}


def beside(neighbour: str, *, lasts_s: float = 8.0) -> tuple[Player, float]:
    """Let somebody play beside a neighbour; return the player and the server's
    most memory in MB.
    """
    with tempfile.TemporaryDirectory(prefix="meldrin-neighbour-") as folder:
        server = Server(Path(folder))
        server.start()
        try:
            script = acts("guitar", "unison")
            attempt, secret = begin(server.address, "guitar", "unison")
            victim = Player([server.address], attempt, secret, script, patient_s=PATIENT_S)
            made = multiprocessing.get_context("spawn")
            noise = made.Process(target=NEIGHBOURS[neighbour], args=(server.address, lasts_s))
            noise.start()
            largest = asyncio.run(_play_until(victim, noise, server))
            return victim, largest
        finally:
            server.stop()


async def _play_until(victim: Player, noise: Any, server: Server) -> float:
    largest, playing = 0.0, asyncio.create_task(victim.play())
    deadline = time.monotonic() + 120.0
    while noise.is_alive() and time.monotonic() < deadline:
        largest = max(largest, server.memory_mb())
        await asyncio.sleep(0.5)
    noise.terminate()
    noise.join()
    victim.ended = True
    await asyncio.wait_for(playing, SAVED_WITHIN_S)
    return largest


async def _pour(
    address: str, attempt: str, secret: str, make: Callable[[int], str], *, lasts_s: float
) -> None:
    url = f"{address.replace('http', 'ws', 1)}/api/attempts/{attempt}/bench"
    headers = {"Cookie": f"{COOKIE}={secret}"}
    async with websockets.connect(
        url, additional_headers=headers, close_timeout=1, proxy=None
    ) as line:
        until_s, number = time.monotonic() + lasts_s, 0

        async def drop() -> None:
            async for _ in line:
                pass

        hearing = asyncio.create_task(drop())
        try:
            while time.monotonic() < until_s:
                await line.send(make(number))
                number += 1
        except websockets.ConnectionClosed:
            pass  # sent away, as it may be
        hearing.cancel()


def _deaf(address: str, lasts_s: float) -> None:
    attempt, secret = begin(address, "sitar", "each")
    host, _, port = address.rpartition("//")[2].partition(":")
    with socket.create_connection((host, int(port))) as line:
        line.sendall(
            (
                f"GET /api/attempts/{attempt}/bench HTTP/1.1\r\nHost: {host}:{port}\r\n"
                f"Cookie: {COOKIE}={secret}\r\nUpgrade: websocket\r\nConnection: Upgrade\r\n"
                "Sec-WebSocket-Key: AAAAAAAAAAAAAAAAAAAAAA==\r\nSec-WebSocket-Version: 13\r\n\r\n"
            ).encode()
        )
        until_s, number = time.monotonic() + lasts_s, 0
        line.settimeout(1.0)
        try:
            while time.monotonic() < until_s:
                text = json.dumps({"kind": "hello", "tab": "deaf-tab"})
                if number:
                    action = {"kind": "play", "strings": [1, 2, 3, 4, 5, 6, 7]}
                    text = json.dumps(
                        {"kind": "act", "number": number, "at_s": 1.0, "action": action}
                    )
                line.sendall(_frame(text.encode()))
                number += 1
        except OSError:
            pass  # closed, as it should be


def _frame(text: bytes) -> bytes:
    """Return a masked frame of text (RFC 6455, 5.2), the mask all zeros."""
    size = len(text)
    head = bytes((0x81, 0x80 | size)) if size < 126 else b"\x81\xfe" + size.to_bytes(2, "big")
    return head + bytes(4) + text


def _get(address: str, path: str, secret: str) -> int:
    with httpx2.Client(base_url=address, timeout=60.0, trust_env=False) as client:
        if secret:
            client.cookies.set(COOKIE, secret)
        return int(client.get(path).status_code)
