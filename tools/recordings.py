"""Recorded single notes, and how far a sound is from them: by the levels and decays of its
partials, its attack and its share of noise.

The notes are those of a General MIDI bank from Debian's packages. They are measured here, and
nothing of them is shipped. The distance was fixed before any sound of ours was set by it: each
feature counts by how much more it differs between instruments than between neighbouring notes of
one.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from typing import Final

import numpy as np
from numpy.typing import NDArray

from meldrin.core.bench import Exercise, opening, step
from meldrin.core.bench.actions import Play
from meldrin.core.catalogue import instrument
from meldrin.core.sound.render import render
from tools.debian import from_package

Samples = NDArray[np.float64]

BANK: Final = ("fluid-soundfont-gm", "usr/share/sounds/sf2/FluidR3_GM.sf2")
RATE: Final = 44_100
PROGRAMS: Final[Mapping[str, int]] = {
    "classical-guitar": 24,
    "guitar": 25,
    "electric-guitar": 27,
    "bass": 33,
    "violin": 40,
    "viola": 41,
    "cello": 42,
    "double-bass": 43,
    "sitar": 104,
    "banjo": 105,
}
HIGHEST_HZ: Final = 8_000.0
MOST_PARTIALS: Final = 40
NUMBERED: Final = 16  # partials that are compared by their number
GRID_HZ: Final = 80.0 * 2.0 ** (np.arange(20) / 3.0)  # thirds of an octave, to 6.5 kHz
EARLY_S: Final = (0.0, 0.10)  # after the onset
LISTENED_S: Final = (0.05, 0.35)  # the shortest recordings last little longer
LATE_S: Final = (0.26, 0.38)
BLOCK_S: Final = 0.02
BLOCKS: Final = (0, 1, 2, 4, 6, 9, 12, 15)
NEAR: Final = 5  # semitones, between what counts as neighbours
MOST_STEPS: Final = 4.0  # one feature that is far off does not decide alone


@dataclass(frozen=True, slots=True)
class Recorded:
    """A recorded note, and the keys that the bank plays with it."""

    instrument: str
    midi: int
    samples: Samples
    rate: int
    keys: range


def hz_of(midi: int) -> float:
    """Return the equal-tempered frequency of a note."""
    return float(440.0 * 2.0 ** ((midi - 69) / 12.0))


@cache
def bank() -> Mapping[str, tuple[Recorded, ...]]:
    """Return the bank's notes by instrument, in rising order; of stereo ones the left side."""
    # here, since it takes a deprecated module of the standard library with it
    from sf2utils.sf2parse import Sf2File  # type: ignore[import-untyped]

    names = {program: name for name, program in PROGRAMS.items()}
    found: dict[str, dict[int, Recorded]] = {name: {} for name in PROGRAMS}
    with from_package(*BANK).open("rb") as file:
        for preset in Sf2File(file).presets[:-1]:
            name = names.get(preset.preset)
            if preset.bank != 0 or name is None:
                continue
            for zone in (
                one for bag in preset.bags if bag.instrument for one in bag.instrument.bags
            ):
                sample = zone.sample
                if sample is None or sample.name.endswith("(R)"):
                    continue
                midi = sample.original_pitch if zone.base_note is None else zone.base_note
                raw = np.frombuffer(sample.raw_sample_data, dtype="<i2") / 32768.0
                low, high = zone.key_range or (0, 127)
                one = Recorded(name, midi, raw, sample.sample_rate, range(low, high + 1))
                found[name].setdefault(midi, one)
    return {name: tuple(notes[midi] for midi in sorted(notes)) for name, notes in found.items()}


def played(instrument: str, midi: int) -> tuple[Samples, int]:
    """Return the samples of a key as the bank plays it, from its nearest note, and the rate."""
    one = min(bank()[instrument], key=lambda note: (midi not in note.keys, abs(note.midi - midi)))
    ratio = hz_of(midi) / hz_of(one.midi)
    places = np.arange(0.0, len(one.samples) - 1, ratio)
    return np.interp(places, np.arange(len(one.samples)), one.samples), one.rate


