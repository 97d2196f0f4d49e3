"""What teachers remark on attempts."""

from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "20261205"
down_revision = "20261204"

NAME = "remarks"


def _belongs(column: str, to: str, *, gone: str = "CASCADE") -> tuple[Any, ...]:
    return (
        sa.Column(column, sa.BigInteger(), nullable=gone != "CASCADE"),
        sa.ForeignKeyConstraint([column], [f"{to}.id"], name=f"fk_{NAME}_{column}", ondelete=gone),
    )


def upgrade() -> None:
    op.create_table(
        NAME,
        sa.Column("id", sa.BigInteger(), nullable=False),
        sa.Column("public_id", sa.String(32, "utf8mb4_bin"), nullable=False),
        *_belongs("attempt_id", "attempts"),
        *_belongs("author_id", "learners", gone="SET NULL"),
        sa.Column("at_s", sa.Double(), nullable=False),
        sa.Column("text", sa.String(300), nullable=False),
        sa.Column("before", sa.Integer(), nullable=False),
        sa.Column("stage", sa.Integer(), nullable=True),
        sa.Column("label", sa.String(40), nullable=False),
        sa.Column("cents", sa.Double(), nullable=True),
        *_belongs("answer_id", "attempts", gone="SET NULL"),
        sa.Column("came_to", sa.Double(), nullable=True),
        sa.Column("created_at", mysql.DATETIME(fsp=6), nullable=False),
        sa.PrimaryKeyConstraint("id", name=f"pk_{NAME}"),
        sa.UniqueConstraint("public_id", name=f"uq_{NAME}_public_id"),
        if_not_exists=True,
        mysql_engine="InnoDB",
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_ci",
    )


def downgrade() -> None:
    op.drop_table(NAME)
