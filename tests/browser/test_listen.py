"""Ear drills by keyboard and by touch, judged by what sounds and by nothing else."""

import base64
import json
import re
from collections.abc import Callable
from typing import Any

import numpy as np
from playwright.sync_api import expect

from tests.browser.base import BrowserTest

Samples = np.ndarray[Any, np.dtype[np.float64]]
TRIALS = 12


def first_partial_hz(samples: Samples, rate: int, low: float, high: float) -> float:
    spectrum = np.abs(np.fft.rfft(samples * np.hanning(len(samples)), 8 * len(samples)))
    hz = np.fft.rfftfreq(8 * len(samples), 1.0 / rate)
    at = int(np.argmax(np.where((hz > low) & (hz < high), spectrum, 0.0)))
    below, middle, above = np.log(spectrum[at - 1 : at + 2])
    return float(hz[at] + 0.5 * (below - above) / (below - 2 * middle + above) * hz[1])


def cents_apart(one: Samples, other: Samples, rate: int, ratio: float) -> float:
    """How much wider than this ratio two notes of a G string are."""
    low = first_partial_hz(one, rate, 188.0, 204.0)
    high = first_partial_hz(other, rate, 0.9 * ratio * low, 1.1 * ratio * low)
    return float(1200.0 * np.log2(high / (ratio * low)))


