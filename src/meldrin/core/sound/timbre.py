"""How loud the partials of a string are and how long each lasts: what strikes or bows it and where,
and what bridge and body make of its force.
"""

import math
from dataclasses import dataclass
from functools import lru_cache
from typing import Final

from meldrin.core.catalogue import Body, Losses, Played
from meldrin.core.sound.loudness import weight

LOUD: Final = 0.057  # weighted level of a full stroke, 25 dB under full scale
# Over its beginning and over the whole of a listening, by these weights in dB: a plucked string is
# loud at first and a bowed one goes on, and neither is to be much louder than the other.
LISTENED_S: Final = {0.4: 0.49, 2.0: 0.51}
FAINTEST_DB: Final = -60.0  # under the strongest partial; what is fainter is not made
SILENT: Final = 3.2e-5  # 90 dB under full scale
HIGHEST_HZ: Final = 8000.0
MOST_PARTIALS: Final = 120
TOUCH_LOSS: Final = 30.0  # nepers a light finger takes from a partial that moves fully under it
STEP_CENTS: Final = 20.0  # the body's answer is looked up at pitches so far apart
BLOOM_SHARE: Final = 0.9
BLOOMS_FROM: Final = 4  # partials, where a flat bridge makes them rise


@dataclass(frozen=True, slots=True)
class Exciter:
    """What sets a string swinging: how broad it is on it, and up to where its edge reaches."""

    width_m: float
    edge_hz: float


# Judged: what is narrow and hard excites the high partials, what is broad and soft does not
# (Fletcher and Rossing, 1998, ch. 9).
EXCITERS: Final[dict[Played, Exciter]] = {
    "fingertip": Exciter(0.012, 1800.0),
    "nail": Exciter(0.005, 3500.0),
    "plectrum": Exciter(0.002, 6000.0),
    "thumb": Exciter(0.018, 1000.0),
    "bow": Exciter(0.010, 6000.0),
}


@dataclass(frozen=True, slots=True)
class Columns:
    """Amplitudes and decays of partials 1, 2, …, and of their second parts: what is left when the
    first has gone, or, negative, what rises only after the stroke. Those of a full stroke.
    `level`: of the whole over its first 0.4 s, weighted as heard; a stroke's noise is told by it.
    """

    amplitudes: tuple[float, ...]
    decays_s: tuple[float, ...]
    second_amplitudes: tuple[float, ...]
    second_decays_s: tuple[float, ...]
    level: float


def looked_up(fundamental_hz: float, stiffness: float) -> tuple[int, int]:
    """Return the steps of pitch and stiffness at which a body's answer is looked up."""
    steps = round(1200.0 * math.log2(fundamental_hz) / STEP_CENTS)
    return steps, round(4.0 * math.log2(max(stiffness, 1e-9)))


@lru_cache(maxsize=1024)
def columns(
    body: Body,
    losses: Losses,
    at: tuple[int, int],
    *,
    played: Played,
    strength: float,
    place: float,
    length_m: float,
    touched_at: float | None,
) -> Columns:
    """Return how loud the partials of a string are and how they die away.

    Args:
        at: pitch and stiffness, as `looked_up`.
        strength: of the stroke, 0.01 to 1; a harder one is brighter too.
        place: where it is struck or bowed, as a share of the speaking length from the bridge.
        length_m: of what speaks.
        touched_at: where a finger lies lightly on it, as a share of the length, or None.
    """
    first_hz, stiffness = 2.0 ** (at[0] * STEP_CENTS / 1200.0), 2.0 ** (at[1] / 4.0)
    exciter = EXCITERS[played]
    # a bowed string that is plucked is not excited as its bow does
    own = body.edge_hz if played == body.played else 0.0
    edge_hz = (own or exciter.edge_hz) * (0.6 + 0.6 * strength)
    free: list[float] = []
    frequencies: list[float] = []
    for n in range(1, MOST_PARTIALS + 1):
        hz = n * first_hz * math.sqrt(1.0 + stiffness * n * n)
        if hz > HIGHEST_HZ and free:
            break
        frequencies.append(hz)
        force = _force(n, played, place=place, width=exciter.width_m / length_m)
        if body.pickup_at:
            force *= math.sin(math.pi * n * body.pickup_at)
        free.append(force * body.response(hz) / (1.0 + (hz / edge_hz) ** 2))
    decays = [losses.decay_s(hz, body) for hz in frequencies]
    parts = [_second(n, decay_s, body, losses, played) for n, decay_s in enumerate(decays, 1)]
    energies = [
        sum(
            0.5 * (size * weight(hz)) ** 2 * _mean_power(decay_s, *second, played, over_s)
            for size, hz, decay_s, second in zip(free, frequencies, decays, parts, strict=True)
        )
        for over_s in LISTENED_S
    ]
    energy = math.prod(one**share for one, share in zip(energies, LISTENED_S.values(), strict=True))
    scale = LOUD * strength / math.sqrt(energy) if energy else 0.0
    faintest = max(SILENT, 10.0 ** (FAINTEST_DB / 20.0) * scale * max(map(abs, free)))
    sizes = [scale * size for size in free]
    if touched_at is not None:  # a light finger takes away, and makes nothing louder
        sizes = [
            size * math.exp(-TOUCH_LOSS * math.sin(n * math.pi * touched_at) ** 2)
            for n, size in enumerate(sizes, 1)
        ]
    while len(sizes) > 1 and abs(sizes[-1]) < faintest:
        sizes.pop()
    sizes = [size if abs(size) >= faintest else 0.0 for size in sizes]
    seconds = parts[: len(sizes)] if any(share for share, _ in parts) else []
    stays = 0.0 if body.bloom_s else losses.tail_share
    first = 1.0 - stays if seconds else 1.0
    return Columns(
        tuple(first * size for size in sizes),
        tuple(decays[: len(sizes)]),
        tuple(share * size for size, (share, _) in zip(sizes, seconds, strict=False)),
        tuple(decay_s for _, decay_s in seconds),
        scale * math.sqrt(energies[0]),
    )


def _second(
    n: int, decay_s: float, body: Body, losses: Losses, played: Played
) -> tuple[float, float]:
    """Return the share of a partial's second part, and its decay."""
    if played == "bow":
        return 0.0, decay_s
    if body.bloom_s:
        return -BLOOM_SHARE if n >= BLOOMS_FROM else 0.0, body.bloom_s
    return losses.tail_share, losses.tail_times * decay_s


def _mean_power(
    decay_s: float, share: float, second_s: float, played: Played, over_s: float
) -> float:
    """Return the mean power over a time from the start, as a share of that of a steady sound."""
    if played == "bow":
        return 1.0

    def mean(per_s: float) -> float:
        return -math.expm1(-per_s * over_s) / (per_s * over_s)

    first = 1.0 - max(0.0, share)  # a tail is taken from the whole
    return (
        first**2 * mean(2.0 / decay_s)
        + 2.0 * first * share * mean(1.0 / decay_s + 1.0 / second_s)
        + share**2 * mean(2.0 / second_s)
    )


def _force(n: int, played: Played, *, place: float, width: float) -> float:
    """Return the force of a partial on the bridge: of a pluck sin(n pi x)/n, of a bow 1/n, both
    smoothed over the width of what moves the string.

    Sources: Fletcher and Rossing, 1998, ch. 2; Cremer, The Physics of the Violin, 1984.
    """
    smooth = math.exp(-0.5 * (0.5 * n * math.pi * width) ** 2)
    return smooth / n * (1.0 if played == "bow" else math.sin(n * math.pi * place))
