"""The accessibility engine over every view, in both themes and at every size, with no finding."""

import re
from collections.abc import Mapping
from typing import Any, Final

from playwright.sync_api import expect

from tests.browser.base import ROOT, BrowserTest

AXE = (ROOT / "web" / "node_modules" / "axe-core" / "axe.min.js").read_text(encoding="utf-8")
RUN = "axe.run().then((r) => r.violations.map((v) => [v.id, v.nodes.map((n) => n.html)[0]]))"
SIZES = ((1280, 800), (820, 1180), (390, 844))
PREPARED = ("before", "method", "fitness", "plan", "compare", "retune")
BEGUN: Final[tuple[dict[str, object], ...]] = (
    {"method": "unison", "numbers": True},
    {"instrument": "viola", "method": "fifths", "behaviours": ["pegs"]},
    {"instrument": "sitar", "method": "drone"},
    {"method": "free"},
    {"method": "fault"},
)


class EveryView(BrowserTest):
    def begun(self, exercise: Mapping[str, object], *, finish: bool = False) -> str:
        """Begin an attempt, finish it if that is wanted, and return where it is."""
        attempt = self.page.evaluate(
            "(body) => fetch('/api/attempts', {method: 'POST', body: JSON.stringify(body),"
            " headers: {'content-type': 'application/json'}}).then((r) => r.json())",
            exercise,
        )
        place = f"/tune/{attempt['id']}"
        if finish:
            self.page.goto(place)
            expect(self.page.get_by_label("Pegs")).to_be_visible()
            self.page.keyboard.press("Space")
            self.page.get_by_role("button", name="Finish", exact=True).click()
            if exercise["method"] == "unison":
                self.page.get_by_role("button", name="Finish and see").last.click()
            self.page.wait_for_url("**/review/**")
            place = f"/review/{attempt['id']}"
        return place

    def results(self) -> list[str]:
        """Where the results of two sittings are: one where nothing was missed, one with a miss."""
        heard = self.page.get_by_role("heading", name="What was missed")
        found: dict[bool, str] = {}
        for _ in range(20):  # which way it lies is drawn: it may take some sittings
            place = self.sat("Enter", "Space", "k", "3")
            found[heard.is_visible()] = place
            if len(found) == 2:
                return list(found.values())
        raise AssertionError("a drill was always right, or always wrong")

    def sat(self, *keys: str) -> str:
        """Begin a sitting, press keys in it, and return where it is."""
        sitting = self.page.evaluate(
            "fetch('/api/drills', {method: 'POST', body: '{\"drill\": \"higher\"}',"
            " headers: {'content-type': 'application/json'}}).then((r) => r.json())"
        )
        place = f"/listen/{sitting['id']}"
        self.page.goto(place)
        expect(self.page.get_by_role("button", name="Stop here")).to_be_enabled()
        for key in keys:
            self.page.keyboard.press(key)
            self.page.wait_for_timeout(500)  # it is told, and on disk
        if keys[-1:] == ("3",):  # stop after one trial
            self.page.get_by_role("button", name="Stop here").click()
            expect(self.page.get_by_role("heading", name="Every trial")).to_be_visible()
        return place

    def open(self, place: str) -> None:
        """Open a page and wait until it stands."""
        self.page.goto(place)
        expect(self.page.locator("h1").first).to_be_attached()
        waiting = self.page.get_by_text(re.compile("Fetching|One moment|Making the plan"))
        expect(waiting).to_have_count(0)
        self.page.evaluate(AXE)

    def assert_no_barrier(self, light: str, size: tuple[int, int], what: str = "") -> None:
        """Ask the engine about the page that is open, in a theme and at a size."""
        width, height = size
        with self.subTest(self.page.url, light=light, width=width, what=what):
            self.page.evaluate(f"document.documentElement.dataset.theme = '{light}'")
            self.page.set_viewport_size({"width": width, "height": height})
            self.assertEqual(self.page.evaluate(RUN), [])
            wide = self.page.evaluate("document.documentElement.scrollWidth")
            self.assertLessEqual(wide, width, "the page is wider than the screen")

    def test_no_view_has_a_barrier(self) -> None:
        self.page.goto("/")
        done = self.begun({"method": "unison"}, finish=True)
        faulty = self.begun({"method": "fault"}, finish=True)
        places = [
            "/",
            *(f"/instruments/{one}" for one in PREPARED),
            "/tune",
            "/tune?method=fault",
            *(self.begun(exercise) for exercise in BEGUN),
            done,
            faulty,
            f"{done}/replay",
            "/listen",
            self.sat(),
            self.sat("Enter", "Space"),
            *self.results(),
            "/review",
            "/account",
            "/show",
            "/review/rubric",
            "/words",
            "/steps",
            "/licences",
        ]
        for place in places:
            self.open(place)
            for light in ("light", "dark"):
                for size in SIZES:
                    self.assert_no_barrier(light, size)

    def test_no_moment_of_a_guided_string_has_a_barrier(self) -> None:
        """While it plays, while it asks, while it answers, and with the music at the end."""
        self.page.goto("/")
        near = {"method": "unison", "start": "one", "out_string": 4, "out_cents": 2.0}
        place = self.begun({**near, "guided": True, "decides": False})
        far = self.begun({**near, "out_cents": 30.0, "guided": True, "decides": False})

        def looked_at(what: str) -> None:
            for light in ("light", "dark"):
                for size in SIZES:
                    self.assert_no_barrier(light, size, what)

        self.open(far)
        self.page.get_by_role("button", name="Play both").click()
        looked_at("playing")
        self.page.keyboard.press("ArrowUp")
        expect(self.page.get_by_role("button", name="Slower", exact=True)).to_be_visible()
        looked_at("asking")
        self.page.get_by_role("button", name="Slower", exact=True).click()
        self.page.get_by_role("button", name="In tune", exact=True).click()
        expect(self.page.locator("main")).to_contain_text("Listen once more.")
        looked_at("answering")
        self.open(place)
        self.page.get_by_role("button", name="Play both").click()
        self.page.wait_for_timeout(600)  # it is heard for a moment
        self.page.get_by_role("button", name="In tune", exact=True).click()
        expect(self.page.get_by_role("button", name=re.compile("before and now"))).to_have_count(2)
        looked_at("music")

    def test_no_page_of_a_studio_has_a_barrier(self) -> None:
        self.page.goto("/")
        ask = (
            "async ([path, body]) => (await fetch(path, {method: 'POST', body:"
            " JSON.stringify(body), headers: {'content-type': 'application/json'}})).json()"
        )

        def made(path: str, body: object) -> Any:
            return self.page.evaluate(ask, [path, body])

        made("/api/account", {"name": "Without barriers"})
        studio = made("/api/studios", {"name": "Boathouse"})["id"]
        api = f"/api/studios/{studio}"
        made(f"{api}/class", {"text": "Tarek;Saturday\nLiv;Saturday\n"})
        made(f"{api}/instruments", {"shelf": "V1", "instrument": "viola"})
        lesson = {"kind": "first_lesson", "instrument": "viola", "string": 2}
        task = made(f"{api}/tasks/ready", lesson)["id"]
        given = made(f"{api}/tasks/{task}/give", {"everyone": True, "by_link": True})
        members = self.page.evaluate(f"fetch('{api}').then((r) => r.json())")["members"]
        round_made = made(f"{api}/rounds", {"show": "chord", "count": 3})
        concert = made(f"{api}/ensembles", {"name": "Spring concert"})["id"]
        round_id = round_made["scene"]["id"]
        made("/api/rounds/join", {"code": round_made["code"]})
        moves = f"{api}/rounds/{round_id}/moves"
        for version, move in enumerate(("ask", "play", "tell")):
            told = made(moves, {"move": move, "version": version})
            self.assertEqual(told["scene"]["version"], version + 1)
        member = next(one["id"] for one in members if one["role"] == "pupil")
        teach = f"/teach/{studio}"
        places = [
            teach,
            f"{teach}/pupils/{member}",
            f"{teach}/exercises",
            f"{teach}/exercises/{task}",
            f"{teach}/given/{given['id']}",
            f"{teach}/rounds",
            f"{teach}/rounds/{round_id}",
            f"/round/{round_made['code']}",
            f"{teach}/concerts",
            f"{teach}/concerts/{concert}",
            f"{teach}/steps",
            f"{teach}/shelf",
            f"{teach}/studio",
            f"/set/{given['code']}",
            "/join",
            "/do",
            "/shared",
            "/parents",
        ]
        for place in places:
            self.open(place)
            self.assert_no_barrier("light", SIZES[0])
            self.assert_no_barrier("dark", SIZES[-1])

    def test_no_sheet_has_a_barrier(self) -> None:
        self.page.goto("/")
        self.page.goto(self.begun({"method": "unison", "behaviours": ["creep"]}))
        expect(self.page.get_by_label("Pegs")).to_be_visible()
        self.page.evaluate(AXE)
        for light in ("light", "dark"):
            for key in ("?", "y", "c"):
                self.page.keyboard.press(key)
                expect(self.page.get_by_role("dialog")).to_be_visible()
                self.assert_no_barrier(light, SIZES[0], key)
                self.page.keyboard.press("Escape")
                expect(self.page.get_by_role("dialog")).to_have_count(0)
                self.page.wait_for_timeout(150)  # the focus goes back to what opened it
