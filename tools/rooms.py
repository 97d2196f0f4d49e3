"""Rounds with many devices at once: real requests, real lines, and how long it takes from an answer
to all screens of its room.
"""

import asyncio
import json
import time
import uuid
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any, Final

import httpx2
import psutil
import uvloop
import websockets

from meldrin.server.browser import COOKIE
from tools.load import cpu_s

ANSWERS_WITHIN_S: Final = 8.0  # a class answers within some seconds
WAITS_S: Final = 20.0
PAIR: Final = {"drill": "width", "instrument": "viola", "string": 2}


@dataclass
class Rooms:
    """What came of it: seconds from each answer to its room's last screen, and from a move."""

    answers_s: list[float] = field(default_factory=list)
    moves_s: list[float] = field(default_factory=list)
    refused: int = 0
    cpu_s: dict[str, float] = field(default_factory=dict)
    lasted_s: float = 0.0


class _Screen:
    """A device: the server it asks, its cookie, its line, and when it heard of what."""

    def __init__(self, client: httpx2.AsyncClient, cookie: str, address: str) -> None:
        self.client = client
        self.address = address
        self.headers = {"Cookie": f"{COOKIE}={cookie}"}
        self.heard_s: dict[tuple[str, int], float] = {}

    async def watch(self, round_id: str, ready: asyncio.Event) -> None:
        """Note when it is told of answers and moves."""
        url = f"{self.address.replace('http', 'ws', 1)}/api/rounds/{round_id}/line"
        async with websockets.connect(
            url, additional_headers=self.headers, compression=None, proxy=None, open_timeout=30
        ) as line:
            async for text in line:
                scene = json.loads(text)
                now_s = time.perf_counter()
                ready.set()
                for answered in range(1, scene["answered"] + 1):
                    self.heard_s.setdefault((f"answered {scene['number']}", answered), now_s)
                for version in range(scene["version"] + 1):
                    self.heard_s.setdefault(("version", version), now_s)


async def _room(
    addresses: Sequence[str],
    number: int,
    devices: int,
    questions: int,
    found: Rooms,
    all_in: asyncio.Barrier,
) -> None:
    # a connection is not used again when the server may just be closing it
    alive = httpx2.Limits(keepalive_expiry=3.0)
    async with httpx2.AsyncClient(timeout=30.0, trust_env=False, limits=alive) as client:
        name = {"name": f"Teacher {uuid.uuid4().hex[:12]}"}
        made = await client.post(f"{addresses[0]}/api/account", json=name)
        made.raise_for_status()
        teacher = _Screen(client, made.cookies[COOKIE], addresses[0])
        studio = (await _ask(teacher, "/api/studios", {"name": f"Room {number}"}))["id"]
        rounds = f"/api/studios/{studio}/rounds"
        page = await _ask(teacher, rounds, {"sitting": PAIR, "count": max(3, questions)})
        round_id, code = page["scene"]["id"], page["code"]
        screens = [teacher]
        for device in range(devices):
            client.cookies.clear()
            address = addresses[device % len(addresses)]
            reply = await client.post(f"{address}/api/rounds/join", json={"code": code})
            reply.raise_for_status()
            screens.append(_Screen(client, reply.cookies[COOKIE], address))
        client.cookies.clear()
        ready = [asyncio.Event() for _ in screens]
        watching = [
            asyncio.create_task(one.watch(round_id, there))
            for one, there in zip(screens, ready, strict=True)
        ]
        await asyncio.gather(*(there.wait() for there in ready))
        await all_in.wait()
        version = 0
        for question in range(1, questions + 1):
            for move in ("ask", "play"):
                version = await _move(teacher, rounds, round_id, move, version, screens, found)
            await _all_answer(screens, round_id, question, found)
            version = await _move(teacher, rounds, round_id, "tell", version, screens, found)
        for task in watching:
            task.cancel()
        await asyncio.gather(*watching, return_exceptions=True)


async def _all_answer(screens: list[_Screen], round_id: str, question: int, found: Rooms) -> None:
    """Every device answers within some seconds; the nth answer is on all screens once each has told
    of n.
    """
    said_s: list[float] = []

    async def say(at: int, screen: _Screen) -> None:
        await asyncio.sleep(ANSWERS_WITHIN_S * (at + 0.5) / len(screens))
        begun_s = time.perf_counter()
        wanted = {"number": question, "answer": at % 3, "sure": "fairly"}
        reply = await screen.client.post(
            f"{screen.address}/api/rounds/{round_id}/answers", json=wanted, headers=screen.headers
        )
        if reply.is_success:
            said_s.append(begun_s)
        else:
            found.refused += 1

    await asyncio.gather(*(say(at, one) for at, one in enumerate(screens[1:])))
    keys = [(f"answered {question}", n) for n in range(1, len(said_s) + 1)]
    await _all_heard(screens, keys)
    for begun_s, key in zip(sorted(said_s), keys, strict=True):
        found.answers_s.append(max(one.heard_s[key] for one in screens) - begun_s)


async def _move(
    teacher: _Screen,
    rounds: str,
    round_id: str,
    move: str,
    version: int,
    screens: list[_Screen],
    found: Rooms,
) -> int:
    begun_s = time.perf_counter()
    await _ask(teacher, f"{rounds}/{round_id}/moves", {"move": move, "version": version})
    await _all_heard(screens, [("version", version + 1)])
    heard_s = max(one.heard_s["version", version + 1] for one in screens)
    found.moves_s.append(heard_s - begun_s)
    return version + 1


async def _all_heard(screens: list[_Screen], keys: list[tuple[str, int]]) -> None:
    until_s = time.perf_counter() + WAITS_S
    while not all(key in one.heard_s for one in screens for key in keys):
        if time.perf_counter() > until_s:
            raise TimeoutError(f"not every screen heard of {keys[-1]}")
        await asyncio.sleep(0.01)


async def _ask(screen: _Screen, path: str, body: object) -> dict[str, Any]:
    reply = await screen.client.post(f"{screen.address}{path}", json=body, headers=screen.headers)
    reply.raise_for_status()
    answer: dict[str, Any] = reply.json()
    return answer


def run_rooms(
    addresses: Sequence[str],
    rooms: int,
    devices: int,
    *,
    questions: int = 3,
    groups: dict[str, list[psutil.Process]] | None = None,
) -> Rooms:
    """Let some rooms, each with some devices, go through some questions at once.

    Args:
        addresses: of the servers, which the devices of a room ask in turn.
    """
    found = Rooms()
    before: dict[str, float] = {}
    begun_s = 0.0

    async def all_of_them() -> None:
        nonlocal begun_s
        all_in = asyncio.Barrier(rooms + 1)
        playing = [
            asyncio.create_task(_room(addresses, n, devices, questions, found, all_in))
            for n in range(rooms)
        ]
        await all_in.wait()
        before.update({name: cpu_s(group) for name, group in (groups or {}).items()})
        begun_s = time.monotonic()
        await asyncio.gather(*playing)

    uvloop.run(all_of_them())
    found.lasted_s = time.monotonic() - begun_s
    found.cpu_s = {name: cpu_s(group) - before[name] for name, group in (groups or {}).items()}
    return found
