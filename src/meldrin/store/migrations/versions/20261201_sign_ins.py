"""Sign-ins, several for one learner, in place of the one secret it had; accounts with a name."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

from meldrin.store.migrations.there import has_column

revision = "20261201"
down_revision = "20261130"

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
        "sign_ins",
        sa.Column("id", sa.BigInteger(), nullable=False),
        sa.Column("public_id", sa.String(32, "utf8mb4_bin"), nullable=False),
        sa.Column("learner_id", sa.BigInteger(), nullable=False),
        sa.Column("secret_sha256", mysql.BINARY(32), nullable=False),
        sa.Column("device", sa.String(20), nullable=False),
        sa.Column("created_at", MOMENT, nullable=False),
        sa.Column("seen_at", MOMENT, nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_sign_ins"),
        _of_learner("sign_ins"),
        sa.UniqueConstraint("public_id", name="uq_sign_ins_public_id"),
        sa.UniqueConstraint("secret_sha256", name="uq_sign_ins_secret_sha256"),
        if_not_exists=True,
        **OPTIONS,
    )
    op.create_table(
        "accounts",
        sa.Column("learner_id", sa.BigInteger(), autoincrement=False, nullable=False),
        sa.Column("name", sa.String(60), nullable=False),
        sa.Column("name_key", sa.String(60, "utf8mb4_bin"), nullable=False),
        sa.Column("passphrase", sa.String(200), nullable=False),
        sa.Column("slip_sha256", mysql.BINARY(32), nullable=True),
        sa.Column("tries", sa.Integer(), nullable=False, server_default="0"),
        sa.Column("tried_at", MOMENT, nullable=True),
        sa.Column("created_at", MOMENT, nullable=False),
        sa.PrimaryKeyConstraint("learner_id", name="pk_accounts"),
        _of_learner("accounts"),
        sa.UniqueConstraint("name_key", name="uq_accounts_name_key"),
        sa.UniqueConstraint("slip_sha256", name="uq_accounts_slip_sha256"),
        if_not_exists=True,
        **OPTIONS,
    )
    if not has_column("learners", "secret_sha256"):  # it was stopped after this
        return
    # the same ids however often it is begun again
    op.execute(
        "INSERT IGNORE INTO sign_ins"
        " (id, public_id, learner_id, secret_sha256, device, created_at, seen_at)"
        " SELECT id, LEFT(SHA2(CONCAT('sign-in ', HEX(secret_sha256)), 256), 32), id,"
        " secret_sha256, 'computer', created_at, seen_at FROM learners"
    )
    op.execute("ALTER TABLE learners DROP COLUMN IF EXISTS secret_sha256")


def downgrade() -> None:
    op.add_column("learners", sa.Column("secret_sha256", mysql.BINARY(32), nullable=True))
    op.execute(
        "UPDATE learners JOIN sign_ins ON sign_ins.learner_id = learners.id"
        " SET learners.secret_sha256 = sign_ins.secret_sha256"
    )
    op.create_unique_constraint("uq_learners_secret_sha256", "learners", ["secret_sha256"])
    for table in ("accounts", "sign_ins"):
        op.drop_table(table)
