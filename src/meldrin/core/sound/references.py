"""What pitch is taken from: a fork, a pipe, a piano, an oboe, a player, a drone, a tuner’s tone.

Partial n of every one but the fork stands in place n of its table; a drone has its fifth’s partials
after the tonic’s, and then the highest of both.
"""

import math
from collections.abc import Callable
from fractions import Fraction
from functools import lru_cache
from typing import Final, Literal, get_args

from meldrin.core.errors import Code, MeldrinError
from meldrin.core.pitch import checked_hz
from meldrin.core.sound.partials import BOW_UNSTEADY, Noise, PartialTable, Series
from meldrin.core.sound.timbre import HIGHEST_HZ
from meldrin.core.units import cents_of_ratio

Source = Literal["fork", "pipe", "piano", "oboe", "player", "drone", "tone"]
SOURCES: Final[tuple[Source, ...]] = get_args(Source)
SOURCE_NAMES: Final[dict[Source, str]] = {
    "fork": "fork",
    "pipe": "pitch pipe",
    "piano": "piano",
    "oboe": "oboe",
    "player": "other player",
    "drone": "drone",
    "tone": "tuner’s tone",
}
FORK_LEVEL: Final = 0.05  # near the fourth partial of a plucked A string, so that the two beat
FORK_CLANG_RATIO: Final = 6.267  # second mode of a clamped bar over its first (Rayleigh, 1877)
LEVEL: Final = 0.16  # sum of amplitudes of a lasting tone
DRONE_PARTIALS: Final = 10
HIGHEST_OF_DRONE: Final = 16  # the flat seventh, 16/9, meets the tonic there
FIFTH: Final = Fraction(3, 2)


def reference(source: Source, *, hz: float, held_wrong: bool = False) -> PartialTable:
    """Return the table of a reference of this kind whose first partial lies at `hz`.

    `held_wrong`: a fork held by its prongs.

    Raises:
        MeldrinError: code ``reference``, for an unknown source.
        OutOfRange: for a frequency that no reference can have.
    """
    return _reference(source, checked_hz(hz), held_wrong)


@lru_cache(maxsize=512)  # a plan asks for the same ones at every partial it considers
def _reference(source: Source, tone: float, held_wrong: bool) -> PartialTable:
    match source:
        case "fork":
            return fork(hz=tone, held_wrong=held_wrong)
        case "pipe":
            return _pipe(tone)
        case "piano":
            return _piano(tone)
        case "oboe":
            return _oboe(tone)
        case "player":
            return _player(tone)
        case "drone":
            return _drone(tone)
        case "tone":
            return _lasting(tone, lambda n, _: 0.5 ** (n - 1), attack_s=0.04, sustain_s=8.0)
    raise MeldrinError(Code.REFERENCE, f"The references are {', '.join(SOURCES)}.")


def partial_place(source: Source, *, partial: int, over_first: float) -> int:
    """Return the place (from 1) in the table of the partial listened to.

    `over_first`: the ratio of the note listened to over the table’s first partial; only a drone
    has a second one, its fifth.
    """
    if source != "drone":
        return partial
    fifth = abs(over_first - float(FIFTH)) < 1e-3
    if partial <= DRONE_PARTIALS:
        return partial + (DRONE_PARTIALS if fifth else 0)
    higher = HIGHEST_OF_DRONE - DRONE_PARTIALS
    return partial + DRONE_PARTIALS + (higher if fifth else 0)


def reference_series(source: Source, *, hz: float) -> Series:
    """Return where the partials of a reference lie whose first lies at `hz`: exact multiples but
    for a piano, whose stiff strings spread them.
    """
    stiffness = _piano_stiffness(hz) if source == "piano" else 0.0
    return Series(hz / math.sqrt(1.0 + stiffness), stiffness)


def stretched_cents(source: Source, *, hz: float, partial: int) -> float:
    """Return how far a partial of a reference lies above the multiple of its first, in cents."""
    return cents_of_ratio(reference_series(source, hz=hz).partial_hz(partial) / (partial * hz))


def _piano_stiffness(hz: float) -> float:
    """Return the inharmonicity B of a piano's strings at this note: in the middle of a keyboard,
    growing upwards.
    """
    return 4e-4 * math.pow(hz / 261.6, 1.5)


def fork(*, hz: float, held_wrong: bool = False) -> PartialTable:
    """Return a tuning fork with its foot on the instrument: one lasting tone and a short clang.

    Held by its prongs it dies at once, and the clang is most of what is heard.
    """
    tone = checked_hz(hz)
    return PartialTable(
        fundamental_hz=tone,
        numbers=(1.0, FORK_CLANG_RATIO),
        amplitudes=(FORK_LEVEL * (0.3 if held_wrong else 1.0), FORK_LEVEL * 0.12),
        decays_s=(0.15 if held_wrong else 5.0, 0.12),
        attack_s=0.012,
    )


def _count(hz: float, most: int = 12) -> int:
    return max(1, min(most, int(HIGHEST_HZ / hz)))


