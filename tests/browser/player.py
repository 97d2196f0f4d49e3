"""A player who goes by the beats as numbers, which an exercise may show; nothing else."""

import re
from collections.abc import Callable

from playwright.sync_api import Page, expect

NUMBERS = {"instrument": "guitar", "method": "unison", "start": "hair", "numbers": True}
UNDER = 0.05  # the screen says “under 0.1”
TOO_MANY = 18.0  # the screen counts up to 15
PROBE = 10  # small turns, enough to hear a difference on every string


def unsaved(page: Page) -> int:
    """How many actions the page still keeps because they are not acknowledged."""
    return int(
        page.evaluate(
            """Object.keys(localStorage).filter((key) => key.startsWith("meldrin:unsaved:"))
               .reduce((sum, key) => sum + JSON.parse(localStorage.getItem(key)).length, 0)"""
        )
    )


def wait_until_saved(page: Page) -> None:
    for _ in range(100):
        if unsaved(page) == 0:
            return
        page.wait_for_timeout(100)
    raise AssertionError("the actions were never saved")


class Player:
    """Tunes by trying: turn, see whether the ripples slow, turn as much as they still ask for."""

    def __init__(
        self,
        page: Page,
        *,
        sound: Callable[[], None],
        turn: Callable[[int], None],
    ) -> None:
        self._page = page
        self._sound = sound
        self._turn = turn

    def beats(self) -> float:
        """Sound the pair afresh and read the ripple."""
        self._sound()
        return self.read()

    def read(self) -> float:
        wait_until_saved(self._page)  # all that was turned has been answered
        self._page.wait_for_timeout(330)  # a look takes a moment: the number follows the sound
        shown = self._page.get_by_test_id("beats")
        expect(shown).to_be_visible()
        words = shown.inner_text()
        if words == "too many":
            return TOO_MANY
        return UNDER if "under" in words else float(words)

    def tune(self, *, still_hz: float = UNDER) -> None:
        """Bring the string to rest, arriving from below; slower than `still_hz` counts as rest."""
        before = self.beats()
        self._turn(PROBE)
        after = self.beats()
        if after > before:  # it was high: go clearly below, and look how fast a turn slows it there
            slope = (after - before) / PROBE
            self._turn(-min(60, round(after / slope) + 2 * PROBE))
            before = self.beats()
            self._turn(PROBE)
            after = self.beats()
        slope = max(0.02, (before - after) / PROBE)
        for _ in range(20):
            if after <= still_hz:
                return
            turns = min(40, max(1, int(0.8 * after / slope)))
            self._turn(turns)
            before, after = after, self.beats()
            if after > before:  # past it: clearly below again, and up once more
                # the slope was too small if the probe itself had gone from low to high
                slope = max(slope, (before + after) / turns)
                # as the number is rounded, a few turns more than it asks for
                self._turn(-min(40, round((before + after) / slope) + 5))
                after = self.beats()
        raise AssertionError("the string did not come to rest")


def show(page: Page, aid: str) -> None:
    """Ask for an aid by its key; where it would tell, look without saying anything first."""
    aids = page.get_by_role("radiogroup", name="Help")
    expect(aids.get_by_role("radio", checked=True)).to_be_visible()  # no key is heard before
    page.keyboard.press({"level": "w", "tuner": "t"}[aid])
    # a method that reads a tuner asks for no judgement before the tuner is looked at
    look = page.get_by_role("button", name="Show it without saying")
    shown = aids.get_by_role("radio", name=aid.capitalize(), checked=True)
    expect(look.or_(shown)).to_be_visible()
    if look.is_visible():
        look.press("Enter")
    expect(shown).to_be_visible()
    expect(page.get_by_role("dialog")).to_be_hidden()


def start(page: Page, **exercise: object) -> None:
    """Start an exercise as the page that offers it does, and open it."""
    page.goto("/review")
    attempt = page.evaluate(
        "(body) => fetch('/api/attempts', {method: 'POST', body: JSON.stringify(body),"
        " headers: {'content-type': 'application/json'}}).then((r) => r.json())",
        exercise,
    )
    page.goto(f"/tune/{attempt['id']}")
    expect(page.get_by_label("Pegs")).to_be_visible()


def finish(page: Page) -> None:
    """Say that all is done, where the bench asks it."""
    page.get_by_role("dialog").get_by_role("button", name="Finish and see").press("Enter")


def points(page: Page) -> int:
    """The points on the result page."""
    shown = page.locator(".points")
    expect(shown).to_be_visible()
    found = re.match(r"\d+", shown.inner_text())
    assert found is not None
    return int(found.group(0))
