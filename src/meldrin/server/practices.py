"""The server's side of every kind of practice: the folder of its name, with its routes and, in
`schemas`, the messages of its line.
"""

from importlib import import_module

from fastapi import APIRouter
from pydantic import TypeAdapter

from meldrin.services.practices import KINDS


def routers() -> list[APIRouter]:
    """Return the routes of every kind of practice."""
    return [import_module(f"meldrin.server.{kind}.routes").router for kind in KINDS]


def messages() -> dict[str, tuple[TypeAdapter[object], TypeAdapter[object]]]:
    """Return what a line says, from the browser and to it, by the kind of practice."""
    found = {}
    for kind in KINDS:
        schemas = import_module(f"meldrin.server.{kind}.schemas")
        found[kind] = (schemas.FromBrowser, schemas.ToBrowser)
    return found
