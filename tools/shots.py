"""The screenshots in docs/screenshots, taken of the running demo by this script alone."""

import os
import re
import subprocess
import sys
import tempfile
from pathlib import Path

from playwright.sync_api import Browser, BrowserContext, Page, expect, sync_playwright

ROOT = Path(__file__).resolve().parents[1]
FOLDER = ROOT / "docs" / "screenshots"
DESK = (1280, 800)
PHONE = (390, 844)
INSTRUMENTS = (
    ("instruments-before", "before?instrument=viola"),
    ("instruments-method", "method?instrument=viola"),
    ("instruments-plan", "plan?instrument=viola&method=fifths"),
    ("instruments-retune", "retune?instrument=mandola&tuning=cross-d"),
)


def take_shots() -> int:
    """Start the demo on a state folder of its own and take every picture."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(prefix="meldrin-shots-") as state:
        demo = subprocess.Popen(
            [sys.executable, "-m", "meldrin", "demo", "--port", "0"],
            env={**os.environ, "MELDRIN_STATE": state},
            stdout=subprocess.PIPE,
            text=True,
        )
        assert demo.stdout is not None
        lines = "".join(demo.stdout.readline() for _ in range(3))
        address, enter, teach = re.findall(r"http://\S+", lines)
        try:
            with sync_playwright() as playwright:
                browser = playwright.chromium.launch(
                    executable_path="/usr/bin/chromium",
                    args=["--no-sandbox", "--disable-gpu", "--disable-background-networking"],
                )
                _all(browser, address, enter, teach)
                browser.close()
        finally:
            demo.terminate()
            demo.communicate()
    return 0


def _all(browser: Browser, address: str, enter: str, teach: str) -> None:
    desk = _window(browser, address, DESK, "light")
    page = desk.new_page()
    page.goto("/")
    expect(page.get_by_role("button", name="Play D", exact=True)).to_be_visible()
    _take(page, "first-page")
    for name, place in INSTRUMENTS:
        page.goto(f"/instruments/{place}")
        expect(page.locator("main li, main table, main figure").first).to_be_visible()
        _take(page, name)
    page.goto("/")
    page.get_by_role("button", name="Play two strings").click()
    expect(page.get_by_test_id("ripple")).to_be_visible()
    page.wait_for_timeout(1800)
    page.keyboard.press("ArrowUp")
    page.wait_for_timeout(900)
    _take(page, "tune-first")
    page.goto("/tune?instrument=guitar&method=unison")
    _begin(page)
    _play(page, 6)
    _take(page, "tune-ripple")
    _open(page, {"instrument": "guitar", "method": "fault"})
    page.get_by_role("button", name="Fret 12", exact=True).click()
    page.wait_for_timeout(700)
    _take(page, "tune-fault")
    page.goto("/show")
    page.get_by_role("button", name="A fixed and a floating bridge").click()
    expect(page.get_by_role("heading", level=2)).to_have_text("A fixed and a floating bridge")
    page.keyboard.press("2")
    page.keyboard.press("w")
    expect(page.get_by_role("status")).to_be_visible()
    _take(page, "show")
    page.goto(enter)
    page.goto("/tune")
    expect(page.get_by_role("button", name="Start: One string")).to_be_visible()
    _take(page, "tune-choose")
    page.goto("/review")
    expect(page.get_by_role("table").last).to_be_visible()
    _take(page, "review")
    page.get_by_role("link", name=re.compile("Cello: moved to a drier room")).last.click()
    expect(page.locator(".points")).to_be_visible()
    _take(page, "review-attempt")
    page.goto("/review")
    page.get_by_role("link", name=re.compile("Tenor guitar")).first.click()
    page.get_by_role("link", name="Play it back").click()
    page.get_by_label("Moments to go back to").get_by_role("button").first.click()
    page.wait_for_timeout(3200)
    _take(page, "review-replay")

    dark = _window(browser, address, DESK, "dark").new_page()
    dark.goto(enter)
    dark.goto("/")
    expect(dark.get_by_role("heading", name=re.compile("^Today: "))).to_be_visible()
    _take(dark, "today-dark")
    page.goto("/listen")
    page.get_by_role("button", name="Start: Narrow, true or wide").click()
    page.get_by_role("button", name="Begin").click()
    page.keyboard.press("Space")
    page.wait_for_timeout(3200)
    page.keyboard.press("k")
    _take(page, "listen-sitting")
    lesson = _window(browser, address, DESK, "light").new_page()
    lesson.goto(teach)
    expect(lesson.get_by_role("heading", level=1)).to_have_text("9 pupils")
    lesson.get_by_role("link", name="Exercises").click()
    lesson.get_by_role("link", name="Open Fifths on the viola").click()
    expect(lesson.get_by_role("button", name="Set this exercise")).to_be_visible()
    _take(lesson, "teach-exercise")
    lesson.get_by_role("link", name="Exercises").click()
    lesson.get_by_role("link", name="Fifths on the viola", exact=True).click()
    expect(lesson.get_by_role("heading", name="Whom to help first")).to_be_visible()
    _take(lesson, "teach-results")
    _round(browser, address, lesson)
    phone = _window(browser, address, PHONE, "light").new_page()
    phone.goto("/tune?instrument=guitar&method=unison")
    _begin(phone)
    _play(phone, 6)
    _take(phone, "tune-phone")


def _round(browser: Browser, address: str, wall: Page) -> None:
    """A question of a round, with some who have answered."""
    wall.get_by_role("link", name="Rounds").click()
    wall.get_by_role("button", name="Open the round").click()
    code = wall.get_by_text(re.compile("^[A-Z49]{4}-[A-Z49]{4}$")).inner_text()
    said = []
    for answer in ("Low", "Low", "High", "Low", "In tune"):
        phone = _window(browser, address, PHONE, "light").new_page()
        phone.goto(f"/round/{code}")
        expect(phone.get_by_text("You are in.")).to_be_visible()
        said.append((phone, answer))
    wall.get_by_role("button", name=re.compile("^Begin")).click()
    wall.get_by_role("button", name="Play it").click()
    for phone, answer in said:
        phone.get_by_role("button", name=answer).click()
    expect(wall.get_by_text("5 of 5 have answered.")).to_be_visible()
    wall.get_by_role("button", name="Show the answer").click()
    wall.wait_for_timeout(3800)
    _take(wall, "teach-round")
    for phone, _ in said:
        phone.context.close()


def _open(page: Page, exercise: dict[str, object]) -> None:
    """Begin an exercise of one's own choice."""
    attempt = page.evaluate(
        "(body) => fetch('/api/attempts', {method: 'POST', body: JSON.stringify(body),"
        " headers: {'content-type': 'application/json'}}).then((r) => r.json())",
        exercise,
    )
    page.goto(f"/tune/{attempt['id']}")
    expect(page.get_by_label("Pegs")).to_be_visible()
    page.wait_for_timeout(500)


def _window(browser: Browser, address: str, size: tuple[int, int], light: str) -> BrowserContext:
    return browser.new_context(
        base_url=address,
        viewport={"width": size[0], "height": size[1]},
        color_scheme="dark" if light == "dark" else "light",
        timezone_id="Europe/Oslo",
    )


def _begin(page: Page) -> None:
    page.get_by_role("button", name="Start and hear it").click()
    expect(page.get_by_test_id("ripple")).to_be_visible()
    page.wait_for_timeout(1800)


def _play(page: Page, turns: int) -> None:
    for _ in range(turns):
        page.keyboard.press("ArrowUp")
        page.wait_for_timeout(380)
    page.wait_for_timeout(900)


def _take(page: Page, name: str) -> None:
    page.wait_for_timeout(400)
    page.screenshot(path=FOLDER / f"{name}.png")
