"""Studios with teachers, pupils, groups, instruments and shared devices; sign-ins that end."""

from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

from meldrin.store.migrations.there import has_column

revision = "20261202"
down_revision = "20261201"

MOMENT = mysql.DATETIME(fsp=6)
OPTIONS = {
    "mysql_engine": "InnoDB",
    "mysql_charset": "utf8mb4",
    "mysql_collate": "utf8mb4_unicode_ci",
}
EXACT = "utf8mb4_bin"


def _table(name: str, *parts: Any) -> None:
    op.create_table(name, *parts, if_not_exists=True, **OPTIONS)


def _keyed(name: str) -> tuple[Any, ...]:
    """An id of the database's, and one that is told."""
    return (
        sa.Column("id", sa.BigInteger(), nullable=False),
        sa.Column("public_id", sa.String(32, EXACT), nullable=False),
        sa.PrimaryKeyConstraint("id", name=f"pk_{name}"),
        sa.UniqueConstraint("public_id", name=f"uq_{name}_public_id"),
    )


def _belongs(
    name: str, column: str, to: str, *, gone: str = "CASCADE", **kinds: Any
) -> tuple[Any, ...]:
    return (
        sa.Column(column, sa.BigInteger(), nullable=gone != "CASCADE", **kinds),
        sa.ForeignKeyConstraint([column], [f"{to}.id"], name=f"fk_{name}_{column}", ondelete=gone),
    )


def _distinct(name: str, *columns: str) -> sa.UniqueConstraint:
    return sa.UniqueConstraint(*columns, name=f"uq_{name}_{'_'.join(columns)}")


def _named() -> tuple[Any, ...]:
    return (
        sa.Column("name", sa.String(60), nullable=False),
        sa.Column("name_key", sa.String(60, EXACT), nullable=False),
    )


def upgrade() -> None:
    if not has_column("sign_ins", "ends_at"):
        op.add_column("sign_ins", sa.Column("ends_at", MOMENT, nullable=True))
    _table(
        "studios",
        *_keyed("studios"),
        sa.Column("name", sa.String(60), nullable=False),
        sa.Column("join_code", sa.String(12, EXACT), nullable=True),
        sa.Column("created_at", MOMENT, nullable=False),
        sa.Column("ending_at", MOMENT, nullable=True),
        *_belongs("studios", "ending_by", "learners", gone="SET NULL"),
        sa.Column("version", sa.Integer(), nullable=False, server_default="0"),
        _distinct("studios", "join_code"),
    )
    op.create_index("ix_studios_ending_at", "studios", ["ending_at"], if_not_exists=True)
    _table(
        "members",
        *_keyed("members"),
        *_belongs("members", "studio_id", "studios"),
        *_belongs("members", "learner_id", "learners"),
        sa.Column("role", sa.String(10), nullable=False),
        *_named(),
        sa.Column("made_here", sa.Boolean(), nullable=False),
        sa.Column("lets_reset", sa.Boolean(), nullable=False),
        sa.Column("joined_at", MOMENT, nullable=False),
        _distinct("members", "studio_id", "learner_id"),
        _distinct("members", "studio_id", "name_key"),
    )
    _table(
        "study_groups",
        *_keyed("study_groups"),
        *_belongs("study_groups", "studio_id", "studios"),
        *_named(),
        _distinct("study_groups", "studio_id", "name_key"),
    )
    _table(
        "study_group_members",
        *_belongs("study_group_members", "group_id", "study_groups", autoincrement=False),
        *_belongs("study_group_members", "member_id", "members", autoincrement=False),
        sa.PrimaryKeyConstraint("group_id", "member_id", name="pk_study_group_members"),
    )
    _table(
        "school_instruments",
        *_keyed("school_instruments"),
        *_belongs("school_instruments", "studio_id", "studios"),
        sa.Column("shelf", sa.String(20), nullable=False),
        sa.Column("instrument", sa.String(40, EXACT), nullable=False),
        sa.Column("tuning", sa.String(200), nullable=False),
        sa.Column("behaviours", mysql.LONGTEXT(), nullable=False),
        sa.Column("note", sa.String(200), nullable=False),
        _distinct("school_instruments", "studio_id", "shelf"),
    )
    _table(
        "invitations",
        sa.Column("id", sa.BigInteger(), nullable=False),
        *_belongs("invitations", "studio_id", "studios"),
        sa.Column("code_sha256", mysql.BINARY(32), nullable=False),
        sa.Column("until", MOMENT, nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_invitations"),
        _distinct("invitations", "code_sha256"),
    )
    _table(
        "tablets",
        *_keyed("tablets"),
        *_belongs("tablets", "studio_id", "studios"),
        sa.Column("secret_sha256", mysql.BINARY(32), nullable=False),
        sa.Column("name", sa.String(60), nullable=False),
        sa.Column("created_at", MOMENT, nullable=False),
        _distinct("tablets", "secret_sha256"),
    )
    _table(
        "audit",
        sa.Column("id", sa.BigInteger(), nullable=False),
        *_belongs("audit", "studio_id", "studios"),
        sa.Column("at", MOMENT, nullable=False),
        *_belongs("audit", "who_id", "learners", gone="SET NULL"),
        sa.Column("what", sa.String(20), nullable=False),
        sa.Column("member_id", sa.BigInteger(), nullable=True),
        sa.ForeignKeyConstraint(
            ["member_id"], ["members.id"], name="fk_audit_member_id", ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name="pk_audit"),
    )
    op.create_index("ix_audit_studio_id_at", "audit", ["studio_id", "at"], if_not_exists=True)


def downgrade() -> None:
    for table in (
        "audit",
        "tablets",
        "invitations",
        "school_instruments",
        "study_group_members",
        "study_groups",
        "members",
        "studios",
    ):
        op.drop_table(table)
    op.drop_column("sign_ins", "ends_at")