def loudness(samples: Samples, rate: int) -> Samples:
    """How loud it is near 400 Hz, 200 times a second, in nepers about its decay."""
    time = np.arange(len(samples)) / rate
    strongest = first_partial_hz(samples, rate, 340.0, 460.0)
    down = samples * np.exp(-2j * np.pi * strongest * time)
    smooth = np.hanning(rate // 25)
    level = np.log(np.abs(np.convolve(down, smooth / smooth.sum(), mode="same")) + 1e-9)
    settled = slice(int(0.15 * rate), int(len(samples) - 0.2 * rate))
    level, time = level[settled], time[settled]
    return np.asarray((level - np.polyval(np.polyfit(time, level, 1), time))[:: rate // 200])


def beats_hz(samples: Samples, rate: int) -> float:
    wave = loudness(samples, rate)
    spectrum = np.abs(np.fft.rfft(wave * np.hanning(len(wave)), 4096))
    hz = np.fft.rfftfreq(4096, 1.0 / 200.0)
    return float(hz[np.argmax(np.where((hz > 0.7) & (hz < 15.0), spectrum, 0.0))])


NOTES = ["C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B"]
FLATS = {"Db": "C#", "Eb": "D#", "Gb": "F#", "Ab": "G#", "Bb": "A#"}
OPEN_VIOLA = {"C": 48, "G": 55, "D": 62, "A": 69}


def midi_of(note: str) -> int:
    return NOTES.index(FLATS.get(note[:-1], note[:-1])) + 12 * (int(note[-1]) + 1)


def exactly(words: str) -> re.Pattern[str]:
    """The name of a control that begins with these words and goes on with no letter of theirs."""
    return re.compile(rf"^{re.escape(words)}(?![a-z#])")


def counted(question: str) -> str:
    """The answer to a question about names, on a viola."""
    if found := re.match(r"The tuner shows (\S+)\. The string should be (\S+)\.", question):
        move = midi_of(found[2]) - midi_of(found[1])
        words = "semitone" if abs(move) == 1 else "semitones"
        return f"{'Up' if move > 0 else 'Down'} {abs(move)} {words}"
    if found := re.search(r"open (\w) string is the note of the open (\w) string", question):
        return f"{OPEN_VIOLA[found[2]] - OPEN_VIOLA[found[1]]} semitones"
    shown = question.rstrip("?").split()[-1]
    both = FLATS | {sharp: flat for flat, sharp in FLATS.items()}
    return both[shown]


class ListenTest(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.heard: list[tuple[Samples, int]] = []
        self.starts: list[dict[str, Any]] = []
        self.page.on("websocket", lambda line: line.on("framereceived", self._frame))

    def _frame(self, text: str | bytes) -> None:
        message = json.loads(text)
        if message["kind"] == "sound":
            samples = np.frombuffer(base64.b64decode(message["samples"]), "<i2") / 32768.0
            self.heard.append((samples, message["rate"]))
        if starts := [one for one in message.get("sounds", ()) if one["kind"] == "start"]:
            self.starts = starts

    def begin(self, drill: str) -> None:
        self.page.goto("/listen")
        self.page.get_by_role("button", name=f"Start: {drill}", exact=True).press("Enter")
        expect(self.page.get_by_role("heading", name="First, one of each")).to_be_visible()

    def hear(self, press: Callable[[], None]) -> tuple[Samples, int]:
        count = len(self.heard)
        press()
        for _ in range(1500):
            if len(self.heard) > count:
                return self.heard[-1]
            self.page.wait_for_timeout(20)
        raise AssertionError("nothing was heard")

    def part(self, sound: tuple[Samples, int], begin_s: float, end_s: float) -> Samples:
        samples, rate = sound
        return samples[int(begin_s * rate) : int(end_s * rate)]

    def go_through(self, judge: Callable[[tuple[Samples, int]], str]) -> int:
        """Sit through by keys; return how many were right, as the page says in the end."""
        keys = self.page.keyboard
        self.hear(lambda: keys.press("l"))
        keys.press("Enter")
        for trial in range(1, TRIALS + 1):
            expect(self.page.get_by_text(f"{trial} of {TRIALS}")).to_be_visible()
            expect(self.page.get_by_role("group", name="Your answer")).to_be_visible()
            key = judge(self.hear(lambda: keys.press("Space")))
            expect(self.page.get_by_role("button", name="Play it again")).to_be_visible()
            keys.press(key)
            keys.press("3")
            expect(self.page.get_by_role("status").get_by_role("heading")).to_be_visible()
            keys.press("Enter")
        right = self.page.get_by_text(re.compile(rf"^\d+ of {TRIALS} right\."))
        expect(right).to_be_visible()
        return int(right.inner_text().split()[0])


class ByKeyboard(ListenTest):
    def test_higher_or_lower(self) -> None:
        self.begin("Higher or lower")

        def judge(sound: tuple[Samples, int]) -> str:
            first, second = self.part(sound, 0.1, 1.1), self.part(sound, 1.7, 2.7)
            cents = cents_apart(first, second, sound[1], 1.0)
            return "j" if cents < -0.25 else "l" if cents > 0.25 else "k"

        self.assertGreaterEqual(self.go_through(judge), TRIALS - 2)
        # an ear as good as an analysis: a fine threshold, from the top
        heading = self.page.get_by_role("heading", level=1)
        expect(heading).to_have_text(
            re.compile(r"(You|you) hear (between [\d.]+ and )?[\d.]+ cents?( so far)?\.")
        )
        self.page.get_by_role("button", name="Other drills").press("Enter")
        expect(self.page.get_by_text(re.compile("on middle notes"))).to_be_visible()

    def test_still_or_beating(self) -> None:
        self.begin("Still or beating")

        def judge(sound: tuple[Samples, int]) -> str:
            return "l" if np.std(loudness(*sound)) > 0.1 else "j"

        self.assertGreaterEqual(self.go_through(judge), TRIALS - 4)

    def test_faster_or_slower(self) -> None:
        self.begin("Faster or slower")

        def judge(sound: tuple[Samples, int]) -> str:
            first, second = self.part(sound, 0.0, 2.4), self.part(sound, 2.8, 5.2)
            ratio = beats_hz(second, sound[1]) / beats_hz(first, sound[1])
            return "j" if ratio < 0.95 else "l" if ratio > 1.05 else "k"

        self.assertGreaterEqual(self.go_through(judge), TRIALS // 2)

    def test_narrow_true_or_wide(self) -> None:
        self.begin("Narrow, true or wide")

        def judge(sound: tuple[Samples, int]) -> str:
            lower, upper = self.part(sound, 0.05, 0.6), self.part(sound, 0.85, 1.4)
            cents = cents_apart(lower, upper, sound[1], 1.5)
            return "j" if cents < -1.0 else "l" if cents > 1.0 else "k"

        self.assertGreaterEqual(self.go_through(judge), TRIALS - 4)

    def test_beats_are_tapped_along(self) -> None:
        self.begin("Count the beats")
        keys = self.page.keyboard
        keys.press("Enter")
        for trial in (1, 2, 3):
            expect(self.page.get_by_text(f"{trial} of {TRIALS}")).to_be_visible()
            sound = self.hear(lambda: keys.press("Space"))
            expect(self.page.get_by_role("button", name="Tap along")).to_be_enabled()
            every_ms = 1000.0 / beats_hz(*sound)
            for _ in range(5):
                keys.press("t")
                self.page.wait_for_timeout(every_ms)
            expect(self.page.get_by_text(re.compile(r"^[\d.]+ a second$"))).to_be_visible()
            keys.press("2")
            told = self.page.get_by_role("status").get_by_role("heading")
            expect(told).to_contain_text(re.compile(r"It made [\d.]+ beats? a second\."))
            keys.press("Enter")
        # a number is chosen as well
        expect(self.page.get_by_text(f"4 of {TRIALS}")).to_be_visible()
        made = beats_hz(*self.hear(lambda: keys.press("Space")))
        numbers = self.page.get_by_role("group", name="Your answer").get_by_role("button")
        expect(numbers.first).to_be_enabled()
        said = [float(words.split()[0]) for words in numbers.all_inner_texts()]
        nearest = min(said, key=lambda one: abs(np.log(one / made)))
        expect(numbers.first.locator("kbd")).to_have_count(0)  # no letter beside a number
        for _ in range(said.index(nearest) + 1):
            keys.press("ArrowRight")
        keys.press("3")
        expect(self.page.get_by_role("status").get_by_role("heading")).to_contain_text("Right")

    def test_a_note_is_held_and_found_again(self) -> None:
        self.begin("Hold it")
        keys = self.page.keyboard
        keys.press("Enter")
        expect(self.page.get_by_text("1 of 8")).to_be_visible()
        keys.press("Space")
        tighten = self.page.get_by_role("button", name="Tighten a little")
        expect(tighten).to_be_enabled()
        # an ear that forgets nothing: the note sounded first, the string sounds last
        self.starts.sort(key=lambda one: one["delay_s"])
        note, string = (
            one["table"]["fundamental_hz"] for one in self.starts[:: len(self.starts) - 1]
        )
        steps = round(1200.0 * np.log2(note / string) / 2.0)
        arrow = "ArrowUp" if steps > 0 else "ArrowDown"
        for key, times in ((f"Shift+{arrow}", abs(steps) // 10), (arrow, abs(steps) % 10)):
            for _ in range(times):
                keys.press(key)
        keys.press("s")
        keys.press("3")
        told = self.page.get_by_role("status").get_by_role("heading")
        expect(told).to_have_text(
            re.compile("^Right. You (brought it home|left it 1 cent (low|high)).")
        )

    def test_names_and_frets_by_reading_and_counting(self) -> None:
        """No sound: each question is read as it stands, and its answer is counted out."""
        self.begin("Names and frets")
        keys = self.page.keyboard
        keys.press("Enter")
        for trial in range(1, TRIALS + 1):
            expect(self.page.get_by_text(f"{trial} of {TRIALS}")).to_be_visible()
            answers = self.page.get_by_role("group", name="Your answer")
            expect(answers).to_be_visible()
            wanted = counted(self.page.get_by_role("heading", level=1).inner_text())
            button = answers.get_by_role(
                "button", name=re.compile(rf"^{re.escape(wanted)}(?![a-z#])")
            )
            keys.press(button.locator("kbd").inner_text())
            expect(button).to_have_attribute("aria-pressed", "true")
            keys.press("2")
            expect(self.page.get_by_role("status").get_by_role("heading")).to_contain_text("Right")
            keys.press("Enter")
        heading = self.page.get_by_role("heading", level=1)
        expect(heading).to_have_text(f"You were right {TRIALS} of {TRIALS} times.")
        expect(self.page.get_by_text("The next sitting will be harder.")).to_be_visible()

    def test_a_sitting_that_was_left_is_offered_in_the_list(self) -> None:
        self.begin("Strings and pegs")
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_text(f"1 of {TRIALS}")).to_be_visible()
        self.page.get_by_role("link", name="Listen", exact=True).click()
        self.page.get_by_role("button", name="Go on: Strings and pegs: viola").press("Enter")
        expect(self.page.get_by_text(f"1 of {TRIALS}")).to_be_visible()

    def test_a_reload_goes_on_where_it_was(self) -> None:
        self.begin("Higher or lower")
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_text(f"1 of {TRIALS}")).to_be_visible()
        self.hear(lambda: self.page.keyboard.press("Space"))
        expect(self.page.get_by_role("button", name="Play it again")).to_be_visible()
        self.page.wait_for_timeout(600)  # it is on disk
        self.page.reload()
        expect(self.page.get_by_text(f"1 of {TRIALS}")).to_be_visible()
        expect(self.page.get_by_role("button", name="Play it again")).to_be_visible()
        self.page.get_by_role("button", name="Stop here").press("Enter")
        expect(self.page.get_by_role("heading", name="Nothing was judged.")).to_be_visible()


class ByTouch(ListenTest):
    touch = True
    size = (390, 844)

    def test_which_way_is_heard_by_a_turn(self) -> None:
        self.page.goto("/listen")
        self.page.get_by_role("button", name="Start: Which way", exact=True).tap()
        self.page.get_by_role("button", name="Begin").tap()
        self.page.get_by_role("button", name="Play it").tap()
        tighten = self.page.get_by_role("button", name="Tighten")
        tighten.tap()
        expect(tighten).to_be_disabled()  # it goes no farther, but back
        expect(self.page.get_by_role("button", name="Loosen")).to_be_enabled()
        string, fork = (one["table"] for one in self.starts)
        meets = fork["fundamental_hz"]
        near = [
            n * string["fundamental_hz"] * np.sqrt(1.0 + string["stiffness"] * n * n)
            for n in range(1, 8)
        ]
        is_low = min(near, key=lambda hz: abs(hz - meets)) < meets
        self.page.get_by_role("button", name="Low" if is_low else "High", exact=True).tap()
        sure = self.page.get_by_role("button", name="Sure", exact=True)
        expect(sure).to_be_in_viewport(ratio=1.0)
        sure.tap()
        told = self.page.get_by_role("status").get_by_role("heading")
        expect(told).to_have_text(f"Right. The string was {'low' if is_low else 'high'}.")

    def test_a_trial_by_touch_with_all_in_reach(self) -> None:
        self.page.goto("/listen")
        self.page.get_by_role("button", name="Start: Higher or lower", exact=True).tap()
        self.page.get_by_role("button", name="Begin").tap()
        for trial in (1, 2):
            expect(self.page.get_by_text(f"{trial} of {TRIALS}")).to_be_visible()
            play = self.page.get_by_role("button", name="Play it")
            sound = self.hear(play.tap)
            first, second = self.part(sound, 0.1, 1.1), self.part(sound, 1.7, 2.7)
            cents = cents_apart(first, second, sound[1], 1.0)
            words = "Lower" if cents < -0.25 else "Higher" if cents > 0.25 else "The same"
            answer = self.page.get_by_role("button", name=words, exact=True)
            answer.tap()
            expect(answer).to_have_attribute("aria-pressed", "true")
            sure = self.page.get_by_role("button", name="Sure", exact=True)
            expect(sure).to_be_in_viewport(ratio=1.0)
            sure.tap()
            told = self.page.get_by_role("status").get_by_role("heading")
            expect(told).to_have_text(re.compile("^Right. "))
            following = self.page.get_by_role("button", name="Next")
            expect(following).to_be_in_viewport(ratio=1.0)
            following.tap()
        wide = self.page.evaluate("document.documentElement.scrollWidth")
        self.assertLessEqual(wide, 390)
