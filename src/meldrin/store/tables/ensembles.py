"""Checks before a concert: what a group has agreed, on what each plays, and what was typed in."""

from datetime import datetime

from sqlalchemy import BigInteger, Double, ForeignKey, Index, String
from sqlalchemy.orm import Mapped, mapped_column

from meldrin.store.tables.base import OPTIONS, Table, UtcTime


class EnsembleRow(Table):
    """What a group has agreed.

    group_id: whose members it is about, or None for all pupils of the studio.
    a4_hz, fifth_cents: its A, and how much wider than pure its fifths are.
    """

    __tablename__ = "ensembles"
    __table_args__ = (Index(None, "studio_id", "changed_at"), OPTIONS)

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    public_id: Mapped[str] = mapped_column(String(32, "utf8mb4_bin"), unique=True)
    studio_id: Mapped[int] = mapped_column(ForeignKey("studios.id", ondelete="CASCADE"))
    name: Mapped[str] = mapped_column(String(60))
    group_id: Mapped[int | None] = mapped_column(ForeignKey("study_groups.id", ondelete="SET NULL"))
    a4_hz: Mapped[float] = mapped_column(Double)
    fifth_cents: Mapped[float] = mapped_column(Double)
    changed_at: Mapped[datetime] = mapped_column(UtcTime)


class EnsemblePlayerRow(Table):
    """On what somebody plays in a group, where it is not what they last tuned on the bench."""

    __tablename__ = "ensemble_players"
    __table_args__ = OPTIONS

    ensemble_id: Mapped[int] = mapped_column(
        ForeignKey("ensembles.id", ondelete="CASCADE"), primary_key=True, autoincrement=False
    )
    member_id: Mapped[int] = mapped_column(
        ForeignKey("members.id", ondelete="CASCADE"), primary_key=True, autoincrement=False
    )
    instrument: Mapped[str] = mapped_column(String(40))


class EnsembleReadingRow(Table):
    """What a tuner showed of an open string: cents above equal temperament at the group's A."""

    __tablename__ = "ensemble_readings"
    __table_args__ = OPTIONS

    ensemble_id: Mapped[int] = mapped_column(
        ForeignKey("ensembles.id", ondelete="CASCADE"), primary_key=True, autoincrement=False
    )
    member_id: Mapped[int] = mapped_column(
        ForeignKey("members.id", ondelete="CASCADE"), primary_key=True, autoincrement=False
    )
    string: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    cents: Mapped[float] = mapped_column(Double)
    at: Mapped[datetime] = mapped_column(UtcTime)
