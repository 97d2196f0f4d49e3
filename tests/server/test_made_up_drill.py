"""A drill is one module and its place in the registry. One that is made up here is listed, sat,
measured and planned, judged by a class, set by a teacher, and taken along, known nowhere else.
"""

from dataclasses import replace
from unittest import mock

from meldrin.core.catalogue import instrument
from meldrin.core.drills import DRILLS, DrillExercise, with_instrument
from meldrin.core.drills.drill import EarModel, Interval, RoundChoice
from meldrin.core.drills.higher import HIGHER
from meldrin.core.learner import Ear, threshold_of
from meldrin.core.methods import METHODS
from meldrin.core.practice import skills_for
from tests.server.test_accounts import unpacked
from tests.server.test_rounds import RoundTest
from tests.server.test_tasks import TaskTest
from tests.server.test_today import TodayTest


def heard_by(ear: EarModel, _: float, __: Interval) -> float:
    return 7.0 * ear.spread


MADE_UP = replace(
    HIGHER,
    id="nearer",
    name="Near or far",
    about="Only made up",
    goals=(33.0, 22.0),
    heard_by=heard_by,
    drawn="pairs",
    in_rounds=(RoundChoice("Made up for a class", name="Made up"),),
    sizes={"large": (90.0, 90.0), "middle": (60.0, 60.0), "small": (30.0, 30.0)},
)
HALVES = replace(METHODS["each"], id="halves", drills=(("nearer", None),), questions=())
ON_VIOLA = {"drill": "nearer", "instrument": "viola", "string": 2}


class Known(TodayTest, RoundTest, TaskTest):
    def setUp(self) -> None:
        super().setUp()
        self.enterContext(mock.patch.dict(DRILLS, {"nearer": MADE_UP}))
        self.enterContext(mock.patch.dict(METHODS, {"halves": HALVES}))
        self.addCleanup(skills_for.cache_clear)

    def test_what_it_aims_at_and_how_an_ear_hears_it(self) -> None:
        skills = skills_for(instrument("viola"), "standard", "halves")
        self.assertEqual({one.drill for one in skills}, {"nearer"})
        first = skills[0]
        self.assertEqual([first.goal(0), first.goal(1), first.goal(2)], [33.0, 22.0, 22.0])
        asked = with_instrument(DrillExercise("nearer", "viola", seed=1, string=2))
        self.assertEqual(threshold_of(Ear(5.0, 0.3, spread=0.2), asked), 7.0 * 0.2)

    def test_it_is_listed_sat_and_taken_along(self) -> None:
        named = self.client.get("/api/names").json()["drills"][-1]
        self.assertEqual((named["id"], named["name"]), ("nearer", "Near or far"))
        self.assertEqual(self.client.get("/api/drills").json()["drills"][-1]["id"], "nearer")
        begun = self.client.post("/api/drills", json={**ON_VIOLA, "trials": 12})
        sitting = begun.json()["id"]
        self.assertEqual(self.client.get(f"/api/drills/{sitting}").json()["drawn"], "pairs")
        self.sit(sitting)
        result = self.client.get(f"/api/drills/{sitting}").json()["result"]
        self.assertEqual(len(result["trials"]), 12)
        figures = self.client.get("/api/figures.json").json()["sittings"]
        self.assertEqual([one["drill"] for one in figures], ["nearer"])
        files = unpacked(self.client.get("/api/learner/everything.zip").content)
        self.assertIn("nearer", str(files))

    def test_today_has_it_for_a_method_that_it_serves(self) -> None:
        plan = self.plan(instrument="viola", method="halves", minutes=20, concert="2026-11-23")
        named = {one["name"] for one in plan["items"] if one["kind"] == "drill"}
        self.assertIn("Near or far", named)

    def test_a_class_judges_it(self) -> None:
        offered = self.client.get("/api/names").json()["rounds"][-1]
        self.assertEqual(offered["words"], "Made up for a class")
        page = self.begun(sitting=ON_VIOLA, size="small", fading=False)
        self.assertEqual((page["scene"]["name"], page["scene"]["drawn"]), ("Made up", "pairs"))
        pupil = self.sits()
        self.move("ask", "play")
        self.assertEqual(self.says(pupil, 1, 0).status_code, 204)
        truth = self.move("tell")["scene"]["truth"]
        self.assertIn(abs(truth["difference"]), (0.0, 30.0))
        self.assertIsNone(truth["above"], "only what beats has water with sides")

    def test_a_teacher_sets_it(self) -> None:
        part = {"kind": "listen", "sitting": ON_VIOLA, "times": 1}
        given = self.given(self.made({"name": "Near or far?", "parts": [part]}), everyone=True)
        self.assertIn("Near or far", str(self.listed_given()))
        liv = self.signed_in(self.slips["Liv"]["code"])
        self.begin_part(liv, given["id"])
