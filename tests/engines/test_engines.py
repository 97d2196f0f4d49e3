"""First sound, turning, judging and the result, in browsers of other makes."""

import unittest
from typing import ClassVar

from tests.browser.base import shared_application
from tests.engines.driver import Driven, Firefox, Learner, Speaker, WebKit

READS = (
    "['Fast', 'Slow', 'Very slow', 'Still']"
    ".some((word) => (document.querySelector('[data-reading]')?.innerText ?? '').startsWith(word))"
)
PEGS = "[...document.querySelectorAll('svg g')].map((one) => one.style.transform).join()"
NO_DEVICE = "document.body.innerText.includes('This machine gives the page no sound')"


class FirstMinutes:
    """What each of them must be able to do."""

    make: ClassVar[type[Firefox] | type[WebKit]]
    browser: Driven

    speaker: ClassVar[Speaker]

    @classmethod
    def setUpClass(cls) -> None:
        cls.speaker = Speaker()

    @classmethod
    def tearDownClass(cls) -> None:
        cls.speaker.close()

    def opened(self, speaker: Speaker | None) -> Learner:
        self.browser = self.make(speaker)
        self.addCleanup(self.browser.close)  # type: ignore[attr-defined]
        return Learner(self.browser, shared_application().address)

    def test_first_sound_turning_judging_and_result(self) -> None:
        learner = self.opened(self.speaker)
        learner.open("/")
        learner.press("button", "Start: The school guitar, all six strings")
        learner.see("location.pathname.startsWith('/tune/')", why="the bench")
        learner.press_until("button", "Play fork and A", READS, why="the picture reads what sounds")
        learner.press("button", "Cannot tell")
        before = self.browser.run(PEGS)
        learner.press("button", "Tighten A")
        learner.see(f"{PEGS} !== {before!r}", why="the peg turns")
        learner.press("button", "Play fork and A")
        learner.see("place('radio', 'In tune')", why="the judgement")
        learner.press("radio", "In tune")
        learner.press("button", "Next")
        learner.see("document.querySelector('h1').innerText.startsWith('D')", why="the next step")
        learner.press("button", "Finish")
        learner.press("button", "Finish and see")
        learner.see("location.pathname.startsWith('/review/')", why="the result")
        headline = learner.see(
            "document.querySelector('h1')?.innerText.match(/in tune/)", why="the headline"
        )
        assert headline
        assert not self.browser.run(NO_DEVICE)


class InFirefox(FirstMinutes, unittest.TestCase):
    make = Firefox

    def test_without_a_sound_device_it_says_so_and_the_picture_goes_on(self) -> None:
        learner = self.opened(None)
        learner.open("/")
        learner.press("button", "Start: The school guitar, all six strings")
        learner.see(NO_DEVICE, why="what is the matter")
        learner.press_until(
            "button", "Play fork and A", READS, why="the picture reads it all the same"
        )


class InWebKit(FirstMinutes, unittest.TestCase):
    make = WebKit
