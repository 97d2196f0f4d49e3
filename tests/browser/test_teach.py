"""A teacher's week: a class from a list, an exercise set, three pupils who do it (by keyboard, by
touch, by the code on the wall), and what the teacher reads then. And a tablet that pupils share.
"""

import io
import re

from playwright.sync_api import BrowserContext, Page, expect
from pypdf import PdfReader

from tests.browser.base import BrowserTest, chromium

LIST = "name;group\nTarek;Saturday\nLiv;Saturday\nAnsel;Tuesday\n"


class TeachTest(BrowserTest):
    """A teacher with a studio, made over the page's own API; names are this test's alone."""

    def setUp(self) -> None:
        super().setUp()
        self.name = f"Oda {self.id().rsplit('_', 1)[-1]}"[:30]
        self.page.goto("/")
        self.ask("POST", "/api/account", {"name": self.name})

    def ask(self, method: str, path: str, body: object, page: Page | None = None) -> object:
        """Ask as the page does; a refusal fails the test."""
        asked = (
            "async ([method, path, body]) => { const reply = await fetch(path, {method,"
            " headers: {'content-type': 'application/json'}, body: JSON.stringify(body)});"
            " if (!reply.ok) throw new Error(await reply.text());"
            " return reply.status === 204 ? null : reply.json(); }"
        )
        return (page or self.page).evaluate(asked, [method, path, body])

    def other(self, *, touch: bool = False) -> Page:
        """Another browser."""
        size = {"width": 390, "height": 844} if touch else {"width": 1280, "height": 800}
        context: BrowserContext = chromium().new_context(
            base_url=self.application.address,
            viewport=size,  # type: ignore[arg-type]
            has_touch=touch,
            is_mobile=touch,
        )
        self.addCleanup(context.close)
        page = context.new_page()
        self.watch(page)
        return page

    def made_studio(self) -> None:
        """Make a studio, by keys."""
        self.page.goto("/teach")
        self.page.get_by_label("What it is called").press_sequentially("Skerrow Boathouse")
        self.page.get_by_label("What it is called").press("Enter")
        expect(self.page.get_by_role("heading", level=1)).to_have_text("No pupils yet")
        self.studio = self.page.url

    def made_class(self) -> dict[str, str]:
        """Make a class from a file, save its slips, and return the codes by name."""
        self.page.get_by_role("button", name="Make a class from a list").click()
        dialog = self.page.get_by_role("dialog")
        with self.page.expect_file_chooser() as chosen:
            dialog.get_by_role("button", name="Open a file").click()
        file = {"name": "class.csv", "mimeType": "text/csv", "buffer": LIST.encode("utf-16")}
        chosen.value.set_files(file)  # type: ignore[arg-type]
        expect(dialog.get_by_label("Names")).to_have_value(re.compile("Tarek;Saturday"))
        dialog.get_by_role("button", name="Look at the list").click()
        expect(dialog.get_by_role("row")).to_have_count(4)
        dialog.get_by_role("button", name="Make these pupils").click()
        expect(self.page.get_by_role("dialog")).to_contain_text("3 slips")
        with self.page.expect_download() as saved:
            self.page.get_by_role("button", name="Save the slips as PDF").click()
        text = PdfReader(io.BytesIO(saved.value.path().read_bytes())).pages[0].extract_text()
        codes = {}
        for row in self.page.get_by_role("dialog").get_by_role("row").all()[1:]:
            cells = row.get_by_role("cell").all_inner_texts()
            codes[cells[0]] = cells[3]
            self.assertIn(cells[3], text)
        self.page.get_by_role("button", name="Done", exact=True).click()
        expect(self.page.get_by_role("heading", level=1)).to_have_text("3 pupils")
        return codes

    def sign_in(self, page: Page, code: str) -> None:
        """Come in as a camera does that reads the slip."""
        page.goto(f"/account#slip={code}")
        expect(page.get_by_label("The code on your slip")).to_have_value(code)
        page.get_by_role("button", name="Open my work").press("Enter")
        expect(page.get_by_role("heading", level=1)).to_be_visible()

    def end(self, page: Page, *, touch: bool = False) -> None:
        """Finish the attempt, whatever has been left out."""
        finish = page.get_by_role("button", name="Finish", exact=True)
        sure = page.get_by_role("button", name="Finish and see").last
        if touch:
            finish.tap()
            sure.tap()
        else:
            for _ in range(60):  # where Tab has not come, Enter is the bench's own
                if finish.evaluate("button => button === document.activeElement"):
                    break
                page.keyboard.press("Tab")
            page.keyboard.press("Enter")
            sure.press("Enter")


