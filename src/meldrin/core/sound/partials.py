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
from meldrin.core.units import ratio_of_cents

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
class Series:
    """Where the partials of a string lie: partial n at n f0 sqrt(1 + B n^2) (Fletcher, 1964), with
    the fundamental f0 of a flexible string and the stiffness B (dimensionless).
    """

    fundamental_hz: float
    stiffness: float

    def partial_hz(self, number: float) -> float:
        """Return the frequency of a partial."""
        return number * self.fundamental_hz * math.sqrt(1.0 + self.stiffness * number**2)

    def partials_hz(self, count: int) -> list[float]:
        """Return the frequencies of partials 1 to `count`."""
        # as `partial_hz` of each, without a call for every one
        root, first, stiffness = math.sqrt, self.fundamental_hz, self.stiffness
        return [n * first * root(1.0 + stiffness * n**2) for n in range(1, count + 1)]


@dataclass(frozen=True, slots=True)
class PartialTable:
    """Partials as columns of one length, where they lie, the onset, and how all of it moves.

    A partial lies where a series has its number, `cents` beside that. Every partial begins
    `glide_cents` sharp and comes down to its frequency by exp(-t/glide_s).

    fundamental_hz, stiffness: of the series.
    amplitudes: full scale is 1.
    decays_s: the time to 1/e.
    attack_s: the raised-cosine onset that keeps a start from clicking.
    numbers: of the partials; empty for 1, 2, 3, …
    cents: how far each lies beside its place; empty for none.
    phases_rad: at the start; empty for 0.
    sustain_s: how long a bow or a breath keeps it up before it decays.
    """

    fundamental_hz: float
    amplitudes: tuple[float, ...]
    decays_s: tuple[float, ...]
    attack_s: float
    stiffness: float = 0.0
    numbers: tuple[float, ...] = ()
    cents: tuple[float, ...] = ()
    phases_rad: tuple[float, ...] = ()
    sustain_s: float = 0.0
    glide_cents: float = 0.0
    glide_s: float = 0.1

    def __post_init__(self) -> None:
        count = len(self.amplitudes)
        columns = (self.amplitudes, self.decays_s, self.numbers, self.cents, self.phases_rad)
        if len(self.decays_s) != count or any(len(one) not in (0, count) for one in columns):
            raise MeldrinError(
                Code.PARTIALS, "The columns of a partial table must be equally long."
            )
        # a sum is finite only if all of it is
        whole = sum(map(sum, columns)) + self.fundamental_hz + self.stiffness
        if not math.isfinite(whole):
            raise MeldrinError(Code.PARTIALS, "A partial table holds finite numbers only.")
        within(self.sustain_s, name="sustain", low=0.0, high=60.0, unit="s")
        within(self.glide_cents, name="glide", low=0.0, high=100.0, unit="cents")
        within(self.glide_s, name="glide time", low=0.001, high=5.0, unit="s")

    @property
    def frequencies_hz(self) -> list[float]:
        """Where each partial lies, in the order of the columns."""
        series = Series(self.fundamental_hz, self.stiffness)
        if self.numbers:
            found = [series.partial_hz(number) for number in self.numbers]
        else:
            found = series.partials_hz(len(self.amplitudes))
        if not self.cents:
            return found
        return [hz * ratio_of_cents(off) for hz, off in zip(found, self.cents, strict=True)]

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


def string_series(string: String, *, strain: float, fret: int, harmonic: bool = False) -> Series:
    """Return where the partials of a string stopped at `fret` lie; the same as `sounding_hz`.

    `harmonic`: under a bow, which keeps the motion periodic, every partial is the exact multiple of
    the first.
    """
    tension_n = tension_at_strain(string, strain)
    fundamental = frequency_at_strain(string, strain) * 2.0 ** (semitones_at(string, fret) / 12.0)
    inharmonicity_b = inharmonicity(string, tension_n=tension_n, speaking_m=stopped_m(string, fret))
    if harmonic:
        return Series(partial_hz(fundamental, number=1, inharmonicity_b=inharmonicity_b), 0.0)
    return Series(fundamental, inharmonicity_b)


