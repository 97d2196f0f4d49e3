import re
import time

from playwright.sync_api import expect

from tests.browser.base import BrowserTest
from tests.browser.player import NUMBERS, UNDER, Player, finish, points, show, start


class ByKeyboard(BrowserTest):
    """Nothing in these tests uses a pointer."""

    def tab_to(self, name: str) -> None:
        main = self.page.locator("main")
        expect(main.get_by_text(name).or_(main.get_by_label(name)).first).to_be_visible()
        for _ in range(60):
            self.page.keyboard.press("Tab")
            focused = self.page.evaluate(
                "((e) => e.getAttribute('aria-label') || e.innerText)(document.activeElement)"
            )
            if name in focused.splitlines()[:1] or focused.startswith(name):
                return
        raise AssertionError(f"Tab never reached {name}")

    def turn(self, times: int) -> None:
        for _ in range(abs(times)):
            self.page.keyboard.press("ArrowUp" if times > 0 else "ArrowDown")

    def begin(self) -> Player:
        self.page.goto("/")
        self.tab_to("Start: The school guitar, all six strings")
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_role("heading", name="A from the fork", level=1)).to_be_visible()
        # it sounds by itself; before it was heard, nothing can be said of it
        expect(self.page.get_by_test_id("ripple")).to_have_text(re.compile("Fast|[Ss]low"))
        return Player(self.page, sound=lambda: self.page.keyboard.press("Space"), turn=self.turn)

    def numbered(self) -> Player:
        """The same guitar, in an exercise that shows beats as numbers."""
        start(self.page, **NUMBERS)
        return Player(self.page, sound=lambda: self.page.keyboard.press("Space"), turn=self.turn)

    def test_one_press_sounds_and_beats(self) -> None:
        begun = time.monotonic()
        self.begin()
        # it sounds, and beats, without a second press; and no number gives it away
        expect(self.page.get_by_test_id("ripple")).to_have_text(re.compile("^(Fast|Slow)$"))
        expect(self.page.get_by_test_id("beats")).to_be_hidden()
        self.assertLess(time.monotonic() - begun, 10.0)

    def test_the_whole_guitar_is_tuned_by_keys(self) -> None:
        player = self.numbered()
        for stage in range(6):
            # at the fork one small turn is 0.14 beats a second, so 0.1 is as near as it gets
            player.tune(still_hz=0.1 if stage == 0 else UNDER)
            self.page.keyboard.press("k")
            self.page.keyboard.press("Enter")
            if stage < 5:
                expect(self.page.locator("[aria-current=step]")).to_contain_text(str(stage + 2))
        expect(self.page.get_by_role("heading", name="Check: low E", level=1)).to_be_visible()
        for check in range(6, 10):
            self.assertLess(player.beats(), 1.0)
            self.page.keyboard.press("Enter")
            if check < 9:
                expect(self.page.locator("[aria-current=step]")).to_contain_text(str(check + 2))
        dialog = self.page.get_by_role("dialog")
        dialog.get_by_role("button", name="Check with the tuner").press("Enter")
        expect(dialog).to_contain_text("The tuner shows")
        expect(dialog).to_contain_text(re.compile("E4"))
        expect(dialog).to_contain_text("It should show")
        finish(self.page)
        # numbers tell as much as the level: the best is 60
        self.assertEqual(points(self.page), 60)
        body = self.page.locator("main")
        expect(body).to_contain_text("With Level, best 60")
        expect(body).to_contain_text("Turn the string you mean. Kept throughout.")
        expect(body).to_contain_text("Low E with high E, two octaves, pure")
        # kept: the list has it with its points, and it opens again
        shown = points(self.page)
        self.page.goto("/review")
        self.tab_to("Steel-string guitar: slightly out")
        self.page.keyboard.press("Enter")
        self.assertEqual(points(self.page), shown)

    def test_strings_left_out_score_badly_and_are_named(self) -> None:
        player = self.numbered()
        player.tune(still_hz=0.1)
        self.page.keyboard.press("k")
        self.page.keyboard.press("Enter")
        expect(self.page.locator("h1")).to_contain_text("D from A")
        self.tab_to("Finish")
        self.page.keyboard.press("Enter")
        dialog = self.page.get_by_role("alertdialog")
        expect(dialog).to_contain_text("G from D’s fret 5")
        self.page.keyboard.press("Tab")
        self.page.keyboard.press("Tab")
        dialog.get_by_role("button", name="Finish and see").press("Enter")
        self.assertLess(points(self.page), 25)
        expect(self.page.locator(".advice")).to_contain_text("D, G, B, high E and low E")
        expect(self.page.locator("main")).to_contain_text("You did not play G with D")

    def test_ear_shows_no_pitch_and_level_shows_cents(self) -> None:
        self.begin()
        expect(self.page.get_by_test_id("ripple")).to_be_visible()
        # what is read aloud tells the same, and no more
        aloud = self.page.locator("[aria-live=polite]").first
        expect(aloud).to_have_text(re.compile("^The fork and A: (fast|slow)$"))
        self.page.keyboard.press("e")
        expect(self.page.get_by_test_id("ripple")).to_be_hidden()
        expect(self.page.locator("main")).to_contain_text("Ear only")
        show(self.page, "level")
        self.page.keyboard.press("Space")
        expect(self.page.get_by_test_id("offset")).to_contain_text(re.compile("cents (low|high)"))
        # the same in words, for those who listen to the page
        expect(self.page.locator("[aria-live=polite]").first).to_contain_text(
            re.compile(r"A \d+(\.\d)? cents (low|high), beating \d+\.\d a second")
        )

    def test_next_asks_for_a_judgement_first(self) -> None:
        self.begin()
        self.page.keyboard.press("Enter")
        expect(self.page.locator("main")).to_contain_text("Say it first")
        self.page.keyboard.press("j")  # before the first turn: which way
        expect(self.page.locator("main")).to_contain_text("How is A now?")
        self.page.keyboard.press("j")
        for _ in range(4):
            self.page.keyboard.press(".")
        expect(self.page.locator("main")).to_contain_text("by 9 cents")

    def test_a_string_brought_in_with_help_is_put_out_again_for_the_ear(self) -> None:
        start(self.page, instrument="viola", method="fifths", start="hair", aid="ripple")
        again = self.page.get_by_role("button", name="Put it out again, by ear")
        expect(self.page.get_by_role("heading", name="A from the fork", level=1)).to_be_visible()
        self.page.keyboard.press("Space")
        expect(self.page.get_by_test_id("ripple")).to_be_visible()
        expect(again).to_have_count(0)
        self.page.keyboard.press("ArrowUp")
        self.page.keyboard.press("k")
        expect(again).to_be_visible()
        self.page.keyboard.press("q")
        # the picture is gone, what was said too, and nothing tells how far it went
        expect(again).to_have_count(0)
        aids = self.page.get_by_role("radiogroup", name="Help")
        expect(aids.get_by_role("radio", name="Ear only", checked=True)).to_be_visible()
        self.page.keyboard.press("Space")
        expect(self.page.get_by_role("radio", name="In tune", checked=True)).to_have_count(0)
        expect(self.page.get_by_test_id("ripple")).to_have_count(0)

    def test_keys_are_listed_and_can_be_changed(self) -> None:
        self.begin()
        self.page.keyboard.press("?")
        dialog = self.page.get_by_role("dialog")
        expect(dialog).to_contain_text("Play fork and A")
        dialog.get_by_role("button", name="Mute all: D, change").press("Enter")
        self.page.keyboard.press("x")
        expect(dialog.get_by_role("button", name="Mute all: X, change")).to_be_visible()
        self.page.keyboard.press("Escape")
        expect(dialog).to_be_hidden()
        self.page.keyboard.press("x")
        expect(self.page.get_by_test_id("ripple")).to_be_hidden()

    def test_a_wrong_peg_changes_nothing_that_is_heard(self) -> None:
        player = self.numbered()
        before = player.beats()
        self.page.keyboard.press("1")
        self.turn(5)
        self.assertAlmostEqual(player.beats(), before, delta=0.051)
        peg = self.page.get_by_role("button", name="Take the tuning machine of high E")
        expect(peg).to_have_attribute("aria-pressed", "true")