class TheWeek(TeachTest):
    def test_a_class_an_exercise_three_who_do_it_and_what_the_teacher_reads(self) -> None:
        self.made_studio()
        codes = self.made_class()
        code = self.set_for_everyone()
        tarek = self.by_keyboard(codes["Tarek"])
        self.by_touch(codes["Liv"])
        self.by_code(code)
        self.read()
        self.remark()
        self.answer(tarek)

    def set_for_everyone(self) -> str:
        """Two minutes with everyone: adapted, tried, given to all and by a code; return that."""
        page = self.page
        page.get_by_role("link", name="Exercises").click()
        page.get_by_role("button", name="A first lesson, or two minutes").click()
        page.get_by_text("Two minutes with everyone").click()
        page.get_by_role("button", name="Make it").click()
        expect(page.get_by_role("heading", level=1)).to_have_text("Two minutes with everyone")
        page.get_by_label("A sentence to the pupils").fill("Up, a little at a time.")
        page.get_by_role("button", name="Keep the changes").click()
        page.get_by_role("button", name="Try it: part 1").click()
        expect(page.get_by_role("timer")).to_have_text(re.compile("[12]:[0-5][0-9]"))
        help_now = page.get_by_role("radiogroup", name="Help").or_(
            page.get_by_role("group", name="Help")
        )
        expect(help_now.get_by_role("radio")).to_have_count(1)  # by ear, and nothing else
        page.go_back()
        for to in ("By a code", "Everyone"):
            page.get_by_role("button", name="Set this exercise").click()
            page.get_by_role("dialog").get_by_text(to, exact=True).click()
            page.get_by_role("button", name="Set it", exact=True).click()
            expect(page.get_by_role("heading", level=1)).to_have_text("Nobody has finished it yet.")
            if to == "By a code":
                self.by_code_place = page.url
                wall = page.get_by_text(re.compile("^[A-Z49]{4}-[A-Z49]{4}$")).inner_text()
                page.get_by_role("link", name="Exercises").click()
                page.get_by_role("link", name="Open Two minutes with everyone").click()
        self.everyone_place = page.url
        return wall

    def by_keyboard(self, code: str) -> Page:
        page = self.other()
        self.sign_in(page, code)
        expect(page.get_by_text(f"From {self.name}")).to_be_visible()
        strip = page.get_by_role("region", name="Set by Skerrow Boathouse").first
        strip.get_by_role("button", name=re.compile("^Start: ")).press("Enter")
        expect(page.get_by_role("timer")).to_be_visible()
        keys = page.keyboard
        keys.press("Space")
        for _ in range(3):
            keys.press("ArrowUp")
        keys.press("r")  # ripples are not to be had
        expect(page.get_by_role("heading", level=1)).to_be_visible()
        self.end(page)
        expect(page.get_by_text("is done.")).to_be_visible()
        page.get_by_role("link", name="All of it").press("Enter")
        expect(page.get_by_text("You have done all of it.")).to_be_visible()
        return page

    def by_touch(self, code: str) -> None:
        page = self.other(touch=True)
        self.sign_in(page, code)
        page.get_by_role("link", name="All of it").tap()
        expect(page.get_by_text("Up, a little at a time.")).to_be_visible()
        page.get_by_role("button", name=re.compile("^Start: ")).tap()
        page.get_by_role("button", name=re.compile("^Tighten")).first.tap()
        self.end(page, touch=True)
        expect(page.get_by_text("is done.")).to_be_visible()

    def by_code(self, code: str) -> None:
        page = self.other()
        page.goto("/do")
        page.get_by_label("The code").press_sequentially(code.lower())
        page.get_by_label("The code").press("Enter")
        page.get_by_label("Your name, if you like").fill("Visitor")
        page.get_by_role("button", name=re.compile("^Start: ")).click()
        page.get_by_role("button", name=re.compile("^Tighten")).first.click()
        self.end(page)
        expect(page.get_by_text("is done.")).to_be_visible()

    def read(self) -> None:
        page = self.page
        page.goto(self.everyone_place)
        rows = page.get_by_role("table", name="Pupils").get_by_role("row")
        expect(rows).to_have_count(4)
        expect(rows.filter(has_text="Ansel")).to_contain_text("not yet")
        for name in ("Tarek", "Liv"):
            expect(rows.filter(has_text=name)).to_contain_text("once")
        expect(page.get_by_role("heading", level=1)).to_have_text(re.compile(r"of 2 "))
        expect(page.get_by_role("figure").get_by_role("img")).to_be_visible()
        page.get_by_role("button", name="Show the class, without names").click()
        main = page.get_by_role("main")
        expect(main.get_by_role("heading", level=1)).to_have_text(re.compile(r"of 2 "))
        for name in ("Tarek", "Liv", "Ansel"):
            expect(main.get_by_text(name)).to_have_count(0)
            self.assertNotIn(name, main.inner_html())
        page.get_by_role("button", name="Back to the names").click()
        page.get_by_role("link", name="Tarek").click()
        expect(page.get_by_text("Tarek ·")).to_be_visible()
        expect(page.get_by_role("button", name="Once more")).to_have_count(0)
        page.goto(self.by_code_place)
        expect(page.get_by_role("table", name="Pupils")).to_contain_text("Visitor")
        # whose work it was sees who looked
        page.goto(self.studio)
        page.get_by_role("link", name="Tarek").click()
        expect(page.get_by_role("heading", level=1)).to_have_text("Tarek")
        page.get_by_role("link", name="Studio", exact=True).click()
        page.get_by_text("Who saw and changed what").click()
        audit = page.get_by_role("table", name="Who saw and changed what")
        expect(audit).to_contain_text("looked at the work of Tarek")

    def remark(self) -> None:
        """From one pupil to the next by keys, with a remark on one."""
        page, keys = self.page, self.page.keyboard
        page.goto(self.everyone_place)
        page.get_by_role("link", name="Hear and remark, one after the other").press("Enter")
        marking = page.get_by_role("navigation", name="From one pupil to the next")
        expect(marking).to_contain_text("Liv, 1 of 2")
        keys.press("n")
        expect(marking).to_contain_text("Tarek, 2 of 2")
        keys.press("n")  # there is no third one
        page.get_by_role("slider", name="Moment of the attempt").press("End")
        keys.press("r")
        box = page.get_by_label(re.compile(r"^A remark at \d+:\d\d$"))
        expect(box).to_be_focused()
        keys.type("No hurry. Play it again, then turn.")  # no letter is a key meanwhile
        keys.press("Enter")
        remarks = page.get_by_role("region", name="Remarks")
        expect(remarks.get_by_role("button", name=re.compile("No hurry"))).to_be_visible()
        expect(box).to_have_value("")
        keys.press("p")
        expect(marking).to_contain_text("Liv, 1 of 2")
        expect(remarks.get_by_role("listitem")).to_have_count(0)

    def answer(self, page: Page) -> None:
        """The pupil hears the remark in its place, and does that spot again."""
        page.goto("/")
        strip = page.get_by_role("region", name=f"A remark by {self.name}")
        expect(strip).to_contain_text("No hurry. Play it again, then turn.")
        strip.get_by_role("link", name="Hear it in its place").press("Enter")
        remarks = page.get_by_role("region", name="Remarks")
        expect(remarks).to_contain_text(f"{self.name}.")
        expect(page.get_by_label(re.compile("^A remark at"))).to_have_count(0)
        remarks.get_by_role("button", name="Do this spot again").press("Enter")
        expect(page.get_by_role("button", name="Finish", exact=True)).to_be_visible()
        expect(page.get_by_role("timer")).to_have_count(0)  # it takes as long as it takes
        page.keyboard.press("Space")
        page.keyboard.press("ArrowUp")
        self.end(page)
        expect(page.get_by_role("heading", level=1)).to_be_visible()
        page.goto("/")
        expect(page.get_by_role("heading", level=1).first).to_be_visible()
        expect(strip).to_have_count(0)
        self.page.reload()
        marking = self.page.get_by_role("navigation", name="From one pupil to the next")
        expect(marking).to_contain_text("Liv, 1 of 2")
        self.page.keyboard.press("n")
        remarks = self.page.get_by_role("region", name="Remarks")
        expect(remarks).to_contain_text(re.compile(r"was .* Done again, it is "))
        remarks.get_by_role("link", name="Hear it done again").click()
        expect(self.page.get_by_role("button", name="Play", exact=True)).to_be_visible()


