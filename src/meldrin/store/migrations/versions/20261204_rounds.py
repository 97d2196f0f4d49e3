"""Rounds with a class, who judges in them, and what they said."""

from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "20261204"
down_revision = "20261203"

MOMENT = mysql.DATETIME(fsp=6)
OPTIONS = {
    "mysql_engine": "InnoDB",
    "mysql_charset": "utf8mb4",
    "mysql_collate": "utf8mb4_unicode_ci",
}
EXACT = "utf8mb4_bin"


def _belongs(name: str, column: str, to: str, **kinds: Any) -> tuple[Any, ...]:
    return (
        sa.Column(column, sa.BigInteger(), nullable=False, **kinds),
        sa.ForeignKeyConstraint(
            [column], [f"{to}.id"], name=f"fk_{name}_{column}", ondelete="CASCADE"
        ),
    )


def _table(name: str, *parts: Any) -> None:
    op.create_table(name, *parts, if_not_exists=True, **OPTIONS)


def upgrade() -> None:
    _table(
        "rounds",
        sa.Column("id", sa.BigInteger(), nullable=False),
        sa.Column("public_id", sa.String(32, EXACT), nullable=False),
        *_belongs("rounds", "studio_id", "studios"),
        sa.Column("code", sa.String(12, EXACT), nullable=True),
        sa.Column("record", mysql.LONGTEXT(), nullable=False),
        sa.Column("stage", sa.String(10), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("plays", sa.Integer(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("moved_at", MOMENT, nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_rounds"),
        sa.UniqueConstraint("public_id", name="uq_rounds_public_id"),
        sa.UniqueConstraint("code", name="uq_rounds_code"),
    )
    for columns in (["studio_id", "moved_at"], ["moved_at"]):
        name = f"ix_rounds_{'_'.join(columns)}"
        op.create_index(name, "rounds", columns, if_not_exists=True)
    _table(
        "round_seats",
        sa.Column("id", sa.BigInteger(), nullable=False),
        *_belongs("round_seats", "round_id", "rounds"),
        *_belongs("round_seats", "learner_id", "learners"),
        sa.Column("place", sa.Integer(), nullable=False),
        sa.Column("until", MOMENT, nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_round_seats"),
        sa.UniqueConstraint(
            "round_id", "learner_id", "place", name="uq_round_seats_round_id_learner_id_place"
        ),
    )
    _table(
        "round_answers",
        *_belongs("round_answers", "seat_id", "round_seats", autoincrement=False),
        sa.Column("number", sa.Integer(), nullable=False, autoincrement=False),
        *_belongs("round_answers", "round_id", "rounds"),
        sa.Column("answer", sa.Integer(), nullable=False),
        sa.Column("sure", sa.String(10), nullable=True),
        sa.PrimaryKeyConstraint("seat_id", "number", name="pk_round_answers"),
    )
    op.create_index(
        "ix_round_answers_round_id_number",
        "round_answers",
        ["round_id", "number"],
        if_not_exists=True,
    )


def downgrade() -> None:
    for table in ("round_answers", "round_seats", "rounds"):
        op.drop_table(table)
