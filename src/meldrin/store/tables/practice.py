"""What is kept to see how a learner gets on, and what it is to do today."""

from datetime import datetime

from sqlalchemy import BigInteger, ForeignKey, Index, String
from sqlalchemy.dialects.mysql import LONGTEXT
from sqlalchemy.orm import Mapped, mapped_column

from meldrin.store.tables.base import OPTIONS, Table, UtcTime


class FigureRow(Table):
    """The figures of one finished attempt or sitting, as a record; attempt_id is None where they
    were brought in from elsewhere. `practice` says of which kind they are.
    """

    __tablename__ = "figures"
    __table_args__ = (Index(None, "learner_id", "at"), OPTIONS)

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    learner_id: Mapped[int] = mapped_column(ForeignKey("learners.id", ondelete="CASCADE"))
    attempt_id: Mapped[int | None] = mapped_column(
        ForeignKey("attempts.id", ondelete="CASCADE"), unique=True
    )
    practice: Mapped[str] = mapped_column(String(20))
    at: Mapped[datetime] = mapped_column(UtcTime)
    record: Mapped[str] = mapped_column(LONGTEXT)


class AimRow(Table):
    """What a learner wants to practise for, as a record."""

    __tablename__ = "aims"
    __table_args__ = OPTIONS

    learner_id: Mapped[int] = mapped_column(
        ForeignKey("learners.id", ondelete="CASCADE"), primary_key=True, autoincrement=False
    )
    record: Mapped[str] = mapped_column(LONGTEXT)


class ErasedRow(Table):
    """When an attempt or a sitting ended (or began, where it was left) that its learner has erased,
    and which of the two it was; nothing else of it is kept.
    """

    __tablename__ = "erased_attempts"
    __table_args__ = OPTIONS

    learner_id: Mapped[int] = mapped_column(
        ForeignKey("learners.id", ondelete="CASCADE"), primary_key=True, autoincrement=False
    )
    at: Mapped[datetime] = mapped_column(UtcTime, primary_key=True)
    practice: Mapped[str] = mapped_column(String(20))


class PathRow(Table):
    """Which steps a learner has shown, as a record.

    figures, newest: how many figures were looked at, and the newest one.
    steps: a check sum of the file of steps that they were held against.
    """

    __tablename__ = "paths"
    __table_args__ = OPTIONS

    learner_id: Mapped[int] = mapped_column(
        ForeignKey("learners.id", ondelete="CASCADE"), primary_key=True, autoincrement=False
    )
    figures: Mapped[int]
    newest: Mapped[int] = mapped_column(BigInteger)
    steps: Mapped[int] = mapped_column(BigInteger)
    record: Mapped[str] = mapped_column(LONGTEXT)


class TodayRow(Table):
    """A plan of what to do today: its items with what has become of them, as a record."""

    __tablename__ = "todays"
    __table_args__ = (Index(None, "learner_id", "created_at"), OPTIONS)

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    public_id: Mapped[str] = mapped_column(String(32, "utf8mb4_bin"), unique=True)
    learner_id: Mapped[int] = mapped_column(ForeignKey("learners.id", ondelete="CASCADE"))
    created_at: Mapped[datetime] = mapped_column(UtcTime)
    version: Mapped[int] = mapped_column(default=0, server_default="0")
    record: Mapped[str] = mapped_column(LONGTEXT)
