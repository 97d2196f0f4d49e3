"""Cents as people say them."""


def how_far(cents: float) -> str:
    """Return an offset in words: “still”, or how many cents low or high.

    >>> how_far(-1.24)
    '1.2 cents low'
    """
    size = f"{abs(cents):.1f}"
    if size == "0.0":
        return "still"
    unit = "cent" if size == "1.0" else "cents"
    return f"{size} {unit} {'low' if cents < 0.0 else 'high'}"


def capital(sentence: str) -> str:
    """Return the sentence with its first letter as a capital."""
    return sentence[:1].upper() + sentence[1:]
