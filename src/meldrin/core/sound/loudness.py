"""Loudness, as it is measured in broadcasting."""

from typing import Final

# The two filters of ITU-R BS.1770-4, as analogue ones: a shelf for the head, and a high-pass.
SHELF_HZ: Final = 1681.974
SHELF_DB: Final = 3.99984
SHELF_Q: Final = 0.7071752
HIGH_PASS_HZ: Final = 38.13547
HIGH_PASS_Q: Final = 0.5003270


def weight(hz: float) -> float:
    """Return how much a frequency counts, as a ratio of amplitudes (about 1 at 500 Hz).

    >>> round(weight(1000.0), 2), round(weight(60.0), 2)
    (1.08, 0.71)
    """
    s = 1j * hz / SHELF_HZ
    high = 10.0 ** (SHELF_DB / 20.0)
    shelf = (high * s * s + high**0.4996667741545416 / SHELF_Q * s + 1.0) / (
        s * s + s / SHELF_Q + 1.0
    )
    s = 1j * hz / HIGH_PASS_HZ
    return float(abs(shelf * s * s / (s * s + s / HIGH_PASS_Q + 1.0)))
