"""Studios: who teaches and learns in them, their groups, instruments and shared devices, and who
did what.
"""

from datetime import datetime

from sqlalchemy import BigInteger, ForeignKey, Index, String, UniqueConstraint
from sqlalchemy.dialects.mysql import LONGTEXT
from sqlalchemy.orm import Mapped, mapped_column

from meldrin.store.tables.base import OPTIONS, Table, UtcTime
from meldrin.store.tables.learners import DIGEST


class StudioRow(Table):
    """A studio.

    join_code: lets pupils in who come by themselves, or None while nobody may.
    ending_at, ending_by: when it is erased, and who asked for that; None where nobody has.
    version: raised by every transaction that counts what the studio has before adding to it, or
        looks at who owns it.
    """

    __tablename__ = "studios"
    __table_args__ = OPTIONS

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    public_id: Mapped[str] = mapped_column(String(32, "utf8mb4_bin"), unique=True)
    name: Mapped[str] = mapped_column(String(60))
    join_code: Mapped[str | None] = mapped_column(String(12, "utf8mb4_bin"), unique=True)
    created_at: Mapped[datetime] = mapped_column(UtcTime)
    ending_at: Mapped[datetime | None] = mapped_column(UtcTime, index=True)
    ending_by: Mapped[int | None] = mapped_column(ForeignKey("learners.id", ondelete="SET NULL"))
    version: Mapped[int] = mapped_column(default=0, server_default="0")


class MemberRow(Table):
    """Somebody in a studio, by the name they are called there.

    role: “owner”, “teacher” or “pupil”.
    made_here: the studio made this learner, from a list.
    lets_reset: a pupil who came by themselves lets the studio's teachers make a new slip.
    """

    __tablename__ = "members"
    __table_args__ = (
        UniqueConstraint("studio_id", "learner_id"),
        UniqueConstraint("studio_id", "name_key"),
        OPTIONS,
    )

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    public_id: Mapped[str] = mapped_column(String(32, "utf8mb4_bin"), unique=True)
    studio_id: Mapped[int] = mapped_column(ForeignKey("studios.id", ondelete="CASCADE"))
    learner_id: Mapped[int] = mapped_column(ForeignKey("learners.id", ondelete="CASCADE"))
    role: Mapped[str] = mapped_column(String(10))
    name: Mapped[str] = mapped_column(String(60))
    name_key: Mapped[str] = mapped_column(String(60, "utf8mb4_bin"))
    made_here: Mapped[bool] = mapped_column(default=False)
    lets_reset: Mapped[bool] = mapped_column(default=False)
    joined_at: Mapped[datetime] = mapped_column(UtcTime)


class GroupRow(Table):
    """Some of a studio's pupils who are taught together."""

    __tablename__ = "study_groups"
    __table_args__ = (UniqueConstraint("studio_id", "name_key"), OPTIONS)

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    public_id: Mapped[str] = mapped_column(String(32, "utf8mb4_bin"), unique=True)
    studio_id: Mapped[int] = mapped_column(ForeignKey("studios.id", ondelete="CASCADE"))
    name: Mapped[str] = mapped_column(String(60))
    name_key: Mapped[str] = mapped_column(String(60, "utf8mb4_bin"))


class GroupMemberRow(Table):
    """A pupil in a group."""

    __tablename__ = "study_group_members"
    __table_args__ = OPTIONS

    group_id: Mapped[int] = mapped_column(
        ForeignKey("study_groups.id", ondelete="CASCADE"), primary_key=True, autoincrement=False
    )
    member_id: Mapped[int] = mapped_column(
        ForeignKey("members.id", ondelete="CASCADE"), primary_key=True, autoincrement=False
    )


class SchoolInstrumentRow(Table):
    """An instrument of a studio.

    shelf: what stands on its label. instrument, tuning: of the catalogue.
    behaviours: what is peculiar to it, as a list in JSON. note: a sentence about it.
    """

    __tablename__ = "school_instruments"
    __table_args__ = (UniqueConstraint("studio_id", "shelf"), OPTIONS)

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    public_id: Mapped[str] = mapped_column(String(32, "utf8mb4_bin"), unique=True)
    studio_id: Mapped[int] = mapped_column(ForeignKey("studios.id", ondelete="CASCADE"))
    shelf: Mapped[str] = mapped_column(String(20))
    instrument: Mapped[str] = mapped_column(String(40, "utf8mb4_bin"))
    tuning: Mapped[str] = mapped_column(String(200))
    behaviours: Mapped[str] = mapped_column(LONGTEXT)
    note: Mapped[str] = mapped_column(String(200))


class InvitationRow(Table):
    """Lets one teacher into a studio, once; of its code only the digest is kept."""

    __tablename__ = "invitations"
    __table_args__ = OPTIONS

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    studio_id: Mapped[int] = mapped_column(ForeignKey("studios.id", ondelete="CASCADE"))
    code_sha256: Mapped[bytes] = mapped_column(DIGEST, unique=True)
    until: Mapped[datetime] = mapped_column(UtcTime)


class TabletRow(Table):
    """A device that the pupils of a studio share, known by a cookie as a learner is."""

    __tablename__ = "tablets"
    __table_args__ = OPTIONS

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    public_id: Mapped[str] = mapped_column(String(32, "utf8mb4_bin"), unique=True)
    studio_id: Mapped[int] = mapped_column(ForeignKey("studios.id", ondelete="CASCADE"))
    secret_sha256: Mapped[bytes] = mapped_column(DIGEST, unique=True)
    name: Mapped[str] = mapped_column(String(60))
    created_at: Mapped[datetime] = mapped_column(UtcTime)


class AuditRow(Table):
    """Who saw or changed something in a studio, and when.

    what: such as “saw” or “new_slip”. who_id: None where whoever did it is erased.
    member_id: the one it was about, or None where it was about nobody; it goes with them.
    """

    __tablename__ = "audit"
    __table_args__ = (Index(None, "studio_id", "at"), OPTIONS)

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    studio_id: Mapped[int] = mapped_column(ForeignKey("studios.id", ondelete="CASCADE"))
    at: Mapped[datetime] = mapped_column(UtcTime)
    who_id: Mapped[int | None] = mapped_column(ForeignKey("learners.id", ondelete="SET NULL"))
    what: Mapped[str] = mapped_column(String(20))
    member_id: Mapped[int | None] = mapped_column(ForeignKey("members.id", ondelete="CASCADE"))
