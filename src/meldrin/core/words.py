"""Cents as people say them."""

import math
from collections.abc import Sequence
from typing import Final

from meldrin.core.units import semitones_of_cents

SEMITONES_FROM = 120.0
NUMBERS: Final = (
    "no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven",
    "twelve",
)  # fmt: skip


def how_far(cents: float) -> str:
    """Return an offset in words: “in tune”, or how many cents low or high.

    >>> how_far(-1.24)
    '1.2 cents low'
    """
    if math.isinf(cents):
        return "slack" if cents < 0.0 else "without a partner"
    size = cents_said(abs(cents))
    if size == "0.0 cents":
        return "in tune"
    return f"{size} {'low' if cents < 0.0 else 'high'}"


def cents_said(cents: float) -> str:
    """Return a size in cents, one of them in the singular; from 120 on in semitones.

    >>> cents_said(1.0), cents_said(2.34), cents_said(1840.0)
    ('1.0 cent', '2.3 cents', '18.4 semitones')
    """
    if cents >= SEMITONES_FROM:
        return f"{semitones_of_cents(cents):.1f} semitones"
    size = f"{cents:.1f}"
    return f"{size} {'cent' if size == '1.0' else 'cents'}"


def signed_cents(cents: float) -> str:
    """Return an offset as a tuner shows it.

    >>> signed_cents(-3.91), signed_cents(-0.01)
    ('-3.9', '0')
    """
    return "0" if abs(cents) < 0.05 else f"{cents:+.1f}"


def whole_cents(cents: float) -> str:
    """Return a size in cents as somebody would round or enter it.

    >>> whole_cents(1.0), whole_cents(2.5), whole_cents(12.0)
    ('1 cent', '2.5 cents', '12 cents')
    """
    size = f"{cents:g}"
    return f"{size} {'cent' if size == '1' else 'cents'}"


def beats_said(beats_hz: float) -> str:
    """Return a rate of beats to two digits, one of them in the singular.

    >>> beats_said(1.0), beats_said(0.333)
    ('1 beat a second', '0.33 beats a second')
    """
    size = f"{beats_hz:.2g}"
    return f"{size} {'beat' if size == '1' else 'beats'} a second"


def listed(names: Sequence[str]) -> str:
    """Return names as one says them, with “and” before the last.

    >>> listed(["G", "B", "low E"])
    'G, B and low E'
    """
    return " and ".join([", ".join(names[:-1]), names[-1]] if len(names) > 1 else names)


def in_words(count: int) -> str:
    """Return a small number as a word.

    >>> in_words(4), in_words(20)
    ('four', '20')
    """
    return NUMBERS[count] if count < len(NUMBERS) else str(count)


def capital(sentence: str) -> str:
    """Return the sentence with its first letter as a capital."""
    return sentence[:1].upper() + sentence[1:]


def with_article(name: str) -> str:
    """Return an interval's name as it is said after a verb.

    >>> with_article("octave"), with_article("fifth and two octaves"), with_article("two octaves")
    ('an octave', 'a fifth and two octaves', 'two octaves')
    """
    if name.startswith(("two ", "three ")):
        return name
    return f"{'an' if name[0] in 'aeiou' else 'a'} {name}"
