"""Learners, attempts and their actions."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "20261123"
down_revision = None


def upgrade() -> None:
    moment = mysql.DATETIME(fsp=6)
    op.create_table(
        "learners",
        sa.Column("id", sa.BigInteger(), nullable=False),
        sa.Column("secret_sha256", mysql.BINARY(32), nullable=False),
        sa.Column("created_at", moment, nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_learners"),
        sa.UniqueConstraint("secret_sha256", name="uq_learners_secret_sha256"),
        mysql_engine="InnoDB",
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_ci",
        if_not_exists=True,
    )
    op.create_table(
        "attempts",
        sa.Column("id", sa.BigInteger(), nullable=False),
        sa.Column("public_id", sa.String(32, "utf8mb4_bin"), nullable=False),
        sa.Column("learner_id", sa.BigInteger(), nullable=False),
        sa.Column("engine", sa.Integer(), nullable=False),
        sa.Column("instrument", sa.String(40), nullable=False),
        sa.Column("method", sa.String(20), nullable=False),
        sa.Column("start", sa.String(20), nullable=False),
        sa.Column("seed", sa.Integer(), nullable=False),
        sa.Column("a4_hz", sa.Double(), nullable=False),
        sa.Column("created_at", moment, nullable=False),
        sa.Column("finished_at", moment, nullable=True),
        sa.Column("points", sa.Double(), nullable=True),
        sa.Column("holder", sa.String(64, "utf8mb4_bin"), nullable=True),
        sa.PrimaryKeyConstraint("id", name="pk_attempts"),
        sa.UniqueConstraint("public_id", name="uq_attempts_public_id"),
        sa.ForeignKeyConstraint(
            ["learner_id"],
            ["learners.id"],
            name="fk_attempts_learner_id",
            ondelete="CASCADE",
        ),
        mysql_engine="InnoDB",
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_ci",
        if_not_exists=True,
    )
    op.create_index(
        "ix_attempts_learner_id_created_at",
        "attempts",
        ["learner_id", "created_at"],
        if_not_exists=True,
    )
    op.create_table(
        "actions",
        sa.Column("attempt_id", sa.BigInteger(), nullable=False),
        sa.Column("number", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("at_s", sa.Double(), nullable=False),
        sa.Column("record", mysql.LONGTEXT(), nullable=False),
        sa.PrimaryKeyConstraint("attempt_id", "number", name="pk_actions"),
        sa.ForeignKeyConstraint(
            ["attempt_id"], ["attempts.id"], name="fk_actions_attempt_id", ondelete="CASCADE"
        ),
        mysql_engine="InnoDB",
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_ci",
        if_not_exists=True,
    )


def downgrade() -> None:
    op.drop_table("actions")
    op.drop_table("attempts")
    op.drop_table("learners")
