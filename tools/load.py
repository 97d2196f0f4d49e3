"""Many players at once: real lines, real actions, and how long each answer and each save took."""

import asyncio
import json
import random
import re
import time
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Final

import httpx2
import psutil
import uvloop
import websockets

from meldrin.core.bench import ACTIONS, BEHAVIOURS, Exercise, TimedAction
from meldrin.core.learner import Ear, Learner, practise
from meldrin.server.browser import COOKIE

NUMBER: Final = re.compile(r'"number":(\d+)')
JOINS_PER_S: Final = 40.0
BEHAVES: Final = frozenset(BEHAVIOURS) - {"false"}  # strings are new or old


@dataclass
class Load:
    """What came of it while all of them played: times in seconds, what was refused, and how much
    processor time each group of processes took.
    """

    answers_s: list[float] = field(default_factory=list)
    saves_s: list[float] = field(default_factory=list)
    refused: int = 0
    lost: int = 0
    sent: int = 0
    cpu_s: dict[str, float] = field(default_factory=dict)
    lasted_s: float = 0.0
    counted: int = 0

    def answer_ms(self, percent: float) -> float:
        """Return a percentile of the answer times, in ms."""
        return percentile_ms(self.answers_s, percent)

    def save_ms(self, percent: float) -> float:
        """The same of saves."""
        return percentile_ms(self.saves_s, percent)


def percentile_ms(times_s: Sequence[float], percent: float) -> float:
    """Return a percentile of the times, in ms."""
    ranked = sorted(times_s)
    return 1000.0 * ranked[min(len(ranked) - 1, int(len(ranked) * percent / 100.0))]


def acts(instrument: str, method: str, seed: int = 1) -> list[dict[str, object]]:
    """Return the actions of a simulated learner, as they travel."""
    exercise = Exercise(instrument, method, "month", seed, behaviours=BEHAVES)
    log = practise(exercise, Learner(Ear(threshold_cents=8.0, slowest_hz=0.2)), seed=seed)
    return [_travelling(entry) for entry in log[:-1]]  # all but its end


def _travelling(entry: TimedAction) -> dict[str, object]:
    action = ACTIONS.record(entry.action)
    del action["v"]
    return action


def begin(address: str, instrument: str, method: str) -> tuple[str, str]:
    """Begin an attempt as a new guest, and return its id and the guest's secret."""
    wanted = {
        "instrument": instrument,
        "method": method,
        "start": "month",
        "behaviours": sorted(BEHAVES),
    }
    with httpx2.Client(base_url=address, timeout=30.0, trust_env=False) as client:
        reply = client.post("/api/attempts", json=wanted)
        reply.raise_for_status()
        return str(reply.json()["id"]), str(client.cookies[COOKIE])


async def play(
    address: str,
    attempt: tuple[str, str],
    script: Sequence[dict[str, object]],
    load: Load,
    *,
    per_s: float,
    until_s: float,
) -> None:
    """Play an attempt until a moment of the monotonic clock, at a rate of actions a second."""
    attempt_id, secret = attempt
    url = f"{address.replace('http', 'ws', 1)}/api/attempts/{attempt_id}/bench"
    sent: dict[int, float] = {}
    unsaved: list[int] = []
    async with websockets.connect(
        url,
        additional_headers={"Cookie": f"{COOKIE}={secret}"},
        compression=None,
        max_size=None,
        open_timeout=30,
        proxy=None,
    ) as line:
        await line.send(json.dumps({"kind": "hello", "tab": f"load-{attempt_id[:20]}"}))
        await line.recv()

        async def hear() -> None:
            async for text in line:
                now_s = time.perf_counter()
                head = str(text)[:60]
                found = NUMBER.search(head)
                number = int(found[1]) if found else 0
                if head.startswith('{"kind":"now"'):
                    load.answers_s.append(now_s - sent[number])
                elif head.startswith('{"kind":"saved"'):
                    while unsaved and unsaved[0] <= number:
                        load.saves_s.append(now_s - sent[unsaved.pop(0)])
                elif head.startswith('{"kind":"refused"'):
                    load.refused += 1
                    if number in unsaved:
                        unsaved.remove(number)

        hearing = asyncio.create_task(hear())
        begun_s = time.monotonic()
        number = 0
        await asyncio.sleep(random.random() / per_s)
        while time.monotonic() < until_s:
            number += 1
            action = script[number % len(script)]
            at_s = round(time.monotonic() - begun_s, 3)
            text = json.dumps({"kind": "act", "number": number, "at_s": at_s, "action": action})
            sent[number] = time.perf_counter()
            unsaved.append(number)
            load.sent += 1
            await line.send(text)
            next_s = begun_s + number / per_s
            await asyncio.sleep(max(0.0, next_s - time.monotonic()))
        await asyncio.sleep(1.0)
        hearing.cancel()
        await asyncio.gather(hearing, return_exceptions=True)
        load.lost += len(unsaved)


def run_players(
    address: str,
    learners: int,
    *,
    per_s: float,
    seconds: float,
    instrument: str = "guitar",
    method: str = "unison",
    groups: dict[str, list[psutil.Process]] | None = None,
) -> Load:
    """Let some learners play for a while, each at a rate of actions a second."""
    load, script = Load(), acts(instrument, method)
    attempts = [begin(address, instrument, method) for _ in range(learners)]

    async def all_of_them() -> None:
        until_s = time.monotonic() + learners / JOINS_PER_S + seconds
        playing = []
        for attempt in attempts:
            one = play(address, attempt, script, load, per_s=per_s, until_s=until_s)
            playing.append(asyncio.create_task(one))
            await asyncio.sleep(1.0 / JOINS_PER_S)
        load.answers_s.clear()  # from here on all of them play
        load.saves_s.clear()
        before = {name: cpu_s(found) for name, found in (groups or {}).items()}
        begun_s = time.monotonic()
        await asyncio.sleep(until_s - begun_s - 0.5)
        load.lasted_s = time.monotonic() - begun_s
        for name, found in (groups or {}).items():
            load.cpu_s[name] = cpu_s(found) - before[name]
        load.counted = len(load.answers_s)
        await asyncio.gather(*playing)

    uvloop.run(all_of_them())
    return load


def cpu_s(found: Sequence[psutil.Process]) -> float:
    """Return how much processor time these processes have taken, in seconds."""
    return sum(sum(one.cpu_times()[:2]) for one in found)
