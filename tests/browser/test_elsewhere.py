"""The page as another machine gets it: under a name, over plain http."""

import tempfile
import unittest
from pathlib import Path

from playwright.sync_api import expect
from tools.server import Server

from tests.browser.base import FLAGS, chromium

NAME = "school.example"


class OverPlainHttp(unittest.TestCase):
    def test_it_says_what_sounds_there_and_how_all_would_and_the_rest_works(self) -> None:
        folder = tempfile.TemporaryDirectory(prefix="meldrin-browser-")
        self.addCleanup(folder.cleanup)
        server = Server(Path(folder.name), "--name", NAME)
        server.start()
        self.addCleanup(server.stop)
        browser = chromium().browser_type.launch(
            executable_path="/usr/bin/chromium",
            args=[*FLAGS, f"--host-resolver-rules=MAP {NAME} 127.0.0.1"],
        )
        self.addCleanup(browser.close)
        page = browser.new_page(base_url=server.address.replace("127.0.0.1", NAME))
        errors: list[str] = []
        page.on("pageerror", lambda error: errors.append(str(error)))
        page.goto("/")
        said = page.get_by_text("Only the drills under Listen sound here")
        expect(said).to_be_visible()
        expect(said).to_contain_text("docs/DEPLOY.md")
        page.get_by_role("button", name="Start: The school guitar, all six strings").click()
        expect(page.get_by_role("heading", level=1)).to_be_visible()
        page.wait_for_url("**/tune/*")
        expect(page.get_by_text("Fetching")).to_have_count(0)
        # what comes as samples sounds there too
        page.goto("/listen")
        page.get_by_role("button", name="Start: Still or beating", exact=True).click()
        page.get_by_role("button", name="Begin").click()
        page.get_by_role("button", name="Play it").click()
        expect(page.get_by_role("button", name="Play it again")).to_be_visible()
        page.wait_for_timeout(1800)  # a page without sound would have been told so by now
        expect(page.get_by_text("This machine gives the page no sound")).to_have_count(0)
        self.assertEqual(errors, [])
        page.goto(server.address)
        expect(page.get_by_role("heading", level=1)).to_be_visible()
        expect(page.get_by_text("Only the drills under Listen sound here")).to_have_count(0)
