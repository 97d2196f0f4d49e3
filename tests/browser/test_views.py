import re
import time

from playwright.sync_api import Page, Route, expect

from tests.browser.base import BrowserTest
from tests.browser.player import show


def begin(page: Page) -> None:
    page.goto("/")
    page.get_by_role("button", name="Start: The school guitar, all six strings").click()
    expect(page.get_by_test_id("ripple")).to_be_visible()


class Preparing(BrowserTest):
    def test_what_comes_late_moves_nothing_from_under_a_press(self) -> None:
        def late(route: Route) -> None:
            time.sleep(0.3)
            route.continue_()

        # where the first thing of that name stands, frame by frame
        self.page.add_init_script(
            "window.places = new Set(); const look = () => { requestAnimationFrame(look);"
            " const named = [...document.querySelectorAll('main button, main a')].find((one) =>"
            " one.innerText.startsWith(window.named));"
            " if (named) places.add(named.getBoundingClientRect().y); }; look();"
        )
        self.page.route(re.compile(r"\.woff2|/api/(instruments|methods|sources)"), late)
        for place, named in (
            ("/", "Play two strings"),
            ("/tune?instrument=viola&method=fifths", "Start and hear it"),
            ("/instruments/fitness?instrument=viola", "Choose a method"),
        ):
            self.page.add_init_script(f"window.named = {named!r}")
            self.page.goto(place)
            expect(self.page.locator("main").get_by_text(named).first).to_be_visible()
            self.page.wait_for_load_state("networkidle")
            self.page.wait_for_timeout(200)
            self.assertEqual(self.page.evaluate("places.size"), 1, place)

    def test_the_help_chosen_is_the_help_given_and_remembered(self) -> None:
        self.page.goto("/tune?start=month")
        self.page.get_by_role("radio", name="Level").click()
        self.page.get_by_role("button", name="Start and hear it").click()
        # picked up after a month, the A is 14 to 30 cents flat
        expect(self.page.get_by_test_id("offset")).to_have_text(
            re.compile(r"^(1[2-9]|2\d|30) cents (low|high)$")
        )
        self.page.goto("/tune")
        self.page.get_by_role("button", name="More choices").click()
        expect(self.page.get_by_role("radio", name="Level")).to_be_checked()

    def test_an_unfinished_attempt_is_offered_and_goes_on_where_it_was(self) -> None:
        begin(self.page)
        self.page.wait_for_timeout(700)  # what is judged has been listened to for a moment
        self.page.keyboard.press("k")
        self.page.keyboard.press("Enter")
        expect(self.page.locator("h1")).to_have_text("D from A’s fret 5")
        self.page.wait_for_timeout(300)
        self.page.goto("/")
        self.page.get_by_role("button", name="Resume Steel-string guitar: slightly out").click()
        expect(self.page.locator("h1")).to_have_text("D from A’s fret 5")
        expect(self.page.get_by_label("The plan")).to_contain_text("judged")

    def test_a_place_that_does_not_exist_leads_to_the_first_page(self) -> None:
        self.page.goto("/nowhere")
        expect(self.page.locator("h1")).to_have_text("Bring a string to rest, by ear.")


class Choosing(BrowserTest):
    def test_an_instrument_and_one_press_begin(self) -> None:
        self.page.goto("/tune")
        drawn = self.page.get_by_role("radiogroup", name="Instrument")
        expect(drawn.get_by_role("radio")).to_have_count(5)
        expect(drawn.get_by_role("radio", name="Steel-string guitar")).to_be_checked()
        self.page.get_by_role("button", name=re.compile("14 others")).click()
        self.page.get_by_role("option", name="Cello", exact=True).click()
        expect(drawn.get_by_role("radio", name="Cello")).to_be_checked()
        month = self.page.get_by_role("region", name="After a month")
        expect(month).to_contain_text("Four strings, by fifths, with Ripples.")
        month.get_by_role("button", name="Start: After a month").click()
        expect(self.page.get_by_label("The plan").locator("li").first).to_contain_text("A")
        # what was tuned last comes first
        self.page.goto("/tune")
        expect(drawn.get_by_role("radio").first).to_have_text("Cello")

    def test_what_is_not_as_usual_stands_in_a_line(self) -> None:
        self.page.goto("/tune?start=month&method=free")
        more = self.page.get_by_role("button", name=re.compile("^More choices"))
        expect(more).to_contain_text("Free play, After a month")
        expect(self.page.get_by_role("button", name="Start and hear it")).to_be_visible()
        more.click()
        expect(self.page.get_by_role("button", name="Start and hear it")).to_be_hidden()


