"""The page as another machine gets it: under a name, over plain http."""

import tempfile
import unittest
from pathlib import Path

from playwright.sync_api import expect
from tools.server import Server

from tests.browser.base import FLAGS, chromium

NAME = "school.example"


class OverPlainHttp(unittest.TestCase):
    def test_it_says_that_there_is_no_sound_and_how_there_would_be_and_all_else_works(self) -> None:
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
        said = page.get_by_text("No sound here: browsers let a page play only where it comes by")
        expect(said).to_be_visible()
        expect(said).to_contain_text("docs/DEPLOY.md")
        page.get_by_role("button", name="Play the fork and the A string").click()
        expect(page.get_by_role("heading", level=1)).to_be_visible()
        page.wait_for_url("**/tune/*")
        expect(page.get_by_text("Fetching")).to_have_count(0)
        self.assertEqual(errors, [])
        page.goto(server.address)
        expect(page.get_by_role("heading", level=1)).to_be_visible()
        expect(page.get_by_text("No sound here")).to_have_count(0)
