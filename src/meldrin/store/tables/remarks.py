"""What teachers remark on attempts, and how pupils answer."""

from datetime import datetime

from sqlalchemy import BigInteger, Double, ForeignKey, String
from sqlalchemy.orm import Mapped, mapped_column

from meldrin.store.tables.base import OPTIONS, Table, UtcTime


class RemarkRow(Table):
    """A remark on a moment of an attempt.

    author_id: the teacher, or None once they have erased themselves.
    at_s: the moment, in seconds since the attempt began.
    before, stage, label, cents: its spot, as `meldrin.core.bench.Spot` says.
    answer_id: the attempt in which the pupil did that spot again, or None.
    came_to: how far the string was in the end of that attempt, once it is over.
    """

    __tablename__ = "remarks"
    __table_args__ = OPTIONS

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    public_id: Mapped[str] = mapped_column(String(32, "utf8mb4_bin"), unique=True)
    attempt_id: Mapped[int] = mapped_column(ForeignKey("attempts.id", ondelete="CASCADE"))
    author_id: Mapped[int | None] = mapped_column(ForeignKey("learners.id", ondelete="SET NULL"))
    at_s: Mapped[float] = mapped_column(Double)
    text: Mapped[str] = mapped_column(String(300))
    before: Mapped[int]
    stage: Mapped[int | None]
    label: Mapped[str] = mapped_column(String(40))
    cents: Mapped[float | None] = mapped_column(Double)
    answer_id: Mapped[int | None] = mapped_column(ForeignKey("attempts.id", ondelete="SET NULL"))
    came_to: Mapped[float | None] = mapped_column(Double)
    created_at: Mapped[datetime] = mapped_column(UtcTime)