class Sounding(BrowserTest):
    def test_nothing_sounds_before_a_press_and_it_starts_quiet(self) -> None:
        self.page.add_init_script(
            "window.contexts = 0; const Real = AudioContext;"
            "window.AudioContext = class extends Real {"
            " constructor(o) { super(o); window.contexts++; } };"
        )
        self.page.goto("/")
        self.page.wait_for_timeout(300)
        self.assertEqual(self.page.evaluate("contexts"), 0)
        level = self.page.get_by_role("slider", name="Sound")
        self.assertLessEqual(float(level.input_value()), 0.5)
        begin(self.page)
        self.assertEqual(self.page.evaluate("contexts"), 1)

    def test_the_level_is_set_by_keys_and_kept(self) -> None:
        self.page.goto("/")
        level = self.page.get_by_role("slider", name="Sound")
        before = float(level.input_value())
        level.press("ArrowRight")
        level.press("ArrowRight")
        self.page.reload()
        after = float(self.page.get_by_role("slider", name="Sound").input_value())
        self.assertAlmostEqual(after - before, 0.1)

    def test_it_fades_and_says_so(self) -> None:
        begin(self.page)
        self.page.keyboard.press("d")
        expect(self.page.locator("main")).to_contain_text("Too quiet. Play it again.")


class Turning(BrowserTest):
    def moved(self) -> float:
        """How far the A string is from the fork, in cents, as the level shows it."""
        self.page.keyboard.press("Space")
        self.page.wait_for_timeout(400)
        words = self.page.get_by_test_id("offset").inner_text()
        found = re.match(r"([\d.]+) cents (low|high)", words)
        if found is None:
            return 0.0
        return float(found.group(1)) * (1 if found.group(2) == "high" else -1)

    def setUp(self) -> None:
        super().setUp()
        begin(self.page)
        show(self.page, "level")

    def test_small_and_large_turns(self) -> None:
        # the A string's knob gives 1.12 cents a degree: 0.4 degrees, and ten times that
        before = self.moved()
        for _ in range(4):
            self.page.keyboard.press("ArrowUp")
        small = self.moved()
        # from ten cents on whole cents are shown, so each look may be half a cent off
        self.assertAlmostEqual(small - before, 4 * 0.45, delta=1.1)
        self.page.keyboard.press("Shift+ArrowUp")
        self.assertAlmostEqual(self.moved() - small, 4.5, delta=1.2)

    def test_holding_a_button_keeps_turning_and_letting_go_stops(self) -> None:
        before = self.moved()
        box = self.page.get_by_role("button", name="Tighten A").bounding_box()
        assert box is not None
        self.page.mouse.move(box["x"] + 20, box["y"] + 20)
        self.page.mouse.down()
        self.page.wait_for_timeout(900)
        self.page.mouse.up()
        self.page.wait_for_timeout(800)  # what was on its way has come
        after = self.moved()
        # one at once, then 20 a second from 0.28 s on: about 13 turns of 0.45 cents, fewer on a
        # machine that is busy
        self.assertGreater(after - before, 1.0)
        self.assertLess(after - before, 12.0)
        self.page.wait_for_timeout(500)
        self.assertAlmostEqual(self.moved(), after, places=6)

    def test_the_far_too_tight_peg_brings_a_caution(self) -> None:
        self.page.keyboard.press("6")
        self.page.get_by_role("radio", name="Wind").click()
        for _ in range(5):  # low E: 1.73 cents a degree, 20 degrees each, so some 170 cents
            self.page.keyboard.press("ArrowUp")
        expect(self.page.locator("main")).to_contain_text("Is this the right tuning machine?")

    def test_the_finger_moves_by_frets(self) -> None:
        self.page.get_by_label("The plan").get_by_role("button", name="D from A").click()
        expect(self.page.locator("h1")).to_have_text("D from A’s fret 5")
        self.page.keyboard.press("Space")
        offset = self.page.get_by_test_id("offset")
        expect(offset).to_be_visible()
        self.page.keyboard.press("ArrowLeft")
        expect(self.page.get_by_label("The instrument")).to_contain_text("fret 4")
        # the finger a fret too low: D stands about 100 cents above what it is held against, and up
        # to 36 more or less, as both strings are out
        expect(offset).to_have_text(
            re.compile(r"^(([6-9]\d|1[012]\d) cents|1\.[234] semitones) high$")
        )


