"""Versions of rows, when a learner was last seen, how much of what is limited each has used, the
lines that are open, and a row that the health page writes.
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "20261128"
down_revision = "20261127"

MOMENT = mysql.DATETIME(fsp=6)


def upgrade() -> None:
    for table in ("learners", "attempts"):
        version = sa.Column("version", sa.Integer(), nullable=False, server_default="0")
        op.add_column(table, version, if_not_exists=True)
    op.add_column("learners", sa.Column("seen_at", MOMENT, nullable=True), if_not_exists=True)
    op.execute("UPDATE learners SET seen_at = UTC_TIMESTAMP(6) WHERE seen_at IS NULL")
    op.alter_column("learners", "seen_at", existing_type=MOMENT, nullable=False)
    op.create_index("ix_learners_seen_at", "learners", ["seen_at"], if_not_exists=True)
    op.create_table(
        "uses",
        sa.Column("learner_id", sa.BigInteger(), nullable=False),
        sa.Column("kind", sa.String(20), nullable=False),
        sa.Column("began_at", MOMENT, nullable=False),
        sa.Column("count", sa.Integer(), nullable=False),
        sa.PrimaryKeyConstraint("learner_id", "kind", "began_at", name="pk_uses"),
        sa.ForeignKeyConstraint(
            ["learner_id"], ["learners.id"], name="fk_uses_learner_id", ondelete="CASCADE"
        ),
        mysql_engine="InnoDB",
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_ci",
        if_not_exists=True,
    )
    op.create_table(
        "open_lines",
        sa.Column("learner_id", sa.BigInteger(), nullable=False),
        sa.Column("place", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("process", sa.String(32, "utf8mb4_bin"), nullable=False),
        sa.Column("until", MOMENT, nullable=False),
        sa.PrimaryKeyConstraint("learner_id", "place", name="pk_open_lines"),
        sa.ForeignKeyConstraint(
            ["learner_id"], ["learners.id"], name="fk_open_lines_learner_id", ondelete="CASCADE"
        ),
        mysql_engine="InnoDB",
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_ci",
        if_not_exists=True,
    )
    op.create_index("ix_open_lines_process", "open_lines", ["process"], if_not_exists=True)
    op.create_table(
        "pulses",
        sa.Column("process", sa.String(32, "utf8mb4_bin"), nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        sa.PrimaryKeyConstraint("process", name="pk_pulses"),
        mysql_engine="InnoDB",
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_ci",
        if_not_exists=True,
    )


def downgrade() -> None:
    for table in ("pulses", "open_lines", "uses"):
        op.drop_table(table)
    op.drop_index("ix_learners_seen_at", "learners")
    op.drop_column("learners", "seen_at")
    for table in ("learners", "attempts"):
        op.drop_column(table, "version")
