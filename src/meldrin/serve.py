"""Starting everything for one checkout: MariaDB, migrations, demo data, the web server with one or
several workers.
"""

import fcntl
import gc
import ipaddress
import json
import os
import secrets
import shutil
import signal
import socket
import sys
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Final, TextIO

import psutil
import uvicorn
from fastapi import FastAPI
from uvicorn.supervisors import Multiprocess

from meldrin.core.errors import Code, MeldrinError
from meldrin.demo.load import load_whole_demo
from meldrin.ending import Ending
from meldrin.logs import log_settings, write_log
from meldrin.server.app import create_app
from meldrin.server.edge.metrics import FOLDER as FIGURES
from meldrin.settings import Settings
from meldrin.store.engine import MIGRATES_WITHIN_S, migrate, open_engine
from meldrin.store.keeper import Keeper
from meldrin.store.mariadb import MariaDb

ROOT = Path(__file__).resolve().parents[2]
STATE = Path(os.environ.get("MELDRIN_STATE", ROOT / ".meldrin"))
PAGES = ROOT / "web" / "dist"
USUAL_PORT: Final = 8430
PORTS_TRIED: Final = 20
STARTS_WITHIN_S: Final = 90.0
GONE_AFTER_MS: Final = 30_000  # a client that takes nothing for so long is cut off


@dataclass(frozen=True, slots=True)
class ServeOptions:
    """How to serve.

    host: the address to listen at. port: 0 for any; None for the usual one or the next free.
    workers: processes. names: under which it may be asked for, beside this machine's own.
    proxies: addresses of proxies whose word on where a request comes from is taken.
    certificate, key: files for https.
    """

    host: str = "127.0.0.1"
    port: int | None = None
    workers: int = 1
    names: tuple[str, ...] = ()
    proxies: tuple[str, ...] = ()
    certificate: str | None = None
    key: str | None = None
    demo: bool = False


class Serving(uvicorn.Server):
    """A server that says when it serves."""

    def __init__(self, config: uvicorn.Config, *, ready: Callable[[], None]) -> None:
        super().__init__(config)
        self._ready = ready

    async def startup(self, sockets: list[socket.socket] | None = None) -> None:
        """Start to serve, and say so."""
        await super().startup(sockets=sockets)
        if self.started:
            self._ready()

    def stop(self) -> None:
        """Stop serving, in order."""
        self.should_exit = True


class Workers(Multiprocess):
    """Several servers on one socket, each started again if it dies; says when all of them serve."""

    def __init__(
        self, config: uvicorn.Config, sockets: list[socket.socket], *, ready: Callable[[], None]
    ) -> None:
        super().__init__(config, sockets)
        self._ready = ready

    def init_processes(self) -> None:
        """Start them all."""
        super().init_processes()
        if all(one.wait_until_ready(STARTS_WITHIN_S, self.should_exit) for one in self.processes):
            self._ready()

    def stop(self) -> None:
        """Stop them all, in order."""
        self.should_exit.set()


def application() -> FastAPI:
    """Return the application of one worker, set by its environment."""
    sys.setswitchinterval(0.0005)
    gc.set_threshold(50_000, 20, 50)  # what an action leaves behind is freed without a search
    parent = os.environ.get("MELDRIN_PARENT")
    if parent and os.getppid() == int(parent):
        for one in (signal.SIGHUP, signal.SIGQUIT):  # its parent takes these and ends it in order
            signal.signal(one, signal.SIG_IGN)
        threading.Thread(target=_end_with_parent, daemon=True).start()
    return create_app(Settings(), pages=PAGES)


def _end_with_parent() -> None:
    parent = os.getppid()
    while os.getppid() == parent:
        time.sleep(0.5)
    os.kill(os.getpid(), signal.SIGTERM)


def serve(wanted: ServeOptions, ending: Ending) -> int:
    """Start what is not running yet, print the address, and serve until Ctrl-C."""
    STATE.mkdir(exist_ok=True)
    with (STATE / "serving.json").open("a+") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            print(f"Meldrin runs already. Open {_address_in(lock)}")
            return 0
        lock.truncate(0)  # what stands there is of a start that is over
        try:
            return _serve_alone(lock, wanted, ending)
        finally:
            lock.truncate(0)


def _address_in(lock: TextIO) -> str:
    """Return the address at which the server that holds this checkout is, or will be in a moment.

    Raises:
        MeldrinError: code ``port``, where it does not come so far.
    """
    deadline = time.monotonic() + STARTS_WITHIN_S
    while time.monotonic() < deadline:
        lock.seek(0)
        try:
            return str(json.load(lock)["address"])
        except (ValueError, KeyError):
            time.sleep(0.1)
    raise MeldrinError(Code.PORT, "Meldrin is being started here, but does not come to serve.")


def _serve_alone(lock: TextIO, wanted: ServeOptions, ending: Ending) -> int:
    settings = Settings()
    write_log(settings.log)
    keeper = None
    try:
        # the port first: that it is taken is said at once
        listening = listen(wanted.host, wanted.port)
        if not settings.database_url:
            keeper = Keeper(MariaDb(STATE / "database"))
            url, folder = keeper.start().url, str(STATE / "database" / "data")
            settings = settings.model_copy(update={"database_url": url, "folder": folder})
        engine = open_engine(settings.database_url, answers_within_s=MIGRATES_WITHIN_S)
        migrate(engine)
        if wanted.demo:
            pupil, teacher = demo_secret(STATE), demo_secret(STATE, "teacher")
            settings = settings.model_copy(update={"demo_secret": pupil, "demo_teacher": teacher})
            load_whole_demo(
                engine,
                secret=pupil,
                teacher=teacher,
                now=datetime.now(UTC),
            )
        engine.dispose()
        hosts = settings.hosts or ",".join(names_of(wanted.host, wanted.names))
        _hand_over(settings.model_copy(update={"hosts": hosts}))
        address = _address(wanted, listening)

        def ready() -> None:
            json.dump({"address": address, "pid": os.getpid()}, lock)
            lock.flush()
            _announce(address, wanted, settings)

        _run(_config(wanted, settings), listening, ready, ending)
    finally:
        if keeper is not None:
            keeper.stop()
    return ending.code