def portrait(samples: Samples, *, rate: int, hz: float) -> Samples:
    """Return what a note of about this pitch is known by, shape (features,); NaN where it has none:
    levels of partials by frequency and by number (dB), their fall (dB/s), noise (dB), attack (log10
    of seconds), and the level of the whole in its first third of a second (dB).
    """
    heard = samples[_onset(samples, rate) :]
    hz = _fundamental(heard, rate, hz)
    count = max(1, min(MOST_PARTIALS, int(min(HIGHEST_HZ, 0.45 * rate) / hz)))
    energies, noise = _energies(_part(heard, rate, LISTENED_S), rate, hz, count)
    early, early_noise = _energies(_part(heard, rate, EARLY_S), rate, hz, count)
    late, _ = _energies(_part(heard, rate, LATE_S), rate, hz, count)
    total = float(np.sum(energies)) + 1e-30
    levels = 10.0 * np.log10(energies / total + 1e-6)
    numbers = np.arange(1, count + 1)
    octaves, grid = np.log2(hz * numbers), np.log2(GRID_HZ)
    by_hz = np.interp(grid, octaves, levels + 3.0 * np.log2(numbers), left=np.nan, right=-60.0)
    by_number = np.full(NUMBERED, -60.0)
    by_number[: min(NUMBERED, count)] = levels[:NUMBERED]
    between_s = (sum(LATE_S) - sum(EARLY_S)) / 2.0
    falls = 10.0 * np.log10((early + 1e-12 * total) / (late + 1e-12 * total)) / between_s
    falls = np.interp(grid[::3], octaves, np.clip(falls, -30.0, 120.0), left=np.nan, right=np.nan)
    noises = [
        10.0 * np.log10((one + 1e-9 * total) / (of + 1e-30))
        for one, of in ((noise, total), (early_noise, float(np.sum(early))))
    ]
    attack, course = _course(heard, rate)
    return np.concatenate([by_hz, by_number, falls, noises, [attack], course])


@cache
def portraits() -> Mapping[str, Sequence[tuple[int, Samples]]]:
    """Return every note of the bank with what it is known by."""
    return {
        name: [
            (one.midi, portrait(one.samples, rate=one.rate, hz=hz_of(one.midi))) for one in notes
        ]
        for name, notes in bank().items()
    }


@cache
def _steps() -> tuple[Samples, Samples]:
    """Return, for each feature, its usual difference between neighbouring notes of an instrument,
    and how much more it differs between instruments (the share beyond, squared; 0 where none).
    """
    notes = [(name, *one) for name, found in portraits().items() for one in found]
    same: list[Samples] = []
    others: list[Samples] = []
    for at, (name, midi, seen) in enumerate(notes):
        for other_name, other_midi, other in notes[:at]:
            if abs(midi - other_midi) <= NEAR:
                (same if name == other_name else others).append(seen - other)
    within, between = (np.sqrt(_mean(np.array(one) ** 2)) for one in (same, others))
    return within, np.maximum((between / within) ** 2 - 1.0, 0.0)


def _mean(rows: Samples) -> Samples:
    """Return the mean of each column's known numbers; 1 where none is known."""
    known = ~np.isnan(rows)
    counts = known.sum(axis=0)
    return np.where(counts, np.where(known, rows, 0.0).sum(axis=0) / np.maximum(counts, 1), 1.0)


def distance(one: Samples, other: Samples) -> float:
    """Return how far two notes are apart, in usual differences between neighbouring notes."""
    step, weight = _steps()
    off = np.minimum(np.abs(one - other) / step, MOST_STEPS)
    known = ~np.isnan(off)
    return float(np.sqrt(np.sum(weight[known] * off[known] ** 2) / np.sum(weight[known])))


def nearest(found: Samples, midi: int) -> list[tuple[float, str]]:
    """Return the distance to each instrument's note of a key, the smallest first."""
    return sorted((distance(found, _key(name, midi)), name) for name in PROGRAMS)


@cache
def _key(instrument: str, midi: int) -> Samples:
    samples, rate = played(instrument, midi)
    return portrait(samples, rate=rate, hz=hz_of(midi))


def told_apart() -> tuple[int, int]:
    """Return for how many open strings the bank's note a semitone above is nearest to the same
    instrument's, and of how many that was asked.
    """
    strings = open_strings()
    right = sum(nearest(_key(name, midi + 1), midi)[0][1] == name for name, midi in strings)
    return right, len(strings)


def open_strings() -> list[tuple[str, int]]:
    """Return the playing strings of the instruments that there are recordings of."""
    return [
        (name, string.midi)
        for name in PROGRAMS
        for string in instrument(name).strings
        if string.role == "playing"
    ]


