"""Attempts of any kind of practice: columns to filter by, the instrument's data in the exercise,
one result for each version of the engine, and instruments of one's own.
"""

import json

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

from meldrin.core.catalogue import instrument_text
from meldrin.core.errors import MeldrinError
from meldrin.store.migrations.there import has_column

revision = "20261127"
down_revision = "20261126"

# name, length, where the exercise has it, and what stands for one that is not there
COLUMNS: tuple[tuple[str, int, str | None, str], ...] = (
    ("practice", 20, None, "bench"),
    ("instrument", 40, "$.instrument_id", ""),
    ("tuning", 200, "$.tuning", "standard"),
    ("method", 20, "$.method", ""),
    ("start", 20, "$.start", ""),
    ("state", 10, None, "open"),
)


def upgrade() -> None:
    if has_column("attempts", "setup"):
        _rename("setup", "exercise")
    for name, length, path, usual in COLUMNS:
        kind = sa.String(length)
        op.add_column("attempts", sa.Column(name, kind, nullable=True), if_not_exists=True)
        rows = sa.table("attempts", sa.column("exercise"), sa.column(name))
        exercise = rows.c.exercise
        value: sa.ColumnElement[str] = sa.literal(usual)
        if path is not None:
            said = sa.func.coalesce(sa.func.json_value(exercise, path), usual)
            # what is no JSON cannot be opened, but stays listed
            value = sa.case((sa.func.json_valid(exercise), sa.func.left(said, length)), else_="")
        op.execute(rows.update().values({name: value}))
        op.alter_column("attempts", name, existing_type=kind, nullable=False)
    op.execute("UPDATE attempts SET state = 'finished' WHERE finished_at IS NOT NULL")
    op.add_column("attempts", sa.Column("accuracy", sa.Double(), nullable=True), if_not_exists=True)
    op.execute(
        "UPDATE attempts JOIN results ON results.attempt_id = attempts.id"
        " SET attempts.points = results.points, attempts.accuracy = results.median_cents"
    )
    op.create_index(
        "ix_attempts_learner_id_practice_created_at",
        "attempts",
        ["learner_id", "practice", "created_at"],
        if_not_exists=True,
    )
    op.execute("ALTER TABLE results DROP PRIMARY KEY, ADD PRIMARY KEY (attempt_id, engine)")
    op.create_table(
        "instruments",
        sa.Column("id", sa.BigInteger(), nullable=False),
        sa.Column("learner_id", sa.BigInteger(), nullable=False),
        sa.Column("instrument", sa.String(40, "utf8mb4_bin"), nullable=False),
        sa.Column("text", mysql.LONGTEXT(), nullable=False),
        sa.Column("created_at", mysql.DATETIME(fsp=6), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_instruments"),
        sa.UniqueConstraint(
            "learner_id", "instrument", name="uq_instruments_learner_id_instrument"
        ),
        sa.ForeignKeyConstraint(
            ["learner_id"],
            ["learners.id"],
            name="fk_instruments_learner_id",
            ondelete="CASCADE",
        ),
        mysql_engine="InnoDB",
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_ci",
        if_not_exists=True,
    )
    _keep_instruments()


def _keep_instruments() -> None:
    """Write the data of its instrument into every exercise, as far as the catalogue has it."""
    connection = op.get_bind()
    known = connection.execute(sa.text("SELECT DISTINCT instrument FROM attempts")).scalars().all()
    for instrument in known:
        try:
            text = instrument_text(instrument)
        except MeldrinError:
            continue
        connection.execute(
            sa.text(
                "UPDATE attempts SET exercise = JSON_INSERT(exercise, '$.instrument_text',"
                " JSON_UNQUOTE(:text)) WHERE instrument = :instrument AND JSON_VALID(exercise)"
            ),
            {"text": json.dumps(text), "instrument": instrument},
        )


def downgrade() -> None:
    op.drop_table("instruments")
    op.execute(
        "DELETE old FROM results old JOIN results new"
        " ON new.attempt_id = old.attempt_id AND new.engine > old.engine"
    )
    op.execute("ALTER TABLE results DROP PRIMARY KEY, ADD PRIMARY KEY (attempt_id)")
    # the key on learner_id alone must be there before this one goes
    op.drop_index("ix_attempts_learner_id_practice_created_at", "attempts")
    for name in (*(column[0] for column in COLUMNS), "accuracy"):
        op.drop_column("attempts", name)
    op.execute(
        "UPDATE attempts SET exercise = JSON_REMOVE(exercise, '$.instrument_text')"
        " WHERE JSON_VALID(exercise)"
    )
    _rename("exercise", "setup")


def _rename(old: str, new: str) -> None:
    op.alter_column(
        "attempts",
        old,
        new_column_name=new,
        existing_type=mysql.LONGTEXT(),
        existing_nullable=False,
    )
