"""Exercises that teachers set, and what was given to whom."""

from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "20261203"
down_revision = "20261202"

MOMENT = mysql.DATETIME(fsp=6)
OPTIONS = {
    "mysql_engine": "InnoDB",
    "mysql_charset": "utf8mb4",
    "mysql_collate": "utf8mb4_unicode_ci",
}
EXACT = "utf8mb4_bin"


def _belongs(
    name: str, column: str, to: str, *, gone: str = "CASCADE", **kinds: Any
) -> tuple[Any, ...]:
    return (
        sa.Column(column, sa.BigInteger(), nullable=gone != "CASCADE", **kinds),
        sa.ForeignKeyConstraint([column], [f"{to}.id"], name=f"fk_{name}_{column}", ondelete=gone),
    )


def _table(name: str, *parts: Any) -> None:
    op.create_table(name, *parts, if_not_exists=True, **OPTIONS)


def _pair(name: str, second: str, to: str, *more: Any) -> None:
    _table(
        name,
        *_belongs(name, "assignment_id", "assignments", autoincrement=False),
        *_belongs(name, second, to, autoincrement=False),
        *more,
        sa.PrimaryKeyConstraint("assignment_id", second, name=f"pk_{name}"),
    )


def upgrade() -> None:
    _table(
        "tasks",
        sa.Column("id", sa.BigInteger(), nullable=False),
        sa.Column("public_id", sa.String(32, EXACT), nullable=False),
        *_belongs("tasks", "studio_id", "studios"),
        sa.Column("name", sa.String(60), nullable=False),
        sa.Column("record", mysql.LONGTEXT(), nullable=False),
        sa.Column("changed_at", MOMENT, nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_tasks"),
        sa.UniqueConstraint("public_id", name="uq_tasks_public_id"),
    )
    _table(
        "assignments",
        sa.Column("id", sa.BigInteger(), nullable=False),
        sa.Column("public_id", sa.String(32, EXACT), nullable=False),
        *_belongs("assignments", "studio_id", "studios"),
        sa.Column("name", sa.String(60), nullable=False),
        sa.Column("record", mysql.LONGTEXT(), nullable=False),
        sa.Column("seed", sa.Integer(), nullable=False),
        sa.Column("everyone", sa.Boolean(), nullable=False),
        *_belongs("assignments", "group_id", "study_groups", gone="SET NULL"),
        sa.Column("code", sa.String(12, EXACT), nullable=True),
        sa.Column("created_at", MOMENT, nullable=False),
        sa.Column("due_at", MOMENT, nullable=True),
        sa.PrimaryKeyConstraint("id", name="pk_assignments"),
        sa.UniqueConstraint("public_id", name="uq_assignments_public_id"),
        sa.UniqueConstraint("code", name="uq_assignments_code"),
    )
    op.create_index(
        "ix_assignments_studio_id_created_at",
        "assignments",
        ["studio_id", "created_at"],
        if_not_exists=True,
    )
    _pair("assignment_members", "member_id", "members")
    _pair(
        "assignment_guests",
        "learner_id",
        "learners",
        sa.Column("name", sa.String(60), nullable=False),
    )
    _table(
        "assignment_attempts",
        *_belongs("assignment_attempts", "attempt_id", "attempts", autoincrement=False),
        *_belongs("assignment_attempts", "assignment_id", "assignments"),
        sa.Column("part", sa.Integer(), nullable=False),
        sa.PrimaryKeyConstraint("attempt_id", name="pk_assignment_attempts"),
    )
    op.create_index(
        "ix_assignment_attempts_assignment_id_part",
        "assignment_attempts",
        ["assignment_id", "part"],
        if_not_exists=True,
    )


def downgrade() -> None:
    for table in (
        "assignment_attempts",
        "assignment_guests",
        "assignment_members",
        "assignments",
        "tasks",
    ):
        op.drop_table(table)
