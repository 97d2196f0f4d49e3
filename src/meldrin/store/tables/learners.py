"""Learners, and what of the shared means each is using."""

from datetime import datetime

from sqlalchemy import BigInteger, ForeignKey, LargeBinary, String
from sqlalchemy.dialects.mysql import BINARY
from sqlalchemy.orm import Mapped, mapped_column

from meldrin.store.tables.base import OPTIONS, Table, UtcTime


class LearnerRow(Table):
    """A learner; so far always a guest, known by a secret of which only the digest is kept.

    version: raised by every transaction that counts what the learner has before adding to it.
        Over a cluster a lock guards nothing, a row that changes does.
    seen_at: when it was last here, to the day.
    """

    __tablename__ = "learners"
    __table_args__ = OPTIONS

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    secret_sha256: Mapped[bytes] = mapped_column(
        LargeBinary(32).with_variant(BINARY(32), "mysql", "mariadb"), unique=True
    )
    created_at: Mapped[datetime] = mapped_column(UtcTime)
    seen_at: Mapped[datetime] = mapped_column(UtcTime, index=True)
    version: Mapped[int] = mapped_column(default=0, server_default="0")


class UseRow(Table):
    """How often a learner has done what is limited, in the stretch of time that began then."""

    __tablename__ = "uses"
    __table_args__ = OPTIONS

    learner_id: Mapped[int] = mapped_column(
        ForeignKey("learners.id", ondelete="CASCADE"), primary_key=True
    )
    kind: Mapped[str] = mapped_column(String(20), primary_key=True)
    began_at: Mapped[datetime] = mapped_column(UtcTime, primary_key=True)
    count: Mapped[int]


class OpenLineRow(Table):
    """A line that a learner has open: one of so many places, held by a process until a moment that
    it puts off as long as it lives.
    """

    __tablename__ = "open_lines"
    __table_args__ = OPTIONS

    learner_id: Mapped[int] = mapped_column(
        ForeignKey("learners.id", ondelete="CASCADE"), primary_key=True
    )
    place: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    process: Mapped[str] = mapped_column(String(32, "utf8mb4_bin"), index=True)
    until: Mapped[datetime] = mapped_column(UtcTime)


class PulseRow(Table):
    """When a process last found that it can write."""

    __tablename__ = "pulses"
    __table_args__ = OPTIONS

    process: Mapped[str] = mapped_column(String(32, "utf8mb4_bin"), primary_key=True)
    at: Mapped[datetime] = mapped_column(UtcTime)
