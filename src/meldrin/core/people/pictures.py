"""A passphrase of pictures: four out of 256, in their order, which a child can keep in mind."""

import tomllib
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from importlib import resources
from random import Random
from typing import Final

from meldrin.core.errors import Code, MeldrinError

PICTURES_OF_A_PASSPHRASE: Final = 4
GROUPS, IN_A_GROUP = 16, 16


@dataclass(frozen=True, slots=True)
class PictureGroup:
    """Sixteen pictures of a kind: the id of each, which is its drawing's name, and its words."""

    name: str
    pictures: dict[str, str]


@cache
def picture_groups() -> tuple[PictureGroup, ...]:
    """Return all pictures, in the order they are shown in."""
    text = resources.files(__package__).joinpath("pictures.toml").read_text(encoding="utf-8")
    return tuple(
        PictureGroup(group["name"], dict(group["pictures"]))
        for group in tomllib.loads(text)["groups"]
    )


@cache
def picture_words() -> dict[str, str]:
    """Return the words of every picture, by its id."""
    return {one: words for group in picture_groups() for one, words in group.pictures.items()}


@cache
def _all() -> tuple[str, ...]:
    return tuple(picture_words())


def pictures_drawn(draw: Random) -> tuple[str, ...]:
    """Return a passphrase; 32 bits where the draw cannot be foreseen."""
    return tuple(draw.sample(_all(), PICTURES_OF_A_PASSPHRASE))


def passphrase_said(pictures: Sequence[str]) -> str:
    """Return a passphrase as it is hashed.

    Raises:
        MeldrinError: code ``passphrase``, for too few or too many, or what is no picture.
    """
    if len(pictures) != PICTURES_OF_A_PASSPHRASE or not set(pictures) <= set(_all()):
        raise MeldrinError(
            Code.PASSPHRASE, f"A passphrase has {PICTURES_OF_A_PASSPHRASE} of the pictures."
        )
    return " ".join(pictures)
