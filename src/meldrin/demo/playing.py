"""Attempts that simulated learners have played, kept as if they had been played over a line."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any, Final

from sqlalchemy.orm import Session

from meldrin.core.session import Timed
from meldrin.services.attempts import Batch, Numbered, append_actions

HOLDER: Final = "demo"


def append(
    session: Session,
    key: int,
    log: Sequence[Timed[Any]],
    *,
    ended: datetime,
    practice: str = "bench",
) -> None:
    """Add the actions of an attempt that this demo holds."""
    actions = [Numbered(number, timed) for number, timed in enumerate(log, start=1)]
    append_actions(session, [Batch(key, HOLDER, tuple(actions), practice)], now=ended)
