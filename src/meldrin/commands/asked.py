"""Options that are the fields of a dataclass: declared once, for the command and for the API."""

import argparse
from dataclasses import MISSING, fields
from types import NoneType
from typing import Annotated, Any, Literal, TypeVar, get_args, get_origin, get_type_hints

from typing_extensions import Doc

SHORT = {"a4_hz": "a4"}
T = TypeVar("T")


def add_fields(parser: argparse.ArgumentParser, made: type) -> None:
    """Add an option for every field of a dataclass; those without a default by their place."""
    hints = get_type_hints(made, include_extras=True)
    for column in fields(made):
        kind, about = _told(hints[column.name])
        if column.default is MISSING:
            parser.add_argument(column.name, help=about)
            continue
        how: dict[str, Any] = {"default": column.default, "help": about, "dest": column.name}
        if kind is bool:
            how["action"] = "store_true"
        elif get_origin(kind) is Literal:  # whoever asks for another is told by the core
            how["metavar"] = "|".join(get_args(kind))
        else:
            how["type"] = kind
        parser.add_argument(f"--{SHORT.get(column.name, column.name).replace('_', '-')}", **how)


def asked_for(options: argparse.Namespace, made: type[T]) -> T:
    """Return the dataclass that the options say."""
    return made(**{one.name: getattr(options, one.name) for one in fields(made)})  # type: ignore[arg-type]


def _told(hint: Any) -> tuple[Any, str | None]:
    """Return the plain type of a hint, without None, and what its documentation says."""
    about = None
    if get_origin(hint) is Annotated:
        about = next((one.documentation for one in hint.__metadata__ if isinstance(one, Doc)), None)
        hint = get_args(hint)[0]
    plain = [one for one in get_args(hint) if one is not NoneType]
    if get_origin(hint) is not Literal and plain:
        return plain[0], about
    return hint, about
