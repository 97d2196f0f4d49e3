"""Rounds with a class: what is asked, where each stands, who judges, and what they said. All of it
is here and nothing in a process, so that any process can serve any screen.
"""

from datetime import datetime

from sqlalchemy import BigInteger, ForeignKey, Index, String, UniqueConstraint
from sqlalchemy.dialects.mysql import LONGTEXT
from sqlalchemy.orm import Mapped, mapped_column

from meldrin.store.tables.base import OPTIONS, Table, UtcTime


class RoundRow(Table):
    """A round.

    code: lets people in, or None once it is over.
    record: the series as a record.
    stage: “gathering”, “asked”, “told” or “over”; number: of the question, from 1, or 0.
    plays: how often the question has been played to the room.
    version: raised by every move; who moves says from which one.
    """

    __tablename__ = "rounds"
    __table_args__ = (Index(None, "studio_id", "moved_at"), OPTIONS)

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    public_id: Mapped[str] = mapped_column(String(32, "utf8mb4_bin"), unique=True)
    studio_id: Mapped[int] = mapped_column(ForeignKey("studios.id", ondelete="CASCADE"))
    code: Mapped[str | None] = mapped_column(String(12, "utf8mb4_bin"), unique=True)
    record: Mapped[str] = mapped_column(LONGTEXT)
    stage: Mapped[str] = mapped_column(String(10))
    number: Mapped[int]
    plays: Mapped[int]
    version: Mapped[int]
    moved_at: Mapped[datetime] = mapped_column(UtcTime, index=True)


class RoundSeatRow(Table):
    """Somebody who judges in a round: a learner's browser, at which up to four sit.

    place: of those at one browser, from 1.
    until: the browser is there until then, unless it says so again.
    """

    __tablename__ = "round_seats"
    __table_args__ = (UniqueConstraint("round_id", "learner_id", "place"), OPTIONS)

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    round_id: Mapped[int] = mapped_column(ForeignKey("rounds.id", ondelete="CASCADE"))
    learner_id: Mapped[int] = mapped_column(ForeignKey("learners.id", ondelete="CASCADE"))
    place: Mapped[int]
    until: Mapped[datetime] = mapped_column(UtcTime)


class RoundAnswerRow(Table):
    """What somebody said to a question, from 1: the answer from 0, and how sure, or None."""

    __tablename__ = "round_answers"
    __table_args__ = (Index(None, "round_id", "number"), OPTIONS)

    seat_id: Mapped[int] = mapped_column(
        ForeignKey("round_seats.id", ondelete="CASCADE"), primary_key=True, autoincrement=False
    )
    number: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    round_id: Mapped[int] = mapped_column(ForeignKey("rounds.id", ondelete="CASCADE"))
    answer: Mapped[int]
    sure: Mapped[str | None] = mapped_column(String(10))
