"""Scores are computed once and kept; lists show them without computing."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "20261126"
down_revision = "20261125"


def upgrade() -> None:
    op.create_table(
        "results",
        sa.Column("attempt_id", sa.BigInteger(), autoincrement=False, nullable=False),
        sa.Column("engine", sa.Integer(), nullable=False),
        sa.Column("points", sa.Double(), nullable=True),
        sa.Column("aid", sa.String(16), nullable=False),
        sa.Column("median_cents", sa.Double(), nullable=True),
        sa.Column("worst_cents", sa.Double(), nullable=True),
        sa.Column("worst", sa.String(64), nullable=False),
        sa.Column("by_ear", sa.Integer(), nullable=False),
        sa.Column("by_ear_of", sa.Integer(), nullable=False),
        sa.Column("record", mysql.LONGTEXT(), nullable=False),
        sa.PrimaryKeyConstraint("attempt_id", name="pk_results"),
        sa.ForeignKeyConstraint(
            ["attempt_id"], ["attempts.id"], name="fk_results_attempt_id", ondelete="CASCADE"
        ),
        mysql_engine="InnoDB",
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_ci",
        if_not_exists=True,
    )


def downgrade() -> None:
    op.drop_table("results")
