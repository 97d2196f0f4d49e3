"""The table of partials of a sounding thing, and those of a string: plucked, touched or bowed."""

import bisect
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Final

from meldrin.core.catalogue import Body, Losses, Played
from meldrin.core.errors import Code, MeldrinError, within
from meldrin.core.sound.timbre import columns, looked_up
from meldrin.core.strings import (
    String,
    frequency_at_strain,
    inharmonicity,
    partial_hz,
    stopped_m,
    stopped_ratio,
    tension_at_strain,
)
from meldrin.core.units import ratio_of_cents

AUDIBLE: Final = 4e-4  # 68 dB under full scale: below it there is nothing left to listen to
HEARD_WITHIN_S: Final = 0.01  # so closely is it told until when something is heard
LASTS_DECAYS: Final = 14.0  # after this many of its decays a partial is 120 dB down
PLUCKED_AT: Final = 0.14  # share of the open length from the bridge
BOW_STROKE_S: Final = 5.0
BOW_RINGS_S: Final = 0.6  # at most, once the bow has gone
BOW_UNSTEADY: Final = 0.06
TWIN_SHARE: Final = 0.4  # of a split partial's amplitude, the part that lies a little higher
AUDIBLE_ALONG: Final = 5e-4  # fainter company of a free string is left out


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
class Noise:
    """What is heard beside the tone: of a finger, a plectrum or a bow, in a band of frequencies.

    level: root mean square at the start; full scale is 1.
    hz, width_hz: of its band.
    decay_s: the time to 1/e, after what is kept up.
    """

    level: float
    hz: float
    width_hz: float
    decay_s: float

    def __post_init__(self) -> None:
        within(self.level, name="noise", low=0.0, high=0.5)
        within(self.hz, name="noise", low=20.0, high=12_000.0, unit="Hz")
        within(self.width_hz, name="width of the noise", low=100.0, high=12_000.0, unit="Hz")
        within(self.decay_s, name="decay of the noise", low=0.001, high=5.0, unit="s")


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
    second_amplitudes, second_decays_s: a part of each partial with a decay of its own, added to the
        first; empty where there is none. Negative, it makes a partial rise after the start.
    noise: beside the partials.
    swell, swell_s: the share that is still missing when the onset is over, and how fast it comes.
    unsteady: by which share a bow's pressure lets the level wander.
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
    second_amplitudes: tuple[float, ...] = ()
    second_decays_s: tuple[float, ...] = ()
    noise: Noise | None = None
    swell: float = 0.0
    swell_s: float = 0.1
    unsteady: float = 0.0

    def __post_init__(self) -> None:
        count = len(self.amplitudes)
        seconds = (self.second_amplitudes, self.second_decays_s)
        columns = (
            self.amplitudes, self.decays_s, self.numbers, self.cents, self.phases_rad, *seconds
        )  # fmt: skip
        if (
            len(self.decays_s) != count
            or len(seconds[0]) != len(seconds[1])
            or any(len(one) not in (0, count) for one in columns)
        ):
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
        within(self.swell, name="swell", low=0.0, high=1.0)
        within(self.swell_s, name="swell time", low=0.001, high=5.0, unit="s")
        within(self.unsteady, name="unsteadiness", low=0.0, high=0.5)

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
        return self.sustain_s + LASTS_DECAYS * max(*self.decays_s, *self.second_decays_s, 0.0)

    def level(self, place: int, at_s: float) -> float:
        """Return the size of the partial in a place (from 1), so long after the start."""
        if place > len(self.amplitudes):
            return 0.0
        falls_s = max(0.0, at_s - self.sustain_s)
        size = self.amplitudes[place - 1] * math.exp(-falls_s / self.decays_s[place - 1])
        if self.second_amplitudes:
            second_s = self.second_decays_s[place - 1]
            size += self.second_amplitudes[place - 1] * math.exp(-falls_s / second_s)
        return abs(size)

    def levels(self, place: int, *, from_s: float, step_s: float, count: int) -> list[float]:
        """Return the size of the partial in a place at some times; as `level` of each."""
        if place > len(self.amplitudes):
            return [0.0] * count
        held = min(count, max(0, math.ceil((self.sustain_s - from_s) / step_s)))
        falls_s = from_s + held * step_s - self.sustain_s
        one, decay_s = self.amplitudes[place - 1], self.decays_s[place - 1]
        two = 0.0
        second_s = decay_s
        if self.second_amplitudes:
            two, second_s = self.second_amplitudes[place - 1], self.second_decays_s[place - 1]
        levels = [abs(one + two)] * held
        # each dies away by the same share from one time to the next
        one, share = one * math.exp(-falls_s / decay_s), math.exp(-step_s / decay_s)
        two, its_share = two * math.exp(-falls_s / second_s), math.exp(-step_s / second_s)
        for _ in range(count - held):
            levels.append(abs(one + two))
            one *= share
            two *= its_share
        return levels

    def heard_s(self, place: int, faintest: float) -> float:
        """Return the time until which the partial in a place is louder than this amplitude."""
        if place > len(self.amplitudes):
            return 0.0
        parts = [(self.amplitudes[place - 1], self.decays_s[place - 1])]
        if self.second_amplitudes:
            parts.append((self.second_amplitudes[place - 1], self.second_decays_s[place - 1]))
        # one of them is still as loud as its share when they are, together, just this loud
        share = faintest / len(parts)
        low, high = 0.0, max(decay * math.log(max(1.0, abs(a) / share)) for a, decay in parts)
        if high == 0.0:
            return 0.0
        if len(parts) == 1:
            return self.sustain_s + high
        while high - low > HEARD_WITHIN_S:
            middle = 0.5 * (low + high)
            if self.level(place, self.sustain_s + middle) > faintest:
                low = middle
            else:
                high = middle
        return self.sustain_s + low

    def times(self, loud: float) -> "PartialTable":
        """Return the same table, louder by a factor."""
        return replace(
            self,
            amplitudes=tuple([loud * one for one in self.amplitudes]),
            second_amplitudes=tuple([loud * one for one in self.second_amplitudes]),
            noise=self.noise and replace(self.noise, level=min(0.5, loud * self.noise.level)),
        )

    def audible_s(self, faintest: float) -> float:
        """Return the time until which some partial is louder than this amplitude."""
        sizes = (*self.amplitudes, *self.second_amplitudes)
        decays_s = (*self.decays_s, *self.second_decays_s)
        return self.sustain_s + _longest_s(sizes, decays_s, faintest)


