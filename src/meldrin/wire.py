"""What leaves and enters the program over a line: the root of all messages, and shapes made of
values that core and services already declare.
"""

from dataclasses import MISSING, Field, fields
from typing import Any, get_type_hints

from pydantic import BaseModel, ConfigDict, create_model
from pydantic import Field as Described
from typing_extensions import Doc


class Wire(BaseModel):
    """Unknown fields are refused, numbers are finite, and nothing changes. Can be read from any
    value with attributes of the same names.
    """

    model_config = ConfigDict(
        extra="forbid", allow_inf_nan=False, frozen=True, from_attributes=True
    )


def model_of(*made: type, leave_out: tuple[str, ...] = (), **more: Any) -> Any:
    """Return a base class for a message with the fields of dataclasses: same names, types, bounds
    and defaults.

    leave_out: fields that do not travel.
    more: fields beside those, each as (type, default).
    """
    found: dict[str, Any] = {}
    for one in made:
        hints = get_type_hints(one, include_extras=True)
        for column in fields(one):
            if column.name not in leave_out:
                found[column.name] = (hints[column.name], _described(column, hints[column.name]))
    return create_model(f"{made[0].__name__}Fields", __base__=Wire, **{**found, **more})


def _described(column: "Field[Any]", hint: Any) -> Any:
    docs = (
        note.documentation for note in getattr(hint, "__metadata__", ()) if isinstance(note, Doc)
    )
    described: dict[str, Any] = {"description": next(docs, None)}
    if column.default is not MISSING:
        described["default"] = column.default
    elif column.default_factory is not MISSING:
        described["default_factory"] = column.default_factory
    return Described(**described)
