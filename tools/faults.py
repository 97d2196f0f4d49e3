"""`./meldrin bench faults`: kills, greedy neighbours, a cluster that loses nodes, and many players;
what is lost and how long each waits. The tests run shorter ones of the same.
"""

import asyncio
import random
import tempfile
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Final

import psutil
from sqlalchemy import insert, select

from meldrin.core.bench import Exercise, TimedAction, Turn
from meldrin.services.attempts import import_attempt, start_attempt
from meldrin.services.identity import new_secret, welcome_guest
from meldrin.store.backup import back_up, restore
from meldrin.store.engine import Sessions, migrate, open_engine
from meldrin.store.mariadb import MariaDb
from meldrin.store.tables import ActionRow, AttemptRow
from tools.cluster import over_cluster
from tools.figures import Figure, machine
from tools.load import Load, acts, begin, run_players
from tools.neighbours import LONG, NEIGHBOURS, beside
from tools.players import SAVED_WITHIN_S, Player
from tools.server import Server, end_at_once

KEPT: Final = Path(__file__).resolve().parents[1] / "docs" / "FAULTS.md"
CROWDS: Final = (
    (30, 5.0, "p95 5 ms"),
    (100, 10.0, ""),
    (200, 5.0, "p99 60 ms"),
    (200, 10.0, "p99 150 ms"),
)


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
    playing = [asyncio.create_task(player.play()) for player in players]
    for fault in faults:
        await asyncio.sleep(pause_s * (0.5 + random.random()))
        await asyncio.to_thread(fault)
    await asyncio.sleep(pause_s)
    for player in players:
        player.ended = True
    _, waiting = await asyncio.wait(playing, timeout=SAVED_WITHIN_S)
    for one in waiting:
        one.cancel()


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
            end_at_once(random.choice(server.workers()))

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
    with over_cluster() as (nodes, servers):
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


def run_faults() -> int:
    """Break everything at length, print a table and write it into docs/FAULTS.md."""
    figures = [*_kills(), *_cluster(), *_neighbours(), *_crowds(), *_backup(), _memory(3600.0)]
    told = (
        "# Faults\n\nMeasured by `./meldrin bench faults`, which writes this file and takes two"
        f" hours.\n\n{datetime.now(UTC):%Y-%m-%d}, {machine()}.\n\n| what | measured | aim |\n"
        "| --- | --- | --- |\n"
        + "".join(f"| {one.what} | {one.measured} | {one.aim} |\n" for one in figures)
        + "\nPlayers, server and database share the two cores. A learner of a crowd does what a"
        " simulated learner\nwould, on a guitar with everything that instruments can do.\n"
    )
    print(told)
    KEPT.write_text(told, encoding="utf-8")
    return 0


def _kills() -> list[Figure]:
    found = kills(100)
    return [
        Figure(
            "Kills of server, workers and database while it is played: acknowledged actions lost",
            f"{found.lost} of {found.acknowledged:,} in 100 kills",
            "0",
        ),
        Figure("Longest from an action to its being saved, kills between", _s(found), ""),
    ]


def _cluster() -> list[Figure]:
    found = cluster(rounds=11)
    return [
        Figure(
            "Cluster of three nodes, two processes, each killed in turn, once without a majority:"
            " acknowledged actions lost",
            f"{found.lost} of {found.acknowledged:,} in 11 kills",
            "0",
        ),
        Figure("Longest from an action to its being saved, the majority lost", _s(found), ""),
    ]


def _neighbours() -> list[Figure]:
    figures = []
    for name, client in NEIGHBOURS.items():
        player, memory_mb = beside(name)
        about = (client.__doc__ or "").rstrip(".")
        what = f"{about}: longest save of somebody beside it; memory"
        measured = f"{1000.0 * player.longest_s:.0f} ms; {memory_mb:.0f} MB"
        figures.append(Figure(what, measured, "500 ms"))
    return figures


