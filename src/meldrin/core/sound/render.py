"""Timed sound events to samples: the same arithmetic that the browser's audio worklet does.

Frame m of a partial is a exp(-m/(tau rate)) sin(phase_m), with phase_(m+1) = phase_m +
2 pi f_m/rate; a retuning moves f in a straight line over its glide, and the sharp start of a hard
stroke adds f_0 g exp(-m/(tau_g rate)). The phase is summed in closed form, so that a window can be
rendered without what comes before it. Voices are summed and softly limited.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Final

import numpy as np
from numpy.typing import NDArray

from meldrin.core.errors import within
from meldrin.core.sound.events import Release, Retune, SoundEvent, Start
from meldrin.core.sound.partials import AUDIBLE, LASTS_DECAYS, Noise, PartialTable
from meldrin.core.units import growth_of_cents

Samples = NDArray[np.float64]

KNEE: Final = 0.7  # below it the limiter does nothing at all
FADES_UNTIL_GONE: Final = 12.0
INAUDIBLE: Final = 3.2e-5  # 90 dB under full scale: what has fallen to it is dropped
DROPS_EVERY: Final = 1024  # frames
SHARP_FALLS: Final = 9.0  # after this many times its fall a sharp start is gone, 78 dB down
WANDERS_PER_S: Final = 11.0  # how often a bow's level takes another way
BLOCK: Final = 64
# What the browser's worklet must do too; written into its source by `./meldrin generate`.
SHARED: Final = {
    "KNEE": KNEE,
    "FADES_UNTIL_GONE": FADES_UNTIL_GONE,
    "INAUDIBLE": INAUDIBLE,
    "DROPS_EVERY": DROPS_EVERY,
    "SHARP_FALLS": SHARP_FALLS,
    "LASTS_DECAYS": LASTS_DECAYS,
    "FAINTEST": AUDIBLE,
    "WANDERS_PER_S": WANDERS_PER_S,
}


def limited(samples: Samples) -> Samples:
    """Return the samples softly kept within -1 to 1; unchanged while within +-0.7."""
    size = np.abs(samples)
    over = KNEE + (1.0 - KNEE) * np.tanh((size - KNEE) / (1.0 - KNEE))
    return np.where(size <= KNEE, samples, np.sign(samples) * over)


def render(
    events: Sequence[tuple[float, SoundEvent]],
    *,
    duration_s: float,
    sample_rate: int,
    begin_s: float = 0.0,
) -> Samples:
    """Render (time in s, event) pairs, in the order of their times, to mono samples.

    Returns:
        shape (round(duration_s * sample_rate),), within -1 to 1, from `begin_s` on.

    Raises:
        OutOfRange: for a duration outside 0 to 3600 s or a rate outside 8 to 192 kHz.
    """
    within(duration_s, name="duration", low=0.0, high=3600.0, unit="s")
    within(sample_rate, name="sample rate", low=8_000, high=192_000, unit="Hz")
    total = np.zeros(round(duration_s * sample_rate))
    begin = round(begin_s * sample_rate)
    voices: dict[int, list[tuple[float, SoundEvent]]] = {}
    for at_s, event in events:
        if isinstance(event, Start):
            voices[event.voice] = [(at_s, event)]
        elif event.voice in voices:
            voices[event.voice].append((at_s, event))
    for (at_s, start), *later in voices.values():
        if isinstance(start, Start) and at_s <= begin_s + duration_s:
            _add_voice(total, start, at_s=at_s, later=later, rate=sample_rate, begin=begin)
    return limited(total)


@dataclass(frozen=True, slots=True)
class _Stretch:
    """From frame `first` on the partials glide for `length` frames to `goal_hz`, and stay there.
    `phase_rad` is the phase at `first`, the sharp start aside; arrays of one entry a partial.
    """

    first: int
    from_hz: Samples
    goal_hz: Samples
    length: int
    phase_rad: Samples

    def hz(self, frame: int) -> Samples:
        way = min((frame - self.first) / self.length, 1.0) if self.length else 1.0
        return self.from_hz + (self.goal_hz - self.from_hz) * way

    def phases(self, frames: Samples, rate: int, which: NDArray[np.bool_] | slice) -> Samples:
        """Return the phases of some partials at frames (as floats), shape (partials, frames)."""
        n = frames - self.first
        gliding = np.minimum(n, self.length)
        # the sum of a straight line over 0 … n-1
        way = gliding * (gliding - 1.0) / (2.0 * self.length) if self.length else 0.0 * n
        from_hz, goal_hz = self.from_hz[which, None], self.goal_hz[which, None]
        summed = gliding * from_hz + (goal_hz - from_hz) * way + (n - gliding) * goal_hz
        return np.asarray(self.phase_rad[which, None] + 2.0 * np.pi / rate * summed)


def _all_hz(table: PartialTable) -> Samples:
    """Return where all partials lie, and their second parts after them."""
    found = table.frequencies_hz
    return np.array(found * 2 if table.second_amplitudes else found)


def _stretches(start: Start, retunes: Sequence[tuple[int, Retune]], rate: int) -> list[_Stretch]:
    table = start.table
    begin_hz = _all_hz(table)
    phases = np.zeros(len(begin_hz))
    if table.phases_rad:
        phases = np.array(table.phases_rad * (2 if table.second_amplitudes else 1))
    found = [_Stretch(0, begin_hz, begin_hz, 0, phases)]
    for frame, event in retunes:
        last = found[-1]
        phase = last.phases(np.array([float(frame)]), rate, slice(None))[:, 0]
        moved = replace(table, fundamental_hz=event.fundamental_hz, stiffness=event.stiffness)
        goal = _all_hz(moved)
        found.append(_Stretch(frame, last.hz(frame), goal, round(event.glide_s * rate), phase))
    return found


def _add_voice(
    total: Samples,
    start: Start,
    *,
    at_s: float,
    later: Sequence[tuple[float, SoundEvent]],
    rate: int,
    begin: int,
) -> None:
    first = round((at_s + start.delay_s) * rate)
    table = start.table
    ends = first + round(table.lasts_s() * rate)
    # a voice that fades already is not let go again
    releases = sorted(
        (max(0, round((time_s + event.delay_s) * rate) - first), event.fade_s * rate)
        for time_s, event in later
        if isinstance(event, Release)
    )[:1]
    for frame, fade in releases:
        ends = min(ends, first + frame + round(FADES_UNTIL_GONE * fade))
    low, high = max(first, begin) - first, min(ends, begin + len(total)) - first
    if low >= high:
        return
    retunes = [
        (max(0, round(time_s * rate) - first), event)
        for time_s, event in later
        if isinstance(event, Retune)
    ]
    sum_ = np.zeros(high - low)
    voice = _Partials(table, rate)
    stretches = _stretches(start, retunes, rate)
    for stretch, until in zip(stretches, [*(s.first for s in stretches[1:]), high], strict=True):
        voice.add(sum_, stretch, low=max(low, stretch.first), high=min(high, until), origin=low)
    frames = np.arange(low, high, dtype=np.float64)
    if table.noise is not None:
        _add_noise(sum_, table.noise, low, rate, seed=start.voice, sustain_s=table.sustain_s)
    shape = _onset(frames, attack=round(table.attack_s * rate))
    if table.swell:
        shape *= 1.0 - table.swell * np.exp(-frames / (table.swell_s * rate))
    if table.unsteady:
        shape *= 1.0 + table.unsteady * wandering(frames, rate, seed=start.voice)
    for frame, fade in releases:
        shape *= np.exp(-np.maximum(frames - frame, 0.0) / fade)
    total[low + first - begin : high + first - begin] += sum_ * shape


def counted(seed: int, frames: NDArray[np.int64]) -> Samples:
    """Return noise from a counter, within -1 to 1: the same for a frame whatever comes before.

    The mixing of bits is lowbias32 (Wellons, 2018).
    """
    x = (frames + seed * 0x9E3779B9).astype(np.uint32)
    for shift, factor in ((16, 0x7FEB352D), (15, 0x846CA68B)):
        x ^= x >> np.uint32(shift)
        x = x * np.uint32(factor)
    x ^= x >> np.uint32(16)
    return np.asarray(x / 2.0**31 - 1.0)


def wandering(frames: Samples, rate: int, *, seed: int) -> Samples:
    """Return a level that wanders slowly within -1 to 1, from a counter."""
    places = frames * (WANDERS_PER_S / rate)
    before = np.floor(places)
    way = 0.5 - 0.5 * np.cos(np.pi * (places - before))
    first, second = (counted(~seed, (before + n).astype(np.int64)) for n in (0, 1))
    return first + (second - first) * way


def _add_noise(
    out: Samples, noise: Noise, low: int, rate: int, *, seed: int, sustain_s: float
) -> None:
    """Add noise from frame `low` of a voice on."""
    frames = np.arange(low, low + len(out), dtype=np.float64)
    falling = np.maximum(frames - round(sustain_s * rate), 0.0)
    fall = noise.decay_s * rate
    gone = _gone_after(np.array([noise.level]), np.array([fall]))[0]
    level = np.where(falling < gone, noise.level * np.exp(-falling / fall), 0.0)
    out += level * banded(noise, frames, rate, seed=seed)


def banded(noise: Noise, frames: Samples, rate: int, *, seed: int) -> Samples:
    """Return noise in a band, its root mean square 1: what two counters give, in straight lines
    from one number to the next as often as the band is wide, over a cosine and a sine.
    """
    places = frames * (noise.width_hz / rate)
    before = np.floor(places)
    numbers, way = before.astype(np.int64), places - before
    sides = []
    for side in (0, 1):
        first, second = (counted(2 * seed + side, numbers + n) for n in (0, 1))
        sides.append(first + (second - first) * way)
    turn = 2.0 * np.pi * noise.hz / rate * frames
    # an even number has a mean square of 1/3, a line between two of them 2/3 of that
    return math.sqrt(4.5) * (sides[0] * np.cos(turn) - sides[1] * np.sin(turn))


def _gone_after(amplitudes: Samples, falls: Samples) -> NDArray[np.int64]:
    """Return how many frames of falling leave a partial faint enough to be dropped, in steps."""
    sizes = np.maximum(np.abs(amplitudes), INAUDIBLE)
    return np.asarray(np.ceil(falls * np.log(sizes / INAUDIBLE) / DROPS_EVERY).astype(np.int64)) * (
        DROPS_EVERY
    )


class _Partials:
    """Adds the partials of one voice, onset and release aside."""

    def __init__(self, table: PartialTable, rate: int) -> None:
        self._rate = rate
        self._amplitudes = np.array((*table.amplitudes, *table.second_amplitudes))
        self._falls = np.array((*table.decays_s, *table.second_decays_s)) * rate
        self._gone = round(table.sustain_s * rate) + _gone_after(self._amplitudes, self._falls)
        self._sustained = round(table.sustain_s * rate)
        self._first_hz = _all_hz(table)
        self._sharp = growth_of_cents(table.glide_cents)
        self._sharp_fall = table.glide_s * rate
        self._sharp_until = round(SHARP_FALLS * self._sharp_fall) if self._sharp else 0

    def add(self, out: Samples, stretch: _Stretch, *, low: int, high: int, origin: int) -> None:
        """Add frames [low, high) of a stretch; out[0] is frame `origin`."""
        edges = [stretch.first + stretch.length, self._sharp_until, self._sustained]
        edges += [int(one) for one in np.unique(self._gone)]
        cuts = sorted({low, high, *(edge for edge in edges if low < edge < high)})
        for begin, end in pairwise(cuts):
            part = out[begin - origin : end - origin]
            if begin < max(stretch.first + stretch.length, self._sharp_until):
                self._add_moving(part, stretch, begin)
            else:
                self._add_steady(part, stretch, begin)

    def _loud(self, frame: int) -> NDArray[np.bool_]:
        return np.asarray(frame < self._gone)

    def _levels(self, frames: Samples, loud: NDArray[np.bool_]) -> Samples:
        """Return the amplitudes at frames that follow each other, shape (partials, frames)."""
        falls, count = self._falls[loud], len(frames)
        if count <= BLOCK or frames[0] < self._sustained:
            falling = np.maximum(frames - self._sustained, 0.0)
            return np.asarray(self._amplitudes[loud, None] * np.exp(-falling / falls[:, None]))
        # a product of few exponentials instead of as many as there are frames
        starts = np.exp(-np.outer(1.0 / falls, frames[::BLOCK] - self._sustained))
        within_ = np.exp(-np.outer(1.0 / falls, np.arange(BLOCK)))
        levels = (self._amplitudes[loud, None] * starts)[:, :, None] * within_[:, None, :]
        return np.asarray(levels.reshape(len(falls), -1)[:, :count])

    def _phases(self, stretch: _Stretch, frames: Samples, loud: NDArray[np.bool_]) -> Samples:
        phases = stretch.phases(frames, self._rate, loud)
        if self._sharp:
            summed = -np.expm1(-frames / self._sharp_fall) / -math.expm1(-1.0 / self._sharp_fall)
            per_hz = 2.0 * np.pi / self._rate * self._sharp * summed
            phases = phases + self._first_hz[loud, None] * per_hz
        return phases

    def _add_moving(self, out: Samples, stretch: _Stretch, begin: int) -> None:
        for at in range(0, len(out), BLOCK * BLOCK):
            part = out[at : at + BLOCK * BLOCK]
            frames = np.arange(begin + at, begin + at + len(part), dtype=np.float64)
            loud = self._loud(begin)
            if np.any(loud):
                # whole turns taken off in full precision, the sine in half of it: 130 dB down
                turns = self._phases(stretch, frames, loud) / (2.0 * np.pi)
                turns -= np.rint(turns)
                waves = np.sin((2.0 * np.pi * turns).astype(np.float32))
                part += np.einsum("kn,kn->n", self._levels(frames, loud), waves)

    def _add_steady(self, out: Samples, stretch: _Stretch, begin: int) -> None:
        """Frequencies that stay: a e^(c (64 i + j)) is a product of a power in i and one in j, so
        that all partials together are one product of two matrices.
        """
        loud = self._loud(begin)
        if not np.any(loud):
            return
        here = np.array([float(begin)])
        decays = 0.0 if begin < self._sustained else 1.0 / self._falls[loud]
        power = 2j * np.pi * stretch.goal_hz[loud] / self._rate - decays
        phases = self._phases(stretch, here, loud)[:, 0]
        start = self._levels(here, loud)[:, 0] * np.exp(1j * phases)
        blocks = -(-len(out) // BLOCK)
        outer = np.exp(np.outer(np.arange(blocks) * BLOCK, power)) * start
        inner = np.exp(np.outer(power, np.arange(BLOCK)))
        out += (outer @ inner).imag.ravel()[: len(out)]


def _onset(frames: Samples, *, attack: int) -> Samples:
    rising = 0.5 - 0.5 * np.cos(np.pi * frames / max(attack, 1))
    return np.where(frames < attack, rising, 1.0)