@lru_cache(maxsize=1024)  # of strokes that are alike
def _longest_s(sizes: tuple[float, ...], decays_s: tuple[float, ...], faintest: float) -> float:
    longest, most = 0.0, math.log(1.0 / faintest)
    for size, decay_s in zip(sizes, decays_s, strict=True):
        # most partials die away so fast that they need no closer look
        if decay_s * most > longest and abs(size) > faintest:
            longest = max(longest, decay_s * math.log(abs(size) / faintest))
    return longest


def string_series(string: String, *, strain: float, fret: int, harmonic: bool = False) -> Series:
    """Return where the partials of a string stopped at `fret` lie; the same as `sounding_hz`.

    `harmonic`: under a bow, which keeps the motion periodic, every partial is the exact multiple of
    the first.
    """
    tension_n = tension_at_strain(string, strain)
    fundamental = frequency_at_strain(string, strain) * stopped_ratio(string, fret)
    inharmonicity_b = inharmonicity(string, tension_n=tension_n, speaking_m=stopped_m(string, fret))
    if harmonic:
        return Series(partial_hz(fundamental, number=1, inharmonicity_b=inharmonicity_b), 0.0)
    return Series(fundamental, inharmonicity_b)


def _twins(count: int, splits_cents: Sequence[float]) -> tuple[tuple[float, ...], ...]:
    """Return the numbers and cents of doublets: the lower ones of all, then the upper ones.

    A false string swings a little faster in one direction than across it, so that every partial is
    two (a doublet) and beats alone. Its pitch is in the middle of them.

    Args:
        splits_cents: how far the two of each partial are apart, in the order of the partials, and
            so on from the beginning. Empty where nothing is split.
    """
    if not splits_cents:
        return (), ()
    numbers = tuple(float(n) for n in range(1, count + 1))
    halves = [splits_cents[n % len(splits_cents)] / 2.0 for n in range(count)]
    return (*numbers, *numbers), (*(-half for half in halves), *halves)


