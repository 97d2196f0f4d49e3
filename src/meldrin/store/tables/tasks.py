"""Exercises that teachers set: the collection of a studio, and what was given to whom."""

from datetime import datetime

from sqlalchemy import BigInteger, ForeignKey, Index, String
from sqlalchemy.dialects.mysql import LONGTEXT
from sqlalchemy.orm import Mapped, mapped_column

from meldrin.store.tables.base import OPTIONS, Table, UtcTime


class TaskRow(Table):
    """An exercise in the collection of a studio, as a record."""

    __tablename__ = "tasks"
    __table_args__ = OPTIONS

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    public_id: Mapped[str] = mapped_column(String(32, "utf8mb4_bin"), unique=True)
    studio_id: Mapped[int] = mapped_column(ForeignKey("studios.id", ondelete="CASCADE"))
    name: Mapped[str] = mapped_column(String(60))
    record: Mapped[str] = mapped_column(LONGTEXT)
    changed_at: Mapped[datetime] = mapped_column(UtcTime)


class AssignmentRow(Table):
    """An exercise that was given, as it was then.

    seed: what starts are drawn with where all get the same.
    everyone: every pupil of the studio has it; group_id: those of a group, whoever is in it then.
    code: whoever has it may do the exercise too, or None.
    due_at: until when it is to be done, or None.
    """

    __tablename__ = "assignments"
    __table_args__ = (Index(None, "studio_id", "created_at"), OPTIONS)

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    public_id: Mapped[str] = mapped_column(String(32, "utf8mb4_bin"), unique=True)
    studio_id: Mapped[int] = mapped_column(ForeignKey("studios.id", ondelete="CASCADE"))
    name: Mapped[str] = mapped_column(String(60))
    record: Mapped[str] = mapped_column(LONGTEXT)
    seed: Mapped[int]
    everyone: Mapped[bool] = mapped_column(default=False)
    group_id: Mapped[int | None] = mapped_column(ForeignKey("study_groups.id", ondelete="SET NULL"))
    code: Mapped[str | None] = mapped_column(String(12, "utf8mb4_bin"), unique=True)
    created_at: Mapped[datetime] = mapped_column(UtcTime)
    due_at: Mapped[datetime | None] = mapped_column(UtcTime)


class AssignedMemberRow(Table):
    """A pupil to whom an exercise was given by name."""

    __tablename__ = "assignment_members"
    __table_args__ = OPTIONS

    assignment_id: Mapped[int] = mapped_column(
        ForeignKey("assignments.id", ondelete="CASCADE"), primary_key=True, autoincrement=False
    )
    member_id: Mapped[int] = mapped_column(
        ForeignKey("members.id", ondelete="CASCADE"), primary_key=True, autoincrement=False
    )


class AssignedGuestRow(Table):
    """Somebody who does an exercise by its code, and what they want to be called, or “”."""

    __tablename__ = "assignment_guests"
    __table_args__ = OPTIONS

    assignment_id: Mapped[int] = mapped_column(
        ForeignKey("assignments.id", ondelete="CASCADE"), primary_key=True, autoincrement=False
    )
    learner_id: Mapped[int] = mapped_column(
        ForeignKey("learners.id", ondelete="CASCADE"), primary_key=True, autoincrement=False
    )
    name: Mapped[str] = mapped_column(String(60))


class AssignedAttemptRow(Table):
    """An attempt that was begun for an exercise that was given, and for which part, from 0.

    learner_id, finished: as the attempt says, whose row is large: of a class of hundreds these tell
        who has done what without reading theirs.
    """

    __tablename__ = "assignment_attempts"
    __table_args__ = (
        Index(None, "assignment_id", "finished", "learner_id", "part"),
        Index(None, "learner_id", "assignment_id"),
        OPTIONS,
    )

    attempt_id: Mapped[int] = mapped_column(
        ForeignKey("attempts.id", ondelete="CASCADE"), primary_key=True, autoincrement=False
    )
    assignment_id: Mapped[int] = mapped_column(ForeignKey("assignments.id", ondelete="CASCADE"))
    part: Mapped[int]
    learner_id: Mapped[int] = mapped_column(ForeignKey("learners.id", ondelete="CASCADE"))
    finished: Mapped[bool] = mapped_column(default=False, server_default="0")
