import json
from dataclasses import asdict

import numpy as np
from numpy.typing import NDArray

from meldrin.core.bench import Action, Behaviour, Go, Setup, Sound, Turn, opening, step
from meldrin.core.sound.events import Release, SoundEvent
from meldrin.core.sound.render import render
from meldrin.core.strings import sounding_hz
from tests.browser.base import ROOT, BrowserTest
from tests.core.test_sound import measured_beat_hz

RATE = 48_000
PLAY = """async ([url, score, seconds, rate]) => {
  const context = new OfflineAudioContext(1, Math.round(seconds * rate), rate);
  await context.audioWorklet.addModule(url);
  const node = new AudioWorkletNode(context, "meldrin-voices", {
    outputChannelCount: [1], processorOptions: { score },
  });
  node.connect(context.destination);
  const buffer = await context.startRendering();
  const bytes = new Uint8Array(buffer.getChannelData(0).buffer);
  let text = "";
  for (let i = 0; i < bytes.length; i += 32768)
    text += String.fromCharCode(...bytes.subarray(i, i + 32768));
  return btoa(text);
}"""
Timed = list[tuple[float, SoundEvent]]


class SameSound(BrowserTest):
    """What the worklet plays is what Python renders from the same tables."""

    def played(self, events: Timed, *, seconds: float) -> NDArray[np.float64]:
        import base64

        self.page.goto("/review")
        (worklet,) = (ROOT / "web" / "dist" / "assets").glob("voices.worklet-*.js")
        score = json.loads(json.dumps([(at, asdict(event)) for at, event in events]))
        text = self.page.evaluate(PLAY, [f"/assets/{worklet.name}", score, seconds, RATE])
        return np.frombuffer(base64.b64decode(text), dtype=np.float32).astype(np.float64)

    def both(self, events: Timed, *, seconds: float) -> NDArray[np.float64]:
        """Play and render, hold them against each other, and return what the browser played."""
        played = self.played(events, seconds=seconds)
        rendered = render(events, duration_s=seconds, sample_rate=RATE)
        self.assertEqual(len(played), len(rendered))
        signal = np.sqrt(np.mean(rendered**2))
        difference = np.sqrt(np.mean((played - rendered) ** 2))
        self.assertGreater(signal, 0.01)
        self.assertGreater(20 * np.log10(signal / max(difference, 1e-15)), 60.0)
        return played

    def test_a_pair_beats_in_the_browser_at_the_computed_rate(self) -> None:
        state = opening(Setup("guitar", "unison", "month", 21))
        state, _ = step(state, Go(1), dt_s=0.0)
        guitar = state.setup.instrument
        pair = [
            sounding_hz(guitar.string(n), strain=state.strain(n), fret=fret, number=1)
            for n, fret in ((4, 0), (5, 5))
        ]
        expected = abs(pair[0] - pair[1])
        _, sounds = step(state, Sound((4, 5)), dt_s=0.0)
        played = self.both([(0.0, event) for event in sounds], seconds=9.0)
        measured = measured_beat_hz(played, near_hz=sum(pair) / 2, expected_hz=expected)
        self.assertAlmostEqual(measured, expected, delta=0.01)

    def test_turning_while_it_sounds_and_damping(self) -> None:
        state = opening(Setup("guitar", "unison", "hair", 22))
        state, sounds = step(state, Sound((5,), reference=True), dt_s=0.0)
        events: Timed = [(0.01, event) for event in sounds]
        for n in range(30):  # 20 turns a second, so that each glide is cut short by the next
            state, sounds = step(state, Turn(5, 1.0 if n < 20 else -1.0), dt_s=0.05)
            events += [(0.5003 + n * 0.0331, event) for event in sounds]
        events += [(2.2, Release(1, 0.035)), (2.2, Release(2, 0.035))]
        played = self.both(events, seconds=3.0)
        self.assertEqual(float(np.max(np.abs(played[round(2.7 * RATE) :]))), 0.0)

    def test_bowed_struck_hard_false_and_touched_strings_sound_alike(self) -> None:
        everything = frozenset[Behaviour]({"stroke", "false"})
        cases: tuple[tuple[Setup, tuple[Action, ...]], ...] = (
            (Setup("cello", "fifths", "hair", 4), (Go(1), Sound((1, 2)))),
            (Setup("bass", "each", "hair", 4, behaviours=everything), (Sound((4,), strength=1.0),)),
            (Setup("guitar", "harmonics", "hair", 4), (Go(1), Sound((4, 5)))),
            (Setup("viola", "each", "hair", 4, behaviours=everything), (Sound((3,), way="pluck"),)),
        )
        for made, actions in cases:
            state, events = opening(made), []
            for action in actions:
                state, sounds = step(state, action, dt_s=0.0)
                events += [(0.0, event) for event in sounds]
            self.both(events, seconds=2.5)

    def test_the_limiter_is_the_same(self) -> None:
        state = opening(Setup("guitar", "unison", "hair", 23))
        _, sounds = step(state, Sound((1, 2, 3, 4, 5, 6), strength=1.0), dt_s=0.0)
        played = self.both([(0.0, event) for event in sounds], seconds=1.0)
        self.assertLessEqual(float(np.max(np.abs(played))), 1.0)
        self.assertGreater(float(np.max(np.abs(played))), 0.7)
