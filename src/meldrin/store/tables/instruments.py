"""Instruments that learners brought in themselves."""

from datetime import datetime

from sqlalchemy import BigInteger, ForeignKey, String, UniqueConstraint
from sqlalchemy.dialects.mysql import LONGTEXT
from sqlalchemy.orm import Mapped, mapped_column

from meldrin.store.tables.base import OPTIONS, Table, UtcTime


class InstrumentRow(Table):
    """An instrument of one's own: the text of its file, checked by the catalogue's loader."""

    __tablename__ = "instruments"
    __table_args__ = (UniqueConstraint("learner_id", "instrument"), OPTIONS)

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    learner_id: Mapped[int] = mapped_column(ForeignKey("learners.id", ondelete="CASCADE"))
    instrument: Mapped[str] = mapped_column(String(40, "utf8mb4_bin"))
    text: Mapped[str] = mapped_column(LONGTEXT)
    created_at: Mapped[datetime] = mapped_column(UtcTime)
