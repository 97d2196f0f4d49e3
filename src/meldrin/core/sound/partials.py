"""The table of partials of a plucked stiff string and of a tuning fork."""

import math
from dataclasses import dataclass
from typing import Final

from meldrin.core.catalogue import Losses
from meldrin.core.errors import MeldrinError, within
from meldrin.core.pitch import checked_a4_hz
from meldrin.core.strings import (
    String,
    frequency_at_strain,
    inharmonicity,
    partial_hz,
    sounding_hz,
    stopped_m,
    tension_at_strain,
)

HIGHEST_PARTIAL_HZ: Final = 7000.0
MOST_PARTIALS: Final = 30
PLUCKED_AT: Final = (
    0.14  # share of the open length from the bridge: partials 2 to 6 come out strong
)
STRING_LEVEL: Final = 0.5  # sum of amplitudes at full strength, so two strings stay below 1
FORK_LEVEL: Final = 0.05  # near the fourth partial of a plucked A string, so that the two beat
FORK_CLANG_RATIO: Final = 6.267  # second mode of a clamped bar over its first (Rayleigh, 1877)


@dataclass(frozen=True, slots=True)
class PartialTable:
    """Partials as four columns of one length, and the onset.

    `frequencies_hz`; `amplitudes` (full scale is 1); `decays_s`, the time to 1/e; `phases_rad` at
    the start; `attack_s`, the raised-cosine onset that keeps a start from clicking.
    """

    frequencies_hz: tuple[float, ...]
    amplitudes: tuple[float, ...]
    decays_s: tuple[float, ...]
    phases_rad: tuple[float, ...]
    attack_s: float

    def __post_init__(self) -> None:
        columns = (self.frequencies_hz, self.amplitudes, self.decays_s, self.phases_rad)
        if len({len(column) for column in columns}) != 1:
            raise MeldrinError("partials", "The columns of a partial table must be equally long.")
        if not all(math.isfinite(number) for column in columns for number in column):
            raise MeldrinError("partials", "A partial table holds finite numbers only.")

    def lasts_s(self) -> float:
        """Return the time after which nothing is left to hear (every partial 120 dB down)."""
        return 14.0 * max(self.decays_s)


def string_partials_hz(string: String, *, strain: float, fret: int, count: int) -> list[float]:
    """Return the frequencies of partials 1 to `count` of the string stopped at `fret`.

    The same as `sounding_hz` of each, with what they share computed once.
    """
    tension_n = tension_at_strain(string, strain)
    fundamental = frequency_at_strain(string, strain) * 2.0 ** (fret / 12.0)
    stiffness = inharmonicity(string, tension_n=tension_n, speaking_m=stopped_m(string, fret))
    return [partial_hz(fundamental, number=n + 1, stiffness=stiffness) for n in range(count)]


def plucked_string(
    string: String, losses: Losses, *, strain: float, fret: int, strength: float
) -> PartialTable:
    """Return the partials of the force that a plucked string exerts on its bridge.

    An ideal pluck at the share x of the speaking length gives partial n the displacement
    sin(n pi x)/n^2 and so the force sin(n pi x)/n (Fletcher and Rossing, 1998, ch. 2); the finger
    keeps its place when the string is stopped. All partials start together
    in phase, as they do at the moment of release. `strength` is 0 to 1.
    """
    level = within(strength, name="strength", low=0.01, high=1.0)
    fundamental = sounding_hz(string, strain=strain, fret=fret, number=1)
    count = max(1, min(MOST_PARTIALS, int(HIGHEST_PARTIAL_HZ / fundamental)))
    frequencies = string_partials_hz(string, strain=strain, fret=fret, count=count)
    place = PLUCKED_AT * 2.0 ** (fret / 12.0)
    forces = [math.sin((n + 1) * math.pi * place) / (n + 1) for n in range(count)]
    scale = STRING_LEVEL * level / sum(abs(force) for force in forces)
    return PartialTable(
        frequencies_hz=tuple(frequencies),
        amplitudes=tuple(scale * force for force in forces),
        decays_s=tuple(losses.decay_s(frequency) for frequency in frequencies),
        phases_rad=(0.0,) * count,
        attack_s=0.003,
    )


def fork(*, a4_hz: float) -> PartialTable:
    """Return a tuning fork with its foot on the instrument: one lasting tone and a short clang."""
    tone = checked_a4_hz(a4_hz)
    return PartialTable(
        frequencies_hz=(tone, tone * FORK_CLANG_RATIO),
        amplitudes=(FORK_LEVEL, FORK_LEVEL * 0.12),
        decays_s=(5.0, 0.12),
        phases_rad=(0.0, 0.0),
        attack_s=0.012,
    )
