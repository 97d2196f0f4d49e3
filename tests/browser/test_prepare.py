"""Preparing an instrument of one's own, with the keyboard alone."""

import io
import json
import re
import tempfile
from pathlib import Path
from typing import Any

from playwright.sync_api import Locator, Page, Route, expect
from pypdf import PdfReader

from meldrin.core.catalogue import instrument_text
from tests.browser.base import BrowserTest

PATHS = ("method", "fitness", "plan", "compare", "retune")


def tab_to(page: Page, wanted: Locator) -> None:
    """Press Tab until the wanted control has the focus."""
    for _ in range(60):
        page.keyboard.press("Tab")
        if wanted.evaluate("node => node === document.activeElement"):
            return
    raise AssertionError("the keyboard does not get there")


def pick(page: Page, label: str, words: str) -> None:
    """Open a list, type the first letters of a choice, and take it."""
    opener = page.get_by_role("button", name=re.compile(rf"\b{re.escape(label)}$"))
    tab_to(page, opener)
    page.keyboard.press("Enter")
    expect(page.get_by_role("listbox")).to_be_visible()
    page.keyboard.type(words, delay=15)
    option = page.get_by_role("option", name=re.compile(words)).first
    if page.get_by_role("searchbox").count():  # what is typed narrows the list
        expect(option).to_be_visible()
        page.keyboard.press("ArrowDown")
    else:
        expect(option).to_be_focused()
    page.keyboard.press("Enter")
    expect(page.get_by_role("listbox")).not_to_be_visible()


def choose(page: Page, name: str) -> None:
    """Go to a choice of a few: Tab into its group, arrows along it, Space."""
    option = page.get_by_role("radio", name=name, exact=True)
    group = option.locator("xpath=..")
    for _ in range(60):
        page.keyboard.press("Tab")
        if group.evaluate("node => node.contains(document.activeElement)"):
            break
    for _ in range(6):
        if option.evaluate("node => node === document.activeElement"):
            break
        page.keyboard.press("ArrowRight")
    page.keyboard.press("Space")
    expect(option).to_be_checked()


