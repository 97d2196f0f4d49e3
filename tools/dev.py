"""`./meldrin dev`: the demo's server, started again at every change of Python, and beside it the
page, which changes under the developer's eyes.
"""

import contextlib
import os
import signal
import subprocess
import sys
from datetime import UTC, datetime
from pathlib import Path

import uvicorn
from fastapi import FastAPI

from meldrin.demo.load import load_whole_demo
from meldrin.serve import demo_secret
from meldrin.server.app import create_app
from meldrin.settings import Settings
from meldrin.store.engine import migrate, open_engine
from meldrin.store.mariadb import MariaDb

ROOT = Path(__file__).resolve().parents[1]
STATE = ROOT / ".meldrin" / "dev"
SERVER_PORT = 8430
PAGE_PORT = 5173


def application() -> FastAPI:
    """Return the application, for the server that is started again at every change."""
    return create_app(Settings(), pages=None)


def develop() -> int:
    """Serve until Ctrl-C or SIGTERM; either ends all that was started."""
    signal.signal(signal.SIGTERM, signal.default_int_handler)
    STATE.mkdir(parents=True, exist_ok=True)
    database = MariaDb(STATE / "database")
    page = None
    try:
        url = database.start().url
        engine = open_engine(url)
        migrate(engine)
        secret, teacher = demo_secret(STATE), demo_secret(STATE, "teacher")
        load_whole_demo(engine, secret=secret, teacher=teacher, now=datetime.now(UTC))
        engine.dispose()
        os.environ.update(
            MELDRIN_DATABASE_URL=url, MELDRIN_DEMO_SECRET=secret, MELDRIN_DEMO_TEACHER=teacher
        )
        page = subprocess.Popen(
            ["npm", "--prefix", "web", "run", "--silent", "dev", "--", "--port", str(PAGE_PORT)],
            cwd=ROOT,
            start_new_session=True,  # what npm starts is ended with it
        )
        print(f"The page, new at every change: http://localhost:{PAGE_PORT}/enter/{secret}")
        sys.stdout.flush()
        uvicorn.run(
            "tools.dev:application",
            factory=True,
            port=SERVER_PORT,
            reload=True,
            reload_dirs=[str(ROOT / "src")],
            log_level="warning",
        )
    finally:
        if page is not None:
            with contextlib.suppress(ProcessLookupError):
                os.killpg(page.pid, signal.SIGTERM)
            page.wait(timeout=10)
        database.stop()
    return 0
