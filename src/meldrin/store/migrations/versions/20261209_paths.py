"""What each learner has shown on the path, kept so that a class is seen at once; and when attempts
were finished that have been erased.
"""

from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "20261209"
down_revision = "20261208"
OPTIONS = {
    "mysql_engine": "InnoDB",
    "mysql_charset": "utf8mb4",
    "mysql_collate": "utf8mb4_unicode_ci",
}


def _table(name: str, *parts: Any, keys: tuple[str, ...]) -> None:
    """Make a table whose rows belong to a learner and go with it."""
    op.create_table(
        name,
        sa.Column("learner_id", sa.BigInteger(), nullable=False, autoincrement=False),
        *parts,
        sa.ForeignKeyConstraint(
            ["learner_id"], ["learners.id"], name=f"fk_{name}_learner_id", ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint(*keys, name=f"pk_{name}"),
        if_not_exists=True,
        **OPTIONS,
    )


def upgrade() -> None:
    _table(
        "paths",
        sa.Column("figures", sa.Integer(), nullable=False),
        sa.Column("newest", sa.BigInteger(), nullable=False),
        sa.Column("steps", sa.BigInteger(), nullable=False),
        sa.Column("record", mysql.LONGTEXT(), nullable=False),
        keys=("learner_id",),
    )
    _table(
        "erased_attempts",
        sa.Column("at", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("practice", sa.String(20), nullable=False),
        keys=("learner_id", "at"),
    )


def downgrade() -> None:
    op.drop_table("erased_attempts")
    op.drop_table("paths")