class ByKeyboard(BrowserTest):
    def test_from_the_first_page_to_a_plan(self) -> None:
        self.page.goto("/")
        link = self.page.get_by_role("link", name="Prepare an instrument")
        tab_to(self.page, link)
        self.page.keyboard.press("Enter")
        pick(self.page, "Instrument", "Viola")
        methods = self.page.get_by_role("list", name="Methods, the best first")
        expect(methods.locator("li").first).to_contain_text("Fifths")
        expect(methods.locator("li").last).to_contain_text("has no frets")
        choose(self.page, "Noisy")
        choose(self.page, "Tuner")
        expect(methods.locator("li").first).to_contain_text("hears only your instrument")
        fifths = self.page.get_by_role("link", name="Show the plan: Fifths")
        tab_to(self.page, fifths)
        self.page.keyboard.press("Enter")
        card = self.page.get_by_role("article", name="The plan")
        expect(card.locator("h1")).to_have_text("Viola, standard")
        expect(card).to_contain_text("Bow the open A and D together")
        expect(card).to_contain_text("pure fifth")

    def test_a_temperament_changes_what_is_aimed_at(self) -> None:
        self.page.goto("/instruments/plan?instrument=violin&method=fifths")
        card = self.page.get_by_role("article", name="The plan")
        expect(card).to_contain_text("pure fifths")
        pick(self.page, "Temperament", "Equal")
        # the equal-tempered fifths of a violin at 440
        for beats in ("1.49", "0.99", "0.66"):
            expect(card).to_contain_text(f"{beats} times a second")
        pick(self.page, "A4", "415")
        expect(card).to_contain_text("A4 = 415 Hz")
        expect(card).to_contain_text("1.41 times a second")  # 1.4898 * 415/440
        self.page.reload()
        expect(card).to_contain_text("1.41 times a second")

    def test_a_tuning_of_ones_own_is_checked(self) -> None:
        self.page.goto("/instruments/plan?instrument=guitar&method=tuner")
        pick(self.page, "Tuning", "Your own")
        notes = self.page.get_by_role("textbox", name=re.compile("Your notes"))
        tab_to(self.page, notes)
        self.page.keyboard.press("ControlOrMeta+a")
        self.page.keyboard.type("D2 A2 D3 G3 A3 A4")
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_role("status")).to_contain_text("string 1 at A4 would be at")
        expect(notes).to_have_value("D2 A2 D3 G3 A3 A4")
        self.page.keyboard.press("Backspace")
        self.page.keyboard.press("Backspace")
        self.page.keyboard.type("D4")
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_role("article", name="The plan")).to_contain_text("A to A3")

    def test_a_method_that_cannot_serve_names_one_that_can(self) -> None:
        self.page.goto("/instruments/plan?instrument=cello&method=unison")
        expect(self.page.get_by_role("status")).to_contain_text("What can serve: fifths")
        # and it is not offered
        self.page.get_by_role("button", name=re.compile("Method$")).press("Enter")
        expect(self.page.get_by_role("option", name=re.compile("^Fifths"))).to_be_visible()
        expect(self.page.get_by_role("option", name=re.compile("^Fretted"))).to_have_count(0)

    def test_the_fitness_check_leads_to_a_repairer(self) -> None:
        self.page.goto("/instruments/fitness?instrument=guitar")
        twelve = self.page.get_by_role("textbox", name=re.compile("Fret 12"))
        tab_to(self.page, twelve)
        self.page.keyboard.type("1")
        self.page.keyboard.press("Tab")
        expect(self.page.get_by_text("the speaking length is right")).to_be_visible()
        self.page.keyboard.type("9")
        self.page.keyboard.press("Tab")
        expect(self.page.get_by_text("the sign of a high nut")).to_be_visible()
        advice = self.page.get_by_role("status").first
        expect(advice).to_contain_text("Have a repairer look at it")

    def test_two_methods_beside_each_other(self) -> None:
        self.page.goto("/instruments/compare?instrument=guitar&method=harmonics")
        first = self.page.get_by_role("region", name="The first method")
        second = self.page.get_by_role("region", name="The second method")
        expect(first.get_by_role("img")).to_have_attribute("aria-label", re.compile("B [+]3.9"))
        expect(first).to_contain_text("major third, 7.8 wide")
        expect(second).to_contain_text("No interval between open strings is sour")
        pick(self.page, "Beside this one", "Drone")
        expect(second).to_contain_text("fourth, 19.6 wide")
        summary = first.get_by_text("The same in numbers")
        tab_to(self.page, summary)
        self.page.keyboard.press("Enter")
        expect(first.get_by_role("row", name=re.compile("Low E E2.*82.50"))).to_be_visible()

    def test_two_that_differ_stand_beside_each_other_at_once(self) -> None:
        for asked in ("guitar&method=unison", "violin&method=tuner", "viola&method=fifths"):
            self.page.goto(f"/instruments/compare?instrument={asked}")
            sides = self.page.get_by_role("region", name=re.compile("The (first|second) method"))
            said = [sides.nth(n).get_by_role("img") for n in (0, 1)]
            expect(said[0]).to_be_visible()
            there = said[0].get_attribute("aria-label") or ""
            expect(said[1]).not_to_have_attribute("aria-label", there)

    def test_an_address_with_no_such_instrument_says_so(self) -> None:
        self.page.goto("/instruments/plan?instrument=viol")
        expect(self.page.get_by_text("There is no instrument “viol”.")).to_be_visible()
        expect(self.page.get_by_role("article", name="The plan")).not_to_be_visible()

    def test_retuning_there_and_back(self) -> None:
        self.page.goto("/instruments/retune?instrument=guitar")
        expect(self.page.get_by_text("Nothing to turn.")).not_to_be_visible()
        pick(self.page, "To", "D modal")
        pick(self.page, "From", "Standard")
        table = self.page.get_by_role("region", name="String by string")
        low = table.get_by_role("row").nth(1)
        expect(low).to_contain_text("E2 → D2")
        expect(low).to_contain_text("cents low")
        expect(self.page.get_by_text("creep up again")).to_be_visible()
        back = self.page.get_by_role("button", name="The way back")
        tab_to(self.page, back)
        self.page.keyboard.press("Enter")
        expect(low).to_contain_text("D2 → E2")
        expect(self.page.get_by_text("face turned away")).to_be_visible()

    def practised(self) -> dict[str, Any]:
        """Press “Practise it”, and return the exercise that begins."""
        with self.page.expect_request("**/api/attempts") as sent:
            self.page.get_by_role("button", name="Practise it", exact=True).click()
        expect(self.page).to_have_url(re.compile("/tune/"))
        exercise = sent.value.post_data_json
        assert isinstance(exercise, dict)
        return exercise

    def test_what_was_answered_reaches_the_plan_and_the_exercise(self) -> None:
        self.page.goto("/instruments/method?instrument=viola")
        choose(self.page, "Piano, pipe")
        choose(self.page, "Strings slack")
        self.page.get_by_role("link", name="Show the plan: Fifths").click()
        card = self.page.get_by_role("article", name="The plan")
        expect(card).to_contain_text("A from a sounded A4")
        expect(card).to_contain_text("Again: A from a sounded A4")
        exercise = self.practised()
        self.assertEqual((exercise["source"], exercise["start"]), ("piano", "slack"))
        self.page.goto("/instruments/method?instrument=viola")
        choose(self.page, "Nothing")
        choose(self.page, "Slightly")
        self.page.get_by_role("link", name="Show the plan: Fifths").click()
        expect(card).to_contain_text("You trust A as it is")
        exercise = self.practised()
        self.assertEqual((exercise["itself"], exercise["start"]), (True, "hair"))

    def test_a_retuning_is_practised_by_any_method_that_serves(self) -> None:
        self.page.goto("/instruments/retune?instrument=viola&tuning=cross-g&method=unison")
        expect(self.page.get_by_text("has no frets to place a unison by")).to_be_visible()
        expect(self.page.get_by_role("button", name="Practise it", exact=True)).to_be_disabled()
        pick(self.page, "Method", "Drone")
        exercise = self.practised()
        self.assertEqual(
            (exercise["method"], exercise["start"], exercise["came_from"], exercise["tuning"]),
            ("drone", "retune", "standard", "cross-g"),
        )
        self.assertEqual(exercise["behaviours"], ["coupling"])  # the planner's frame gives

    def test_with_nothing_at_hand_a_string_is_trusted(self) -> None:
        self.page.goto("/instruments/plan?instrument=guitar&method=unison")
        pick(self.page, "Begin with", "Low E")
        first = self.page.get_by_role("article").locator("li").first
        expect(first).to_contain_text("from a sounded E3")
        self.page.get_by_text("Nothing at hand:").click()
        expect(first).to_contain_text("A from low E’s fret 5")
        pick(self.page, "Method", "Note by note")  # which needs a note for every string
        expect(self.page.get_by_text("Nothing at hand:")).not_to_be_visible()
        expect(first).to_contain_text("from")
        expect(self.page.get_by_role("status")).not_to_be_visible()
        pick(self.page, "Method", "Fretted")
        expect(first).to_contain_text("A from low E’s fret 5")
        exercise = self.practised()
        self.assertEqual((exercise["itself"], exercise["first_string"]), (True, 6))

    def test_a_peg_that_slips_slips_in_the_exercise(self) -> None:
        self.page.goto("/instruments/fitness?instrument=violin")
        choose(self.page, "One slips back")
        expect(self.page.get_by_text("Push the peg in while you turn it.")).to_be_visible()
        self.page.get_by_role("link", name="Plan").click()
        expect(self.page.get_by_text("A peg slips, you found")).to_be_visible()
        self.assertEqual(self.practised()["behaviours"], ["pegs"])


