"""What a recorded note is measured by, on tones that are known."""

import unittest

import numpy as np
from numpy.typing import NDArray
from tools.recordings import GRID_HZ, NUMBERED, portrait

RATE = 44_100
HZ = 220.0
FALLS = len(GRID_HZ[::3])


def tone(
    levels: list[float], *, decay_s: float = 1e9, attack_s: float = 0.0, noise: float = 0.0
) -> NDArray[np.float64]:
    """Return a second of partials with these amplitudes, which fall and rise as said."""
    times = np.arange(RATE) / RATE
    partials = [
        level * np.sin(2.0 * np.pi * HZ * n * times) for n, level in enumerate(levels, start=1)
    ]
    rising = np.minimum(1.0, times / attack_s) if attack_s else 1.0
    rough = noise * np.random.default_rng(3).standard_normal(RATE)
    whole = np.sum(partials, axis=0)
    return np.asarray((whole * np.exp(-times / decay_s) + rough) * rising)


class Portraits(unittest.TestCase):
    def test_levels_by_number_are_those_of_the_partials(self) -> None:
        seen = portrait(tone([1.0, 0.1, 0.5]), rate=RATE, hz=HZ)
        by_number = seen[len(GRID_HZ) : len(GRID_HZ) + NUMBERED]
        whole_db = 10.0 * np.log10(1.0 + 0.1**2 + 0.5**2)
        for number, level_db in ((0, 0.0), (1, -20.0), (2, -6.02)):
            self.assertAlmostEqual(by_number[number], level_db - whole_db, delta=0.3)
        self.assertLess(by_number[4], -45.0)

    def test_a_tone_that_falls_to_1_e_in_a_fifth_of_a_second_falls_by_43_db_a_second(self) -> None:
        # 20 log10(e) / 0.2
        seen = portrait(tone([0.5] * 36, decay_s=0.2), rate=RATE, hz=HZ)
        falls = seen[len(GRID_HZ) + NUMBERED :][:FALLS]
        known = falls[~np.isnan(falls)]
        self.assertGreater(len(known), 3)
        np.testing.assert_allclose(known, 43.4, atol=4.0)

    def test_noise_is_told_against_the_tone(self) -> None:
        quiet, rough = (
            portrait(tone([0.5, 0.3], noise=noise), rate=RATE, hz=HZ)[len(GRID_HZ) + NUMBERED :]
            for noise in (0.0, 0.1)
        )
        self.assertLess(quiet[FALLS], -40.0)
        self.assertGreater(rough[FALLS], -25.0)

    def test_a_slow_attack_is_told_from_a_fast_one(self) -> None:
        place = len(GRID_HZ) + NUMBERED + FALLS + 2
        for attack_s in (0.05, 0.2):
            seen = portrait(tone([0.5], attack_s=attack_s), rate=RATE, hz=HZ)
            self.assertAlmostEqual(10.0 ** seen[place], 0.8 * attack_s, delta=0.02)
