"""What pitch is taken from: a fork, a pipe, a piano, an oboe, a player, a drone, a tuner’s tone.

Partial n of every one but the fork stands in place n of its table; a drone has its fifth’s partials
after the tonic’s.
"""

import math
from collections.abc import Callable
from fractions import Fraction
from typing import Final, Literal, get_args

from meldrin.core.errors import Code, MeldrinError
from meldrin.core.pitch import checked_hz
from meldrin.core.sound.partials import PartialTable
from meldrin.core.sound.timbre import HIGHEST_HZ

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
BREATH_CENTS: Final = (-38.0, -17.0, 13.0, 29.0)  # a reed’s breath: faint company beside the tone
FIFTH: Final = Fraction(3, 2)


def reference(source: Source, *, hz: float, held_wrong: bool = False) -> PartialTable:
    """Return the table of a reference of this kind whose first partial lies at `hz`.

    `held_wrong`: a fork held by its prongs.

    Raises:
        MeldrinError: code ``reference``, for an unknown source.
        OutOfRange: for a frequency that no reference can have.
    """
    tone = checked_hz(hz)
    match source:
        case "fork":
            return fork(hz=tone, held_wrong=held_wrong)
        case "pipe":
            return _pipe(tone)
        case "piano":
            return _piano(tone)
        case "oboe":
            return _lasting(tone, _oboe_amplitude, attack_s=0.06, sustain_s=6.0)
        case "player":
            return _lasting(tone, lambda n, _: 1.0 / n, attack_s=0.12, sustain_s=5.0)
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
    fifth = source == "drone" and abs(over_first - float(FIFTH)) < 1e-3
    return partial + (DRONE_PARTIALS if fifth else 0)


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
    hz: float, amplitude: Callable[[int, float], float], *, attack_s: float, sustain_s: float
) -> PartialTable:
    count = _count(hz)
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
    )


def _oboe_amplitude(number: int, hz: float) -> float:
    """A double reed is bright: a broad hill of partials near 1.2 kHz, falling slowly above."""
    hill = math.exp(-(((hz - 1200.0) / 600.0) ** 2))
    return (0.35 + hill) / math.sqrt(number)


def _pipe(hz: float) -> PartialTable:
    """A free reed in a small pipe: a plain tone with breath beside every low partial."""
    plain = _lasting(hz, lambda n, _: 1.0 / n**1.5, attack_s=0.09, sustain_s=4.0)
    count = len(plain.amplitudes)
    breath = [(n, cents) for n in range(1, min(3, count) + 1) for cents in BREATH_CENTS]
    return PartialTable(
        fundamental_hz=hz,
        numbers=(*(float(n) for n in range(1, count + 1)), *(float(n) for n, _ in breath)),
        cents=(*(0.0,) * count, *(cents for _, cents in breath)),
        amplitudes=(*plain.amplitudes, *(0.1 * plain.amplitudes[n - 1] for n, _ in breath)),
        decays_s=(*plain.decays_s, *(0.1 for _ in breath)),
        phases_rad=(*plain.phases_rad, *(1.7 * k for k in range(len(breath)))),
        attack_s=plain.attack_s,
        sustain_s=plain.sustain_s,
    )


def _piano(hz: float) -> PartialTable:
    """A struck steel string: it decays, and its own stiffness spreads its partials a little."""
    count = _count(hz)
    inharmonicity_b = 4e-4 * (hz / 261.6) ** 1.5  # in the middle of a keyboard, growing upwards
    sizes = [math.exp(-0.35 * (n - 1)) for n in range(1, count + 1)]
    scale = LEVEL / sum(sizes)
    return PartialTable(
        fundamental_hz=hz / math.sqrt(1.0 + inharmonicity_b),
        stiffness=inharmonicity_b,
        amplitudes=tuple(scale * size for size in sizes),
        decays_s=tuple(2.5 / (1.0 + 0.25 * n) for n in range(count)),
        attack_s=0.004,
    )


def _drone(hz: float) -> PartialTable:
    """A tonic with its pure fifth, both rich in partials, lasting."""
    numbers, amplitudes = [], []
    for over, level in ((1.0, 1.0), (float(FIFTH), 0.7)):
        for n in range(1, DRONE_PARTIALS + 1):
            numbers.append(n * over)
            amplitudes.append(level / n**0.8)
    scale = LEVEL / sum(amplitudes)
    return PartialTable(
        fundamental_hz=hz,
        numbers=tuple(numbers),
        amplitudes=tuple(scale * size for size in amplitudes),
        decays_s=(0.3,) * len(numbers),
        phases_rad=tuple(2.4 * k * k for k in range(len(numbers))),
        attack_s=0.25,
        sustain_s=20.0,
    )
