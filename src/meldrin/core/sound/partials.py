"""The table of partials of a sounding thing, and those of a string: plucked, touched or bowed."""

import bisect
import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Final

from meldrin.core.catalogue import Losses
from meldrin.core.errors import Code, MeldrinError, within
from meldrin.core.strings import (
    String,
    frequency_at_strain,
    inharmonicity,
    partial_hz,
    semitones_at,
    stopped_m,
    tension_at_strain,
)

AUDIBLE: Final = 4e-4  # 68 dB under full scale: below it there is nothing left to listen to
LASTS_DECAYS: Final = 14.0  # after this many of its decays a partial is 120 dB down
HIGHEST_PARTIAL_HZ: Final = 7000.0
MOST_PARTIALS: Final = 30
PLUCKED_AT: Final = (
    0.14  # share of the open length from the bridge: partials 2 to 6 come out strong
)
STRING_LEVEL: Final = 0.5  # sum of amplitudes at full strength, so two strings stay below 1
BOW_LEVEL: Final = 0.3  # a bow goes on: as loud to the ear with less at its peak
BOW_ATTACK_S: Final = 0.08
BOW_STROKE_S: Final = 5.0
TWIN_SHARE: Final = 0.4  # of a split partial's amplitude, the part that lies a little higher
AUDIBLE_ALONG: Final = 5e-4  # fainter company of a free string is left out
TOUCH_LOSS: Final = 30.0  # nepers a light finger takes from a partial that moves fully under it


@dataclass(frozen=True, slots=True)
class PartialTable:
    """Partials as four columns of one length, the onset, and how the whole moves in time.

    `frequencies_hz`; `amplitudes` (full scale is 1); `decays_s`, the time to 1/e; `phases_rad` at
    the start; `attack_s`, the raised-cosine onset that keeps a start from clicking; `sustain_s`,
    how long a bow or a breath keeps it up before it decays. Every partial begins `glide_cents`
    sharp and comes down to its frequency by exp(-t/glide_s).
    """

    frequencies_hz: tuple[float, ...]
    amplitudes: tuple[float, ...]
    decays_s: tuple[float, ...]
    phases_rad: tuple[float, ...]
    attack_s: float
    sustain_s: float = 0.0
    glide_cents: float = 0.0
    glide_s: float = 0.1

    def __post_init__(self) -> None:
        columns = (self.frequencies_hz, self.amplitudes, self.decays_s, self.phases_rad)
        if len({len(column) for column in columns}) != 1:
            raise MeldrinError(
                Code.PARTIALS, "The columns of a partial table must be equally long."
            )
        # a sum is finite only if all of it is
        if not all(math.isfinite(sum(column)) for column in columns):
            raise MeldrinError(Code.PARTIALS, "A partial table holds finite numbers only.")
        within(self.sustain_s, name="sustain", low=0.0, high=60.0, unit="s")
        within(self.glide_cents, name="glide", low=0.0, high=100.0, unit="cents")
        within(self.glide_s, name="glide time", low=0.001, high=5.0, unit="s")

    def lasts_s(self) -> float:
        """Return the time after which nothing is left to hear (every partial 120 dB down)."""
        return self.sustain_s + LASTS_DECAYS * max(self.decays_s)

    def audible_s(self, faintest: float) -> float:
        """Return the time until which some partial is louder than this amplitude."""
        longest, most = 0.0, math.log(1.0 / faintest)
        for amplitude, decay_s in zip(self.amplitudes, self.decays_s, strict=True):
            # most partials die away so fast that they need no closer look
            if decay_s * most > longest and abs(amplitude) > faintest:
                longest = max(longest, decay_s * math.log(abs(amplitude) / faintest))
        return self.sustain_s + longest


