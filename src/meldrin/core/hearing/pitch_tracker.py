"""The pitch of a stretch of sound: the frequency of its first partial.

First the period is found, by the likeness of the sound to itself a period later; then the first
partial is measured by how far its phase runs. On a stiff string the two differ by some cents, and
a tuner that shows the first partial shows what strings are compared by. It knows no instrument, so
an attack that falls and other strings that ring draw it off.
"""

import cmath
import math
from dataclasses import dataclass
from functools import lru_cache
from typing import Final

import numpy as np
from numpy.typing import NDArray

from meldrin.core.errors import within

LOWEST_HZ: Final = 25.0
HIGHEST_HZ: Final = 1600.0
FAINTEST_RMS: Final = 3e-4  # 70 dB under full scale
CLEAR: Final = 0.6  # below it there is no one pitch
NEARLY_BEST: Final = 0.9  # the first peak this near the best one is the period, not a multiple
THERE: Final = 0.02  # of the strongest partial looked at: a fainter one is taken to be missing
MOST_PARTIAL: Final = 12
HOP_S: Final = 0.04  # between the two looks at a phase; long enough to be exact, too short to slip
LOOKS: Final = 2  # the second one starts where the first has led
# Four-term Blackman-Harris window: what lies four bins away is 92 dB down (Harris, 1978).
WINDOW_TERMS: Final = (0.35875, -0.48829, 0.14128, -0.01168)


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

    The period comes from the normalised square difference function and its first high peak (McLeod
    and Wyvill, 2005). Two strings together have a common period that nobody plays: where the sound
    has no first partial at that pitch, the lowest partial it does have is taken. The first partial
    of a single string is found to 0.1 cents; above 1600 Hz there is no answer.
    """
    rate = within(sample_rate, name="sample rate", low=8_000, high=192_000, unit="Hz")
    if len(samples) < 3 * rate / HIGHEST_HZ or np.sqrt(np.mean(samples**2)) < FAINTEST_RMS:
        return None
    level = samples - np.mean(samples)
    likeness = _likeness(level, longest=round(rate / LOWEST_HZ) * 3)
    first = _first_period(likeness, shortest=rate / HIGHEST_HZ, longest=rate / LOWEST_HZ)
    if first is None:
        return None
    lag, clarity = first
    hz = _lowest_there(level, rate / lag, rate)
    if hz is None:
        return None
    for _ in range(LOOKS):
        hz = _by_phase(level, hz, rate)
    return Tracked(hz, clarity) if LOWEST_HZ <= hz <= HIGHEST_HZ else None


@lru_cache(maxsize=16)
def _window(count: int) -> NDArray[np.float64]:
    angles = 2.0 * np.pi * np.arange(count) / count
    return np.asarray(sum(a * np.cos(n * angles) for n, a in enumerate(WINDOW_TERMS)))


def _at(samples: NDArray[np.float64], hz: float, rate: float) -> complex:
    """Return the windowed Fourier transform at one frequency."""
    turning = np.exp((-2j * np.pi * hz / rate) * np.arange(len(samples)))
    return complex(np.sum(turning * (samples * _window(len(samples)))))


def _lowest_there(samples: NDArray[np.float64], hz: float, rate: float) -> float | None:
    """Return the lowest multiple of a frequency that the sound has a partial at."""
    size = 4 << len(samples).bit_length()  # bins fine enough to meet a partial near its top
    spectrum = np.abs(np.fft.rfft(samples * _window(len(samples)), size))
    multiples = hz * np.arange(1, MOST_PARTIAL + 1)
    multiples = multiples[multiples < 0.45 * rate]
    if len(multiples) == 0:
        return None
    sizes = spectrum[np.round(multiples * size / rate).astype(int)]
    there = np.nonzero(sizes >= THERE * np.max(sizes))[0]
    return float(multiples[there[0]])


def _by_phase(samples: NDArray[np.float64], hz: float, rate: float) -> float:
    """Return the frequency of the partial near `hz`, by the phase it gains from one look to the
    next (the phase vocoder; Flanagan and Golden, 1966).
    """
    hop = round(HOP_S * rate)
    if len(samples) < 4 * hop:
        return hz
    early, late = _at(samples[:-hop], hz, rate), _at(samples[hop:], hz, rate)
    gained = cmath.phase(late * early.conjugate() * cmath.exp(-2j * math.pi * hz * hop / rate))
    return hz + gained * rate / (2.0 * math.pi * hop)


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