class OwnInstrument(BrowserTest):
    def test_one_is_brought_in_planned_for_practised_and_removed(self) -> None:
        text = instrument_text("viola").replace('id = "viola"', 'id = "box-viola"')
        text = text.replace('name = "Viola"', 'name = "Cigar-box viola"')
        self.page.goto("/instruments/plan?instrument=viola&method=fifths")
        self.page.get_by_role("button", name=re.compile("Instrument$")).click()
        self.page.get_by_role("option", name="Your own, from a file …").click()
        dialog = self.page.get_by_role("dialog")
        expect(dialog.get_by_role("link", name="Save “Viola” as a pattern")).to_be_visible()
        self.bring(text.replace("scale_mm", "scale_inch", 1))
        expect(dialog).to_contain_text("“scale_inch” is no key of the string; the nearest is")
        self.bring(text)
        expect(dialog).to_be_hidden()
        expect(self.page.get_by_role("heading", level=1)).to_contain_text("Cigar-box viola")
        self.page.get_by_role("button", name="Practise it").click()
        expect(self.page.get_by_label("Pegs")).to_be_visible()
        self.page.go_back()
        self.page.get_by_role("button", name=re.compile("Instrument$")).click()
        self.page.get_by_role("option", name="Your own, from a file …").click()
        self.page.get_by_role("button", name="Remove Cigar-box viola").click()
        expect(self.page.get_by_label("Your instruments")).to_be_hidden()
        # what was begun on it is still there
        self.page.goto("/review")
        expect(self.page.locator("main")).to_contain_text("Cigar-box viola: after a month")

    def bring(self, text: str) -> None:
        with self.page.expect_file_chooser() as chooser:
            self.page.get_by_role("button", name="Bring in a file").click()
        file = {"name": "box-viola.toml", "mimeType": "text/plain", "buffer": text.encode()}
        chooser.value.set_files(file)  # type: ignore[arg-type]


