"""Twelve weeks of a pupil of the Skerrow Boathouse string school, on the school's guitar.

The pupil is simulated: an ear that gets better plays the real engine, with a seed. Every figure on
screen is computed from what it did.
"""

from datetime import datetime, timedelta

from sqlalchemy.orm import Session

from meldrin.core.bench import Setup, TimedAction
from meldrin.core.bench.setup import StartKind
from meldrin.core.learner import Ear, practise
from meldrin.services.attempts import (
    Batch,
    Numbered,
    append_actions,
    start_attempt,
    take_over,
)
from meldrin.services.identity import learner_id, welcome_guest

WEEKS = 12
HOLDER = "demo"
UNFINISHED_SEED = 90


def load_demo(session: Session, *, secret: str, now: datetime) -> None:
    """Load the pupil who is known by this secret, once; a second call changes nothing."""
    if learner_id(session, secret) is not None:
        return
    pupil = welcome_guest(session, secret=secret, now=now - timedelta(weeks=WEEKS))
    for week in range(WEEKS):
        done = now - timedelta(weeks=WEEKS - 1 - week, days=1, hours=week % 3)
        start: StartKind = ("month", "hair", "one")[week % 3]
        setup = Setup("guitar", "unison", start, seed=1000 + week)
        log = practise(setup, _ear(week), seed=week)
        _keep(session, pupil, setup, log, now=done)
    setup = Setup("guitar", "unison", "hair", seed=UNFINISHED_SEED)
    log = practise(setup, _ear(WEEKS), seed=UNFINISHED_SEED)
    _keep(session, pupil, setup, log[: len(log) // 2], now=now - timedelta(hours=2))


def _ear(week: int) -> Ear:
    """From beats of one a second called still down to a quarter, and smaller turns of the hand."""
    grown = week / WEEKS
    return Ear(
        stops_at_hz=1.0 - 0.75 * grown,
        spread=0.35 - 0.2 * grown,
        hand_deg=5.0 - 3.5 * grown,
        from_below=week >= 5,
    )


def _keep(
    session: Session, pupil: int, setup: Setup, log: list[TimedAction], *, now: datetime
) -> None:
    begun = start_attempt(
        session,
        learner=pupil,
        instrument=setup.instrument_id,
        method=setup.method,
        start=setup.start,
        a4_hz=setup.a4_hz,
        now=now,
        seed=setup.seed,
    )
    record = take_over(session, begun.id, learner=pupil, holder=HOLDER)
    actions = [Numbered(number, timed) for number, timed in enumerate(log, start=1)]
    ended = now + timedelta(seconds=log[-1].at_s)
    append_actions(session, [Batch(record.key, HOLDER, tuple(actions))], now=ended)
