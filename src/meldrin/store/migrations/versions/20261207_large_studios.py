"""What lists of a large studio read, kept out of the large rows of attempts."""

import sqlalchemy as sa
from alembic import op

revision = "20261207"
down_revision = "20261206"

NAME = "assignment_attempts"
BY_EXERCISE = ("assignment_id", "finished", "learner_id", "part")
BY_LEARNER = ("learner_id", "assignment_id")
BEFORE = ("assignment_id", "part")
BY_STATE = ("practice", "state", "engine")
LAST_TUNED = ("learner_id", "practice", "state", "instrument", "method")
FOREIGN = f"fk_{NAME}_learner_id"


def _index(columns: tuple[str, ...], table: str = NAME) -> None:
    op.create_index(f"ix_{table}_{'_'.join(columns)}", table, list(columns), if_not_exists=True)


def upgrade() -> None:
    op.add_column(NAME, sa.Column("learner_id", sa.BigInteger()), if_not_exists=True)
    op.add_column(
        NAME,
        sa.Column("finished", sa.Boolean(), nullable=False, server_default="0"),
        if_not_exists=True,
    )
    op.execute(
        "UPDATE assignment_attempts done JOIN attempts ON attempts.id = done.attempt_id SET"
        " done.learner_id = attempts.learner_id, done.finished = attempts.state = 'finished'"
    )
    op.alter_column(NAME, "learner_id", existing_type=sa.BigInteger(), nullable=False)
    _index(BY_EXERCISE)
    _index(BY_LEARNER)
    for columns in (LAST_TUNED, BY_STATE):
        _index(columns, "attempts")
    there = sa.inspect(op.get_bind()).get_foreign_keys(NAME)
    if FOREIGN not in [one["name"] for one in there]:
        op.create_foreign_key(FOREIGN, NAME, "learners", ["learner_id"], ["id"], ondelete="CASCADE")
    op.drop_index(f"ix_{NAME}_{'_'.join(BEFORE)}", NAME, if_exists=True)


def downgrade() -> None:
    for columns in (LAST_TUNED, BY_STATE):
        op.drop_index(f"ix_attempts_{'_'.join(columns)}", "attempts")
    _index(BEFORE)
    op.drop_constraint(FOREIGN, NAME, type_="foreignkey")
    for of_done in (BY_EXERCISE, BY_LEARNER):
        op.drop_index(f"ix_{NAME}_{'_'.join(of_done)}", NAME)
    op.drop_column(NAME, "finished")
    op.drop_column(NAME, "learner_id")
