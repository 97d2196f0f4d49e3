import base64
import json
from collections.abc import Sequence
from dataclasses import asdict
from typing import Any

import numpy as np
from numpy.typing import NDArray
from tools.generate import SOUND_CASES

from meldrin.core.bench import Exercise, Play, opening, step
from meldrin.core.bench.sound_cases import SoundCase, sound_cases
from meldrin.core.sound.events import SoundEvent, Start
from meldrin.core.sound.render import render
from meldrin.core.strings import sounding_hz
from tests.browser.base import ROOT, BrowserTest
from tests.core.test_sound import measured_beat_hz

RATE = 48_000
WINDOW_S = 0.4  # some beats of a pair 15 to 30 cents apart at E5
PLAY = """async ([url, score, watch, seconds, rate]) => {
  const context = new OfflineAudioContext(1, Math.round(seconds * rate), rate);
  await context.audioWorklet.addModule(url);
  const node = new AudioWorkletNode(context, "meldrin-voices", {
    outputChannelCount: [1], processorOptions: { score, watch },
  });
  const told = [];
  node.port.onmessage = ({ data }) => told.push(data);
  node.connect(context.destination);
  const buffer = await context.startRendering();
  await new Promise((done) => setTimeout(done, watch ? 500 : 0));
  const bytes = new Uint8Array(buffer.getChannelData(0).buffer);
  let text = "";
  for (let i = 0; i < bytes.length; i += 32768)
    text += String.fromCharCode(...bytes.subarray(i, i + 32768));
  return [btoa(text), told];
}"""
Timed = Sequence[tuple[float, SoundEvent]]
FIXTURE: dict[str, Any] = json.loads(SOUND_CASES.read_text())


class SameSound(BrowserTest):
    """What the worklet plays is what Python renders from the same tables."""

    def played(
        self, score: Any, *, seconds: float, watch: Any = None
    ) -> tuple[NDArray[np.float64], list[dict[str, Any]]]:
        self.page.goto("/review")
        (worklet,) = (ROOT / "web" / "dist" / "assets").glob("voices.worklet-*.js")
        text, told = self.page.evaluate(
            PLAY, [f"/assets/{worklet.name}", score, watch, seconds, RATE]
        )
        return np.frombuffer(base64.b64decode(text), dtype=np.float32).astype(np.float64), told

    def both(self, case: SoundCase) -> NDArray[np.float64]:
        """Play the fixture and render the case, hold them against each other, and return what the
        browser played.
        """
        (written,) = (one for one in FIXTURE["cases"] if one["name"] == case.name)
        played, _ = self.played(written["events"], seconds=case.seconds)
        rendered = render(case.events, duration_s=case.seconds, sample_rate=RATE)
        self.assertEqual(len(played), len(rendered))
        signal = np.sqrt(np.mean(rendered**2))
        difference = np.sqrt(np.mean((played - rendered) ** 2))
        self.assertGreater(signal, 0.01, case.name)
        self.assertGreater(20 * np.log10(signal / max(difference, 1e-15)), 60.0, case.name)
        return played

    def test_every_case_sounds_alike(self) -> None:
        played = {case.name: self.both(case) for case in sound_cases()}
        self.assertEqual(set(played), {one["name"] for one in FIXTURE["cases"]})
        damped = played["turned while it sounds, then damped"]
        self.assertEqual(float(np.max(np.abs(damped[round(2.7 * RATE) :]))), 0.0)
        limited = float(np.max(np.abs(played["at the limiter"])))
        self.assertTrue(0.7 < limited <= 1.0, limited)
        # the pair beats at the rate that its two frequencies make
        state = opening(Exercise("guitar", "unison", "month", 26))
        guitar = state.exercise.instrument
        pair = [
            sounding_hz(guitar.string(n), strain=state.strain(n), fret=fret, number=1)
            for n, fret in ((4, 0), (5, 5))
        ]
        expected = abs(pair[0] - pair[1])
        measured = measured_beat_hz(
            played["a beating pair"], near_hz=sum(pair) / 2, expected_hz=expected
        )
        self.assertAlmostEqual(measured, expected, delta=0.01)

    def test_the_depth_of_the_beat_is_that_of_its_third_of_an_octave(self) -> None:
        """Two strings, then a third one that rings in the same band: the picture tells what a
        filter a third of an octave wide shows of the sound itself.
        """
        # a start of before, and its piano: beats of a few a second, of which a window holds some
        state = opening(Exercise("mandolin", "each", "month", 21, rules=1))
        _, pair = step(state, Play((1,), reference=True), dt_s=0.0)
        _, more = step(state, Play((1, 2), reference=True), dt_s=0.0)
        for sounds in (pair, more):
            watch = {"own": [sounds[0].voice, 0], "other": [sounds[-1].voice, 0]}
            events = [(0.0, event) for event in sounds]
            score = json.loads(json.dumps([(at, asdict(event)) for at, event in events]))
            _, told = self.played(score, seconds=3.0, watch=watch)
            self.assertGreater(sum(one["kind"] == "beat" for one in told), 200)
            first = sounds[0]
            assert isinstance(first, Start)
            hz = first.table.frequencies_hz[0]
            sound = render(events, duration_s=3.0, sample_rate=RATE)
            for begin_s in (0.6, 1.0, 1.4):
                depths = [
                    one["depth"]
                    for one in told
                    if one["kind"] == "beat" and begin_s < one["at"] < begin_s + WINDOW_S
                ]
                expected = filtered_depth(sound, hz, begin_s)
                # deepest at the beginning, since strings die away beside a pipe
                if sounds is pair:
                    self.assertAlmostEqual(max(depths), expected, delta=0.08)
                else:  # three come together, and cancel, only now and then: it tells the deepest
                    self.assertGreater(max(depths), expected - 0.05)


def filtered_depth(sound: NDArray[np.float64], hz: float, begin_s: float) -> float:
    """The depth of the envelope, for a few beats, in the third of an octave around a frequency."""
    spectrum = np.fft.fft(sound)
    at_hz = np.fft.fftfreq(len(sound), 1 / RATE)
    spectrum[(at_hz < hz / 2 ** (1 / 6)) | (at_hz > hz * 2 ** (1 / 6))] = 0.0
    frames = slice(round(begin_s * RATE), round((begin_s + WINDOW_S) * RATE))
    envelope = np.abs(2.0 * np.fft.ifft(spectrum))[frames]
    # what dies away is no beat: take the slow fall out first
    time = np.arange(len(envelope)) / RATE
    slope, level = np.polyfit(time, np.log(np.maximum(envelope, 1e-9)), 1)
    flat = envelope / np.exp(slope * time + level)
    return float((flat.max() - flat.min()) / (flat.max() + flat.min()))