def _crowds() -> list[Figure]:
    figures = []
    for workers in (1, 2):
        for learners, per_s, aim in CROWDS:
            found = crowd(workers, learners, per_s)
            shares = ", ".join(
                f"{name} {cpu_s / found.lasted_s:.2f}" for name, cpu_s in found.cpu_s.items()
            )
            figures.append(
                Figure(
                    f"{learners} learners at {per_s:g}/s, workers: {workers}; answer p50, p95, p99;"
                    " cores",
                    f"{found.answer_ms(50):.1f}, {found.answer_ms(95):.1f},"
                    f" {found.answer_ms(99):.1f} ms; {shares}",
                    aim if workers == 2 or learners == 30 else "",
                )
            )
    for instrument, method, aim in (("guitar", "unison", "0.35 ms"), ("sitar", "each", "0.8 ms")):
        found = crowd(1, 80, 10.0, instrument=instrument, method=method)
        cost_ms = 1000.0 * found.cpu_s["workers"] / found.counted
        figures.append(
            Figure(f"An action costs a worker ({instrument}, everything)", f"{cost_ms:.2f} ms", aim)
        )
    return figures


def crowd(
    workers: int,
    learners: int,
    per_s: float,
    *,
    seconds: float = 15.0,
    instrument: str = "guitar",
    method: str = "unison",
) -> Load:
    """Let a crowd play at a server of its own."""
    with tempfile.TemporaryDirectory(prefix="meldrin-crowd-") as folder:
        server = Server(Path(folder), "--workers", str(workers))
        server.start()
        try:
            return run_players(
                server.address,
                learners,
                per_s=per_s,
                seconds=seconds,
                instrument=instrument,
                method=method,
                groups={
                    "workers": list(server.workers()),
                    "database": server.database(),
                    "players": [psutil.Process()],
                },
            )
        finally:
            server.stop()


def _memory(seconds: float) -> Figure:
    with tempfile.TemporaryDirectory(prefix="meldrin-memory-") as folder:
        server = Server(Path(folder), "--workers", "2")
        server.start()
        try:
            run_players(server.address, 30, per_s=2.0, seconds=seconds)
            measured = f"{server.memory_mb():.0f} MB"
        finally:
            server.stop()
    return Figure("Memory of a worker after an hour of 30 learners", measured, "200 MB")


def _backup() -> list[Figure]:
    """How long a backup and a restoring take for each GB of records."""
    with tempfile.TemporaryDirectory(prefix="meldrin-backup-") as folder:
        database = MariaDb(Path(folder) / "database")
        url = database.start().url
        try:
            engine = open_engine(url)
            migrate(engine)
            with Sessions(engine)() as session:
                actor = welcome_guest(session, secret=new_secret(), now=datetime.now(UTC))
                log = [TimedAction(0.5 * n, Turn(5, 0.2 if n % 2 else -0.2)) for n in range(LONG)]
                exercise = Exercise("guitar", "unison", "month", 3)
                import_attempt(session, actor, exercise, log, made=datetime.now(UTC))
                whole = session.scalars(select(AttemptRow)).one()
                for _ in range(80):
                    begun = start_attempt(session, actor, exercise, now=datetime.now(UTC))
                    copy = select(AttemptRow.id).where(AttemptRow.public_id == begun.id)
                    actions = select(
                        copy.scalar_subquery(), ActionRow.number, ActionRow.at_s, ActionRow.record
                    ).where(ActionRow.attempt_id == whole.id)
                    names = ["attempt_id", "number", "at_s", "record"]
                    session.execute(insert(ActionRow).from_select(names, actions))
                    session.commit()
            engine.dispose()
            tables = (Path(folder) / "database" / "data" / "meldrin").glob("*.ibd")
            size_gb = sum(one.stat().st_size for one in tables) / 1e9
            file = Path(folder) / "records.sql.gz"
            begun_s = time.perf_counter()
            back_up(url, file)
            made_s = time.perf_counter() - begun_s
            begun_s = time.perf_counter()
            restore(url, file, replace=True)
            restored_s = time.perf_counter() - begun_s
        finally:
            database.stop()
    return [
        Figure(
            f"Backup, checked, for each GB of records (measured on {size_gb:.2f} GB)",
            f"{made_s / size_gb:.0f} s",
            "",
        ),
        Figure("Restoring, for each GB of records", f"{restored_s / size_gb:.0f} s", ""),
    ]


def _s(found: Outcome) -> str:
    return f"{found.waited_s:.1f} s"


def _own_url(state: Path) -> str:
    return MariaDb(state / "database").start().url
