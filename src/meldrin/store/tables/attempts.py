"""Attempts at any kind of practice, their actions, and their results."""

from datetime import datetime

from sqlalchemy import BigInteger, Double, ForeignKey, Index, String
from sqlalchemy.dialects.mysql import LONGTEXT
from sqlalchemy.orm import Mapped, mapped_column

from meldrin.store.tables.base import OPTIONS, Table, UtcTime


class AttemptRow(Table):
    """An attempt: its exercise as a record, which holds the instrument's data too, and the columns
    that lists are filtered by and show.

    practice: its kind, such as “bench”.
    title: what its learner calls it, or None for what its exercise is called.
    state: “open” or “finished”.
    points, accuracy: of its result; accuracy is how far off the strings were in the middle, in
        cents.
    holder: the tab that plays it.
    version: raised by every write of its actions, so that of two that take place at two nodes of a
        cluster only one holds.
    """

    __tablename__ = "attempts"
    __table_args__ = (
        Index(None, "learner_id", "created_at"),
        Index(None, "learner_id", "practice", "created_at"),
        # These two are read without the large rows: what was tuned last on each instrument, and
        # what a start looks for.
        Index(None, "learner_id", "practice", "state", "instrument", "method"),
        Index(None, "practice", "state", "engine"),
        OPTIONS,
    )

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    public_id: Mapped[str] = mapped_column(String(32, "utf8mb4_bin"), unique=True)
    learner_id: Mapped[int] = mapped_column(ForeignKey("learners.id", ondelete="CASCADE"))
    practice: Mapped[str] = mapped_column(String(20))
    instrument: Mapped[str] = mapped_column(String(40))
    tuning: Mapped[str] = mapped_column(String(200))
    method: Mapped[str] = mapped_column(String(20))
    start: Mapped[str] = mapped_column(String(20))
    title: Mapped[str | None] = mapped_column(String(80))
    state: Mapped[str] = mapped_column(String(10))
    engine: Mapped[int]
    exercise: Mapped[str] = mapped_column(LONGTEXT)
    created_at: Mapped[datetime] = mapped_column(UtcTime)
    finished_at: Mapped[datetime | None] = mapped_column(UtcTime)
    points: Mapped[float | None] = mapped_column(Double)
    accuracy: Mapped[float | None] = mapped_column(Double)
    holder: Mapped[str | None] = mapped_column(String(64, "utf8mb4_bin"))
    version: Mapped[int] = mapped_column(default=0, server_default="0")


class ResultRow(Table):
    """The score of a finished attempt by one version of the engine, computed once: the whole of it
    as a record, and what lists show of it. `aid`: the help that gave most away. `technique`: the
    share of its points.
    """

    __tablename__ = "results"
    __table_args__ = OPTIONS

    attempt_id: Mapped[int] = mapped_column(
        ForeignKey("attempts.id", ondelete="CASCADE"), primary_key=True
    )
    engine: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    points: Mapped[float | None] = mapped_column(Double)
    aid: Mapped[str] = mapped_column(String(16))
    median_cents: Mapped[float | None] = mapped_column(Double)
    worst_cents: Mapped[float | None] = mapped_column(Double)
    worst: Mapped[str] = mapped_column(String(64))
    by_ear: Mapped[int]
    by_ear_of: Mapped[int]
    technique: Mapped[float | None] = mapped_column(Double)
    sides_right: Mapped[int] = mapped_column(server_default="0")
    sides_of: Mapped[int] = mapped_column(server_default="0")
    record: Mapped[str] = mapped_column(LONGTEXT)


class ActionRow(Table):
    """One action of an attempt. `number` is the browser's own count, rising but not always by 1."""

    __tablename__ = "actions"
    __table_args__ = OPTIONS

    attempt_id: Mapped[int] = mapped_column(
        ForeignKey("attempts.id", ondelete="CASCADE"), primary_key=True
    )
    number: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    at_s: Mapped[float] = mapped_column(Double)
    record: Mapped[str] = mapped_column(LONGTEXT)