def ours(name: str, midi: int) -> Samples:
    """Return what our own open string is known by, played as the instrument usually is."""
    number = next(one.number for one in instrument(name).strings if one.midi == midi)
    state = opening(Exercise(name, "free", "hair", 1))
    _, sounds = step(state, Play((number,)), dt_s=0.0)
    samples = render([(0.0, one) for one in sounds], duration_s=0.6, sample_rate=RATE)
    return portrait(samples, rate=RATE, hz=hz_of(midi))


def of_the_same() -> list[tuple[str, int, str]]:
    """Return for each open string of ours the instrument of the nearest recording."""
    return [(name, midi, nearest(ours(name, midi), midi)[0][1]) for name, midi in open_strings()]


def _onset(samples: Samples, rate: int) -> int:
    """Return where a note begins: 1 % of its largest size."""
    size = np.abs(samples[: rate // 2])
    return int(np.argmax(size > 0.01 * np.max(np.abs(samples))))


def _part(samples: Samples, rate: int, span_s: tuple[float, float]) -> Samples:
    low, high = (round(at_s * rate) for at_s in span_s)
    part = samples[low : min(high, len(samples))]
    return np.pad(part, (0, max(0, round(0.05 * rate) - len(part))))


def _spectrum(samples: Samples, rate: int) -> tuple[Samples, float]:
    """Return the power spectrum under a Hann window, and the width of its places in Hz."""
    size = 1 << int(np.ceil(np.log2(max(len(samples) * 4, rate))))
    power = np.abs(np.fft.rfft(samples * np.hanning(len(samples)), size)) ** 2 / len(samples) ** 2
    return power, rate / size


def _fundamental(samples: Samples, rate: int, hz: float) -> float:
    """Return the pitch within a semitone of what is said, by the partials it makes stand out."""
    power, width = _spectrum(_part(samples, rate, LISTENED_S), rate)
    root = np.sqrt(power)
    best, found = -1.0, hz
    for cents in range(-70, 71, 2):
        tried = hz * 2.0 ** (cents / 1200.0)
        places = np.round(tried * np.arange(1, 7) / width).astype(int)
        sum_ = float(np.sum(root[places[places < len(root)]]))
        if sum_ > best:
            best, found = sum_, tried
    return found


def _energies(samples: Samples, rate: int, hz: float, count: int) -> tuple[Samples, float]:
    """Return the energy of each partial, and of what lies between them up to the highest one."""
    power, width = _spectrum(samples, rate)
    window_hz = 2.0 * rate / len(samples)
    band_hz = min(0.35 * hz, max(1.5 * window_hz, 0.03 * hz))
    energies, taken = np.zeros(count), np.zeros(len(power), dtype=bool)
    for n in range(1, count + 1):
        reach = min(0.4 * hz, band_hz + 0.012 * n * hz)  # stiffness spreads the upper ones
        low, high = int((n * hz - reach) / width), int((n * hz + reach) / width) + 1
        peak = low + int(np.argmax(power[low:high]))
        half = max(1, int(band_hz / width))
        energies[n - 1] = np.sum(power[max(0, peak - half) : peak + half + 1])
        taken[max(0, peak - half) : peak + half + 1] = True
    end = int((count + 0.5) * hz / width)
    return energies, float(np.sum(power[: min(end, len(power))][~taken[: min(end, len(power))]]))


def _course(samples: Samples, rate: int) -> tuple[float, Samples]:
    """Return the attack (log10 of seconds from a tenth to nine tenths of the most), and the level
    at some times after it began (dB under its most).
    """
    level = _levels(samples[: rate // 2], rate, 0.004)
    top, low = (
        int(np.argmax(level > 0.9 * np.max(level))),
        int(np.argmax(level > 0.1 * np.max(level))),
    )
    most = max(BLOCKS) + 1
    course = 20.0 * np.log10(_levels(samples, rate, BLOCK_S)[:most] + 1e-6)
    course = np.pad(course - np.max(course), (0, max(0, most - len(course))), constant_values=-40.0)
    return float(np.log10((top - low + 1) * 0.004)), np.maximum(course[list(BLOCKS)], -40.0)


def _levels(samples: Samples, rate: int, block_s: float) -> Samples:
    size = max(1, round(block_s * rate))
    blocks = samples[: len(samples) // size * size].reshape(-1, size)
    return np.asarray(np.sqrt(np.mean(blocks**2, axis=1)))
