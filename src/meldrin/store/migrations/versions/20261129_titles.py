"""A name of one's own for an attempt, and how well its technique was, for the list."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "20261129"
down_revision = "20261128"


def upgrade() -> None:
    op.add_column("attempts", sa.Column("title", sa.String(80), nullable=True), if_not_exists=True)
    op.add_column(
        "results",
        sa.Column("technique", mysql.DOUBLE(asdecimal=False), nullable=True),
        if_not_exists=True,
    )


def downgrade() -> None:
    op.drop_column("results", "technique")
    op.drop_column("attempts", "title")
