"""`./meldrin bench faults`: kills, greedy neighbours, a cluster that loses nodes, and many players;
what is lost and how long each waits. The tests run shorter ones of the same.
"""

import asyncio
import contextlib
import random
import tempfile
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

from sqlalchemy import select

from meldrin.store.engine import open_engine
from meldrin.store.tables import ActionRow, AttemptRow
from tools.cluster import Cluster
from tools.load import acts, begin
from tools.players import Player
from tools.server import Server


@dataclass(frozen=True, slots=True)
class Outcome:
    """What came of breaking things while players played.

    lost: actions that were acknowledged and are not on disk.
    waited_s: the longest from an action to its being saved.
    came_back: how often a player had to come back.
    """

    attempts: int
    acknowledged: int
    lost: int
    unsaved: int
    waited_s: float
    came_back: int


def outcome_of(players: Sequence[Player], url: str) -> Outcome:
    """Hold what players were told against what is on disk."""
    engine = open_engine(url)
    lost = 0
    with engine.connect() as connection:
        for player in players:
            query = select(ActionRow.number).join(AttemptRow, AttemptRow.id == ActionRow.attempt_id)
            mine = query.where(AttemptRow.public_id == player.attempt)
            kept = set(connection.scalars(mine))
            lost += len(player.acknowledged - player.refused - kept)
    engine.dispose()
    return Outcome(
        attempts=len(players),
        acknowledged=sum(len(player.acknowledged) for player in players),
        lost=lost,
        unsaved=sum(len(player.outbox) for player in players),
        waited_s=max(player.longest_s for player in players),
        came_back=sum(player.connected - 1 for player in players),
    )


def players_at(addresses: list[str], many: int) -> list[Player]:
    """Begin attempts, one for each player."""
    script = acts("guitar", "unison")
    found = []
    for number in range(many):
        first = addresses[number % len(addresses) :] + addresses[: number % len(addresses)]
        found.append(Player(first, *begin(first[0], "guitar", "unison"), script))
    return found


async def broken(
    players: Sequence[Player], faults: Sequence[Callable[[], None]], *, pause_s: float
) -> None:
    """Let them play while one thing after the other is broken."""
    until_s = time.monotonic() + pause_s * (len(faults) + 1)
    playing = [asyncio.create_task(player.play(until_s)) for player in players]
    for fault in faults:
        await asyncio.sleep(pause_s * (0.5 + random.random()))
        await asyncio.to_thread(fault)
    await asyncio.gather(*playing)


def kills(rounds: int, *, players: int = 8, pause_s: float = 1.5, seed: int = 1) -> Outcome:
    """Kill the server and its database at random."""
    random.seed(seed)
    with tempfile.TemporaryDirectory(prefix="meldrin-faults-") as folder:
        server = Server(Path(folder), "--workers", "2")
        server.start()

        def kill_server() -> None:
            server.kill()
            server.start()

        def kill_worker() -> None:
            random.choice(server.workers()).kill()

        try:
            found = players_at([server.address], players)
            faults = random.choices([kill_server, kill_worker, server.kill_database], k=rounds)
            asyncio.run(broken(found, faults, pause_s=pause_s))
            url = _own_url(Path(folder))
            return outcome_of(found, url)
        finally:
            server.stop()


def cluster(*, players: int = 20, rounds: int = 6, pause_s: float = 4.0, seed: int = 1) -> Outcome:
    """Two application processes at different nodes of a cluster of three; nodes and processes are
    killed in turn and come back. In the end two nodes at once: saving waits until they are back.
    """
    random.seed(seed)
    with tempfile.TemporaryDirectory(prefix="meldrin-cluster-") as folder:
        Path(folder).chmod(0o755)  # as root, the nodes are another account's
        nodes = Cluster(_made(Path(folder) / "nodes"))
        servers: list[Server] = []
        try:
            nodes.start()
            for number in range(2):
                state = _made(Path(folder) / f"state{number}")
                servers.append(Server(state, database_url=nodes.url(number)))
                servers[-1].start()
            found = players_at([server.address for server in servers], players)

            def kill_node(number: int) -> None:
                nodes.nodes[number].kill()
                time.sleep(0.5 * pause_s)
                nodes.nodes[number].start()
                nodes.nodes[number].wait()

            def kill_server(number: int) -> None:
                servers[number].kill()
                time.sleep(0.5 * pause_s)
                servers[number].start()

            def lose_quorum() -> None:
                for number in (1, 2):
                    nodes.nodes[number].kill()
                time.sleep(pause_s)
                for number in (1, 2):
                    nodes.nodes[number].start()
                for number in (1, 2, 0):
                    nodes.nodes[number].wait()

            faults: list[Callable[[], None]] = []
            for turn in range(rounds - 1):
                number = turn // 2 % 2
                one = kill_node if turn % 2 == 0 else kill_server
                faults.append(lambda one=one, number=number: one(number))  # type: ignore[misc]
            faults.append(lose_quorum)
            asyncio.run(broken(found, faults, pause_s=pause_s))
            return outcome_of(found, nodes.url(2))
        finally:
            for server in servers:
                with contextlib.suppress(Exception):
                    server.stop()
            nodes.stop()


def _own_url(state: Path) -> str:
    from meldrin.store.mariadb import MariaDb

    return MariaDb(state / "database").start().url


def _made(folder: Path) -> Path:
    folder.mkdir()
    return folder
