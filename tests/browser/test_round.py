"""A round with the class: one wall and ten browsers on two server processes. One is signed in, two
sit at one keyboard, one comes late, one is lost and comes back.
"""

import atexit
import re
import tempfile
from functools import cache
from pathlib import Path
from typing import Any

import psutil
from playwright.sync_api import Page, Route, expect

from tests.browser.base import Application
from tests.browser.test_teach import TeachTest

ANSWERS = ("High", "In tune", "Low")
CODE = re.compile("^[A-Z49]{4}-[A-Z49]{4}$")


@cache
def two_processes() -> Application:
    """The application with two workers; it ends with the run."""
    folder = tempfile.TemporaryDirectory(prefix="meldrin-round-")
    application = Application(Path(folder.name), "--workers", "2")
    application.start()
    atexit.register(folder.cleanup)
    atexit.register(application.end)
    return application


class ClassRound(TeachTest):
    def start_application(self) -> Application:
        return two_processes()

    def test_ten_judge_what_they_hear_and_see_what_it_was(self) -> None:
        wall = self.page
        studio: Any = self.ask("POST", "/api/studios", {"name": "Skerrow Boathouse"})
        place = f"/api/studios/{studio['id']}"
        slips: Any = self.ask("POST", f"{place}/class", {"text": "Liv\n"})
        wall.goto(f"/teach/{studio['id']}/rounds")
        wall.get_by_text("3 to judge").click()
        wall.get_by_text("Help that fades").click()
        wall.get_by_role("button", name="Open the round").click()
        code = wall.get_by_text(CODE).inner_text()

        phones = [self.other(touch=True) for _ in range(8)]
        self.sign_in(phones[0], slips[0]["code"])
        self.comes(phones[0], code)
        keyboard = self.other()
        for screen in (*phones[1:7], keyboard):
            screen.goto(f"/round/{code}")
            expect(screen.get_by_text("You are in.")).to_be_visible()
        keyboard.get_by_role("button", name="2", exact=True).press("Enter")
        expect(keyboard.get_by_text("2 at this keyboard")).to_be_visible()
        expect(wall.get_by_text("9 are here.")).to_be_visible()
        self.served_by_both()

        # the first question: nobody can answer before it sounds
        wall.keyboard.press("Enter")
        expect(phones[3].get_by_text("Wait for the sound.")).to_be_visible()
        expect(phones[3].get_by_role("button", name="High")).to_be_disabled()
        wall.get_by_role("button", name="Play it").click()
        for at, phone in enumerate(phones[:7]):
            phone.get_by_role("button", name=ANSWERS[at % 3]).tap()
        phones[1].get_by_role("button", name="Sure").tap()
        keyboard.keyboard.press("KeyQ")  # the top row: high
        keyboard.keyboard.press("KeyV")  # the lowest row: low
        for screen in (wall, phones[6]):
            expect(screen.get_by_text(re.compile("9 of 9 have answered"))).to_be_visible()

        # one is lost, and comes back with what was said; another one comes late
        lost = phones[2]
        lost.goto("about:blank")
        expect(wall.get_by_text("9 of 9 have answered.")).to_be_visible()
        lost.goto(f"/round/{code}")
        expect(lost.get_by_role("button", name="Low ✓")).to_be_visible()
        self.comes(phones[7], code, says="Listen.")
        phones[7].get_by_role("button", name="In tune").tap()
        expect(wall.get_by_text("10 of 10 have answered.")).to_be_visible()

        wall.get_by_role("button", name="Show the answer").click()
        said = wall.get_by_role("list", name="What was said")
        # 7 phones say high, in tune, low in turn; then the keyboard, and the one who came late
        for words, count in (("High", 4), ("In tune", 3), ("Low", 3)):
            row = said.get_by_role("listitem").filter(has_text=words)
            expect(row.locator("span").last).to_have_text(str(count))
        for screen in phones:
            expect(screen.get_by_role("list", name="What was said")).to_be_visible()
        self.assertNotIn("Liv", wall.get_by_role("main").inner_text())

        for _ in range(2):
            wall.get_by_role("button", name="Next").click()
            wall.get_by_role("button", name="Play it").click()
            expect(phones[0].get_by_role("button", name="High")).to_be_enabled()
            phones[0].get_by_role("button", name="High").tap()
            expect(wall.get_by_text(re.compile("^1 of 10 have answered"))).to_be_visible()
            wall.get_by_role("button", name="Show the answer").click()
        wall.get_by_role("button", name="See how it went").click()
        expect(wall.get_by_role("heading", level=1)).to_have_text(
            re.compile(r"The class was right \d+ of 12 times\.")
        )
        expect(phones[0].get_by_text(re.compile(r"You were right \d of 3 times"))).to_be_visible()
        figures = phones[0].evaluate("fetch('/api/figures.json').then((one) => one.json())")
        (kept,) = figures["sittings"]
        self.assertEqual((kept["drill"], kept["trials"], kept["in_class"]), ("width", 3, True))

    def test_it_is_played_though_the_reply_to_the_question_is_late(self) -> None:
        """The line tells the question before the reply to the move that asked it."""
        wall = self.page
        studio: Any = self.ask("POST", "/api/studios", {"name": "Skerrow Boathouse"})
        wall.goto(f"/teach/{studio['id']}/rounds")
        wall.get_by_text("3 to judge").click()
        wall.get_by_role("button", name="Open the round").click()
        code = wall.get_by_text(CODE).inner_text()
        phone = self.other(touch=True)
        self.comes(phone, code)

        held: list[Route] = []
        wall.route("**/moves", lambda route: held.append(route), times=1)
        wall.get_by_role("button", name="Begin: 3 to judge").click()
        expect(wall.get_by_role("button", name="Begin: 3 to judge")).to_be_visible()
        reply = held[0].fetch()  # the server has moved on, and the line tells it
        sounds = "**/sound"
        with wall.expect_response(sounds):
            wall.get_by_role("button", name="Play it").click()
        wall.wait_for_timeout(1000)  # it sounds before the reply comes
        held[0].fulfill(response=reply)
        expect(phone.get_by_role("button", name="High")).to_be_enabled()

    def comes(self, page: Page, code: str, says: str = "You are in.") -> None:
        """Come in by the code on the wall."""
        page.goto("/do")
        page.get_by_label("The code").press_sequentially(code.replace("-", " ").lower())
        page.get_by_role("button", name="Open it").press("Enter")
        expect(page.get_by_text(says)).to_be_visible()

    def served_by_both(self) -> None:
        """Each worker has some of the lines."""
        port = int(self.application.address.rsplit(":", 1)[-1])
        serving = [
            process.pid
            for process in psutil.Process(self.application.pid).children(recursive=True)
            if any(
                one.status == psutil.CONN_ESTABLISHED and one.laddr.port == port
                for one in process.net_connections("tcp")
            )
        ]
        self.assertEqual(len(serving), 2)


