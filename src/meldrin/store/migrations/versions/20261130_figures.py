"""Figures of attempts and sittings, what a learner practises for, and plans of what to do today."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "20261130"
down_revision = "20261129"

MOMENT = mysql.DATETIME(fsp=6)
OPTIONS = {
    "mysql_engine": "InnoDB",
    "mysql_charset": "utf8mb4",
    "mysql_collate": "utf8mb4_unicode_ci",
}


def _of_learner(table: str) -> sa.ForeignKeyConstraint:
    name = f"fk_{table}_learner_id"
    return sa.ForeignKeyConstraint(["learner_id"], ["learners.id"], name=name, ondelete="CASCADE")


def upgrade() -> None:
    op.create_table(
        "figures",
        sa.Column("id", sa.BigInteger(), nullable=False),
        sa.Column("learner_id", sa.BigInteger(), nullable=False),
        sa.Column("attempt_id", sa.BigInteger(), nullable=True),
        sa.Column("practice", sa.String(20), nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        sa.Column("record", mysql.LONGTEXT(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_figures"),
        _of_learner("figures"),
        sa.ForeignKeyConstraint(
            ["attempt_id"], ["attempts.id"], name="fk_figures_attempt_id", ondelete="CASCADE"
        ),
        sa.UniqueConstraint("attempt_id", name="uq_figures_attempt_id"),
        if_not_exists=True,
        **OPTIONS,
    )
    op.create_index("ix_figures_learner_id_at", "figures", ["learner_id", "at"], if_not_exists=True)
    op.create_table(
        "aims",
        sa.Column("learner_id", sa.BigInteger(), autoincrement=False, nullable=False),
        sa.Column("record", mysql.LONGTEXT(), nullable=False),
        sa.PrimaryKeyConstraint("learner_id", name="pk_aims"),
        _of_learner("aims"),
        if_not_exists=True,
        **OPTIONS,
    )
    op.create_table(
        "todays",
        sa.Column("id", sa.BigInteger(), nullable=False),
        sa.Column("public_id", sa.String(32, "utf8mb4_bin"), nullable=False),
        sa.Column("learner_id", sa.BigInteger(), nullable=False),
        sa.Column("created_at", MOMENT, nullable=False),
        sa.Column("version", sa.Integer(), nullable=False, server_default="0"),
        sa.Column("record", mysql.LONGTEXT(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_todays"),
        _of_learner("todays"),
        sa.UniqueConstraint("public_id", name="uq_todays_public_id"),
        if_not_exists=True,
        **OPTIONS,
    )
    op.create_index(
        "ix_todays_learner_id_created_at",
        "todays",
        ["learner_id", "created_at"],
        if_not_exists=True,
    )


def downgrade() -> None:
    for table in ("todays", "aims", "figures"):
        op.drop_table(table)
