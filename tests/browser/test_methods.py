import re
from typing import Any

from playwright.sync_api import expect

from tests.browser.base import BrowserTest
from tests.browser.player import finish, points, show, start

NEAR_CENTS = 1.6
MOST_LOOKS = 40


class MethodTest(BrowserTest):
    """Attempts played by keyboard alone, by what the picture shows of the height."""

    def open(self, aid: str, **exercise: Any) -> None:
        """Start an exercise as the page that offers it does."""
        start(self.page, **{"aid": "ripple", **exercise})
        if aid in ("level", "tuner"):
            show(self.page, aid)

    def height(self) -> float:
        """Sound the stage afresh and read how far off it stands, in cents."""
        self.page.keyboard.press("Space")
        return self.read()

    def read(self) -> float:
        self.page.wait_for_timeout(450)
        words = self.page.get_by_test_id("offset").inner_text()
        if "tune" in words:
            return 0.0
        found = re.match(r"([\d.]+) (semitones|cents?) (low|high)", words)
        assert found is not None, words
        size = float(found.group(1)) * (100.0 if found.group(2) == "semitones" else 1.0)
        return size * (1 if found.group(3) == "high" else -1)

    def shown(self) -> float:
        """Sound the string and read the tuner once the attack is over, in cents."""
        self.page.keyboard.press("Space")
        self.page.wait_for_timeout(1100)
        words = self.page.get_by_test_id("tuner").inner_text()
        found = re.search(r"([\d.]+) cents? (low|high)", words)
        if found is None:
            return 0.0
        return float(found.group(1)) * (1 if found.group(2) == "high" else -1)

    def turn(self, cents: float) -> None:
        """Press as often as that many cents ask for: ten small turns are one with Shift."""
        key = "ArrowUp" if cents > 0 else "ArrowDown"
        presses = round(abs(cents) / 0.4)
        for _ in range(min(12, presses // 10)):
            self.page.keyboard.press(f"Shift+{key}")
        for _ in range(max(1, presses % 10)):
            self.page.keyboard.press(key)

    def tune(self, look: Any) -> None:
        for _ in range(MOST_LOOKS):
            off = look()
            if abs(off) <= NEAR_CENTS:
                return
            self.turn(-off * 0.8 if off < 0 else -off - 4.0)
        raise AssertionError("the string did not come to rest")

    def play(self, stages: int, *, look: Any = None) -> None:
        """Go through a plan: tune each step, listen to each check."""
        for index in range(stages):
            if self.page.get_by_role("radio", name=re.compile("^In tune")).is_visible():
                self.tune(look or self.height)
                self.page.keyboard.press("k")
            else:
                self.page.keyboard.press("Space")
                self.page.wait_for_timeout(700)
            self.page.keyboard.press("Enter")
            if index == stages - 1:
                finish(self.page)
            else:
                current = self.page.locator("[aria-current=step] .number")
                expect(current).to_have_text(str(index + 2))


class EveryMethod(MethodTest):
    def whole(self, instrument: str, method: str) -> None:
        self.open("level", instrument=instrument, method=method, start="hair")
        self.play(self.page.get_by_label("The plan").locator("li").count())
        # the level was in sight, so the best is 60 (where the plan reads a tuner, more)
        self.assertGreaterEqual(points(self.page), 55)
        expect(self.page.locator("main")).to_contain_text(re.compile("With Level.*best"))

    def test_each_string_to_its_own_note_on_a_ukulele(self) -> None:
        self.whole("ukulele", "each")

    def test_stopped_strings_on_a_baritone_ukulele(self) -> None:
        self.whole("baritone-ukulele", "unison")

    def test_fifths_on_a_viola(self) -> None:
        self.whole("viola", "fifths")

    def test_harmonics_on_a_bass(self) -> None:
        self.whole("bass", "harmonics")

    def test_a_drone_on_a_banjo(self) -> None:
        self.whole("banjo", "drone")

    def test_mixed_on_a_violin(self) -> None:
        self.whole("violin", "mixed")


class Frets(MethodTest):
    def test_a_fret_is_slid_until_it_is_in_tune_and_the_result_says_how_far_each_is(self) -> None:
        self.open("level", instrument="sitar", method="drone", start="hair", frets=True)
        self.tune(self.height)  # the tonic string first: the frets are set by it
        self.page.get_by_label("The plan").get_by_role("button", name="Fret 4: the third").click()
        expect(self.page.get_by_role("heading", level=1)).to_have_text("Fret 4: the third")
        self.page.get_by_role("button", name="Slide fret 4 up").click()
        off = self.height()
        self.assertGreater(abs(off), 5.0, "it lies well out at first")
        for _ in range(MOST_LOOKS):
            if abs(off) <= NEAR_CENTS:
                break
            away = "Up" if off < 0 else "Down"
            self.page.keyboard.press(f"Shift+Arrow{away}" if abs(off) > 5 else f"Arrow{away}")
            off = self.height()
        self.assertLessEqual(abs(off), NEAR_CENTS)
        self.page.keyboard.press("k")
        self.page.keyboard.press("Enter")
        self.page.get_by_role("button", name="Finish", exact=True).click()
        self.page.get_by_role("button", name="Finish and see").press("Enter")
        self.page.get_by_role("button", name=re.compile("Closing check")).click()
        self.assertLessEqual(self.told("Fret 4, the third"), NEAR_CENTS)
        self.assertGreater(self.told("Fret 2, the second"), 5.0)

    def told(self, fret: str) -> float:
        """How far off a fret is in the result, in cents."""
        line = self.page.get_by_role("listitem").filter(has_text=f"{fret}:").inner_text()
        found = re.search(r"([\d.]+)\s+cents? (low|high)", line)
        return 0.0 if found is None else float(found.group(1))


class EarFirst(MethodTest):
    def test_the_tuner_comes_for_what_it_reads_and_goes_again(self) -> None:
        self.open("ear", instrument="viola", method="mixed", start="hair", order="ear_first")
        self.page.get_by_role("radio", name="Ear only").click()
        title = self.page.get_by_role("heading", level=1)
        for stage in range(4):
            self.page.keyboard.press("Space")
            self.page.wait_for_timeout(500)
            heard = self.page.get_by_role("radio", name="In tune", checked=True)
            for _ in range(20):  # once it sounds, it can be said
                self.page.keyboard.press("k")
                self.page.wait_for_timeout(100)
                if heard.count():
                    break
            self.page.keyboard.press("Enter")
            current = self.page.locator("[aria-current=step] .number")
            expect(current).to_have_text(str(stage + 2))
        expect(title).to_have_text("Check: A on the tuner")
        expect(self.page.get_by_role("radio", name="Tuner", checked=True)).to_be_visible()
        self.page.get_by_label("The plan").get_by_role("button", name="D from A").click()
        expect(title).to_have_text("D from A")
        expect(self.page.get_by_role("radio", name="Ear only", checked=True)).to_be_visible()
        expect(self.page.get_by_test_id("tuner")).to_be_hidden()


class WrongTuner(MethodTest):
    def test_a_tuner_left_wrong_is_found_out_set_right_and_used(self) -> None:
        self.open("tuner", instrument="cello", method="tuner", start="reference")
        setting = self.page.get_by_role("button", name=re.compile(r"^Tuner at \d+ Hz"))
        self.assertNotIn("440 Hz", setting.inner_text())
        self.page.keyboard.press("o")
        dialog = self.page.get_by_role("dialog")
        field = dialog.get_by_label("Its A, in hertz")
        field.fill("440")
        field.press("Tab")
        self.page.keyboard.press("Escape")
        expect(setting).to_contain_text("Tuner at 440 Hz")
        self.play(7, look=self.shown)
        self.assertGreaterEqual(points(self.page), 85)
        expect(self.page.locator("main")).to_contain_text(
            re.compile(r"The tuner stood at 44?\d+ Hz, and you set it to 440")
        )

    def test_a_wrong_fork_is_read_and_called_wrong(self) -> None:
        self.open("ripple", instrument="viola", method="fifths", start="reference")
        self.page.keyboard.press("t")  # nothing has been heard yet, so nothing is asked first
        self.page.keyboard.press("f")
        self.page.wait_for_timeout(1200)
        words = self.page.get_by_test_id("tuner").inner_text()
        side = "Low" if "low" in words else "High"
        asked = self.page.get_by_label("The reference")
        asked.get_by_role("radio", name=side).click()
        expect(asked).to_be_hidden()
        self.page.get_by_role("button", name="Finish", exact=True).click()
        self.page.get_by_role("alertdialog").get_by_role("button", name="Finish and see").press(
            "Enter"
        )
        body = self.page.locator("main")
        expect(body).to_contain_text(re.compile(rf"cents {side.lower()}; you said it was"))


class BrokenString(MethodTest):
    def test_a_string_snaps_is_replaced_and_the_exercise_finished(self) -> None:
        # a tenor guitar's A stands at three quarters of what breaks it
        self.open(
            "level", instrument="tenor-guitar", method="each", start="hair", behaviours=["breaking"]
        )
        plan = self.page.get_by_label("The plan").locator("[aria-current=step]")
        first = plan.inner_text()
        self.page.keyboard.press("Space")
        body = self.page.locator("main")
        for _ in range(60):
            for _ in range(4):
                self.page.keyboard.press("Shift+ArrowUp")
            if "has snapped" in body.inner_text():
                break
        expect(body).to_contain_text("Keep eyes and hands away")
        self.page.keyboard.press("a")
        expect(self.page.get_by_role("button", name="Tighten")).to_be_visible()
        self.assertEqual(plan.inner_text(), first)
        # up from slack: what the level shows is far below
        self.assertLess(self.height(), -500.0)
        self.page.get_by_role("radio", name="Wind").click()
        for _ in range(60):
            if self.height() > -260.0:
                break
            self.page.keyboard.press("ArrowUp")
        self.page.get_by_role("radio", name="Fine").click()
        self.play(self.page.get_by_label("The plan").locator("li").count())
        self.assertLessEqual(points(self.page), 60)
        expect(body).to_contain_text(
            re.compile(r"string snapped .* above its note after \d+ turns")
        )


class Replaying(MethodTest):
    def finished(self) -> str:
        """A short attempt with a wrong peg and a turn in silence in it; its address."""
        self.open("level", instrument="viola", method="fifths", start="month")
        self.page.keyboard.press("Space")
        self.page.wait_for_timeout(900)
        self.page.keyboard.press("4")
        self.page.keyboard.press("ArrowUp")
        self.page.keyboard.press("1")
        self.page.wait_for_timeout(300)
        self.page.keyboard.press("d")
        self.page.wait_for_timeout(300)
        self.page.keyboard.press("ArrowUp")
        self.page.wait_for_timeout(300)
        self.page.keyboard.press("Space")
        self.page.wait_for_timeout(900)
        self.page.get_by_role("button", name="Finish", exact=True).click()
        self.page.get_by_role("alertdialog").get_by_role("button", name="Finish and see").press(
            "Enter"
        )
        expect(self.page.locator(".points")).to_be_visible()
        return self.page.url

    def test_it_plays_with_picture_and_sound_and_jumps_to_what_went_wrong(self) -> None:
        self.finished()
        self.page.get_by_role("link", name="Play it back").press("Enter")
        marks = self.page.get_by_label("Moments to go back to")
        expect(marks).to_contain_text("Wrong peg")
        expect(marks).to_contain_text("Turned while silent")
        play = self.page.get_by_role("button", name="Play", exact=True)
        play.press("Enter")
        picture = self.page.get_by_label("What was heard")
        expect(picture).to_contain_text(re.compile(r"\d+ cents (low|high)"))
        expect(picture).to_contain_text("beats a second")
        # what is drawn comes from what the speaker plays: it moves while it sounds
        looks = []
        for _ in range(2):
            looks.append(self.page.locator("canvas").screenshot())
            self.page.wait_for_timeout(250)
        self.assertNotEqual(looks[0], looks[1])
        self.page.get_by_role("radio", name="4×").press("Enter")
        expect(play).to_be_visible()  # at four times the speed it is soon at its end
        where = self.page.get_by_role("slider", name="Moment of the attempt")
        end = float(where.input_value())
        marks.get_by_role("button", name=re.compile("wrong (peg|tuning machine)")).press("Enter")
        expect(self.page.get_by_role("button", name="Pause")).to_be_visible()
        self.assertLess(float(where.input_value()), end - 0.5)

    def test_a_reason_leads_to_its_moment(self) -> None:
        self.finished()
        # the sentences fold out, those of a part where something was missed too
        missed = self.page.get_by_role("button", name=re.compile("missed"))
        expect(missed.first).to_be_visible()  # it is not while the dialog goes
        for part in missed.all():
            part.press("Enter")
        self.page.get_by_role("link", name="Hear it").first.press("Enter")
        button = self.page.get_by_role("button", name="Hear the moment")
        button.press("Enter")
        expect(self.page.get_by_role("button", name="Pause")).to_be_visible()

    def test_it_is_taken_along_and_brought_in_again(self) -> None:
        self.finished()
        shown = points(self.page)
        self.page.get_by_role("button", name="Save, share or erase").press("Enter")
        with self.page.expect_download() as sound:
            self.page.get_by_role("link", name="Save its sound").click()
        self.assertEqual(sound.value.path().read_bytes()[:4], b"RIFF")
        with self.page.expect_download() as file:
            self.page.get_by_role("link", name="Save the attempt").click()
        self.page.get_by_role("link", name="All attempts").press("Enter")
        with self.page.expect_file_chooser() as chooser:
            self.page.get_by_role("button", name="Import attempt").click()
        chooser.value.set_files(file.value.path())
        self.assertEqual(points(self.page), shown)
        self.page.get_by_role("link", name="How the score works").press("Enter")
        expect(self.page.locator("h1")).to_have_text("How the score works")
        expect(self.page.locator("main")).to_contain_text("Turn the string you mean")

    def test_the_exercise_for_what_to_change_starts_at_once(self) -> None:
        self.finished()
        self.page.get_by_label("What to change").get_by_role("button").first.press("Enter")
        expect(self.page.get_by_label("Pegs")).to_be_visible()

    def test_the_result_is_read_from_the_top(self) -> None:
        self.finished()
        heading = self.page.get_by_role("heading", level=1)
        expect(heading).to_have_text(re.compile(r"(in tune|cents|semitones).*\.$"))
        # the music it was for stands above every number
        music = self.page.get_by_role("button", name="The tune, before and now").bounding_box()
        number = self.page.locator("dd").first.bounding_box()
        assert music is not None and number is not None
        self.assertLess(music["y"], number["y"])
        parts = self.page.get_by_label("Where the points come from")
        # whole points, and a tick or how many were missed
        expect(parts.get_by_role("button").first).to_be_visible()
        for row in parts.get_by_role("button").all():
            self.assertRegex(
                row.inner_text().replace("\n", " "), r"^(✓|\d+ ?missed) .* \d+ of \d+$"
            )
        expect(parts.locator("li").first).to_be_hidden()
        self.page.set_viewport_size({"width": 390, "height": 844})
        tall, wide = self.page.evaluate(
            "[document.documentElement.scrollHeight, document.documentElement.scrollWidth]"
        )
        self.assertLessEqual(tall, 2 * 844)
        self.assertLessEqual(wide, 390)

    def test_a_link_starts_the_same_exercise_on_any_machine(self) -> None:
        self.finished()
        self.page.get_by_role("button", name="Save, share or erase").press("Enter")
        self.page.evaluate(
            "navigator.clipboard.writeText = async (text) => { window.copied = text; }"
        )
        self.page.get_by_role("button", name="Copy a link to this exercise").press("Enter")
        expect(self.page.get_by_text("Copied.")).to_be_visible()
        link = self.page.evaluate("window.copied")
        starts = []
        for _ in range(2):
            context = self.window()
            other = context.new_page()
            other.goto(link)
            other.get_by_role("button", name="Start and hear it").press("Enter")
            other.wait_for_url("**/tune/*")
            attempt = other.url.rsplit("/", 1)[1]
            # what the start was drawn with is not told while it can still be used
            page = other.evaluate(
                "(id) => fetch(`/api/attempts/${id}`).then((r) => r.json())", attempt
            )
            self.assertIsNone(page["seed"])
            show(other, "level")
            other.keyboard.press("Space")
            starts.append(other.get_by_test_id("offset").inner_text())
            context.close()
        self.assertEqual(starts[0], starts[1])


class FreePlay(MethodTest):
    def test_any_two_strings_beat_and_no_points_are_given(self) -> None:
        self.open("ripple", instrument="cello", method="free", start="month")
        self.page.keyboard.press("1")
        self.page.keyboard.press("s")
        self.page.wait_for_timeout(200)
        self.page.keyboard.press("2")
        self.page.keyboard.press("s")
        expect(self.page.get_by_test_id("ripple")).to_be_visible()
        # turned up by more than a semitone in all, it beats faster than can be followed
        for _ in range(12):
            self.page.keyboard.press("Shift+ArrowUp")
        expect(self.page.get_by_test_id("ripple")).to_have_text("Fast")
        self.page.keyboard.press("Enter")
        expect(self.page.locator("main")).to_contain_text("no plan, no points")
        expect(self.page.locator("main")).to_contain_text("Now follow a plan")


class Behaving(MethodTest):
    def test_a_peg_that_is_not_pushed_in_runs_back_when_it_is_let_go(self) -> None:
        self.open("level", instrument="violin", method="fifths", start="month", behaviours=["pegs"])
        before = self.height()
        self.page.keyboard.press("i")
        push = self.page.get_by_role("button", name="Push in")
        expect(push).to_have_attribute("aria-pressed", "false")
        fell = False
        for _ in range(16):  # it slips at every third time or so: (2/3)^16 is one in 650
            last = self.height()
            self.page.keyboard.press("ArrowUp")
            if self.height() < last - 3.0:
                fell = True
                break
        self.assertTrue(fell, before)

    def test_a_peg_that_sticks_says_so_until_it_jumps(self) -> None:
        self.open(
            "level", instrument="viola", method="fifths", start="month", behaviours=["sticking"]
        )
        card = self.page.get_by_label("The instrument")
        before = self.height()
        self.page.keyboard.press("ArrowUp")  # a quarter of a degree; it holds for half of one
        expect(card).to_contain_text("peg sticks")
        self.assertEqual(self.height(), before)
        for _ in range(8):  # it jumps by two degrees at most
            if "peg sticks" not in card.inner_text():
                break
            self.page.keyboard.press("ArrowUp")
            self.page.wait_for_timeout(150)
        expect(card).not_to_contain_text("peg sticks")
        self.assertGreater(self.height(), before + 4.0)  # 0.5 degrees of a steel A at 19 cents each

    def test_the_fine_tuner_has_an_end_and_says_so(self) -> None:
        self.open("level", instrument="viola", method="fifths", start="hair")
        self.page.keyboard.press("n")
        self.page.get_by_role("radio", name="Wind").click()
        for _ in range(40):
            self.page.keyboard.press("ArrowUp")
        expect(self.page.locator("main")).to_contain_text("The fine tuner is all the way in")

    def test_coming_back_later_a_new_string_has_sunk(self) -> None:
        self.open(
            "level",
            instrument="classical-guitar",
            method="each",
            start="hair",
            behaviours=["creep"],
        )
        before = self.height()
        self.page.keyboard.press("c")
        self.page.get_by_role("button", name="In a week").press("Enter")
        self.assertLess(self.height(), before - 5.0)

    def test_looking_is_asked_for_a_judgement_first_and_it_counts(self) -> None:
        self.open("ripple", instrument="viola", method="fifths", start="month")
        self.page.keyboard.press("Space")
        expect(self.page.get_by_test_id("ripple")).to_be_visible()
        self.page.keyboard.press("w")
        dialog = self.page.get_by_role("dialog")
        expect(dialog).to_contain_text("First say what you hear")
        dialog.get_by_role("radio", name="Low").press("Enter")
        dialog.get_by_role("button", name="That is what I hear").press("Enter")
        expect(self.page.get_by_label("The plan")).to_contain_text("judged")
        expect(self.page.get_by_test_id("offset")).to_contain_text(re.compile("low|high"))


class Fitting(MethodTest):
    def test_the_working_screen_needs_no_scrolling_whatever_stands_on_it(self) -> None:
        for exercise in (
            {"instrument": "double-bass", "method": "harmonics", "behaviours": ["nut", "pegs"]},
            {"instrument": "viola", "method": "fifths", "behaviours": ["pegs", "reference"]},
            {"instrument": "sitar", "method": "drone", "behaviours": ["ringing"]},
            {"instrument": "cello", "method": "free"},
        ):
            self.open("ripple", **exercise)
            if exercise["method"] == "harmonics":
                self.page.keyboard.press("k")
                self.page.keyboard.press("Enter")  # a stage with a finger on two strings
                expect(self.page.locator("h1")).to_contain_text("by harmonics")
            tall, wide = self.page.evaluate(
                "[document.documentElement.scrollHeight, document.documentElement.scrollWidth]"
            )
            self.assertLessEqual((tall, wide), (800, 1280), str(exercise))
            hands = self.page.get_by_label("Pegs").bounding_box()
            assert hands is not None
            self.assertLessEqual(hands["y"] + hands["height"], 801, str(exercise))
            expect(
                self.page.get_by_role("button", name=re.compile("^(Next|Finish and see)"))
            ).to_be_in_viewport()
