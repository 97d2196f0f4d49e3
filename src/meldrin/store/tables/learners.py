"""Learners."""

from datetime import datetime

from sqlalchemy import BigInteger, LargeBinary
from sqlalchemy.dialects.mysql import BINARY
from sqlalchemy.orm import Mapped, mapped_column

from meldrin.store.tables.base import OPTIONS, Table, UtcTime


class LearnerRow(Table):
    """A learner; so far always a guest, known by a secret of which only the digest is kept."""

    __tablename__ = "learners"
    __table_args__ = OPTIONS

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    secret_sha256: Mapped[bytes] = mapped_column(
        LargeBinary(32).with_variant(BINARY(32), "mysql", "mariadb"), unique=True
    )
    created_at: Mapped[datetime] = mapped_column(UtcTime)
