"""A Galera cluster of MariaDB from Debian's packages on this machine, to be broken."""

import contextlib
import os
import pwd
import shutil
import socket
import subprocess
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Final

import psutil
import pymysql

from tools.debian import from_package
from tools.server import Server

NAME: Final = "meldrin"
PASSWORD: Final = "only-on-loopback"  # noqa: S105
SYNCED_WITHIN_S: Final = 60.0
# How soon a node that does not answer is left out, so that the others wait a second or two.
SUSPICIOUS: Final = (
    "evs.keepalive_period=PT0.2S;evs.inactive_check_period=PT0.2S;evs.suspect_timeout=PT1S;"
    "evs.inactive_timeout=PT3S;evs.install_timeout=PT3S;gmcast.peer_timeout=PT1S"
)


class Node:
    """One server of the cluster, with folders and ports of its own."""

    def __init__(
        self,
        folder: Path,
        number: int,
        ports: list[list[int]],
        account: str,
        *,
        provider: Path,
        scripts: Path,
    ) -> None:
        self.port = ports[number][0]
        self._folder = folder / str(number)
        self._number = number
        self._ports = ports
        self._account = account
        self._provider = provider
        self._scripts = scripts
        self._process: psutil.Popen | None = None
        for one in (self._folder, self._folder / "data", self._folder / "tmp"):
            one.mkdir()
            _give(one, account)

    def start(self, *, first: bool = False) -> None:
        """Start it; `first`: as the one that the cluster begins with."""
        port, group, part, transfer = self._ports[self._number]
        here = "127.0.0.1"
        options = (
            f"gmcast.listen_addr=tcp://{here}:{group};ist.recv_addr={here}:{part};"
            f"ist.recv_bind={here}:{part};gcache.size=64M;gcache.recover=yes;{SUSPICIOUS}"
        )
        others = ",".join(f"{here}:{one[1]}" for one in self._ports)
        command = [
            "mariadbd",
            "--no-defaults",
            f"--user={self._account}",
            f"--datadir={self._folder / 'data'}",
            f"--tmpdir={self._folder / 'tmp'}",
            f"--port={port}",
            f"--bind-address={here}",
            f"--socket={self._folder / 's.sock'}",
            f"--pid-file={self._folder / 'pid'}",
            f"--log-error={self._folder / 'log'}",
            "--innodb-buffer-pool-size=32M",
            "--max-connections=200",
            "--binlog-format=ROW",
            "--default-storage-engine=InnoDB",
            "--innodb-autoinc-lock-mode=2",
            "--wsrep-on=ON",
            f"--wsrep-provider={self._provider}",
            f"--wsrep-cluster-name={NAME}",
            f"--wsrep-node-name={self._number}",
            f"--wsrep-cluster-address=gcomm://{others}",
            f"--wsrep-node-address={here}:{group}",
            f"--wsrep-node-incoming-address={here}:{port}",
            "--wsrep-sst-method=rsync",
            f"--wsrep-sst-receive-address={here}:{transfer}",
            f"--wsrep-provider-options={options}",
        ]
        if first:
            command.append("--wsrep-new-cluster")
            grants = self._folder / "grants.sql"
            grants.write_text(
                f"CREATE DATABASE IF NOT EXISTS {NAME} CHARACTER SET utf8mb4"
                " COLLATE utf8mb4_unicode_ci;\n"
                f"CREATE OR REPLACE USER '{NAME}'@'127.0.0.1' IDENTIFIED BY '{PASSWORD}';\n"
                f"GRANT ALL ON *.* TO '{NAME}'@'127.0.0.1';\n"
            )
            _give(grants, self._account)
            command.append(f"--init-file={grants}")
        self._process = psutil.Popen(
            command,
            env={**os.environ, "PATH": f"{self._scripts}:{os.environ['PATH']}"},
            stdin=subprocess.DEVNULL,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            start_new_session=True,
        )

    def install(self) -> None:
        """Make its data folder."""
        done = subprocess.run(
            [
                "mariadb-install-db",
                "--no-defaults",
                f"--datadir={self._folder / 'data'}",
                f"--user={self._account}",
                "--auth-root-authentication-method=normal",
                "--skip-test-db",
                "--skip-name-resolve",
            ],
            capture_output=True,
            text=True,
            check=False,
        )
        if done.returncode != 0:
            raise RuntimeError(done.stdout + done.stderr)

    def wait(self) -> None:
        """Wait until it serves with the others; start it again where its transfer failed."""
        deadline = time.monotonic() + SYNCED_WITHIN_S
        while self.state() != "Synced":
            if time.monotonic() > deadline:
                raise TimeoutError(f"node {self._number}: {self.state()!r}\n{self.log()}")
            if self._process is not None and self._process.poll() is not None:
                self.start()
            time.sleep(0.1)

    def state(self) -> str:
        """Return what it says of itself: “Synced” where it serves."""
        try:
            with (
                pymysql.connect(
                    host="127.0.0.1",
                    port=self.port,
                    user=NAME,
                    password=PASSWORD,
                    connect_timeout=1,
                    read_timeout=2,
                ) as connection,
                connection.cursor() as cursor,
            ):
                cursor.execute("SHOW STATUS LIKE 'wsrep_local_state_comment'")
                found = cursor.fetchone()
                return "" if found is None else str(found[1])
        except (pymysql.MySQLError, OSError):
            return ""

    def kill(self) -> None:
        """End it at once, as a power failure would."""
        if self._process is not None:
            for one in (*self._process.children(recursive=True), self._process):
                one.kill()
            self._process.wait()
            self._process = None

    def log(self) -> str:
        """Return the end of its log."""
        file = self._folder / "log"
        return file.read_text(errors="replace")[-1500:] if file.exists() else ""