class Sharing(TeachTest):
    def test_pupils_take_turns_at_a_tablet_and_see_nothing_of_each_other(self) -> None:
        self.made_studio()
        self.made_class()
        slip = self.new_slip("Liv")
        self.page.get_by_role("link", name="Studio", exact=True).click()
        self.page.get_by_label("What this device is called").fill("Tablet 1")
        self.page.get_by_role("button", name="Share this device").click()
        expect(self.page.get_by_role("heading", level=1)).to_have_text("Who are you?")
        self.page.get_by_role("button", name="Liv", exact=True).click()
        for words in slip:
            self.choose(words)
        turn_over = self.page.get_by_role("button", name="Next pupil")
        expect(turn_over).to_be_visible()
        self.ask("POST", "/api/attempts", {})
        self.page.goto("/")
        expect(self.page.get_by_role("heading", name="Not finished yet")).to_be_visible()
        turn_over.click()
        expect(self.page.get_by_role("heading", level=1)).to_have_text("Who are you?")
        self.page.goto("/")
        expect(self.page.get_by_role("link", name="Who are you?")).to_be_visible()
        expect(self.page.get_by_role("heading", name="Not finished yet")).to_have_count(0)
        kept = self.page.evaluate("Object.keys(localStorage).filter((key) => /unsaved/.test(key))")
        self.assertEqual(kept, [])

    def new_slip(self, name: str) -> list[str]:
        """Make a new slip for a pupil; return the words of its pictures."""
        self.page.get_by_role("link", name=name).click()
        self.page.get_by_role("button", name="Make a new slip").click()
        slip = self.page.get_by_role("dialog").get_by_role("cell")
        expect(slip).to_have_count(4)
        cells = slip.all_inner_texts()
        self.page.get_by_role("button", name="Close without them").click()
        return [one.strip() for one in cells[2].split(", ")]

    def choose(self, words: str) -> None:
        """Choose a picture by its words, among all of them."""
        pictures = self.page.get_by_role("group", name="All pictures")
        pictures.get_by_role("button", name=words, exact=True).click()


