"""An attempt keeps its whole setup as one record; before, it was five columns."""

from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

from meldrin.store.migrations.there import has_column

revision = "20261125"
down_revision = "20261123"

COLUMNS: tuple[tuple[str, sa.types.TypeEngine[Any], str, str | int | float], ...] = (
    ("instrument", sa.String(40), "$.instrument_id", "guitar"),
    ("method", sa.String(20), "$.method", "unison"),
    ("start", sa.String(20), "$.start", "hair"),
    ("seed", sa.Integer(), "$.seed", 0),
    ("a4_hz", sa.Double(), "$.a4_hz", 440.0),
)


def upgrade() -> None:
    op.add_column(
        "attempts", sa.Column("setup", mysql.LONGTEXT(), nullable=True), if_not_exists=True
    )
    if has_column("attempts", COLUMNS[0][0]):  # the first to go, once all are copied
        op.execute(
            "UPDATE attempts SET setup = JSON_OBJECT('v', 2, 'instrument_id', instrument,"
            " 'method', method, 'start', start, 'seed', seed, 'a4_hz', a4_hz)"
        )
    op.alter_column("attempts", "setup", existing_type=mysql.LONGTEXT(), nullable=False)
    for name, *_ in COLUMNS:
        op.drop_column("attempts", name, if_exists=True)


def downgrade() -> None:
    for name, kind, path, usual in COLUMNS:
        op.add_column("attempts", sa.Column(name, kind, nullable=True))
        rows = sa.table("attempts", sa.column("setup"), sa.column(name))
        kept = sa.func.coalesce(sa.func.json_value(rows.c.setup, path), usual)
        op.execute(rows.update().values({name: kept}))
        op.alter_column("attempts", name, existing_type=kind, nullable=False)
    op.drop_column("attempts", "setup")
