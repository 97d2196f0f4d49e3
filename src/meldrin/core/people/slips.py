"""Codes on a slip or a wall: read aloud and typed by hand, without letters that look alike."""

from random import Random
from typing import Final

from meldrin.core.errors import Code, MeldrinError

# 20 letters and digits: no vowels, so that no word comes out; none that looks like another.
LETTERS: Final = "CDFGHJKLMNPQRTVWXY49"
GROUPS, IN_A_GROUP = 4, 4
JOIN_GROUPS, IN_A_JOIN_GROUP = 2, 4


def code_drawn(draw: Random) -> str:
    """Return a new code, 69 bits where the draw cannot be foreseen, in groups of four."""
    return _drawn(draw, GROUPS, IN_A_GROUP)


def code_said(text: str) -> str:
    """Return a code as it was printed, whatever hyphens, spaces and small letters it is typed with.

    >>> code_said("cdfg hjkl mnpq rtvw")
    'CDFG-HJKL-MNPQ-RTVW'

    Raises:
        MeldrinError: code ``slip``, for what can be no code.
    """
    return _said(text, GROUPS, IN_A_GROUP, "A code has 16 letters and digits, as on the slip.")


def join_code_drawn(draw: Random) -> str:
    """Return the code of a studio, to be written on a wall: 35 bits, in two groups of four."""
    return _drawn(draw, JOIN_GROUPS, IN_A_JOIN_GROUP)


def join_code_said(text: str) -> str:
    """Return the code of a studio as it is kept, however it is typed.

    >>> join_code_said("cdfg hjkl")
    'CDFG-HJKL'

    Raises:
        MeldrinError: code ``slip``, for what can be no code.
    """
    said = "This code has 8 letters and digits, as on the wall."
    return _said(text, JOIN_GROUPS, IN_A_JOIN_GROUP, said)


def is_join_code(text: str) -> bool:
    """Whether it is as long as the code of a studio; that of an invitation is longer."""
    return sum(one.isalnum() for one in text) <= JOIN_GROUPS * IN_A_JOIN_GROUP


def _drawn(draw: Random, groups: int, of_each: int) -> str:
    return "-".join("".join(draw.choice(LETTERS) for _ in range(of_each)) for _ in range(groups))


def _said(text: str, groups: int, of_each: int, otherwise: str) -> str:
    letters = [one for one in text.upper() if one.isalnum()]
    if len(letters) != groups * of_each or not set(letters) <= set(LETTERS):
        raise MeldrinError(Code.SLIP, otherwise)
    joined = "".join(letters)
    return "-".join(joined[n : n + of_each] for n in range(0, len(joined), of_each))