def string_partials_hz(
    string: String, *, strain: float, fret: int, count: int, harmonic: bool = False
) -> list[float]:
    """Return the frequencies of partials 1 to `count` of the string stopped at `fret`.

    The same as `sounding_hz` of each, with what they share computed once. `harmonic`: under a bow,
    which keeps the motion periodic, every partial is the exact multiple of the first.
    """
    tension_n = tension_at_strain(string, strain)
    fundamental = frequency_at_strain(string, strain) * 2.0 ** (semitones_at(string, fret) / 12.0)
    inharmonicity_b = inharmonicity(string, tension_n=tension_n, speaking_m=stopped_m(string, fret))
    if harmonic:
        first = partial_hz(fundamental, number=1, inharmonicity_b=inharmonicity_b)
        return [(n + 1) * first for n in range(count)]
    # as `partial_hz` of each, without a call for every one
    root = math.sqrt
    return [n * fundamental * root(1.0 + inharmonicity_b * n**2) for n in range(1, count + 1)]


def partial_count(first_hz: float) -> int:
    """Return how many partials of a string are sounded."""
    return max(1, min(MOST_PARTIALS, int(HIGHEST_PARTIAL_HZ / first_hz)))


def split(frequencies_hz: Sequence[float], *, splits_cents: Sequence[float]) -> Sequence[float]:
    """Return the lower ones of all doublets, then the upper ones; the frequencies as they are where
    nothing is split.

    A false string swings a little faster in one direction than across it, so that every partial is
    two (a doublet) and beats alone. Its pitch is in the middle of them.

    Args:
        splits_cents: how far the two of each partial are apart, in the order of the partials; as
            many as there are at least.
    """
    if not splits_cents:
        return frequencies_hz
    halves = [2.0 ** (cents / 2400.0) for cents in splits_cents[: len(frequencies_hz)]]
    lower = [hz / half for hz, half in zip(frequencies_hz, halves, strict=True)]
    return [*lower, *(hz * half for hz, half in zip(frequencies_hz, halves, strict=True))]


def plucked(
    frequencies_hz: Sequence[float],
    losses: Losses,
    *,
    strength: float,
    place: float = PLUCKED_AT,
    touched_at: float | None = None,
    splits_cents: Sequence[float] = (),
    glide_cents: float = 0.0,
    glide_s: float = 0.1,
) -> PartialTable:
    """Return the partials of the force that a plucked string exerts on its bridge.

    An ideal pluck at the share x of the speaking length gives partial n the displacement
    sin(n pi x)/n^2 and so the force sin(n pi x)/n (Fletcher and Rossing, 1998, ch. 2). All partials
    start together in phase, as they do at the moment of release.

    Args:
        frequencies_hz: of partials 1, 2, … as they sound.
        strength: 0.01 to 1.
        place: where it is plucked, as a share of the speaking length from the bridge.
        touched_at: where a finger lies lightly on it, as a share of the length, or None. It takes
            from partial n what moves under it, sin(n pi x)^2, and leaves those with a node there.
        splits_cents: how far the two of each doublet of a false string are apart.
        glide_cents: how far sharp a hard stroke begins, and `glide_s` how fast that falls.
    """
    level = within(strength, name="strength", low=0.01, high=1.0)
    within(place, name="place of the pluck", low=0.01, high=0.99)
    twins = bool(splits_cents)
    amplitudes = _amplitudes(len(frequencies_hz), level, place, touched_at, twins)
    decays_s = losses.decays_s(frequencies_hz)
    if twins:
        decays_s += decays_s  # they lie a few cents apart and die alike
    return PartialTable(
        frequencies_hz=tuple(split(frequencies_hz, splits_cents=splits_cents)),
        amplitudes=amplitudes,
        decays_s=tuple(decays_s),
        phases_rad=(0.0,) * len(amplitudes),
        attack_s=0.003,
        glide_cents=glide_cents,
        glide_s=glide_s,
    )


@lru_cache(maxsize=512)
def _amplitudes(
    count: int, level: float, place: float, touched_at: float | None, twins: bool
) -> tuple[float, ...]:
    """Return the amplitudes of a pluck; without a finger their sizes add up to those of its level.
    Those of twins come last.
    """
    forces = [math.sin((n + 1) * math.pi * place) / (n + 1) for n in range(count)]
    scale = STRING_LEVEL * level / sum(abs(force) for force in forces)
    one = _under_finger([scale * force for force in forces], touched_at)
    if not twins:
        return tuple(one)
    return (*((1.0 - TWIN_SHARE) * size for size in one), *(TWIN_SHARE * size for size in one))


