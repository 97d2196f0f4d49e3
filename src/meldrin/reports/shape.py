"""Documents: plain typed values that API, files, PDF and command share."""

from dataclasses import fields
from typing import Any, TypeVar

DIGITS = 6
T = TypeVar("T")


def document(made: type[T], value: object, **given: Any) -> T:
    """Return a document of this kind with what `value` has under the same names.

    given: fields that `value` does not have, or has in another form.
    """
    names = [column.name for column in fields(made)]  # type: ignore[arg-type]
    copied = {name: plain(getattr(value, name)) for name in names if name not in given}
    return made(**copied, **{name: plain(one) for name, one in given.items()})


def plain(value: Any) -> Any:
    """Return a value as files hold it: numbers to six decimals, lists instead of tuples."""
    if isinstance(value, float):
        return number(value)
    if isinstance(value, tuple):
        return [plain(one) for one in value]
    return value


def number(value: float) -> float:
    """Return the number to six decimals, without a negative zero."""
    return round(value, DIGITS) + 0.0