def _run(
    config: uvicorn.Config, listening: socket.socket, ready: Callable[[], None], ending: Ending
) -> None:
    if config.workers > 1:
        workers = Workers(config, [listening], ready=ready)
        ending.instead(workers.stop)
        workers.run()
    else:
        server = Serving(config, ready=ready)
        ending.instead(server.stop)
        server.run(sockets=[listening])


def _config(wanted: ServeOptions, settings: Settings) -> uvicorn.Config:
    return uvicorn.Config(
        "meldrin.serve:application",
        factory=True,
        workers=wanted.workers,
        http="meldrin.server.edge.patience:Patient",
        ws_max_size=16_384,
        ws_per_message_deflate=False,  # squeezing a message costs more time than sending it
        proxy_headers=bool(wanted.proxies),
        forwarded_allow_ips=list(wanted.proxies),
        server_header=False,
        ssl_certfile=wanted.certificate,
        ssl_keyfile=wanted.key,
        timeout_graceful_shutdown=3,
        log_config=log_settings(settings.log),
        access_log=False,
    )


def _hand_over(settings: Settings) -> None:
    """Put the settings where the workers find them."""
    os.environ.update(
        {f"MELDRIN_{name.upper()}": str(value) for name, value in settings.model_dump().items()}
    )
    os.environ["MELDRIN_PARENT"] = str(os.getpid())
    figures = STATE / "figures"
    shutil.rmtree(figures, ignore_errors=True)
    figures.mkdir()
    os.environ[FIGURES] = str(figures)


def names_of(host: str, names: tuple[str, ...]) -> list[str]:
    """Return the names and addresses under which a server at this address may be asked for."""
    found = ["localhost", "127.0.0.1", *names]
    if _is_everywhere(host):
        found += [socket.gethostname(), *_addresses()]
    elif host not in found:
        found.append(host)
    return found


def _is_everywhere(host: str) -> bool:
    """Return whether a server at this address listens at all that the machine has."""
    try:
        return ipaddress.ip_address(host).is_unspecified
    except ValueError:  # a name
        return False


def _addresses() -> list[str]:
    return [
        one.address
        for found in psutil.net_if_addrs().values()
        for one in found
        if one.family == socket.AF_INET and not one.address.startswith("127.")
    ]


def _address(wanted: ServeOptions, listening: socket.socket) -> str:
    scheme = "https" if wanted.certificate else "http"
    host = "127.0.0.1" if _is_everywhere(wanted.host) else wanted.host
    return f"{scheme}://{host}:{listening.getsockname()[1]}"


def _announce(address: str, wanted: ServeOptions, settings: Settings) -> None:
    print(f"Meldrin is ready. Open {address}")
    if settings.demo_secret:
        print(f"A pupil with twelve weeks behind her: {address}/enter/{settings.demo_secret}")
        print(f"Her teacher, with nine pupils: {address}/enter/{settings.demo_teacher}")
    scheme, port = address.split("//")[0], address.rpartition(":")[2]
    if _is_everywhere(wanted.host):
        for other in (*wanted.names, *_addresses()):
            print(f"From other machines: {scheme}//{other}:{port}")
        if not wanted.certificate and not wanted.proxies:
            print("Browsers there play no sound without https: see docs/DEPLOY.md.")
    print("Ctrl-C stops it.")
    sys.stdout.flush()


def demo_secret(state: Path, who: str = "") -> str:
    """Return the secret that lets its holder look as the demo's pupil, or be its teacher; made
    once, and kept.
    """
    kept = state / f"demo-secret{who and '-'}{who}"
    if not kept.exists():
        kept.touch(mode=0o600)
        kept.write_text(secrets.token_urlsafe(12))
    return kept.read_text()


def listen(host: str, port: int | None) -> socket.socket:
    """Return a listening socket; without a port on the usual one or one of the next that is free.

    Raises:
        MeldrinError: code ``port``, where the port cannot be had.
    """
    if port is not None and not 0 <= port <= 65_500:
        raise MeldrinError(Code.PORT, f"Port {port} is not one; choose 0 (any) to 65500.")
    first = USUAL_PORT if port is None else port
    last = first + PORTS_TRIED - 1 if port is None else first
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    reason = ""
    for wanted in range(first, last + 1):
        listening = socket.socket(family)
        listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        listening.setsockopt(socket.IPPROTO_TCP, socket.TCP_USER_TIMEOUT, GONE_AFTER_MS)
        try:
            listening.bind((host, wanted))
            listening.listen(2048)
        except OSError as error:
            listening.close()
            reason = error.strerror or str(error)
            continue
        listening.set_inheritable(True)
        return listening
    tried = f"Port {first}" if first == last else f"Every port from {first} to {last}"
    raise MeldrinError(
        Code.PORT, f"{tried} cannot be had at {host}: {reason}. Choose another with --port."
    )
