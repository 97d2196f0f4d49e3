"""Timed sound events to samples: the same arithmetic that the browser's audio worklet does.

Frame m of a partial is a exp(-m/(tau rate)) sin(phase_m), with phase_(m+1) = phase_m +
2 pi f_m/rate; a retuning moves f in a straight line over its glide. Voices are summed and
softly limited.
"""

from collections.abc import Sequence
from typing import Final

import numpy as np
from numpy.typing import NDArray

from meldrin.core.errors import within
from meldrin.core.sound.events import Release, Retune, SoundEvent, Start

Samples = NDArray[np.float64]

KNEE: Final = 0.7  # below it the limiter does nothing at all
FADES_UNTIL_GONE: Final = 12.0


def limited(samples: Samples) -> Samples:
    """Return the samples softly kept within -1 to 1; unchanged while within +-0.7."""
    size = np.abs(samples)
    over = KNEE + (1.0 - KNEE) * np.tanh((size - KNEE) / (1.0 - KNEE))
    return np.where(size <= KNEE, samples, np.sign(samples) * over)


def render(
    events: Sequence[tuple[float, SoundEvent]], *, duration_s: float, sample_rate: int
) -> Samples:
    """Render (time in s, event) pairs, in the order of their times, to mono samples.

    Returns:
        shape (round(duration_s * sample_rate),), within -1 to 1.

    Raises:
        OutOfRange: for a duration outside 0 to 600 s or a rate outside 8 to 192 kHz.
    """
    within(duration_s, name="duration", low=0.0, high=600.0, unit="s")
    within(sample_rate, name="sample rate", low=8_000, high=192_000, unit="Hz")
    total = np.zeros(round(duration_s * sample_rate))
    for index, (at_s, event) in enumerate(events):
        if isinstance(event, Start):
            later = [(t, e) for t, e in events[index + 1 :] if e.voice == event.voice]
            _add_voice(total, event, at_s=at_s, later=later, rate=sample_rate)
    return limited(total)


def _add_voice(
    total: Samples,
    start: Start,
    *,
    at_s: float,
    later: Sequence[tuple[float, SoundEvent]],
    rate: int,
) -> None:
    first = round((at_s + start.delay_s) * rate)
    frames = min(len(total) - first, round(start.table.lasts_s() * rate))
    if frames <= 0:
        return
    shape = _onset(frames, attack=round(start.table.attack_s * rate))
    for time_s, event in later:
        if isinstance(event, Release):
            frame = max(0, round(time_s * rate) - first)
            fade = event.fade_s * rate
            shape[frame:] *= np.exp(-np.arange(max(0, frames - frame)) / fade)
            shape[frame + round(FADES_UNTIL_GONE * fade) :] = 0.0
    retunes = [
        (max(0, round(time_s * rate) - first), event)
        for time_s, event in later
        if isinstance(event, Retune)
    ]
    table = start.table
    for k, amplitude in enumerate(table.amplitudes):
        glides = [
            (frame, event.frequencies_hz[k], round(event.glide_s * rate))
            for frame, event in retunes
        ]
        frequency = _frequency(frames, table.frequencies_hz[k], glides)
        phase = np.empty(frames)
        phase[0] = table.phases_rad[k]
        phase[1:] = table.phases_rad[k] + np.cumsum(2.0 * np.pi * frequency[:-1] / rate)
        decay = np.exp(-np.arange(frames) / (table.decays_s[k] * rate))
        total[first : first + frames] += amplitude * decay * np.sin(phase) * shape


def _onset(frames: int, *, attack: int) -> Samples:
    shape = np.ones(frames)
    rising = min(frames, attack)
    shape[:rising] = 0.5 - 0.5 * np.cos(np.pi * np.arange(rising) / max(attack, 1))
    return shape


def _frequency(frames: int, begin_hz: float, glides: list[tuple[int, float, int]]) -> Samples:
    """Return the frequency at each frame; a new glide begins from wherever the last one is."""
    frequency = np.full(frames, begin_hz)
    for frame, goal_hz, length in glides:
        if frame >= frames:
            continue
        from_hz = frequency[frame]
        way = np.minimum(np.arange(frames - frame) / max(length, 1), 1.0)
        frequency[frame:] = from_hz + (goal_hz - from_hz) * way
    return frequency
