"""Checks before a concert."""

from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "20261206"
down_revision = "20261205"

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


def _of_members(name: str, keys: tuple[str, ...], *more: Any) -> None:
    _table(
        name,
        *_belongs(name, "ensemble_id", "ensembles", autoincrement=False),
        *_belongs(name, "member_id", "members", autoincrement=False),
        *more,
        sa.PrimaryKeyConstraint(*keys, name=f"pk_{name}"),
    )


def upgrade() -> None:
    _table(
        "ensembles",
        sa.Column("id", sa.BigInteger(), nullable=False),
        sa.Column("public_id", sa.String(32, EXACT), nullable=False),
        *_belongs("ensembles", "studio_id", "studios"),
        sa.Column("name", sa.String(60), nullable=False),
        *_belongs("ensembles", "group_id", "study_groups", gone="SET NULL"),
        sa.Column("a4_hz", sa.Double(), nullable=False),
        sa.Column("fifth_cents", sa.Double(), nullable=False),
        sa.Column("changed_at", MOMENT, nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_ensembles"),
        sa.UniqueConstraint("public_id", name="uq_ensembles_public_id"),
    )
    op.create_index(
        "ix_ensembles_studio_id_changed_at",
        "ensembles",
        ["studio_id", "changed_at"],
        if_not_exists=True,
    )
    _of_members(
        "ensemble_players",
        ("ensemble_id", "member_id"),
        sa.Column("instrument", sa.String(40), nullable=False),
    )
    _of_members(
        "ensemble_readings",
        ("ensemble_id", "member_id", "string"),
        sa.Column("string", sa.Integer(), nullable=False, autoincrement=False),
        sa.Column("cents", sa.Double(), nullable=False),
        sa.Column("at", MOMENT, nullable=False),
    )


def downgrade() -> None:
    for table in ("ensemble_readings", "ensemble_players", "ensembles"):
        op.drop_table(table)
