"""What leaves and enters the program over a line: the root of all messages, and shapes made of
values that core and services already declare.
"""

from dataclasses import MISSING, Field, fields
from typing import Any, Self, get_type_hints

import numpy as np
import orjson
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

    @classmethod
    def made(cls, **found: Any) -> Self:
        """Return a message of these fields, unchecked: `model_construct`, but without a look at
        fields that are missing. For what the program itself says many times a second.
        """
        made = cls.__new__(cls)
        put = object.__setattr__
        put(made, "__dict__", found)
        put(made, "__pydantic_fields_set__", found.keys())
        put(made, "__pydantic_extra__", None)
        put(made, "__pydantic_private__", None)
        return made


class Changes(Wire):
    """What has changed of a message: fields that are the same are left out."""


def changes_of(made: type[Wire]) -> Any:
    """Return a base class for what has changed of this kind of message: its fields, each of which
    may be missing.
    """
    found: dict[str, Any] = {
        name: (field.rebuild_annotation(), Described(default=None, json_schema_extra=_missing))
        for name, field in made.model_fields.items()
    }
    return create_model(f"{made.__name__}Fields", __base__=Changes, **found)


def _missing(schema: dict[str, Any]) -> None:
    schema.pop("default")  # what is missing is as it was, and not null


def text_of(message: BaseModel) -> str:
    """Return a message as JSON: as Pydantic writes it, but several times as fast.

    Raises:
        ValueError: for NaN or an infinite number, which JSON does not have; the writer would put
            null.
    """
    text = orjson.dumps(message, default=_written, option=orjson.OPT_SERIALIZE_NUMPY)
    if b"null" in text and not _is_finite(message):
        raise ValueError("a number of a message is not finite")
    return text.decode()


def _is_finite(value: object) -> bool:
    """Return whether all numbers in a message are finite."""
    if isinstance(value, float):
        return value - value == 0.0
    if isinstance(value, BaseModel):
        return all(map(_is_finite, value.__dict__.values()))
    if isinstance(value, dict):
        return all(map(_is_finite, value.values()))
    if isinstance(value, list | tuple):
        return all(map(_is_finite, value))
    if isinstance(value, np.ndarray):
        return bool(np.all(np.isfinite(value)))
    return True


def _written(value: BaseModel) -> dict[str, Any]:
    return value.__dict__


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
