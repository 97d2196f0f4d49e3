"""Comparisons for a class: what is said of each is so, by the sounds that are played."""

import math
import re
import unittest

import numpy as np

from meldrin.core.errors import Code, MeldrinError
from meldrin.core.shows import SHOWS, Scene, show_of
from meldrin.core.sound.events import Release, Start
from meldrin.core.sound.render import Samples, render

RATE = 24_000


def rendered(scene: Scene, extra_s: float = 0.3) -> Samples:
    events = [(0.0, event) for event in scene.events]
    return render(events, duration_s=scene.lasts_s + extra_s, sample_rate=RATE)


def cents_of(scene: Scene) -> dict[str, float]:
    return {one.label: one.cents for one in scene.strings}


def fundamentals(scene: Scene) -> list[float]:
    return [one.table.frequencies_hz[0] for one in scene.events if isinstance(one, Start)]


class Shows(unittest.TestCase):
    def test_each_has_sides_that_sound_and_end(self) -> None:
        self.assertEqual(len({one.id for one in SHOWS}), len(SHOWS))
        for show in SHOWS:
            self.assertTrue(show.listen_for.endswith("?"), show.id)
            self.assertGreaterEqual(len(show.scenes), 2)
            for scene in show.scenes:
                self.assertTrue(scene.says.endswith("."), scene.words)
                samples = rendered(scene)
                self.assertTrue(0.05 < np.abs(samples).max() < 0.7, (show.id, scene.words))
                self.assertLess(np.abs(samples[-480:]).max(), 1e-3, (show.id, scene.words))
                let_go = {one.voice for one in scene.events if isinstance(one, Release)}
                self.assertEqual(
                    let_go, {one.voice for one in scene.events if isinstance(one, Start)}
                )
        with self.assertRaises(MeldrinError) as refused:
            show_of("nothing")
        self.assertEqual(refused.exception.code, Code.NO_SUCH_SHOW)

    def test_as_a_cello_s_string_is_lowered_a_class_hears_the_others_rise(self) -> None:
        scenes = show_of("tension").scenes
        before, tone, fifth = (cents_of(one) for one in scenes)
        self.assertTrue(all(abs(cents) < 1.0 for cents in before.values()))
        self.assertAlmostEqual(tone.pop("A"), -200.0, delta=15.0)
        self.assertAlmostEqual(fifth.pop("A"), -700.0, delta=15.0)
        for name in ("D", "G", "C"):
            self.assertTrue(0.0 < tone[name] < fifth[name], name)
        # the thickest, which is stiffest, moves most; ten cents are heard one after the other
        self.assertEqual(max(fifth, key=lambda name: fifth[name]), "C")
        self.assertGreater(fifth["C"], 10.0)
        found = re.search(r"C. It rose most, by (\d+) cents", scenes[2].says)
        assert found is not None
        self.assertAlmostEqual(int(found[1]), fifth["C"], delta=0.6)

    def test_with_a_floating_bridge_they_rise_far_more(self) -> None:
        fixed, floating = (cents_of(one) for one in show_of("bridges").scenes)
        for name in fixed:
            if name != "low E":
                self.assertGreater(floating[name], 5.0 * fixed[name])

    def test_what_is_played_is_what_is_shown(self) -> None:
        before, _, after = show_of("tension").scenes
        for one, other, name in zip(
            fundamentals(before), fundamentals(after), ("C", "G", "D", "A"),
            strict=True,
        ):  # fmt: skip
            moved = cents_of(after)[name] - cents_of(before)[name]
            self.assertAlmostEqual(1200.0 * math.log2(other / one), moved, delta=1.0)

    def test_a_pull_lets_a_string_fall_that_came_from_above(self) -> None:
        before, after = show_of("above").scenes
        self.assertLess(abs(cents_of(before)["A"]), 1.0)
        low = -cents_of(after)["A"]
        self.assertGreater(low, 5.0)
        self.assertIn(f"{low:.0f} cents low", after.says)

    def test_pure_and_tempered_are_as_theory_has_them(self) -> None:
        scenes = show_of("tempered").scenes
        wanted = (1200 * math.log2(1.5), 700.0, 1200 * math.log2(1.25), 400.0)
        for scene, cents in zip(scenes, wanted, strict=True):
            low, high = fundamentals(scene)
            self.assertAlmostEqual(1200.0 * math.log2(high / low), cents, delta=0.01)

    def test_the_chord_has_one_string_out(self) -> None:
        out, tuned = (cents_of(one) for one in show_of("chord").scenes)
        self.assertEqual([name for name, cents in out.items() if abs(cents) > 1.0], ["D"])
        self.assertTrue(all(abs(cents) < 1.0 for cents in tuned.values()))
        slightly = cents_of(show_of("pegs").scenes[0])
        self.assertTrue(all(3.0 < abs(cents) < 13.0 for cents in slightly.values()))

    def test_a_false_string_beats_alone(self) -> None:
        good, false = (rendered(one) for one in show_of("false").scenes)

        def depth(samples: Samples) -> float:
            """How much the level of the first partial wavers about its decay, in nepers."""
            time = np.arange(len(samples)) / RATE
            down = samples * np.exp(-2j * np.pi * 246.94 * time)
            window = np.hanning(RATE // 8)
            level = np.log(np.abs(np.convolve(down, window / window.sum(), mode="same")) + 1e-12)
            settled = slice(RATE // 4, int(2.5 * RATE))
            level, time = level[settled], time[settled]
            return float(np.std(level - np.polyval(np.polyfit(time, level, 2), time)))

        self.assertGreater(depth(false), 4.0 * depth(good))