class Joining(TeachTest):
    def test_a_pupil_joins_by_the_code_on_the_wall_and_leaves(self) -> None:
        self.made_studio()
        code = self.page.get_by_text(re.compile("^[A-Z49]{4}-[A-Z49]{4}$")).inner_text()
        pupil = self.other(touch=True)
        pupil.goto("/join")
        pupil.get_by_label("The code").fill(code.lower().replace("-", ""))
        pupil.get_by_role("button", name="Go on").tap()
        expect(pupil.get_by_text("Skerrow Boathouse, with")).to_be_visible()
        pupil.get_by_label("What your teacher calls you").fill("Mirre")
        pupil.get_by_role("button", name="Join", exact=True).tap()
        expect(pupil.get_by_role("list", name="Your studios")).to_contain_text("as Mirre")
        self.page.reload()
        expect(self.page.get_by_role("table", name="Pupils")).to_contain_text("a guest so far")
        pupil.get_by_role("button", name="Leave Skerrow Boathouse").tap()
        expect(pupil.get_by_role("list", name="Your studios")).to_have_count(0)
        self.page.reload()
        expect(self.page.get_by_role("heading", level=1)).to_have_text("No pupils yet")

    def test_another_teacher_comes_by_an_invitation(self) -> None:
        self.made_studio()
        self.page.get_by_role("link", name="Studio", exact=True).click()
        self.page.get_by_role("button", name="Invite a teacher").click()
        code = self.page.get_by_text(re.compile("^([A-Z49]{4}-){3}[A-Z49]{4}$")).inner_text()
        second = self.other()
        second.goto("/")
        self.ask("POST", "/api/account", {"name": "Bo the second"}, second)
        second.goto(f"/join#{code}")
        second.get_by_role("button", name="Go on").click()
        second.get_by_role("button", name="Join as a teacher").click()
        expect(second.get_by_role("link", name="Teach")).to_be_visible()
        second.get_by_role("link", name="Studio", exact=True).click()
        expect(second.get_by_role("button", name="Erase the studio")).to_have_count(0)
        # what the owner asks for takes the second person, who keeps it
        self.page.get_by_role("button", name="Erase the studio").click()
        self.page.get_by_role("button", name="Ask to erase it").click()
        second.reload()
        expect(second.get_by_text(f"{self.name} asked to erase this studio.")).to_be_visible()
        second.get_by_role("button", name="Keep the studio").click()
        expect(second.get_by_text("asked to erase")).to_have_count(0)


class Instruments(TeachTest):
    def test_an_instrument_is_put_on_the_shelf_changed_and_taken_off(self) -> None:
        self.made_studio()
        self.page.get_by_role("link", name="Shelf").click()
        self.page.get_by_role("button", name="Add an instrument").click()
        dialog = self.page.get_by_role("dialog")
        dialog.get_by_label("Label, as it stands on the shelf").fill("B1")
        dialog.get_by_label("A sentence about it").fill("The E is stubborn.")
        dialog.get_by_role("button", name="Keep").click()
        table = self.page.get_by_role("table", name="Instruments")
        expect(table).to_contain_text("The E is stubborn.")
        self.page.get_by_role("button", name="Change B1").click()
        dialog.get_by_role("button", name="Take it off the shelf").click()
        expect(table).to_have_count(0)