class NewMethod(BrowserTest):
    def test_the_page_shows_one_that_only_the_api_knows(self) -> None:
        def with_one_more(route: Route) -> None:
            names = route.fetch().json()
            names["methods"].append({**names["methods"][0], "id": "halves", "name": "By halves"})
            route.fulfill(json=names)

        self.page.route("**/api/names", with_one_more)
        for path, label in (
            ("/tune?start=hair", "Method"),
            ("/instruments/plan?instrument=viola", "Method"),
        ):
            self.page.goto(path)
            self.page.get_by_role("button", name=re.compile(f"{label}$")).click()
            expect(self.page.get_by_role("option", name=re.compile("By halves"))).to_be_visible()
            self.page.keyboard.press("Escape")


class Away(BrowserTest):
    def test_the_plan_is_saved_as_json_and_as_pdf(self) -> None:
        self.page.goto("/instruments/plan?instrument=banjo&method=unison")
        with tempfile.TemporaryDirectory() as folder:
            for name, head in (("JSON", b"{"), ("PDF", b"%PDF")):
                with self.page.expect_download() as caught:
                    self.page.get_by_role("link", name=f"Save as {name}").click()
                path = Path(folder) / name
                caught.value.save_as(path)
                self.assertTrue(path.read_bytes().startswith(head))
            plan = json.loads((Path(folder) / "JSON").read_text(encoding="utf-8"))
        self.assertEqual([step["own"]["string"] for step in plan["steps"]], [3, 2, 1, 4, 5])

    def test_printing_leaves_only_the_card(self) -> None:
        self.page.goto("/instruments/plan?instrument=viola&method=fifths")
        expect(self.page.get_by_role("article", name="The plan")).to_be_visible()
        self.page.emulate_media(media="print")
        expect(self.page.get_by_role("article", name="The plan")).to_be_visible()
        for hidden in ("Print", "Method", "Instrument"):
            button = self.page.get_by_role("button", name=re.compile(hidden))
            expect(button).to_have_count(0)
        expect(self.page.get_by_role("navigation", name="Views")).to_have_count(0)
        card = PdfReader(io.BytesIO(self.page.pdf(format="A4")))
        self.assertEqual(len(card.pages), 1)
        self.assertIn("C from G", card.pages[0].extract_text())


class OnAPhone(BrowserTest):
    size = (390, 844)
    touch = True

    def test_nothing_runs_over_the_side(self) -> None:
        for path in PATHS:
            for name in ("guitar", "sitar"):
                self.page.goto(f"/instruments/{path}?instrument={name}")
                expect(self.page.locator("main")).not_to_be_empty()
                self.page.wait_for_timeout(300)
                wide = self.page.evaluate("document.documentElement.scrollWidth")
                self.assertLessEqual(wide, 390, (path, name))


