import re
import signal
import tempfile
from pathlib import Path

from playwright.sync_api import Page, expect
from tools.server import Server

from meldrin.store.mariadb import MariaDb
from tests.browser.base import Application, BrowserTest
from tests.browser.player import unsaved, wait_until_saved


def begin(page: Page) -> None:
    page.goto("/")
    page.get_by_role("button", name="Start: The school guitar, all six strings").press("Enter")
    expect(page.get_by_test_id("ripple")).to_be_visible()


def moves(page: Page) -> list[int]:
    """How often each peg was turned, as the server tells a tab that joins again."""
    with page.expect_websocket() as joined:
        page.reload()
    welcome = joined.value.wait_for_event("framereceived")
    text = welcome if isinstance(welcome, str) else welcome.decode()
    return [int(n) for n in re.findall(r'"moves":(\d+)', text)]


class Killed(BrowserTest):
    """An application of its own, because it is killed."""

    def start_application(self) -> Application:
        folder = tempfile.TemporaryDirectory(prefix="meldrin-killed-")
        self.addCleanup(folder.cleanup)
        application = Application(Path(folder.name))
        application.start()
        self.addCleanup(application.end)
        return application

    def test_the_server_is_killed_and_the_attempt_goes_on(self) -> None:
        begin(self.page)
        for key in ("ArrowUp", "ArrowDown", "ArrowUp"):
            self.page.keyboard.press(key)
        wait_until_saved(self.page)
        self.page.keyboard.press("ArrowDown")  # perhaps saved, perhaps not, when the end comes
        self.application.end(signal.SIGKILL)
        expect(self.page.locator("main")).to_contain_text("Everything you did is kept")
        self.application.start()
        expect(self.page.locator("main")).not_to_contain_text("Everything you did is kept")
        wait_until_saved(self.page)
        self.page.keyboard.press("Space")
        expect(self.page.get_by_test_id("ripple")).to_be_visible()
        self.page.keyboard.press("ArrowUp")
        wait_until_saved(self.page)
        # up, down, up, down, up: five runs on string 5, the fourth from before the kill
        self.assertEqual(moves(self.page), [0, 0, 0, 0, 5, 0])


class DatabaseAway(BrowserTest):
    """A database that nobody starts again when it is away."""

    def start_application(self) -> Server:  # type: ignore[override]
        folder = Path(self.enterContext(tempfile.TemporaryDirectory(prefix="meldrin-browser-")))
        self.database = MariaDb(folder / "database")
        url = self.database.start().url
        self.addCleanup(self.database.stop)
        server = Server(folder / "state", database_url=url)
        server.start()
        self.addCleanup(server.stop)
        return server

    def test_turns_are_kept_until_it_is_back(self) -> None:
        begin(self.page)
        wait_until_saved(self.page)
        self.database.stop()
        self.page.keyboard.press("ArrowUp")
        expect(self.page.locator("main")).to_contain_text("cannot be saved for the moment")
        self.page.keyboard.press("ArrowDown")
        other = self.context.new_page()
        other.goto("/review")
        expect(other.locator("main")).to_contain_text("The records cannot be reached")
        self.assertGreaterEqual(unsaved(self.page), 2)
        self.database.start()
        wait_until_saved(self.page)
        expect(self.page.locator("main")).not_to_contain_text("cannot be saved")
        expect(other.locator("main")).to_contain_text("slightly out")
        self.assertEqual(moves(self.page), [0, 0, 0, 0, 2, 0])


class TwoTabs(BrowserTest):
    def test_the_newer_tab_plays_and_the_older_can_take_it_back(self) -> None:
        begin(self.page)
        wait_until_saved(self.page)
        second = self.context.new_page()
        second.goto(self.page.url)
        expect(second.get_by_role("button", name="Tighten")).to_be_enabled()
        self.page.keyboard.press("ArrowUp")
        expect(self.page.locator("main")).to_contain_text("goes on in another tab")
        self.page.get_by_role("button", name="Play it here instead").click()
        expect(self.page.get_by_role("button", name="Tighten")).to_be_enabled()
        self.page.keyboard.press("Space")
        expect(self.page.get_by_test_id("ripple")).to_be_visible()


class Erasing(BrowserTest):
    def test_everything_is_erased_after_asking(self) -> None:
        begin(self.page)
        self.page.goto("/review")
        self.page.get_by_role("button", name="Erase everything").click()
        dialog = self.page.get_by_role("alertdialog")
        dialog.get_by_role("button", name="Erase everything").click()
        expect(self.page.locator("main")).to_contain_text("Nothing yet")

    def test_somebody_elses_attempt_is_not_found(self) -> None:
        begin(self.page)
        stranger = self.window().new_page()
        stranger.goto(self.page.url)
        expect(stranger.locator("main")).to_contain_text("no such attempt among yours")


class Looks(BrowserTest):
    def test_the_working_screen_needs_no_scrolling(self) -> None:
        begin(self.page)
        for size in ((1280, 800), (820, 1180)):
            self.page.set_viewport_size({"width": size[0], "height": size[1]})
            tall, wide = self.page.evaluate(
                "[document.documentElement.scrollHeight, document.documentElement.scrollWidth]"
            )
            self.assertLessEqual((tall, wide), (size[1], size[0]))
            for area in self.page.locator("main > *").all():
                inner, outer = area.evaluate("(e) => [e.scrollHeight, e.clientHeight]")
                self.assertLessEqual(inner, outer + 1, f"{size}: {area.inner_text()[:40]}")
