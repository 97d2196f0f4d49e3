"""Cents as people say them."""


def how_far(cents: float) -> str:
    """Return an offset in words: “still”, or how many cents low or high.

    >>> how_far(-1.24)
    '1.2 cents low'
    """
    size = cents_said(abs(cents))
    if size == "0.0 cents":
        return "still"
    return f"{size} {'low' if cents < 0.0 else 'high'}"


def cents_said(cents: float) -> str:
    """Return a size in cents, one of them in the singular.

    >>> cents_said(1.0), cents_said(2.34)
    ('1.0 cent', '2.3 cents')
    """
    size = f"{cents:.1f}"
    return f"{size} {'cent' if size == '1.0' else 'cents'}"


def capital(sentence: str) -> str:
    """Return the sentence with its first letter as a capital."""
    return sentence[:1].upper() + sentence[1:]