def _under_finger(amplitudes: list[float], touched_at: float | None) -> list[float]:
    if touched_at is None:
        return amplitudes
    return [
        amplitude * math.exp(-TOUCH_LOSS * math.sin((n + 1) * math.pi * touched_at) ** 2)
        for n, amplitude in enumerate(amplitudes)
    ]


def bowed(
    frequencies_hz: Sequence[float],
    losses: Losses,
    *,
    strength: float,
    touched_at: float | None = None,
    splits_cents: Sequence[float] = (),
) -> PartialTable:
    """Return the partials of a bowed string: the sawtooth of the Helmholtz motion, 1/n, kept up for
    one stroke of the bow (Cremer, The Physics of the Violin, 1984); as `plucked` where touched.
    """
    level = within(strength, name="strength", low=0.01, high=1.0)
    count = len(frequencies_hz)
    scale = BOW_LEVEL * level / sum(1.0 / (n + 1) for n in range(count))
    amplitudes = _under_finger([scale / (n + 1) for n in range(count)], touched_at)
    if splits_cents:  # the bow holds both directions together: no beating while it plays
        amplitudes = [*amplitudes, *(0.0 for _ in range(count))]
    sounding = split(frequencies_hz, splits_cents=splits_cents)
    return PartialTable(
        frequencies_hz=tuple(sounding),
        amplitudes=tuple(amplitudes),
        decays_s=tuple(min(0.6, losses.decay_s(frequency)) for frequency in sounding),
        phases_rad=(0.0,) * len(sounding),
        attack_s=BOW_ATTACK_S,
        sustain_s=BOW_STROKE_S,
    )


def ringing_along(
    frequencies_hz: Sequence[float],
    losses: Losses,
    *,
    drivers: list[tuple[float, float]],
    transfer: float,
) -> PartialTable | None:
    """Return how a free string rings along with others, or None where nothing coincides.

    Each of its partials answers the nearest partial that drives it as a resonator does, by
    1/sqrt(1 + (2 pi (f - f_driver) tau)^2) with its own decay time tau.

    Args:
        frequencies_hz: of the free string's partials 1, 2, …
        drivers: (frequency in Hz, amplitude) of the partials that sound, in rising order.
        transfer: the share of the amplitude that passes over the bridge at coincidence.
    """
    driver_hz = [hz for hz, _ in drivers]
    decays_s = losses.decays_s(frequencies_hz)
    amplitudes = [0.0] * len(frequencies_hz)
    for place, (hz, decay_s) in enumerate(zip(frequencies_hz, decays_s, strict=True)):
        at = bisect.bisect(driver_hz, hz)
        for near_hz, amplitude in drivers[max(0, at - 1) : at + 1]:
            off = 2.0 * math.pi * (hz - near_hz) * decay_s
            most = transfer * abs(amplitude)
            if most <= AUDIBLE_ALONG * abs(off):
                continue  # far off, as most are
            answer = most / math.sqrt(1.0 + off * off)
            if answer > AUDIBLE_ALONG:
                amplitudes[place] = max(answer, amplitudes[place])
    if not any(amplitudes):
        return None
    return PartialTable(
        frequencies_hz=tuple(frequencies_hz),
        amplitudes=tuple(amplitudes),
        decays_s=tuple(decays_s),
        phases_rad=(math.pi / 2.0,) * len(frequencies_hz),  # a resonator lags by a quarter
        attack_s=0.15,
    )


def snap() -> PartialTable:
    """Return the sound of a string that breaks: short and dull, and no louder than a pluck."""
    frequencies = (190.0, 311.0, 523.0, 881.0, 1370.0, 2210.0)
    return PartialTable(
        frequencies_hz=frequencies,
        amplitudes=tuple(0.09 / (1.0 + 0.3 * n) for n in range(len(frequencies))),
        decays_s=tuple(0.07 / (1.0 + 0.6 * n) for n in range(len(frequencies))),
        phases_rad=(0.0,) * len(frequencies),
        attack_s=0.002,
    )
