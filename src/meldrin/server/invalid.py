"""What is wrong with a message that does not fit its shape, in a sentence of our own: the words of
the library that found it never reach anybody.
"""

from collections.abc import Callable, Mapping
from typing import Any, Final

from fastapi.exceptions import RequestValidationError
from pydantic import ValidationError

Facts = Mapping[str, Any]
WHERE: Final = ("body", "query", "path")  # where the message came in, which is no field of it
# By the library's types of error; one that is not here is “not right”.
SAID: Final[dict[str, Callable[[Facts], str]]] = {
    "missing": lambda _: "is missing",
    "extra_forbidden": lambda _: "is not known here",
    "greater_than_equal": lambda facts: f"must be at least {facts['ge']:g}",
    "greater_than": lambda facts: f"must be more than {facts['gt']:g}",
    "less_than_equal": lambda facts: f"must be at most {facts['le']:g}",
    "less_than": lambda facts: f"must be less than {facts['lt']:g}",
    "string_too_long": lambda facts: f"must have at most {_characters(facts['max_length'])}",
    "string_too_short": lambda facts: f"must have at least {_characters(facts['min_length'])}",
    "too_long": lambda facts: f"must have at most {_entries(facts['max_length'])}",
    "too_short": lambda facts: f"must have at least {_entries(facts['min_length'])}",
    "string_pattern_mismatch": lambda _: "is not written as it should be",
    "literal_error": lambda facts: f"must be {facts['expected']}",
    "enum": lambda facts: f"must be {facts['expected']}",
    "union_tag_invalid": lambda facts: f"must have a kind of these: {facts['expected_tags']}",
    "union_tag_not_found": lambda _: "must have a kind",
    "finite_number": lambda _: "must be a finite number",
    "json_invalid": lambda _: "is not JSON",
    "string_type": lambda _: "must be text",
    "dict_type": lambda _: "must be an object with named fields",
    "model_type": lambda _: "must be an object with named fields",
    "model_attributes_type": lambda _: "must be an object with named fields",
    **{kind: lambda _: "must be a whole number" for kind in (
        "int_type", "int_parsing", "int_from_float", "int_parsing_size"
    )},
    **{kind: lambda _: "must be a number" for kind in ("float_type", "float_parsing")},
    **{kind: lambda _: "must be true or false" for kind in ("bool_type", "bool_parsing")},
    **{kind: lambda _: "must be a list" for kind in ("list_type", "tuple_type", "set_type")},
    **{kind: lambda _: "must be a date, such as 2026-12-24" for kind in (
        "date_type", "date_parsing", "date_from_datetime_parsing", "date_from_datetime_inexact"
    )},
    **{kind: lambda _: "must be a time, such as 2026-12-24T18:00:00Z" for kind in (
        "datetime_type", "datetime_parsing", "datetime_from_date_parsing", "timezone_aware"
    )},
}  # fmt: skip


def sentence(error: ValidationError | RequestValidationError) -> str:
    """Return one sentence that names the first bad field and what is wrong with it."""
    first = error.errors()[0]
    place = place_of(first)
    said = SAID.get(first["type"], _not_right)(first.get("ctx", {}))
    return f"“{place}” {said}." if place else f"The message {said}."


def _not_right(_: Facts) -> str:
    return "is not right"


def facts_of(error: ValidationError | RequestValidationError) -> dict[str, object]:
    """Return the field and what kind of fault it has, for programs; with its limit, if any."""
    first = error.errors()[0]
    limits = {
        key: value
        for key, value in first.get("ctx", {}).items()
        if isinstance(value, int | float | str)
    }
    return {"field": place_of(first), "kind": first["type"], **limits}


def place_of(found: Facts) -> str:
    """Return the field that is bad: its names from the outermost in, parted by dots; “” for the
    whole.
    """
    return ".".join(str(part) for part in found["loc"] if part not in WHERE)


def _characters(count: int) -> str:
    return "1 character" if count == 1 else f"{count} characters"


def _entries(count: int) -> str:
    return "1 entry" if count == 1 else f"{count} entries"