def partial_count(first_hz: float) -> int:
    """Return how many partials of a string are sounded."""
    return max(1, min(MOST_PARTIALS, int(HIGHEST_PARTIAL_HZ / first_hz)))


def _twins(count: int, splits_cents: Sequence[float]) -> tuple[tuple[float, ...], ...]:
    """Return the numbers and cents of doublets: the lower ones of all, then the upper ones.

    A false string swings a little faster in one direction than across it, so that every partial is
    two (a doublet) and beats alone. Its pitch is in the middle of them.

    Args:
        splits_cents: how far the two of each partial are apart, in the order of the partials; as
            many as there are at least. Empty where nothing is split.
    """
    if not splits_cents:
        return (), ()
    numbers = tuple(float(n) for n in range(1, count + 1))
    halves = [cents / 2.0 for cents in splits_cents[:count]]
    return (*numbers, *numbers), (*(-half for half in halves), *halves)


def plucked(
    series: Series,
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
        series: where its partials lie.
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
    count = partial_count(series.partial_hz(1))
    amplitudes = _amplitudes(count, level, place, touched_at, twins)
    decays_s = losses.decays_s(series.partials_hz(count))
    if twins:
        decays_s += decays_s  # they lie a few cents apart and die alike
    numbers, cents = _twins(count, splits_cents)
    return PartialTable(
        fundamental_hz=series.fundamental_hz,
        stiffness=series.stiffness,
        numbers=numbers,
        cents=cents,
        amplitudes=amplitudes,
        decays_s=tuple(decays_s),
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
    series: Series,
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
    count = partial_count(series.partial_hz(1))
    scale = BOW_LEVEL * level / sum(1.0 / (n + 1) for n in range(count))
    amplitudes = _under_finger([scale / (n + 1) for n in range(count)], touched_at)
    if splits_cents:  # the bow holds both directions together: no beating while it plays
        amplitudes = [*amplitudes, *(0.0 for _ in range(count))]
    decays_s = [min(0.6, decay_s) for decay_s in losses.decays_s(series.partials_hz(count))]
    if splits_cents:
        decays_s += decays_s
    numbers, cents = _twins(count, splits_cents)
    return PartialTable(
        fundamental_hz=series.fundamental_hz,
        stiffness=series.stiffness,
        numbers=numbers,
        cents=cents,
        amplitudes=tuple(amplitudes),
        decays_s=tuple(decays_s),
        attack_s=BOW_ATTACK_S,
        sustain_s=BOW_STROKE_S,
    )


def ringing_along(
    series: Series,
    losses: Losses,
    *,
    count: int,
    drivers: list[tuple[float, float]],
    transfer: float,
) -> PartialTable | None:
    """Return how a free string rings along with others, or None where nothing coincides.

    Each of its partials answers the nearest partial that drives it as a resonator does, by
    1/sqrt(1 + (2 pi (f - f_driver) tau)^2) with its own decay time tau.

    Args:
        series: where the free string's partials lie, and `count` how many answer.
        drivers: (frequency in Hz, amplitude) of the partials that sound, in rising order.
        transfer: the share of the amplitude that passes over the bridge at coincidence.
    """
    driver_hz = [hz for hz, _ in drivers]
    frequencies_hz = series.partials_hz(count)
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
        fundamental_hz=series.fundamental_hz,
        stiffness=series.stiffness,
        amplitudes=tuple(amplitudes),
        decays_s=tuple(decays_s),
        phases_rad=(math.pi / 2.0,) * count,  # a resonator lags by a quarter
        attack_s=0.15,
    )


def snap() -> PartialTable:
    """Return the sound of a string that breaks: short and dull, and no louder than a pluck."""
    frequencies = (190.0, 311.0, 523.0, 881.0, 1370.0, 2210.0)
    return PartialTable(
        fundamental_hz=frequencies[0],
        numbers=tuple(hz / frequencies[0] for hz in frequencies),
        amplitudes=tuple(0.09 / (1.0 + 0.3 * n) for n in range(len(frequencies))),
        decays_s=tuple(0.07 / (1.0 + 0.6 * n) for n in range(len(frequencies))),
        attack_s=0.002,
    )