def stroked(
    series: Series,
    body: Body,
    losses: Losses,
    *,
    played: Played,
    strength: float,
    place: float = PLUCKED_AT,
    length_m: float = 0.65,
    touched_at: float | None = None,
    splits_cents: Sequence[float] = (),
    glide_cents: float = 0.0,
    glide_s: float = 0.1,
) -> PartialTable:
    """Return what is heard of a string that is plucked, struck or bowed. All partials start
    together in phase, as they do at the moment of release; a bow keeps them up for one stroke.

    Args:
        series: where its partials lie.
        strength: 0.01 to 1.
        place: where it is plucked, as a share of the speaking length from the bridge.
        length_m: of what speaks.
        touched_at: where a finger lies lightly on it, as a share of the length, or None. It takes
            from partial n what moves under it, sin(n pi x)^2, and leaves those with a node there.
        splits_cents: how far the two of each doublet of a false string are apart.
        glide_cents: how far sharp a hard stroke begins, and `glide_s` how fast that falls.
    """
    within(strength, name="strength", low=0.01, high=1.0)
    within(place, name="place of the stroke", low=0.01, high=0.99)
    found = columns(
        body,
        losses,
        looked_up(series.fundamental_hz, series.stiffness),
        played=played,
        strength=strength,
        place=place,
        length_m=round(length_m, 3),
        touched_at=touched_at,
    )
    bow = played == "bow"
    amplitudes, decays_s = found.amplitudes, found.decays_s
    seconds, second_decays_s = found.second_amplitudes, found.second_decays_s
    if bow:
        decays_s = tuple([min(BOW_RINGS_S, decay_s) for decay_s in decays_s])
    numbers, cents = _twins(len(amplitudes), splits_cents)
    if numbers:  # they lie a few cents apart and die alike; a bow holds both directions together
        amplitudes = _doubled(amplitudes, 0.0 if bow else TWIN_SHARE)
        seconds = _doubled(seconds, TWIN_SHARE)
        decays_s, second_decays_s = decays_s * 2, second_decays_s * 2
    level = found.level * 10.0 ** (body.noise_db / 20.0)
    return PartialTable(
        fundamental_hz=series.fundamental_hz,
        stiffness=series.stiffness,
        numbers=numbers,
        cents=cents,
        amplitudes=amplitudes,
        decays_s=decays_s,
        second_amplitudes=seconds,
        second_decays_s=second_decays_s,
        attack_s=_attack_s(body.attack_s, series.fundamental_hz, strength),
        sustain_s=BOW_STROKE_S if bow else 0.0,
        glide_cents=glide_cents,
        glide_s=glide_s,
        noise=Noise(level, body.noise_hz, body.noise_hz, BOW_RINGS_S if bow else body.noise_s),
        swell=body.swell if bow else 0.0,
        swell_s=body.swell_s,
        unsteady=BOW_UNSTEADY if bow else 0.0,
    )


def _attack_s(usual_s: float, first_hz: float, strength: float) -> float:
    """Return how long the onset takes: a low string speaks more slowly than a high one, and a soft
    stroke than a hard one. A judgement; as usual at A3 and a medium stroke.
    """
    register = math.pow(max(first_hz, 20.0) / 220.0, -0.15)
    return usual_s * register * (1.35 - 0.5 * strength)


def _doubled(amplitudes: tuple[float, ...], share: float) -> tuple[float, ...]:
    """Return the amplitudes of doublets: the lower ones, then the upper ones' share."""
    return (*((1.0 - share) * one for one in amplitudes), *(share * one for one in amplitudes))


def ringing_along(
    series: Series,
    body: Body,
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
    amplitudes = [0.0] * len(frequencies_hz)
    for place, hz in enumerate(frequencies_hz):
        at = bisect.bisect(driver_hz, hz)
        shortest_s = losses.shortest_s(hz, body)
        for near_hz, amplitude in drivers[max(0, at - 1) : at + 1]:
            apart = 2.0 * math.pi * (hz - near_hz)
            most = transfer * abs(amplitude)
            if most <= AUDIBLE_ALONG * abs(apart) * shortest_s:
                continue  # far off, as most are
            off = apart * losses.decay_s(hz, body)
            answer = most / math.sqrt(1.0 + off * off)
            if answer > AUDIBLE_ALONG:
                amplitudes[place] = max(answer, amplitudes[place])
    if not any(amplitudes):
        return None
    return PartialTable(
        fundamental_hz=series.fundamental_hz,
        stiffness=series.stiffness,
        amplitudes=tuple(amplitudes),
        decays_s=tuple(losses.decay_s(hz, body) for hz in frequencies_hz),
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
