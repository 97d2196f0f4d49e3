"""The samples of a trial: as loud as those of any other answer, so that only what is asked tells.

A pair that is still is louder than one that beats, and a false string softer than a true one. So
each stretch is made equally loud as it is heard. Then loudness, brightness and the moments at which
notes begin vary a little from trial to trial, by a draw that knows nothing of the answer. A note
that begins some milliseconds later meets its partner at another phase, so that no beat always
begins with its loudest.
"""

import random
from dataclasses import replace
from itertools import pairwise
from typing import Final

import numpy as np
from numpy.typing import NDArray

from meldrin.core.drills.drill import SAMPLE_RATE, Playback
from meldrin.core.sound.events import SoundEvent, Start
from meldrin.core.sound.loudness import weight
from meldrin.core.sound.render import limited, render

Samples = NDArray[np.float64]
LEVEL_DB: Final = -27.0  # of a stretch, weighted as it is heard; a bench's string has about as much
VARIES_DB: Final = 1.5  # each way
TILTS_DB: Final = 1.5  # an octave above and below the middle, each way
MIDDLE_HZ: Final = 600.0
TILT_OCTAVES: Final = 2.0  # from where on it tilts no further
LATE_S: Final = 0.02  # at most: nobody hears that two notes begin so far apart
SILENT: Final = 1e-6
EDGE_S: Final = 0.01  # over which the gain goes from one stretch to the next


def samples_of(heard: Playback) -> Samples:
    """Return what is played, at `SAMPLE_RATE`: shape (samples,), within -1 to 1, as many for every
    trial that asks the same. The same each time it is heard.
    """
    draw = random.Random(f"samples {heard.seed}")
    varies = bool(heard.seed)
    events = [_late(at_s, event, draw) if varies else (at_s, event) for at_s, event in heard.events]
    made = render(
        sorted(events, key=lambda one: one[0]),
        duration_s=heard.duration_s,
        sample_rate=SAMPLE_RATE,
    )
    tilt_db = draw.uniform(-TILTS_DB, TILTS_DB) if varies else 0.0
    made = _tilted(made, tilt_db)
    gains = np.ones(len(made))
    loud = weighted(made)
    for begin_s, end_s in _stretches(heard):
        begin, end = round(begin_s * SAMPLE_RATE), round(end_s * SAMPLE_RATE)
        power = float(np.mean(loud[begin:end] ** 2)) if end > begin else 0.0
        if power > SILENT**2:
            varied_db = draw.uniform(-VARIES_DB, VARIES_DB) if varies else 0.0
            gains[begin:end] = 10.0 ** ((LEVEL_DB + varied_db) / 20.0) / np.sqrt(power)
    return limited(made * _smoothed(gains))


def _stretches(heard: Playback) -> list[tuple[float, float]]:
    """Return from when until when each stretch goes that is made as loud as the others."""
    found: list[tuple[float, float]] = []
    for part in heard.parts:
        cuts = [at_s for at_s in heard.cuts_s if part.begin_s < at_s < part.end_s]
        found += pairwise([part.begin_s, *cuts, part.end_s])
    return found


def _late(at_s: float, event: SoundEvent, draw: random.Random) -> tuple[float, SoundEvent]:
    if not isinstance(event, Start):
        return at_s, event
    return at_s, replace(event, delay_s=event.delay_s + LATE_S * draw.random())


def weighted(samples: Samples) -> Samples:
    """Return samples weighted as they are heard (ITU-R BS.1770-4)."""
    spectrum = np.fft.rfft(samples)
    hz = np.maximum(np.fft.rfftfreq(len(samples), 1.0 / SAMPLE_RATE), 1.0)
    known = np.geomspace(1.0, SAMPLE_RATE / 2.0, 200)
    weights = np.interp(hz, known, [weight(float(one)) for one in known])
    return np.asarray(np.fft.irfft(spectrum * weights, len(samples)))


def _tilted(samples: Samples, db_an_octave: float) -> Samples:
    """Return samples a little brighter or darker, none of them earlier or later."""
    if not db_an_octave:
        return samples
    spectrum = np.fft.rfft(samples)
    hz = np.maximum(np.fft.rfftfreq(len(samples), 1.0 / SAMPLE_RATE), 1.0)
    octaves = np.clip(np.log2(hz / MIDDLE_HZ), -TILT_OCTAVES, TILT_OCTAVES)
    return np.asarray(
        np.fft.irfft(spectrum * 10.0 ** (db_an_octave * octaves / 20.0), len(samples))
    )


def _smoothed(gains: Samples) -> Samples:
    """Return gains that go over from one to the next within some milliseconds, without a click."""
    width = max(1, round(EDGE_S * SAMPLE_RATE))
    padded = np.concatenate([np.full(width, gains[0]), gains, np.full(width, gains[-1])])
    summed = np.cumsum(padded)
    smooth = (summed[width:] - summed[:-width]) / width
    return np.asarray(smooth[width // 2 : width // 2 + len(gains)])