def _lasting(
    hz: float,
    amplitude: Callable[[int, float], float],
    *,
    attack_s: float,
    sustain_s: float,
    noise: Noise | None = None,
    swell: float = 0.0,
    unsteady: float = 0.0,
    count: int = 12,
) -> PartialTable:
    count = _count(hz, count)
    sizes = [amplitude(n, n * hz) for n in range(1, count + 1)]
    scale = LEVEL / sum(sizes)
    return PartialTable(
        fundamental_hz=hz,
        amplitudes=tuple(scale * size for size in sizes),
        decays_s=(0.15,) * count,
        # Schroeder's phases keep the peak of a harmonic tone low (Schroeder, 1970).
        phases_rad=tuple(math.pi * n * n / count for n in range(count)),
        attack_s=attack_s,
        sustain_s=sustain_s,
        noise=noise,
        swell=swell,
        swell_s=0.15,
        unsteady=unsteady,
    )


def _hill(hz: float, at_hz: float, width_hz: float) -> float:
    return math.exp(-(((hz - at_hz) / width_hz) ** 2))


def _oboe(hz: float) -> PartialTable:
    """A double reed: a weak first partial, two hills of partials near 1.1 and 2.9 kHz (the formants
    of an oboe after Meyer, Acoustics and the Performance of Music, 2009), and some breath.
    """

    def amplitude(_: int, at: float) -> float:
        return 0.12 + _hill(at, 1100.0, 400.0) + 0.45 * _hill(at, 2900.0, 600.0)

    breath = Noise(0.0012, 4000.0, 4000.0, 0.1)
    return _lasting(hz, amplitude, attack_s=0.035, sustain_s=6.0, noise=breath, count=16)


def _player(hz: float) -> PartialTable:
    """Another player with a bow: the saw-tooth of a bowed string through a body, never quite even,
    and the bow's own noise.
    """

    def amplitude(n: int, at: float) -> float:
        body = 0.5 + _hill(at, 500.0, 250.0) + 0.7 * _hill(at, 2400.0, 900.0)
        return body / n

    bow = Noise(0.003, 2500.0, 3500.0, 0.1)
    return _lasting(
        hz,
        amplitude,
        attack_s=0.1,
        sustain_s=5.0,
        noise=bow,
        swell=0.4,
        unsteady=BOW_UNSTEADY,
        count=16,
    )


def _pipe(hz: float) -> PartialTable:
    """A free reed in a small pipe: mostly its odd partials, and breath that is heard beside it."""

    def amplitude(n: int, _: float) -> float:
        return (1.0 if n % 2 else 0.3) / n

    breath = Noise(0.006, 1800.0, 2500.0, 0.12)
    return _lasting(hz, amplitude, attack_s=0.08, sustain_s=4.0, noise=breath, swell=0.3)


def _piano(hz: float) -> PartialTable:
    """A struck steel string: a thump, partials that its stiffness spreads a little, loud at first
    and then long (Weinreich, 1977); struck at an eighth of its length, where the eighth is silent.
    """
    count = _count(hz)
    series = reference_series("piano", hz=hz)
    sizes = [
        max(0.02, abs(math.sin(math.pi * n / 8.0))) * math.exp(-0.3 * (n - 1))
        for n in range(1, count + 1)
    ]
    scale = LEVEL / sum(sizes)
    first = [scale * size for size in sizes]
    decays = [0.7 / (1.0 + 0.25 * n) for n in range(count)]
    return PartialTable(
        fundamental_hz=series.fundamental_hz,
        stiffness=series.stiffness,
        amplitudes=tuple(0.6 * size for size in first),
        decays_s=tuple(decays),
        second_amplitudes=tuple(0.4 * size for size in first),
        second_decays_s=tuple(5.0 * decay for decay in decays),
        attack_s=0.003,
        noise=Noise(0.02, 400.0, 600.0, 0.03),
    )


def _drone(hz: float) -> PartialTable:
    """A tonic with its pure fifth, both rich in partials, lasting."""
    numbers, amplitudes = [], []
    for over, level in ((1.0, 1.0), (float(FIFTH), 0.7)):
        for n in range(1, DRONE_PARTIALS + 1):
            numbers.append(n * over)
            amplitudes.append(level / n**0.8)
    scale = LEVEL / sum(amplitudes)
    for over, level in ((1.0, 1.0), (float(FIFTH), 0.7)):
        for n in range(DRONE_PARTIALS + 1, HIGHEST_OF_DRONE + 1):
            numbers.append(n * over)
            amplitudes.append(level / n**0.8)
    return PartialTable(
        fundamental_hz=hz,
        numbers=tuple(numbers),
        amplitudes=tuple(scale * size for size in amplitudes),
        decays_s=(0.3,) * len(numbers),
        phases_rad=tuple(2.4 * k * k for k in range(len(numbers))),
        attack_s=0.25,
        sustain_s=20.0,
    )