class EachPlays(TeachTest):
    def test_each_device_plays_a_keyboard_too_and_the_teacher_ends_it_early(self) -> None:
        wall = self.page
        studio: Any = self.ask("POST", "/api/studios", {"name": "Skerrow Boathouse"})
        wall.goto(f"/teach/{studio['id']}/rounds")
        wall.get_by_text("3 to judge").click()
        wall.get_by_text("Each device plays it").click()
        wall.get_by_role("button", name="Open the round").click()
        code = wall.get_by_text(CODE).inner_text()
        phone, keyboard = self.other(touch=True), self.other()
        for screen in (phone, keyboard):
            screen.goto(f"/round/{code}")
            expect(screen.get_by_text("You are in.")).to_be_visible()
        keyboard.get_by_role("button", name="2", exact=True).press("Enter")
        expect(wall.get_by_text("3 are here.")).to_be_visible()
        wall.get_by_role("button", name="Begin: 3 to judge").click()

        # the wall plays nothing, and nobody waits for it
        for screen in (phone, keyboard):
            asked = screen.expect_response(re.compile("/sound$"))
            with asked as sound:
                screen.get_by_role("button", name="Play it").click()
            self.assertEqual(sound.value.status, 200)
        phone.get_by_role("button", name="Low").tap()
        keyboard.keyboard.press("KeyQ")
        keyboard.keyboard.press("KeyV")
        expect(wall.get_by_text("3 of 3 have answered.")).to_be_visible()
        wall.get_by_role("button", name="Show the answer").click()
        expect(phone.get_by_role("list", name="What was said")).to_be_visible()

        wall.get_by_role("button", name="End here").click()
        expect(wall.get_by_role("heading", level=1)).to_have_text(
            re.compile(r"The class was right \d of 3 times\.")
        )
        expect(wall.get_by_role("row")).to_have_count(2)  # its head, and the one question
        expect(keyboard.get_by_text("This round is over.")).to_be_visible()
        late = self.other(touch=True)
        late.goto(f"/round/{code}")
        expect(late.get_by_role("link", name="Type the code again")).to_be_visible()

        wall.get_by_role("button", name="Another round").click()
        expect(wall.get_by_role("radio", name="3 to judge")).to_be_checked()
        expect(wall.get_by_role("checkbox", name="Each device plays it")).to_be_checked()