class Cluster:
    """Three nodes; `url(n)` is for an application that prefers node n."""

    def __init__(self, folder: Path) -> None:
        folder.chmod(0o755)
        # into the folder of the nodes: their account may not be able to look into this checkout
        scripts = folder / "scripts"
        scripts.mkdir()
        for one in from_package("mariadb-server", "usr/bin/wsrep_sst_rsync").parent.glob("wsrep_*"):
            shutil.copy(one, scripts)
        library = from_package("galera-4", "usr/lib/galera/libgalera_smm.so")
        provider = Path(shutil.copy(library, folder))
        # as root, rsync's daemon gives up its rights and cannot write
        account = "nobody" if os.getuid() == 0 else pwd.getpwuid(os.getuid()).pw_name
        ports = [[_free_port() for _ in range(4)] for _ in range(3)]
        self.nodes = [
            Node(folder, number, ports, account, provider=provider, scripts=scripts)
            for number in range(3)
        ]

    def start(self) -> None:
        """Start all three and wait until they serve together."""
        self.nodes[0].install()
        self.nodes[0].start(first=True)
        self.nodes[0].wait()
        for node in self.nodes[1:]:
            node.start()
            node.wait()

    def url(self, preferred: int) -> str:
        """Return the address of the database, beginning with one node."""
        order = [self.nodes[(preferred + n) % 3] for n in range(3)]
        hosts = "&".join(f"host=127.0.0.1:{node.port}" for node in order)
        return f"mariadb+pymysql://{NAME}:{PASSWORD}@/{NAME}?{hosts}"

    def stop(self) -> None:
        """End all of it."""
        for node in self.nodes:
            node.kill()


@contextlib.contextmanager
def over_cluster() -> Iterator[tuple[Cluster, list[Server]]]:
    """Let two application processes serve, each at a node of its own of a cluster of three."""
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
            yield nodes, servers
        finally:
            for server in servers:
                with contextlib.suppress(Exception):
                    server.stop()
            nodes.stop()


def _made(folder: Path) -> Path:
    folder.mkdir()
    return folder


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def _give(path: Path, account: str) -> None:
    if os.getuid() == 0:
        shutil.chown(path, account)
