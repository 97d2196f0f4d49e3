"""The sound of a whole attempt as a WAV file, a stretch at a time."""

import struct
from collections.abc import Iterator, Sequence

import numpy as np

from meldrin.core.bench import Exercise, TimedAction, played
from meldrin.core.sound.events import SoundEvent
from meldrin.core.sound.render import render

RATE = 32_000
STRETCH_S = 10.0
LONGEST_S = 3600.0  # longer attempts end here
TAIL_S = 1.0
LEVEL = 0.9


def sounds_of(exercise: Exercise, log: Sequence[TimedAction]) -> list[tuple[float, SoundEvent]]:
    """Return everything that sounded in an attempt, as (time in s, event)."""
    return [(one.entry.at_s, event) for one in played(exercise, log) for event in one.sounds]


def attempt_wav(exercise: Exercise, log: Sequence[TimedAction]) -> Iterator[bytes]:
    """Return the parts of a mono 16-bit WAV file of the attempt, at most its first hour, each
    rendered when it is wanted.
    """
    events = sounds_of(exercise, log)
    length_s = min(LONGEST_S, (log[-1].at_s if log else 0.0) + TAIL_S)
    return _parts(events, round(length_s * RATE))


def _parts(events: list[tuple[float, SoundEvent]], frames: int) -> Iterator[bytes]:
    yield _header(frames)
    done = 0
    while done < frames:
        part = min(frames - done, round(STRETCH_S * RATE))
        samples = render(events, duration_s=part / RATE, sample_rate=RATE, begin_s=done / RATE)
        yield np.round(samples * LEVEL * 32767.0).astype("<i2").tobytes()
        done += part


def _header(frames: int) -> bytes:
    """Return what stands before the samples (RIFF, WAVE, PCM: 44 bytes), told how many come."""
    size = 2 * frames
    return struct.pack(
        "<4sI4s4sIHHIIHH4sI",
        *(b"RIFF", 36 + size, b"WAVE"),
        *(b"fmt ", 16, 1, 1, RATE, 2 * RATE, 2, 16),
        *(b"data", size),
    )
