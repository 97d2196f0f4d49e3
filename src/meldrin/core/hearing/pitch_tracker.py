"""The pitch of a stretch of sound, by its own likeness to itself a period later.

Plain and honest: it knows no partials and no instrument, so it is drawn off by an attack that
falls, by other strings that ring along, and by a fundamental that is weak.
"""

import math
from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

from meldrin.core.errors import within

LOWEST_HZ: Final = 25.0
HIGHEST_HZ: Final = 1600.0
FAINTEST_RMS: Final = 3e-4  # 70 dB under full scale
CLEAR: Final = 0.6  # below it there is no one pitch
NEARLY_BEST: Final = 0.9  # the first peak this near the best one is the period, not a multiple
STILL_ALIKE: Final = 0.75


@dataclass(frozen=True, slots=True)
class Tracked:
    """A pitch in Hz; `clarity` from 0 to 1 tells how alike the sound is to itself a period on."""

    hz: float
    clarity: float


def tracked(samples: NDArray[np.float64], *, sample_rate: int) -> Tracked | None:
    """Return the pitch of a stretch of sound, or None where it is too faint or has no one pitch.

    Args:
        samples: shape (n,), mono; at least three periods of the lowest pitch looked for.
        sample_rate: in Hz, 8 to 192 kHz.

    The normalised square difference function and its first high peak (McLeod and Wyvill, 2005),
    then the same peak some periods later, which tells the period that much more finely: about
    0.1 cents on a steady harmonic tone of a quarter of a second. The partials of a stiff string
    spread, and it finds something between them, up to a few cents above the first.
    """
    rate = within(sample_rate, name="sample rate", low=8_000, high=192_000, unit="Hz")
    if len(samples) < 3 * rate / HIGHEST_HZ or np.sqrt(np.mean(samples**2)) < FAINTEST_RMS:
        return None
    likeness = _likeness(samples - np.mean(samples), longest=round(rate / LOWEST_HZ) * 3)
    first = _first_period(likeness, shortest=rate / HIGHEST_HZ, longest=rate / LOWEST_HZ)
    if first is None:
        return None
    lag, clarity = first
    period = lag
    times = 2
    while period * times < len(likeness) - 2:
        lag, alike = _peak(likeness, round(period * times))
        if alike < STILL_ALIKE or abs(lag / times / period - 1.0) > 0.02:
            break
        period = lag / times
        times += 1
    return Tracked(rate / period, clarity)


def _likeness(samples: NDArray[np.float64], *, longest: int) -> NDArray[np.float64]:
    """Return 2 r(lag)/m(lag) for lags from 0 on, by way of the Fourier transform."""
    count = len(samples)
    size = 1 << (2 * count - 1).bit_length()
    spectrum = np.fft.rfft(samples, size)
    correlation = np.fft.irfft(spectrum * np.conj(spectrum), size)[:count]
    squares = np.concatenate(([0.0], np.cumsum(samples**2)))
    lags = np.arange(min(longest, count // 2))
    energy = squares[count - lags] + squares[count] - squares[lags]
    return np.asarray(2.0 * correlation[: len(lags)] / np.maximum(energy, 1e-30))


def _first_period(
    likeness: NDArray[np.float64], *, shortest: float, longest: float
) -> tuple[float, float] | None:
    """Return lag and height of the first high peak after the curve has once been below 0."""
    below = np.nonzero(likeness < 0.0)[0]
    if len(below) == 0:
        return None
    start = max(int(below[0]), math.floor(shortest))
    part = likeness[start : math.ceil(longest) + 1]
    if len(part) < 3:
        return None
    tops = np.nonzero((part[1:-1] > part[:-2]) & (part[1:-1] >= part[2:]))[0] + 1
    if len(tops) == 0:
        return None
    best = float(np.max(part[tops]))
    if best < CLEAR:
        return None
    for top in tops:
        if part[top] >= NEARLY_BEST * best:
            return _peak(likeness, start + int(top))
    return None


def _peak(likeness: NDArray[np.float64], near: int) -> tuple[float, float]:
    """Return lag and height of the peak nearest to a lag, by a parabola through three points."""
    at = min(max(near, 1), len(likeness) - 2)
    for _ in range(8):
        if likeness[at + 1] > likeness[at] and at < len(likeness) - 2:
            at += 1
        elif likeness[at - 1] > likeness[at] and at > 1:
            at -= 1
        else:
            break
    left, middle, right = (float(x) for x in likeness[at - 1 : at + 2])
    bend = left - 2.0 * middle + right
    shift = 0.5 * (left - right) / bend if bend < 0.0 else 0.0
    shift = min(max(shift, -1.0), 1.0)
    return at + shift, middle - 0.25 * (left - right) * shift
