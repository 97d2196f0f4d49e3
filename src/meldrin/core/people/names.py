"""The name that somebody chooses; nobody needs to give their own."""

import unicodedata
from typing import Final

from meldrin.core.errors import Code, MeldrinError

FEWEST_LETTERS, MOST_LETTERS = 2, 30
MOST_OF_A_TITLE: Final = 40
BESIDE_LETTERS: Final = " -'’."


def name_said(name: str) -> str:
    """Return a name as it is kept: in one form of its letters, with single spaces.

    Raises:
        MeldrinError: code ``name``, for one that is too short or too long, or an address.
    """
    said = " ".join(unicodedata.normalize("NFKC", name).split())
    if "@" in said:
        raise MeldrinError(Code.NAME, "Take a name, not an address: none is needed here.")
    if not FEWEST_LETTERS <= len(said) <= MOST_LETTERS:
        raise MeldrinError(
            Code.NAME, f"A name has {FEWEST_LETTERS} to {MOST_LETTERS} letters or digits."
        )
    written = all(one.isalnum() or one in BESIDE_LETTERS or _joins(one) for one in said)
    if not written or not any(one.isalnum() for one in said):
        raise MeldrinError(Code.NAME, "A name has letters, digits, spaces and hyphens only.")
    return said


def title_said(title: str) -> str:
    """Return what a studio, a group or the like is called, with single spaces.

    Raises:
        MeldrinError: code ``name``, for one that is empty or too long, or cannot be printed.
    """
    said = " ".join(unicodedata.normalize("NFKC", title).split())
    if not said.isprintable() or not any(one.isalnum() for one in said):
        raise MeldrinError(Code.NAME, "A name has letters or digits that can be printed.")
    if len(said) > MOST_OF_A_TITLE:
        raise MeldrinError(Code.NAME, f"A name has at most {MOST_OF_A_TITLE} letters here.")
    return said


def _joins(letter: str) -> bool:
    """Whether it is a mark that belongs to the letter before it."""
    return unicodedata.category(letter) in ("Mn", "Mc")


def key_of_name(name: str) -> str:
    """Return what names that look alike have in common.

    >>> key_of_name("Ida  Lund") == key_of_name("ida-lund")
    True
    """
    folded = unicodedata.normalize("NFKC", name).casefold()
    return "".join(one for one in folded if one.isalnum() or _joins(one))
