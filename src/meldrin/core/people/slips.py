"""The code on a printed slip: read aloud and typed by hand, without letters that look alike."""

from random import Random
from typing import Final

from meldrin.core.errors import Code, MeldrinError

# 20 letters and digits: no vowels, so that no word comes out; none that looks like another.
LETTERS: Final = "CDFGHJKLMNPQRTVWXY49"
GROUPS, IN_A_GROUP = 4, 4


def code_drawn(draw: Random) -> str:
    """Return a new code, 69 bits where the draw cannot be foreseen, in groups of four."""
    groups = ("".join(draw.choice(LETTERS) for _ in range(IN_A_GROUP)) for _ in range(GROUPS))
    return "-".join(groups)


def code_said(text: str) -> str:
    """Return a code as it was printed, whatever hyphens, spaces and small letters it is typed with.

    >>> code_said("cdfg hjkl mnpq rtvw")
    'CDFG-HJKL-MNPQ-RTVW'

    Raises:
        MeldrinError: code ``slip``, for what can be no code.
    """
    letters = [one for one in text.upper() if one.isalnum()]
    if len(letters) != GROUPS * IN_A_GROUP or not set(letters) <= set(LETTERS):
        raise MeldrinError(
            Code.SLIP, "A code has 16 letters and digits, in four groups, as on the slip."
        )
    joined = "".join(letters)
    return "-".join(joined[n : n + IN_A_GROUP] for n in range(0, len(joined), IN_A_GROUP))
