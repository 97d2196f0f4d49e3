"""Chords, faults, the names of notes, and the words of the job, as a learner meets them."""

import re

from playwright.sync_api import Page, expect

from tests.browser.base import BrowserTest
from tests.browser.player import start


def pick(page: Page, label: str, words: str) -> None:
    page.get_by_role("button", name=re.compile(re.escape(label))).first.click()
    page.get_by_role("option", name=re.compile(f"^{re.escape(words)}")).first.click()


class Chords(BrowserTest):
    def test_in_free_play_the_string_that_is_out_is_named_and_told(self) -> None:
        self.page.goto("/")
        start(self.page, method="free", start="one", out_string=3, out_cents=-25.0)
        pick(self.page, "Chord", "C")
        self.page.get_by_role("button", name="Play C").click()
        part = self.page.get_by_role("region", name="The chord")
        pick(self.page, "Which string is out?", "G")
        part.get_by_text("Low", exact=True).click()
        expect(part.get_by_role("status")).to_have_text(
            re.compile(r"^G was about 2[3-7] cents low, as you said\.$")
        )
        # the chord is played once more, and can be judged once more
        self.page.keyboard.press("Space")
        expect(part.get_by_role("radiogroup", name="Which way?")).to_be_visible()

    def test_as_the_closing_check_the_truth_waits_for_the_result(self) -> None:
        self.page.goto("/")
        start(self.page, method="unison")
        self.page.get_by_role("button", name=re.compile("chord")).first.click()
        expect(self.page.locator("h1")).to_have_text("Check: the chord of G")
        strings = self.page.get_by_label("The strings")
        expect(strings.get_by_text("fret 3")).to_have_count(2)
        expect(strings.get_by_text("fret 2")).to_have_count(1)
        self.page.keyboard.press("Space")
        part = self.page.get_by_role("region", name="The chord")
        pick(self.page, "Which string is out?", "None")
        expect(part.get_by_role("status")).to_have_text(re.compile("The answer comes at the end"))
        self.page.get_by_role("button", name="Finish", exact=True).click()
        self.page.get_by_role("button", name="Finish and see").last.click()
        expect(self.page.get_by_text(re.compile("^The chord: "))).to_be_visible()

    def test_a_chord_is_heard_as_both_methods_leave_it(self) -> None:
        self.page.goto("/instruments/compare?instrument=guitar")
        for method in ("fretted unisons", "harmonics"):
            with self.page.expect_response(re.compile("/api/plan/chord")) as reply:
                self.page.get_by_role("button", name=f"Hear C by {method}").click()
            self.assertEqual(reply.value.status, 200)
            self.assertEqual(len(reply.value.json()["sounds"]), 5)


class Faults(BrowserTest):
    def test_it_is_checked_said_and_told(self) -> None:
        self.page.goto("/tune?method=fault")
        expect(self.page.get_by_text("One thing is wrong with it")).to_be_visible()
        self.page.get_by_role("button", name="Start and hear it").click()
        expect(self.page.locator("h1")).to_have_text("Find the fault")
        for words in ("Open", "Fret 12", "Harmonic over 12", "Fret 1", "Fret 2"):
            self.page.get_by_role("button", name=words, exact=True).click()
        expect(self.page.get_by_role("button", name="Say it and see")).to_be_disabled()
        pick(self.page, "What is wrong?", "The nut is too high")
        pick(self.page, "What is to be done?", "Take it to a repairer")
        self.page.get_by_role("button", name="Say it and see").click()
        expect(self.page.locator("h1")).to_have_text(re.compile("^(Found|Not that): "))
        expect(self.page.get_by_role("button", name="Another fault")).to_be_visible()


class OnAPhone(BrowserTest):
    size = (390, 844)
    touch = True

    def test_chords_and_faults_fit_without_scrolling(self) -> None:
        self.page.goto("/")
        start(self.page, method="free")
        pick(self.page, "Chord", "C")
        self.page.get_by_role("button", name="Play C").tap()
        expect(self.page.get_by_role("region", name="The chord")).to_be_in_viewport()
        self.fits()
        start(self.page, method="fault")
        expect(self.page.get_by_role("button", name="Say it and see")).to_be_in_viewport()
        self.fits()

    def fits(self) -> None:
        tall, wide = self.page.evaluate(
            "[document.documentElement.scrollHeight, document.documentElement.scrollWidth]"
        )
        self.assertLessEqual((tall, wide), (844, 390))


class Words(BrowserTest):
    def test_notes_are_called_as_chosen_everywhere(self) -> None:
        self.page.goto("/instruments/plan?instrument=guitar&method=unison")
        pick(self.page, "Notes", "Do Re Mi")
        expect(self.page.get_by_role("article")).to_contain_text("Press La just behind fret 5")
        self.page.get_by_role("button", name="Practise it").click()
        expect(self.page.locator("h1")).to_have_text("La from the fork")
        expect(
            self.page.get_by_role("button", name="Take the tuning machine of low Mi")
        ).to_be_visible()
        self.page.goto("/instruments/before?instrument=guitar")
        expect(self.page.get_by_role("button", name="Play high Mi")).to_be_visible()

    def test_a_word_is_told_and_heard_where_it_stands(self) -> None:
        self.page.goto("/instruments/plan?instrument=guitar&method=unison")
        self.page.get_by_role("article").get_by_role("button", name="beats").first.click()
        told = self.page.get_by_role("dialog", name="beat")
        expect(told).to_contain_text("The loudness comes and goes")
        with self.page.expect_response(re.compile("/api/words/beat")) as reply:
            told.get_by_role("button", name="Hear it").click()
        self.assertEqual(len(reply.value.json()["sounds"]), 2)
        told.get_by_role("link", name="All words").click()
        expect(self.page.get_by_role("heading", name="Temperament")).to_be_visible()

    def test_tunings_are_found_by_name_or_notes_and_own_notes_stand_on_both_sides(self) -> None:
        self.page.goto("/instruments/retune?instrument=guitar")
        self.page.get_by_role("button", name=re.compile("^.*From")).first.click()
        self.page.keyboard.type("dadgad")
        expect(self.page.get_by_role("option")).to_have_count(1)
        self.page.keyboard.press("ArrowDown")
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_role("table")).to_contain_text("A3 → B3")
        pick(self.page, "From", "Your own notes")
        self.page.get_by_label(re.compile("The notes it stands in")).fill("E2 A2 D3 G3 A3 E4")
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_role("table")).to_contain_text("A3 → B3")
        expect(self.page.get_by_role("button", name="The way back")).to_be_enabled()


class Attempts(BrowserTest):
    def test_an_attempt_is_named_and_found_by_its_instrument(self) -> None:
        self.page.goto("/")
        start(self.page, method="free", instrument="viola")
        self.page.keyboard.press("Space")
        self.page.get_by_role("button", name="Finish", exact=True).click()
        self.page.wait_for_url("**/review/**")
        self.page.get_by_role("button", name="Name it").click()
        self.page.get_by_label("A name of your own for this attempt").fill("Before the concert")
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_text(re.compile("^Before the concert, "))).to_be_visible()
        self.page.goto("/review")
        expect(self.page.get_by_role("link", name=re.compile("Before the concert"))).to_be_visible()
        pick(self.page, "Instrument", "Cello")
        expect(self.page.get_by_text("None of that kind.")).to_be_visible()
        pick(self.page, "Instrument", "Viola")
        expect(self.page.get_by_role("link", name=re.compile("Before the concert"))).to_be_visible()
