"""What has to be done now and then: guests who are gone for good are erased, and counts that no
limit looks at any more, and rounds that are long over. Who has a name stays until they erase
themselves.
"""

import threading
from datetime import datetime, timedelta
from typing import Final

from sqlalchemy import ColumnElement, and_, delete, exists, or_, select
from sqlalchemy.orm import Session

from meldrin.services.rounds import KEPT_FOR, end_left
from meldrin.services.studios import erase_studio
from meldrin.store.engine import Sessions, in_transaction
from meldrin.store.tables import (
    AccountRow,
    AimRow,
    AttemptRow,
    AuditRow,
    FigureRow,
    InstrumentRow,
    InvitationRow,
    LearnerRow,
    MemberRow,
    OpenLineRow,
    PulseRow,
    RoundRow,
    SignInRow,
    StudioRow,
    Table,
    UseRow,
)

LEFT_EMPTY: Final = timedelta(days=7)  # a guest of whom nothing is kept
OLD: Final = timedelta(days=2)  # of counts and of processes that have ended
AT_ONCE: Final = 100
AUDITED: Final = timedelta(days=400)
KEPT: Final = (AttemptRow, InstrumentRow, FigureRow, AimRow, MemberRow)  # what somebody would miss


def tidy(
    sessions: Sessions,
    *,
    keep: timedelta,
    now: datetime,
    ended: threading.Event | None = None,
) -> int:
    """Erase what is over, each guest in a transaction of its own, and return how many guests that
    were.

    Args:
        keep: how long a guest's work is kept after the last visit.
        ended: when set, the rest is left for the next time.
    """
    empty = and_(*(~exists().where(table.learner_id == LearnerRow.id) for table in KEPT))
    nameless = ~exists().where(AccountRow.learner_id == LearnerRow.id)
    gone = or_(LearnerRow.seen_at < now - keep, and_(LearnerRow.seen_at < now - LEFT_EMPTY, empty))
    erased = 0
    while True:
        with sessions() as session:
            keys = session.scalars(select(LearnerRow.id).where(gone, nameless).limit(AT_ONCE)).all()
        for key in keys:
            if ended is not None and ended.is_set():
                return erased
            # who has come back meanwhile stays
            erased += _erase(sessions, LearnerRow, LearnerRow.id == key, gone, nameless)
        if len(keys) < AT_ONCE:
            break
    _end_studios(sessions, now=now)
    in_transaction(sessions, lambda session: end_left(session, now=now))
    _erase(sessions, RoundRow, RoundRow.moved_at < now - KEPT_FOR)
    _erase(sessions, InvitationRow, InvitationRow.until < now)
    _erase(sessions, AuditRow, AuditRow.at < now - AUDITED)
    _erase(sessions, SignInRow, SignInRow.ends_at < now)
    _erase(sessions, UseRow, UseRow.began_at < now - OLD)
    _erase(sessions, OpenLineRow, OpenLineRow.until < now - OLD)
    _erase(sessions, PulseRow, PulseRow.at < now - OLD)
    return erased


def _end_studios(sessions: Sessions, *, now: datetime) -> None:
    """Erase the studios for which that was asked a week ago."""

    def work(session: Session) -> None:
        for key in session.scalars(select(StudioRow.id).where(StudioRow.ending_at < now)).all():
            erase_studio(session, key)
        session.commit()

    in_transaction(sessions, work)


def _erase(sessions: Sessions, table: type[Table], *which: ColumnElement[bool]) -> int:
    def work(session: Session) -> int:
        done = session.execute(delete(table).where(*which))
        session.commit()
        return int(done.rowcount)  # type: ignore[attr-defined]

    return in_transaction(sessions, work)