class Robust(BrowserTest):
    def test_an_address_with_nonsense_still_shows_a_way(self) -> None:
        for search in (
            "instrument=kazoo",
            "instrument=guitar&tuning=nowhere",
            "instrument=guitar&a4_hz=loud",
            "instrument=violin&method=magic",
        ):
            self.page.goto(f"/instruments/plan?{search}")
            told = self.page.get_by_role("status").or_(
                self.page.get_by_role("article", name="The plan")
            )
            expect(told.first).to_be_visible()
            expect(self.page.get_by_role("button", name=re.compile("Instrument$"))).to_be_visible()

    def test_a_line_that_is_cut_keeps_what_was_chosen(self) -> None:
        self.page.goto("/instruments/plan?instrument=viola&method=fifths")
        card = self.page.get_by_role("article", name="The plan")
        expect(card).to_be_visible()
        self.page.route("**/api/plan**", lambda route: route.abort())
        pick(self.page, "Method", "Tuner")
        expect(self.page.get_by_role("status")).to_contain_text("The server does not answer")
        self.page.unroute("**/api/plan**")
        self.page.reload()
        expect(card).to_contain_text("Check that the tuner stands at 440 Hz")

    def test_what_is_prepared_can_be_sent_on_by_its_address(self) -> None:
        self.page.goto("/instruments/plan?instrument=viola")
        pick(self.page, "A4", "432")
        pick(self.page, "Method", "Harmonics")
        expect(self.page.get_by_role("article")).to_contain_text("A4 = 432 Hz")
        elsewhere = self.window().new_page()
        elsewhere.goto(self.page.url)
        card = elsewhere.get_by_role("article", name="The plan")
        expect(card).to_contain_text("A4 = 432 Hz")
        expect(card).to_contain_text("Harmonics")

    def test_the_instrument_is_remembered(self) -> None:
        self.page.goto("/instruments/method")
        pick(self.page, "Instrument", "Five-string banjo")
        self.page.goto("/instruments/retune")
        expect(self.page.get_by_role("button", name=re.compile("Instrument$"))).to_contain_text(
            "banjo"
        )

    def test_a_calibration_between_the_usual_ones(self) -> None:
        self.page.goto("/instruments/plan?instrument=cello&method=each")
        pick(self.page, "A4", "Another")
        expect(self.page.get_by_role("article")).to_contain_text("A4 = 441 Hz")
        box = self.page.get_by_role("textbox", name=re.compile("390 to 470"))
        tab_to(self.page, box)
        self.page.keyboard.press("ControlOrMeta+a")
        self.page.keyboard.type("440.7")
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_role("article")).to_contain_text("A4 = 440.7 Hz")
        self.page.keyboard.press("ControlOrMeta+a")
        self.page.keyboard.type("900")
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_role("article")).to_contain_text("A4 = 470 Hz")

    def test_cents_of_ones_own_need_their_reason(self) -> None:
        self.page.goto("/instruments/plan?instrument=guitar&method=tuner")
        pick(self.page, "Temperament", "Cents of your own")
        expect(self.page.get_by_role("status")).to_contain_text("needs its reason")
        tab_to(self.page, self.page.get_by_role("textbox", name="Cents by string"))
        self.page.keyboard.type("6:-2, 3:-1.5")
        self.page.keyboard.press("Tab")
        self.page.keyboard.type("songs in D")
        self.page.keyboard.press("Enter")
        card = self.page.get_by_role("article", name="The plan")
        expect(card).to_contain_text("chosen offsets: songs in D")
        expect(card).to_contain_text("until it says E2 and -2.0 cents")

    def test_a_string_to_begin_with(self) -> None:
        self.page.goto("/instruments/plan?instrument=violin&method=fifths")
        pick(self.page, "Begin with", "D")
        expect(self.page.get_by_role("article").locator("li").first).to_contain_text(
            "D from a sounded D4"
        )


class ByTouch(BrowserTest):
    size = (390, 844)
    touch = True

    def test_a_plan_on_a_phone(self) -> None:
        self.page.goto("/instruments/method?instrument=mandolin")
        self.page.get_by_role("radio", name="Nothing").tap()
        first = self.page.get_by_role("link", name=re.compile("^Show the plan")).first
        first.tap()
        card = self.page.get_by_role("article", name="The plan")
        expect(card).to_contain_text("Second A with first A")
        steps = self.page.get_by_role("navigation", name="Parts of Instruments")
        steps.get_by_role("link", name="Retune").tap()
        table = self.page.get_by_role("region", name="String by string")
        expect(table).to_be_visible()  # from another tuning, at once
        self.page.get_by_role("button", name=re.compile("To$")).tap()
        self.page.get_by_role("option", name=re.compile("Open G")).tap()
        self.page.get_by_role("button", name=re.compile("From$")).tap()
        self.page.get_by_role("option", name=re.compile("Standard")).tap()
        expect(table).to_contain_text("E5 → B4")

    def test_fitness_on_a_phone(self) -> None:
        self.page.goto("/instruments/fitness?instrument=violin")
        self.page.get_by_role("radio", name="The bridge leans or has moved").tap()
        expect(self.page.get_by_text("a bridge that leans can fall")).to_be_visible()
        self.page.get_by_role("button", name="Start again").tap()
        expect(self.page.get_by_text("a bridge that leans can fall")).to_have_count(0)
