"""A year of somebody who practises every day: 50,000 trials and 2,000 attempts, and how long the
pages take that look back on it.
"""

import json
import secrets
import time
from collections.abc import Mapping, Sequence
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any, Final

import httpx2
from playwright.sync_api import sync_playwright
from sqlalchemy import Engine, insert, select
from sqlalchemy.orm import Session

from meldrin.serve import demo_secret
from meldrin.server.browser import COOKIE
from meldrin.store.engine import open_engine
from meldrin.store.mariadb import Access
from meldrin.store.tables import AttemptRow, FigureRow, ResultRow

TRIALS, IN_A_SITTING, ATTEMPTS = 50_000, 12, 2_000
HOW_MANY: Final = {"drills": TRIALS // IN_A_SITTING + 1, "bench": ATTEMPTS}
YEAR: Final = timedelta(days=365)
AT_ONCE: Final = 500
ROUNDS: Final = 7  # the quickest counts
PAGES: Final = {
    "Review, 4 weeks": "/api/progress?weeks=4",
    "Review, 12 weeks": "/api/progress?weeks=12",
    "list of attempts": "/api/attempts",
    "ear drills": "/api/drills",
    "plan of the day": "/api/today",
    "steps": "/api/path",
}


def load_year(state: Path) -> str:
    """Make a year of the demo's pupil out of what she has done, again and again; return her secret.

    Args:
        state: the folder of a demo that serves.
    """
    secret = demo_secret(state)
    engine = engine_of(state)
    try:
        with Session(engine) as session:
            for practice, count in HOW_MANY.items():
                _again_and_again(session, practice, count)
            session.commit()
    finally:
        engine.dispose()
    return secret


def engine_of(state: Path) -> Engine:
    """Return a way into the database of a server that serves from this folder."""
    access = Access(**json.loads((state / "database" / "access.json").read_text(encoding="utf-8")))
    return open_engine(access.url)


def _again_and_again(session: Session, practice: str, count: int) -> None:
    now = datetime.now(UTC)
    # nobody has been at a new demo before her
    learner = session.scalars(select(AttemptRow.learner_id).order_by(AttemptRow.id).limit(1)).one()
    done = (
        session.execute(
            select(AttemptRow.__table__)
            .where(AttemptRow.learner_id == learner, AttemptRow.practice == practice)
            .where(AttemptRow.finished_at.is_not(None))
        )
        .mappings()
        .all()
    )
    keys = [one["id"] for one in done]
    results = _by_attempt(session, ResultRow, keys)
    figures = _by_attempt(session, FigureRow, keys)
    attempts, of = [], []
    for n in range(count):
        like = done[n % len(done)]
        at = now - YEAR * (1.0 - n / count)
        attempts.append(
            {**like, "id": None, "public_id": secrets.token_hex(16), "created_at": at}
            | {"finished_at": at}
        )
        of.append((like["id"], at))
    _insert(session, AttemptRow, attempts)
    query = select(AttemptRow.public_id, AttemptRow.id).where(AttemptRow.learner_id == learner)
    made = {row.public_id: row.id for row in session.execute(query)}
    new = [made[one["public_id"]] for one in attempts]
    _insert(
        session,
        ResultRow,
        [
            {**results[old], "attempt_id": key}
            for key, (old, _) in zip(new, of, strict=True)
            if old in results
        ],
    )
    _insert(
        session,
        FigureRow,
        [
            {**figures[old], "id": None, "attempt_id": key, "at": at}
            for key, (old, at) in zip(new, of, strict=True)
            if old in figures
        ],
    )


def _by_attempt(session: Session, table: Any, keys: Sequence[int]) -> dict[int, dict[str, Any]]:
    rows = session.execute(select(table.__table__).where(table.attempt_id.in_(keys))).mappings()
    return {row["attempt_id"]: dict(row) for row in rows}


def _insert(session: Session, table: Any, rows: list[dict[str, Any]]) -> None:
    for begin in range(0, len(rows), AT_ONCE):
        session.execute(insert(table), rows[begin : begin + AT_ONCE])


def answers_s(address: str, secret: str, pages: Mapping[str, str] = PAGES) -> dict[str, float]:
    """Return how long the server takes for what each page asks, in seconds."""
    found = {}
    with httpx2.Client(base_url=address, trust_env=False) as client:
        client.cookies.set(COOKIE, secret)
        for name, path in pages.items():
            took = []
            for _ in range(ROUNDS):
                begun = time.perf_counter()
                client.get(path).raise_for_status()
                took.append(time.perf_counter() - begun)
                time.sleep(0.2)
            found[name] = min(took)
    return found


def usable_s(address: str, secret: str) -> float:
    """Return after how long Review can be used, in a browser that is open."""
    took: list[float] = []
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium",
            args=["--no-sandbox", "--disable-gpu", "--disable-background-networking"],
        )
        for _ in range(ROUNDS):
            context = browser.new_context(base_url=address)
            context.add_cookies([{"name": COOKIE, "value": secret, "url": address}])
            page = context.new_page()
            page.goto("/api/health")
            page.goto("/review")
            page.get_by_role("heading", name="Your attempts").wait_for()
            page.get_by_role("region", name="How you get on").get_by_role(
                "heading"
            ).first.wait_for()
            took.append(float(page.evaluate("performance.now()")) / 1000.0)
            context.close()
        browser.close()
    return min(took)