class TheFirstPage(BrowserTest):
    def test_any_string_is_touched_and_heard_and_three_sounds_tell_what_a_wobble_is(self) -> None:
        self.page.goto("/")
        drawn = self.page.get_by_label("The instrument")
        drawn.get_by_role("button", name="Play A", exact=True).click()
        expect(drawn.locator("svg path[class]")).to_have_count(1)
        for words, said in (
            ("Fast", "four times a second"),
            ("Slow", "slowly"),
            ("Still", "in tune"),
        ):
            self.page.get_by_role("button", name=words, exact=True).click()
            expect(self.page.get_by_role("status").filter(has_text=said)).to_be_visible()


class TheDrawnInstrument(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        begin(self.page)
        self.drawn = self.page.get_by_label("The instrument")

    def where(self, name: str) -> tuple[float, float, float]:
        """The left edge of something pressed, its width, and the middle of its height."""
        box = self.drawn.get_by_role("button", name=name, exact=True).bounding_box()
        assert box is not None
        return box["x"], box["width"], box["y"] + box["height"] / 2.0

    def test_a_string_is_pressed_to_play_it(self) -> None:
        swings = self.drawn.locator("svg path[class]")
        expect(swings).to_have_count(1)  # the A, which sounds with the fork
        self.drawn.get_by_role("button", name="Play low E", exact=True).click()
        expect(swings).to_have_count(2)
        self.page.keyboard.press("d")
        expect(swings).to_have_count(0)
        played = self.drawn.get_by_role("button", name="Play high E", exact=True)
        played.focus()
        self.page.keyboard.press("Tab")
        self.page.keyboard.press("Shift+Tab")
        expect(played).to_be_focused()
        self.page.keyboard.press("Enter")
        expect(swings).to_have_count(1)

    def test_a_peg_is_pressed_to_take_it_and_turns_as_far_as_it_is_turned(self) -> None:
        peg = self.drawn.get_by_role("button", name="Take the tuning machine of B", exact=True)
        peg.click()
        expect(peg).to_have_attribute("aria-pressed", "true")
        expect(self.page.get_by_role("button", name="Tighten B")).to_be_visible()
        expect(self.drawn).to_contain_text("Anticlockwise tightens B")

        def angle() -> float:
            found = self.drawn.locator("svg g[style]").nth(1).get_attribute("style") or ""
            return float(re.search(r"rotate\(([-\d.]+)deg\)", found).group(1))  # type: ignore[union-attr]

        before = angle()
        self.page.get_by_role("radio", name="Wind").click()
        self.page.keyboard.press("ArrowUp")
        expect(self.drawn.locator("svg g[style]").nth(1)).not_to_have_attribute(
            "style", re.compile(rf"rotate\({before:g}deg")
        )
        # a winding turn of a thin string is 30 degrees, anticlockwise as one looks at its knob
        self.assertAlmostEqual(angle() - before, -30.0, delta=0.1)

    def test_a_finger_slides_along_any_string(self) -> None:
        left, width, y = self.where("Play low E")
        # from the nut to just behind fret 7, at 1 - 2^(-7/12) = 0.333 of the string
        self.page.mouse.move(left + 0.05 * width, y)
        self.page.mouse.down()
        self.page.mouse.move(left + 0.2 * width, y, steps=4)
        self.page.mouse.move(left + 0.32 * width, y, steps=4)
        self.page.mouse.up()
        expect(self.drawn).to_contain_text("fret 7")
        self.page.keyboard.press("6")
        self.drawn.get_by_role("button", name="Finger on low E towards the bridge").click()
        expect(self.drawn).to_contain_text("fret 8")
        self.page.get_by_role("button", name="Touch lightly").click()
        expect(self.drawn).to_contain_text("over 8")
        self.page.mouse.move(left + 0.3 * width, y)
        self.page.mouse.down()
        self.page.mouse.move(left + 0.1 * width, y, steps=3)
        self.page.mouse.move(left + 0.001 * width, y, steps=3)
        self.page.mouse.up()
        expect(self.drawn).not_to_contain_text("over")


class Sheets(BrowserTest):
    def test_a_sheet_closed_with_escape_gives_the_focus_back_to_what_opened_it(self) -> None:
        begin(self.page)
        swings = self.page.get_by_label("The instrument").locator("svg path[class]")
        self.page.keyboard.press("d")
        expect(swings).to_have_count(0)
        keys = self.page.get_by_role("button", name=re.compile("^Keys"))
        keys.click()
        sheet = self.page.get_by_role("dialog")
        expect(sheet).to_be_visible()
        # a guitar has no fine tuners, and nothing here slips or breaks
        for words in ("fine tuner", "Push the peg in", "Leave it off", "Come back later"):
            expect(sheet).not_to_contain_text(words)
        self.page.keyboard.press("Escape")
        expect(sheet).to_be_hidden()
        expect(keys).to_be_focused()
        # it was pressed with a mouse, so Space still plays
        self.page.keyboard.press("Space")
        expect(swings).to_have_count(1)
        expect(sheet).to_be_hidden()
        # and with Tab it is the button that is meant
        self.page.keyboard.press("Shift+Tab")
        self.page.keyboard.press("Tab")
        expect(keys).to_be_focused()
        self.page.keyboard.press("Space")
        expect(sheet).to_be_visible()
        self.page.keyboard.press("Escape")
        expect(keys).to_be_focused()
        # opened by its key, from the page
        self.page.locator("main").focus()
        self.page.keyboard.press("?")
        expect(sheet).to_be_visible()
        self.page.keyboard.press("Escape")
        expect(self.page.locator("main")).to_be_focused()


class Showing(BrowserTest):
    def test_light_and_dark_are_kept(self) -> None:
        self.page.goto("/")
        before = self.page.evaluate("getComputedStyle(document.body).backgroundColor")
        self.page.get_by_role("button", name="More").click()
        self.page.get_by_role("button", name="Dark").click()
        self.page.reload()
        self.page.get_by_role("button", name="More").click()
        expect(self.page.get_by_role("button", name="Light")).to_be_visible()
        after = self.page.evaluate("getComputedStyle(document.body).backgroundColor")
        self.assertNotEqual(before, after)

    def test_the_stand_view_shows_the_working_part_alone(self) -> None:
        begin(self.page)
        self.page.keyboard.press("v")
        expect(self.page.get_by_role("banner")).to_be_hidden()
        expect(self.page.get_by_label("The plan")).to_be_hidden()
        tall = self.page.get_by_test_id("ripple").bounding_box()
        assert tall is not None
        self.assertGreaterEqual(tall["height"], 60.0)
        self.page.get_by_role("button", name="Leave the music-stand view").click()
        expect(self.page.get_by_label("The plan")).to_be_visible()

    def test_without_motion_the_picture_stands_and_the_word_is_there(self) -> None:
        self.page.emulate_media(reduced_motion="reduce")
        begin(self.page)
        expect(self.page.get_by_test_id("ripple")).to_have_text(re.compile("^(Fast|Slow)$"))
        # a standing wave: two looks while nothing is done show the same picture, but for the bar
        # at the right that tells how loud it still is
        self.page.wait_for_timeout(600)
        box = self.page.locator("canvas").bounding_box()
        assert box is not None
        clip = {**box, "width": box["width"] - 90.0, "height": box["height"] * 0.75}
        looks = [self.page.screenshot(clip=clip) for _ in range(2)]  # type: ignore[arg-type]
        self.assertEqual(looks[0], looks[1])

    def test_at_twice_the_text_size_nothing_is_lost(self) -> None:
        begin(self.page)
        self.page.add_style_tag(content="html { font-size: 200% }")
        wide = self.page.evaluate("document.documentElement.scrollWidth")
        self.assertLessEqual(wide, 1280)
        self.page.set_viewport_size({"width": 390, "height": 844})
        wide = self.page.evaluate("document.documentElement.scrollWidth")
        self.assertLessEqual(wide, 390)
        self.page.set_viewport_size({"width": 1280, "height": 800})
        for name in ("Tighten A", "Loosen A", "Next", "Finish"):
            button = self.page.get_by_role("button", name=name)
            button.scroll_into_view_if_needed()
            expect(button).to_be_visible()
            cut = button.evaluate("(e) => e.scrollWidth > e.clientWidth + 1")
            self.assertFalse(cut, name)
