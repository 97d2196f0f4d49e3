"""The tables. Every row belongs, directly or through its attempt, to one learner."""

from datetime import UTC, datetime

from sqlalchemy import (
    BigInteger,
    Dialect,
    Double,
    ForeignKey,
    Index,
    LargeBinary,
    MetaData,
    String,
)
from sqlalchemy.dialects.mysql import BINARY, DATETIME, LONGTEXT
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column
from sqlalchemy.types import TypeDecorator

NAMES = {
    "ix": "ix_%(table_name)s_%(column_0_N_name)s",
    "uq": "uq_%(table_name)s_%(column_0_N_name)s",
    "fk": "fk_%(table_name)s_%(column_0_N_name)s",
    "pk": "pk_%(table_name)s",
}
OPTIONS = {
    "mysql_engine": "InnoDB",
    "mysql_charset": "utf8mb4",
    "mysql_collate": "utf8mb4_unicode_ci",
}


class UtcTime(TypeDecorator[datetime]):
    """A moment, to the microsecond; always UTC in the database, always aware outside of it."""

    impl = DATETIME(fsp=6)
    cache_ok = True

    def process_bind_param(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        if value is not None and value.tzinfo is None:
            raise ValueError("a moment needs its time zone")
        return None if value is None else value.astimezone(UTC).replace(tzinfo=None)

    def process_result_value(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        return None if value is None else value.replace(tzinfo=UTC)


class Table(DeclarativeBase):
    metadata = MetaData(naming_convention=NAMES)


class LearnerRow(Table):
    """A learner; so far always a guest, known by a secret of which only the digest is kept."""

    __tablename__ = "learners"
    __table_args__ = OPTIONS

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    secret_sha256: Mapped[bytes] = mapped_column(
        LargeBinary(32).with_variant(BINARY(32), "mysql", "mariadb"), unique=True
    )
    created_at: Mapped[datetime] = mapped_column(UtcTime)


class AttemptRow(Table):
    """An attempt: its setup as a record, and what the list of it shows. `holder` is the tab that
    plays it.
    """

    __tablename__ = "attempts"
    __table_args__ = (Index(None, "learner_id", "created_at"), OPTIONS)

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    public_id: Mapped[str] = mapped_column(String(32, "utf8mb4_bin"), unique=True)
    learner_id: Mapped[int] = mapped_column(ForeignKey("learners.id", ondelete="CASCADE"))
    engine: Mapped[int]
    setup: Mapped[str] = mapped_column(LONGTEXT)
    created_at: Mapped[datetime] = mapped_column(UtcTime)
    finished_at: Mapped[datetime | None] = mapped_column(UtcTime)
    points: Mapped[float | None] = mapped_column(Double)
    holder: Mapped[str | None] = mapped_column(String(64, "utf8mb4_bin"))


class ResultRow(Table):
    """The score of a finished attempt, computed once by one version of the engine: the whole of it
    as a record, and what lists show of it. `aid`: the help that gave most away.
    """

    __tablename__ = "results"
    __table_args__ = OPTIONS

    attempt_id: Mapped[int] = mapped_column(
        ForeignKey("attempts.id", ondelete="CASCADE"), primary_key=True
    )
    engine: Mapped[int]
    points: Mapped[float | None] = mapped_column(Double)
    aid: Mapped[str] = mapped_column(String(16))
    median_cents: Mapped[float | None] = mapped_column(Double)
    worst_cents: Mapped[float | None] = mapped_column(Double)
    worst: Mapped[str] = mapped_column(String(64))
    by_ear: Mapped[int]
    by_ear_of: Mapped[int]
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
