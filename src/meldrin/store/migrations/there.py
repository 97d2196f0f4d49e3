"""What a killed migration has done already."""

from alembic import op
from sqlalchemy import inspect


def has_column(table: str, column: str) -> bool:
    """Return whether a table has a column now."""
    return any(one["name"] == column for one in inspect(op.get_bind()).get_columns(table))