class ByTouch(BrowserTest):
    """A phone: nothing in this test uses a key."""

    touch = True
    size = (390, 844)

    def turn(self, times: int) -> None:
        button = self.page.get_by_role("button", name="Tighten" if times > 0 else "Loosen")
        for _ in range(abs(times)):
            button.tap()

    def test_the_whole_guitar_comes_to_rest(self) -> None:
        start(self.page, **NUMBERS)
        hands = self.page.get_by_label("Pegs")
        sound = hands.get_by_role("button", name=re.compile("^Play (fork|both|[A-Z])"))
        player = Player(self.page, sound=sound.tap, turn=self.turn)
        for stage in range(6):
            # at the fork one small turn is 0.14 beats a second, so 0.1 is as near as it gets
            player.tune(still_hz=0.1 if stage == 0 else UNDER)
            self.page.get_by_role("radio", name="In tune").tap()
            self.page.get_by_role("button", name="Next").tap()
            self.at_step(stage + 2)
        for check in range(6, 10):
            sound.tap()
            self.page.wait_for_timeout(300)
            if check < 9:
                self.page.get_by_role("button", name="Next").tap()
                self.at_step(check + 2)
        self.page.get_by_role("button", name="Finish and see").tap()
        self.page.get_by_role("dialog").get_by_role("button", name="Finish and see").tap()
        self.assertGreaterEqual(points(self.page), 58)

    def at_step(self, number: int) -> None:
        expect(
            self.page.get_by_role("button", name=f"Step {number} of 10: the plan")
        ).to_be_visible()

    def test_what_is_pressed_is_large_enough_and_nothing_is_cut_off(self) -> None:
        self.page.goto("/")
        self.page.get_by_role("button", name="Start: The school guitar, all six strings").tap()
        expect(self.page.get_by_role("heading", name="A from the fork", level=1)).to_be_visible()
        wide = self.page.evaluate("document.documentElement.scrollWidth")
        self.assertLessEqual(wide, 390)
        for button in self.page.locator("main button:visible").all():
            box = button.bounding_box()
            assert box is not None
            name = button.inner_text()
            # strings that are not in play are thin lines, so that those in play have room
            drawn = button.evaluate(
                "(one) => one.closest('[aria-label=\"The instrument\"]') !== null"
            )
            self.assertGreaterEqual(box["height"], 21.5 if drawn else 43.5, name)
            if "Tighten" in name or "Loosen" in name:
                self.assertGreaterEqual(box["height"], 63.5)

    def test_instruction_picture_judgement_and_next_are_in_reach_without_scrolling(self) -> None:
        start(self.page, **NUMBERS)
        for title in ("A from the fork", "D from A’s fret 5"):
            heading = self.page.get_by_role("heading", name=title, level=1)
            expect(heading).to_be_in_viewport(ratio=1)
            tall = self.page.evaluate("document.documentElement.scrollHeight")
            self.assertLessEqual(tall, 844, title)
            self.page.get_by_role("radio", name="In tune").tap()
            for seen in (
                self.page.locator("canvas"),
                self.page.get_by_label("The instrument"),
                self.page.get_by_role("button", name=re.compile("^Tighten")),
                self.page.get_by_role("radio", name="In tune"),
                self.page.get_by_role("button", name="Next"),
            ):
                expect(seen).to_be_in_viewport(ratio=1)
            self.page.get_by_role("button", name="Next").tap()

    def test_so_they_are_where_there_are_most_strings(self) -> None:
        for instrument, method in (("sitar", "drone"), ("sitar", "free"), ("mandolin", "free")):
            start(self.page, instrument=instrument, method=method)
            going_on = self.page.get_by_role("button", name=re.compile("^(Next|Finish and see)$"))
            expect(going_on.last).to_be_in_viewport(ratio=1)
            tall = self.page.evaluate("document.documentElement.scrollHeight")
            self.assertLessEqual(tall, 844, (instrument, method))

    def test_the_drawn_instrument_is_played_by_touch(self) -> None:
        start(self.page, **NUMBERS)
        drawn = self.page.get_by_label("The instrument")
        drawn.get_by_role("button", name="Play G", exact=True).tap()
        expect(drawn.locator("svg path[class]")).to_have_count(1)
        drawn.get_by_role("button", name="Take the tuning machine of G", exact=True).tap()
        expect(self.page.get_by_role("button", name="Tighten G")).to_be_visible()
