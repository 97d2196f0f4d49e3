"""How often low or high was named rightly, for the list."""

import sqlalchemy as sa
from alembic import op

revision = "20261208"
down_revision = "20261207"

NAMES = ("sides_right", "sides_of")


def upgrade() -> None:
    for name in NAMES:
        op.add_column(
            "results",
            sa.Column(name, sa.Integer(), nullable=False, server_default="0"),
            if_not_exists=True,
        )


def downgrade() -> None:
    for name in NAMES:
        op.drop_column("results", name)
