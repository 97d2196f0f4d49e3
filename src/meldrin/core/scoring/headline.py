"""The result of an attempt in one or two sentences: how the strings stand."""

from collections.abc import Sequence
from typing import Final

from meldrin.core.scoring.result import StringResult
from meldrin.core.words import capital, how_far, in_words

MOST_NAMED: Final = 2


def headline(strings: Sequence[StringResult], *, in_tune_cents: float) -> str:
    """Return how many strings are in tune, within a number of cents, and which are not."""
    if not strings:
        return "Played freely."
    out = [one for one in strings if not abs(one.pitch_cents) <= in_tune_cents]
    count, right = len(strings), len(strings) - len(out)
    if not out:
        if count == 1:
            return f"{capital(strings[0].label)} is in tune."
        return f"{'Both' if count == 2 else f'All {in_words(count)}'} strings are in tune."
    if right == 0 and count > MOST_NAMED:
        return "No string is in tune yet."
    if len(out) > MOST_NAMED:
        verb = "is" if right == 1 else "are"
        return f"{capital(in_words(right))} of {in_words(count)} strings {verb} in tune."
    first = f"{capital(in_words(right))} string{' is' if right == 1 else 's are'} in tune. "
    named = [f"{one.label} is {how_far(one.pitch_cents)}" for one in out]
    return (first if right else "") + capital(", ".join(named)) + "."
