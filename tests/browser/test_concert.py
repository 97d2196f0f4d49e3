"""A check before a concert: begun, strings typed in from pupil to pupil, and agreed again."""

import io
import re
from typing import Any

from playwright.sync_api import expect
from pypdf import PdfReader

from tests.browser.test_teach import TeachTest


class Concert(TeachTest):
    def test_strings_are_typed_in_by_keys_and_tell_whom_to_help_first(self) -> None:
        page = self.page
        studio: Any = self.ask("POST", "/api/studios", {"name": "Skerrow Boathouse"})
        place = f"/api/studios/{studio['id']}"
        self.ask("POST", f"{place}/class", {"text": "Ansel;Quartet\nLiv;Quartet\nTarek;Others\n"})
        page.goto(f"/teach/{studio['id']}/concerts")
        page.get_by_label("What it is for").press_sequentially("Harbour concert")
        self.pick("Who plays", "Quartet")
        page.get_by_role("button", name="Look at the strings").click()
        says = page.get_by_role("heading", level=1)
        expect(says).to_have_text("Nothing is known of their strings yet.")
        rows = page.get_by_role("row")
        expect(rows).to_have_count(3)  # its head, and the two of the quartet

        # a viola: C, G, D and A from left to right; the fifths are pure
        page.get_by_role("button", name="Ansel, C: not known").click()
        self.types("C", "G", "D", "A", shown=("-5.9", "-3.9", "-2", "0"))
        dialog = page.get_by_role("dialog")
        expect(dialog.get_by_role("heading")).to_have_text("Liv, viola")
        self.types("C", "G", "D", "A", shown=("-5.9", "6.1", "-2", "0"))
        expect(dialog).to_have_count(0)
        expect(says).to_have_text("1 of 2 is out. Liv: G is 10.0 cents high.")
        helped = page.get_by_role("list", name="Whom to help first").get_by_role("listitem")
        expect(helped).to_have_count(1)

        # emptied it is not known, and narrower fifths want other strings
        page.get_by_role("button", name="Liv, G: 10 cents high").click()
        dialog.get_by_label("G (wanted: −3.9)").fill("")
        dialog.get_by_role("button", name="Keep").click()
        expect(page.get_by_role("button", name="Liv, G: not known")).to_be_visible()
        page.get_by_role("button", name="Agree on something else").click()
        self.pick("The fifths of the bowed strings", "As in equal temperament")
        dialog.get_by_role("button", name="Keep it").click()
        expect(page.get_by_role("button", name="Ansel, C: 5.9 cents low")).to_be_visible()
        expect(page.get_by_role("button", name="Ansel, A: in tune")).to_be_visible()

        with page.expect_download() as saved:
            page.get_by_role("link", name="Save the slips as PDF").click()
        text = "".join(
            one.extract_text()
            for one in PdfReader(io.BytesIO(saved.value.path().read_bytes())).pages
        )
        self.assertEqual(len(re.findall("Ansel|Liv", text)), 2)
        self.assertNotIn("Tarek", text)

    def types(self, *labels: str, shown: tuple[str, ...]) -> None:
        """Type what a tuner shows of strings that are asked for, and go on."""
        dialog = self.page.get_by_role("dialog")
        for label, cents in zip(labels, shown, strict=True):
            expect(dialog.get_by_label(re.compile(f"^{label} "))).to_be_focused()
            self.page.keyboard.type(cents)
            self.page.keyboard.press("Tab")
        self.page.keyboard.press("Shift+Tab")
        self.page.keyboard.press("Enter")

    def pick(self, label: str, words: str) -> None:
        """Choose from a list."""
        self.page.get_by_role("button", name=re.compile(f"{label}$")).click()
        self.page.get_by_role("option", name=words, exact=True).click()
