"""Keep my work, and come back to it: by keyboard on a computer, by touch on a phone."""

import re

from playwright.sync_api import Locator, expect

from tests.browser.base import BrowserTest


class AccountTest(BrowserTest):
    def begun(self) -> None:
        """Do something that is worth keeping."""
        self.page.goto("/")
        self.page.evaluate(
            "fetch('/api/attempts', {method: 'POST', body: '{}',"
            " headers: {'content-type': 'application/json'}})"
        )

    def kept(self, name: str) -> tuple[list[str], str]:
        """Keep it under a name, by keys; return the pictures' words and the code."""
        keys = self.page.keyboard
        self.page.goto("/account")
        self.page.get_by_label("A name for you").press_sequentially(name)
        keep = self.page.get_by_role("button", name="Keep my work")
        expect(keep).to_be_enabled()
        keep.press("Enter")
        expect(self.page.get_by_role("heading", level=1)).to_have_text(f"Your work is kept, {name}")
        words = [one.strip() for one in self.page.get_by_role("listitem").all_inner_texts()]
        code = self.page.get_by_text(re.compile("^([A-Z0-9]{4}-){3}[A-Z0-9]{4}$")).inner_text()
        self.page.get_by_role("button", name="I have them").focus()
        keys.press("Enter")
        expect(self.page.get_by_role("heading", level=1)).to_have_text(f"Signed in as {name}")
        return words, code

    def choose(self, words: str) -> None:
        """Find a picture by its words, as somebody does who remembers them."""
        self.page.get_by_label("Find a picture by its word").fill(words)
        pictures = self.page.get_by_role("group", name="All pictures")
        self.press(pictures.get_by_role("button", name=words, exact=True))

    def press(self, button: Locator) -> None:
        button.press("Enter")


class ByKeyboard(AccountTest):
    def test_a_guest_keeps_everything_and_comes_back_by_pictures(self) -> None:
        self.begun()
        words, code = self.kept("Tove by the quay")
        self.page.context.clear_cookies()
        self.page.goto("/account")
        self.page.get_by_label("Your name here").press_sequentially("tove by the QUAY")
        for one in words:
            self.choose(one)
        expect(self.page.get_by_role("status")).to_have_text("4 of 4 chosen")
        self.page.get_by_role("button", name="Open my work").press("Enter")
        expect(self.page.get_by_role("heading", name="Not finished yet")).to_be_visible()
        # signed out, nothing is left to see; the slip opens it again
        self.page.goto("/account")
        self.page.get_by_role("button", name="Sign out here").press("Enter")
        expect(self.page.get_by_role("button", name=re.compile("Play two strings"))).to_be_visible()
        expect(self.page.get_by_role("heading", name="Not finished yet")).to_have_count(0)
        self.page.goto("/account")
        self.page.get_by_text("Code of a slip").click()
        self.page.get_by_label("The code on your slip").press_sequentially(code.lower())
        self.page.get_by_role("button", name="Open my work").press("Enter")
        expect(self.page.get_by_role("heading", name="Not finished yet")).to_be_visible()

    def test_wrong_pictures_are_refused_and_nothing_typed_is_lost(self) -> None:
        self.begun()
        words, _ = self.kept("Rolf of the ferry")
        self.page.context.clear_cookies()
        self.page.goto("/account")
        name = self.page.get_by_label("Your name here")
        name.press_sequentially("Rolf of the ferry")
        for one in words[::-1]:
            self.choose(one)
        self.page.get_by_role("button", name="Open my work").press("Enter")
        expect(self.page.get_by_text("do not belong together")).to_be_visible()
        expect(name).to_have_value("Rolf of the ferry")
        expect(self.page.get_by_text("0 of 4 chosen")).to_be_visible()


class ByTouch(AccountTest):
    touch = True
    size = (390, 844)

    def press(self, button: Locator) -> None:
        button.tap()

    def test_pictures_are_in_reach_on_a_phone(self) -> None:
        self.begun()
        words, _ = self.kept("Siri of the slip")
        self.page.context.clear_cookies()
        self.page.goto("/")
        self.page.get_by_role("link", name=re.compile("^My work")).tap()
        self.page.get_by_label("Your name here").fill("Siri of the slip")
        for one in words:
            self.choose(one)
        self.page.get_by_role("button", name="Open my work").tap()
        expect(self.page.get_by_role("heading", name="Not finished yet")).to_be_visible()
        wide = self.page.evaluate("document.documentElement.scrollWidth")
        self.assertLessEqual(wide, 390)
