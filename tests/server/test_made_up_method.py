"""A method is one module and its line in the registry. One that is made up here, and known nowhere
else, shows in the command, the API, the names of the page, and the PDF.
"""

import contextlib
import io
import unittest
from dataclasses import replace
from unittest import mock

from pypdf import PdfReader

from meldrin.commands import main
from meldrin.core.bench import Exercise
from meldrin.core.methods import METHODS, Method, Plan, Reason, Wanted, plan_by
from meldrin.core.names import exercise_name, exercise_title
from tests.server.base import ServerTest
from tests.server.test_accounts import unpacked


def halves(wanted: Wanted) -> Plan:
    """As note by note, under another name."""
    return replace(METHODS["each"].plan(wanted), method="halves")


MADE_UP = Method(
    id="halves",
    name="By halves",
    about="Only made up",
    how="by halves",
    plan=halves,
    reasons=(Reason(99.0, "It was asked for.", lambda *_: True),),
    orders=("usual", "down"),
)


class MadeUp(ServerTest):
    def setUp(self) -> None:
        super().setUp()
        self.enterContext(mock.patch.dict(METHODS, {"halves": MADE_UP}))

    def test_in_the_api_and_its_pdf(self) -> None:
        named = self.client.get("/api/names").json()["methods"][-1]
        self.assertEqual((named["id"], named["name"]), ("halves", "By halves"))
        self.assertEqual(named["orders"], ["usual", "down"])
        ranked = self.client.get("/api/methods", params={"instrument": "viola"}).json()
        self.assertEqual(
            (ranked[0]["method"], ranked[0]["reasons"]), ("halves", ["It was asked for."])
        )
        asked = {"instrument": "viola", "method": "halves"}
        plan = self.client.get("/api/plan", params=asked).json()
        self.assertEqual((plan["method"], plan["method_name"]), ("halves", "By halves"))
        card = self.client.get("/api/plan.pdf", params=asked)
        self.assertIn("By halves", PdfReader(io.BytesIO(card.content)).pages[0].extract_text())

    def test_at_the_bench(self) -> None:
        page = self.client.get(f"/api/attempts/{self.begin(instrument='viola', method='halves')}")
        self.assertEqual(page.json()["title"], "By halves")
        self.assertEqual(page.json()["summary"]["name"], "Viola: slightly out, by halves")

    def test_today_practises_for_it(self) -> None:
        wanted = {"instrument": "viola", "method": "halves", "minutes": 20, "concert": "2026-11-23"}
        plan = self.client.post("/api/today/plans", json=wanted)
        self.assertEqual(plan.status_code, 201, plan.text)
        self.assertIn("Still or beating", {one["name"] for one in plan.json()["items"]})

    def test_it_is_kept_and_taken_along(self) -> None:
        self.begin(instrument="viola", method="halves")
        files = unpacked(self.client.get("/api/learner/everything.zip").content)
        self.assertIn("halves", str(files))

    def test_in_the_command(self) -> None:
        out = io.StringIO()
        with contextlib.redirect_stdout(out):
            self.assertEqual(main(["plan", "viola", "--method", "halves"]), 0)
        self.assertIn("by halves", out.getvalue())


class Unknown(unittest.TestCase):
    def test_without_its_line_nothing_knows_it(self) -> None:
        viola = Exercise("viola", "each", "hair", 1)
        self.assertNotIn("halves", METHODS)
        self.assertEqual(
            (exercise_title(viola), exercise_name(viola)[-12:]), ("Note by note", "note by note")
        )
        with self.assertRaisesRegex(Exception, "Unknown method “halves”"):
            plan_by("halves", Wanted(viola.instrument, viola.tuning_in))
