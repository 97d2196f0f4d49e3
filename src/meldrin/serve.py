"""Starting everything for one checkout: MariaDB, migrations, demo data, the web server."""

import fcntl
import json
import os
import secrets
import socket
import sys
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from typing import TextIO

import uvicorn

from meldrin.core.errors import Code, MeldrinError
from meldrin.demo.load import load_demo
from meldrin.ending import Ending
from meldrin.server.app import create_app
from meldrin.services.results import Results
from meldrin.settings import Settings
from meldrin.store.engine import Sessions, migrate, open_engine
from meldrin.store.mariadb import MariaDb

ROOT = Path(__file__).resolve().parents[2]
STATE = Path(os.environ.get("MELDRIN_STATE", ROOT / ".meldrin"))
PAGES = ROOT / "web" / "dist"
HOST = "127.0.0.1"


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


def serve(*, port: int, demo: bool, ending: Ending) -> int:
    """Start what is not running yet, print the address, and serve until Ctrl-C."""
    STATE.mkdir(exist_ok=True)
    with (STATE / "serving.json").open("a+") as lock:
        running = _claim(lock)
        if running is not None:
            print(f"Meldrin runs already. Open {running}")
            return 0
        return _serve_alone(lock, port=port, demo=demo, ending=ending)


def _claim(lock: TextIO) -> str | None:
    """Return the address of the server that holds this checkout, or None and hold it."""
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        lock.seek(0)
        try:
            return str(json.load(lock)["address"])
        except (ValueError, KeyError):
            return "the address it is about to print"
    return None


def _serve_alone(lock: TextIO, *, port: int, demo: bool, ending: Ending) -> int:
    settings = Settings()
    own = MariaDb(STATE / "database")
    try:
        if not settings.database_url:
            settings = settings.model_copy(update={"database_url": own.start().url})
        engine = open_engine(settings.database_url)
        migrate(engine)
        if demo:
            settings = settings.model_copy(update={"demo_secret": demo_secret(STATE)})
            with Sessions(engine)() as session:
                load_demo(session, secret=settings.demo_secret, now=datetime.now(UTC))
        Results(Sessions(engine)).catch_up()
        engine.dispose()
        listening = listen(port)
        address = f"http://{HOST}:{listening.getsockname()[1]}"
        lock.seek(0)
        lock.truncate()
        json.dump({"address": address, "pid": os.getpid()}, lock)
        lock.flush()
        sys.setswitchinterval(0.0005)
        config = uvicorn.Config(
            create_app(settings, pages=PAGES),
            log_level="warning",
            ws_max_size=16_384,
            timeout_graceful_shutdown=3,
        )
        server = Serving(config, ready=lambda: _announce(address, settings))
        ending.instead(server.stop)
        server.run(sockets=[listening])
    finally:
        own.stop()
    return ending.code


def _announce(address: str, settings: Settings) -> None:
    print(f"Meldrin is ready. Open {address}")
    if settings.demo_secret:
        print(f"A pupil with twelve weeks behind her: {address}/enter/{settings.demo_secret}")
    print("Ctrl-C stops it.")
    sys.stdout.flush()


def demo_secret(state: Path) -> str:
    """Return the secret that lets its holder look as the demo's pupil; made once, and kept."""
    kept = state / "demo-secret"
    if not kept.exists():
        kept.touch(mode=0o600)
        kept.write_text(secrets.token_urlsafe(12))
    return kept.read_text()


def listen(port: int) -> socket.socket:
    """Return a listening socket on the port, or on one of the next twenty that is free."""
    if not 0 <= port <= 65_500:
        raise MeldrinError(Code.PORT, f"Port {port} is not one; choose 0 (any) to 65500.")
    for wanted in range(port, port + 20):
        listening = socket.socket()
        listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            listening.bind((HOST, wanted))
        except OSError:
            listening.close()
            continue
        listening.listen(128)
        return listening
    raise MeldrinError(Code.PORT, f"Ports {port} to {port + 19} are all taken; choose with --port.")
