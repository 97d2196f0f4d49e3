"""The day’s plan on the first page, and how one gets on, as a learner meets them."""

import json
import re
from datetime import UTC, datetime, timedelta

from playwright.sync_api import expect

from tests.browser.base import BrowserTest


def sitting(days: float, middle: float) -> dict[str, object]:
    return {
        "drill": "higher",
        "known_by": "middle",
        "at": (datetime.now(UTC) - timedelta(days=days)).isoformat(),
        "right": 9,
        "trials": 12,
        "instrument": "viola",
        "threshold": {"low": middle / 1.5, "middle": middle, "high": 1.5 * middle},
        "sure": [{"sure": "sure", "answers": 10, "right": 7}],
    }


class TodayTest(BrowserTest):
    def bring(self, *sittings: dict[str, object]) -> None:
        """Bring figures in, as they are taken out."""
        file = {"format": "meldrin figures", "version": 1, "sittings": sittings, "attempts": []}
        self.page.goto("/")
        status = self.page.evaluate(
            "async (body) => (await fetch('/api/figures', {method: 'POST', body,"
            " headers: {'Content-Type': 'text/plain'}})).status",
            json.dumps(file),
        )
        self.assertEqual(status, 201)

    def aim(self, **aim: object) -> None:
        self.page.goto("/")
        status = self.page.evaluate(
            "async (body) => (await fetch('/api/today/aim', {method: 'PUT', body,"
            " headers: {'Content-Type': 'application/json'}})).status",
            json.dumps({"instrument": "viola", "method": "fifths", **aim}),
        )
        self.assertEqual(status, 200)

    def test_a_newcomer_sees_the_string_first(self) -> None:
        self.page.goto("/")
        expect(self.page.get_by_role("heading", level=1)).to_have_text(
            "Bring a string to rest, by ear."
        )
        expect(self.page.get_by_text("Today:")).to_have_count(0)

    def test_one_press_begins_the_plan_and_it_can_be_left_and_gone_on_with(self) -> None:
        self.aim(minutes=5)
        self.page.goto("/")
        expect(self.page.get_by_role("heading", level=1)).to_have_text("Today: Still or beating")
        items = self.page.get_by_role("list").first.get_by_role("listitem")
        expect(items).to_have_count(2)
        self.page.get_by_role("button", name=re.compile("^Start: Still or beating")).press("Enter")
        expect(self.page.get_by_role("heading", name="First, one of each")).to_be_visible()
        sat = self.page.url
        self.page.get_by_role("link", name="Today").first.click()
        self.page.get_by_role("button", name=re.compile("^Go on: Still or beating")).press("Enter")
        expect(self.page.get_by_role("heading", name="First, one of each")).to_be_visible()
        self.assertEqual(self.page.url, sat)
        # what is stopped at once is over: the next part follows, on the bench
        self.page.get_by_role("button", name="Stop here").press("Enter")
        strip = self.page.get_by_role("region", name="Today")
        expect(strip).to_contain_text("Next: One string out")
        strip.get_by_role("button", name="Start").press("Enter")
        expect(self.page).to_have_url(re.compile("/tune/"))

    def test_the_next_steps_are_seen_and_any_step_can_be_tried(self) -> None:
        self.aim()
        self.page.goto("/")
        expect(self.page.get_by_role("button", name=re.compile("^Try: "))).to_have_count(2)
        self.page.get_by_role("link", name="All steps").click()
        expect(self.page.get_by_role("heading", level=2)).to_have_text(
            ["Hear it", "Stop it", "Tune it", "Keep it"]
        )
        self.page.get_by_role("button", name="Try: Tune in a noisy room").press("Enter")
        expect(self.page).to_have_url(re.compile("/tune/"))
        expect(self.page.get_by_role("group", name="The instrument")).to_be_visible()

    def test_what_is_practised_for_is_changed_in_a_dialog(self) -> None:
        self.aim()
        self.page.goto("/")
        self.page.get_by_role("button", name="What you practise for").press("Enter")
        dialog = self.page.get_by_role("dialog")
        tomorrow = (datetime.now(UTC) + timedelta(days=1)).date().isoformat()
        dialog.get_by_label("A concert, if there is one").fill(tomorrow)
        dialog.get_by_label("What it is called").fill("Harbour concert")
        dialog.get_by_role("button", name="Use this").press("Enter")
        expect(self.page.get_by_text(re.compile("^You play (today|tomorrow):"))).to_be_visible()
        said = re.compile("^Harbour concert (today|tomorrow)\\.$")
        expect(self.page.get_by_text(said)).to_be_visible()
        with self.page.expect_download() as saved:
            self.page.get_by_role("button", name="What you practise for").press("Enter")
            self.page.get_by_role("link", name="Put it in a calendar").press("Enter")
        self.assertIn("DTSTART;VALUE=DATE", saved.value.path().read_text())

    def test_how_one_gets_on_is_said_shown_and_taken_along(self) -> None:
        self.bring(sitting(35.0, 14.0), sitting(2.0, 6.0))
        self.page.goto("/review")
        region = self.page.get_by_role("region", name="How you get on")
        expect(region).to_contain_text(
            "You now hear 6 cents on middle notes; four weeks ago 14 cents."
        )
        expect(region).to_contain_text("When sure, you are right 7 times in 10.")
        region.get_by_role("button", name="What you hear").press("Enter")
        row = region.get_by_role("row", name=re.compile("Higher or lower, middle notes"))
        expect(row).to_contain_text("6 cents")
        with self.page.expect_download() as saved:
            region.get_by_role("link", name="Save this table (CSV)").first.press("Enter")
        self.assertEqual(len(saved.value.path().read_text().splitlines()), 3)
        with self.page.expect_download() as saved:
            region.get_by_role("link", name="One page for a lesson (PDF)").press("Enter")
        self.assertTrue(saved.value.path().read_bytes().startswith(b"%PDF"))
        region.get_by_role("radio", name="1 week").press("Enter")
        expect(region).not_to_contain_text("four weeks ago")
