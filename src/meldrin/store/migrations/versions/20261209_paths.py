"""What each learner has shown on the path, kept so that a class is seen at once."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import LONGTEXT

revision = "20261209"
down_revision = "20261208"


def upgrade() -> None:
    op.create_table(
        "paths",
        sa.Column("learner_id", sa.BigInteger(), nullable=False, autoincrement=False),
        sa.Column("figures", sa.Integer(), nullable=False),
        sa.Column("newest", sa.BigInteger(), nullable=False),
        sa.Column("steps", sa.BigInteger(), nullable=False),
        sa.Column("record", LONGTEXT(), nullable=False),
        sa.ForeignKeyConstraint(
            ["learner_id"],
            ["learners.id"],
            name="fk_paths_learner_id",
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("learner_id", name="pk_paths"),
        mysql_engine="InnoDB",
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_ci",
        if_not_exists=True,
    )


def downgrade() -> None:
    op.drop_table("paths")
