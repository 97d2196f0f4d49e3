"""Every route and every line with another's identity: nothing is read and nothing changes."""

from collections.abc import Iterator
from typing import Any, Final

from fastapi.routing import APIRoute
from fastapi.testclient import TestClient
from sqlalchemy import select

from meldrin.core.bench import Exercise, Finish, Play, TimedAction, Turn
from meldrin.reports.attempt_record import attempt_text
from meldrin.server.app import AREAS
from meldrin.server.practices import routers
from meldrin.store.tables import (
    AccountRow,
    ActionRow,
    AimRow,
    AttemptRow,
    FigureRow,
    InstrumentRow,
    LearnerRow,
    ResultRow,
    SignInRow,
    TodayRow,
)
from tests.server.base import NOW, ServerTest
from tests.server.test_accounts import unpacked
from tests.server.test_own_instruments import HEADERS, OWN

LOG = [
    TimedAction(1.0, Play((5,), True)),
    TimedAction(2.0, Turn(5, 2.0)),
    TimedAction(3.0, Finish()),
]
# What anybody may ask, and what it says is the same for everybody or only one's own.
NOBODY_S: Final = {
    "/api/account",
    "/api/account/keys",
    "/api/attempts",
    "/api/attempts/import",
    "/api/before",
    "/api/codes/{code}",
    "/api/drills",
    "/api/figures",
    "/api/figures.csv",
    "/api/figures.json",
    "/api/fitness",
    "/api/health",
    "/api/health/live",
    "/api/health/ready",
    "/api/instruments",
    "/api/learner",
    "/api/learner/everything.zip",
    "/api/learner/leave",
    "/api/looks",
    "/api/methods",
    "/api/metrics",
    "/api/names",
    "/api/progress",
    "/api/progress.pdf",
    "/api/progress/{table}.csv",
    "/api/path",
    "/api/path/{step}",
    "/api/pictures",
    "/api/plan",
    "/api/plan/chord",
    "/api/plan.json",
    "/api/plan.pdf",
    "/api/remarks",
    "/api/retuning",
    "/api/rounds/join",
    "/api/rubric",
    "/api/shows",
    "/api/shows/{show}",
    "/api/set",
    "/api/shared-device",
    "/api/shared-device/hand-on",
    "/api/shared-device/sign-in",
    "/api/sign-in",
    "/api/sign-ins",
    "/api/sign-out",
    "/api/slips.pdf",
    "/api/sources",
    "/api/studios",
    "/api/studios/join",
    "/api/studios/join/look",
    "/api/today",
    "/api/today/aim",
    "/api/today/calendar.ics",
    "/api/today/plans",
    "/api/ways",
    "/api/wobbles",
    "/api/words/{word}",
    "/enter/{secret}",
}
ROUTES: Final[list[Any]] = [
    route for one in (*(area.router for area in AREAS), *routers()) for route in one.routes
]
KEPT: Final = (
    LearnerRow, AttemptRow, ActionRow, ResultRow, InstrumentRow, FigureRow, AimRow, TodayRow,
    AccountRow, SignInRow
)  # fmt: skip


class Foreign(ServerTest):
    def setUp(self) -> None:
        super().setUp()
        text = attempt_text(Exercise("guitar", "unison", "month", 3), LOG, made=NOW)
        made = self.client.post("/api/attempts/import", content=text, headers=HEADERS)
        self.finished = made.json()["id"]
        self.open = self.begin()
        self.sitting = self.client.post("/api/drills", json={"drill": "higher"}).json()["id"]
        self.own = self.client.post("/api/instruments", content=OWN, headers=HEADERS).json()["id"]
        self.client.get(f"/api/attempts/{self.finished}")  # its score is there from now on
        self.client.post("/api/account", json={"name": "Somebody"})
        self.sign_in = self.client.get("/api/sign-ins").json()[0]["id"]
        self.plan = self.client.post("/api/today/plans", json={}).json()["id"]

    def rows(self) -> dict[str, Any]:
        """All that is kept of the one whose things these are."""
        with self.client.app.state.kept.pools.requests() as session:  # type: ignore[attr-defined]
            learner = session.scalar(
                select(AttemptRow.learner_id).where(AttemptRow.public_id == self.open)
            )
            attempts = select(AttemptRow.id).where(AttemptRow.learner_id == learner)
            wheres = {
                LearnerRow: LearnerRow.id == learner,
                AttemptRow: AttemptRow.learner_id == learner,
                ActionRow: ActionRow.attempt_id.in_(attempts),
                ResultRow: ResultRow.attempt_id.in_(attempts),
                InstrumentRow: InstrumentRow.learner_id == learner,
                FigureRow: FigureRow.learner_id == learner,
                AimRow: AimRow.learner_id == learner,
                TodayRow: TodayRow.learner_id == learner,
                AccountRow: AccountRow.learner_id == learner,
                SignInRow: SignInRow.learner_id == learner,
            }
            return {
                made.__tablename__: [
                    tuple(row)
                    for row in session.execute(select(made.__table__).where(wheres[made]))
                ]
                for made in KEPT
            }

    def strangers(self) -> Iterator[TestClient]:
        """The same browser as somebody new, as a guest with work of its own, and with a secret that
        nobody has.
        """
        self.client.cookies.clear()
        yield self.client
        self.client.post("/api/attempts", json={})
        yield self.client
        self.client.cookies.clear()
        self.client.cookies.set("meldrin_learner", "a' OR '1'='1")
        yield self.client

    def test_every_route_says_that_there_is_no_such_thing(self) -> None:
        before = self.rows()
        asked = set()
        for stranger in self.strangers():
            for route in ROUTES:
                mine = isinstance(route, APIRoute) and route.path not in NOBODY_S
                if mine and "studio_id" not in route.path:  # those are in the matrix of roles
                    for method in route.methods or ():
                        for attempt in (self.finished, self.open):
                            path = route.path.format(
                                attempt_id=attempt,
                                sitting_id=self.sitting,
                                instrument_id=self.own,
                                plan_id=self.plan,
                                sign_in_id=self.sign_in,
                                given_id=32 * "0",
                                round_id=32 * "0",
                                remark_id=32 * "0",
                                number=0,
                            )
                            body: dict[str, object] = {"number": 1, "answer": 0}
                            if "remark" in path:
                                body = {"at_s": 0.5, "text": "mine now"}
                                if method == "PATCH":
                                    body.pop("at_s")
                            elif "rounds" not in path:
                                body = {"title": "mine now"} if method == "PATCH" else {}
                            reply = stranger.request(method, path, json=body)
                            self.assertEqual(reply.status_code, 404, f"{method} {path}")
                            self.assertIn("no_such_", reply.json()["type"])
                            asked.add(route.path)
        self.assertGreaterEqual(len(asked), 6)
        self.assertEqual(self.rows(), before)

    def test_every_line_is_refused(self) -> None:
        before, lines = self.rows(), 0
        for stranger in self.strangers():
            for route in ROUTES:
                if isinstance(route, APIRoute):
                    continue
                lines += 1
                for attempt in (self.finished, self.open):
                    path = route.path.format(
                        attempt_id=attempt, sitting_id=self.sitting, round_id=attempt
                    )
                    with stranger.websocket_connect(path) as socket:
                        socket.send_json({"kind": "hello", "tab": "stranger-1"})
                        self.assertIn("no_such_", socket.receive_json()["code"])
                        if "round_id" in route.path:  # which takes no messages at all
                            continue
                        action: dict[str, Any] = {"kind": "turn", "string": 5, "degrees": 2.0}
                        if "sitting_id" in route.path:
                            action = {"kind": "start_trials"}
                        socket.send_json(
                            {"kind": "act", "number": 1, "at_s": 1.0, "action": action}
                        )
                        self.assertEqual(socket.receive_json()["code"], "not_here")
        self.assertGreaterEqual(lines, 6)
        self.assertEqual(self.rows(), before)

    def test_what_anybody_may_ask_tells_nothing_of_it(self) -> None:
        before = self.rows()
        for stranger in self.strangers():
            listed = stranger.get("/api/attempts").json()["attempts"]
            self.assertFalse({one["id"] for one in listed} & {self.finished, self.open})
            after = stranger.get(f"/api/attempts?after={self.open}")
            self.assertEqual(after.json()["attempts"], listed)
            self.assertEqual(stranger.get("/api/drills").json()["heard"], [])
            packed = stranger.get("/api/learner/everything.zip").content
            for kept in (self.finished, self.open, self.own, "Somebody"):
                self.assertNotIn(kept.encode(), packed)
                self.assertNotIn(kept, " ".join(unpacked(packed).values()))
            self.assertEqual(stranger.get("/api/looks").json(), [])
            self.assertEqual(stranger.get("/api/studios").json(), [])
            self.assertEqual(stranger.get("/api/set").json(), [])
            signed_in = {one["id"] for one in stranger.get("/api/sign-ins").json()}
            self.assertNotIn(self.sign_in, signed_in)
            self.assertIsNone(stranger.get("/api/learner").json()["name"])
            self.assertNotEqual(
                (stranger.get("/api/today").json()["plan"] or {}).get("id"), self.plan
            )
            self.assertEqual(stranger.get("/api/path").json()["now"]["proven"], 0)
            figures = stranger.get("/api/figures.json").json()
            self.assertEqual((figures["sittings"], figures["attempts"]), ([], []))
            self.assertEqual(len(stranger.get("/api/figures.csv").text.splitlines()), 1)
            instruments = stranger.get("/api/instruments").json()
            self.assertNotIn(self.own, [one["id"] for one in instruments])
            for path in ("/api/plan", "/api/plan.pdf", "/api/methods", "/api/fitness"):
                name = "instrument_id" if path.endswith("fitness") else "instrument"
                reply = stranger.get(f"{path}?{name}={self.own}")
                self.assertEqual(reply.status_code, 404, path)
            began = stranger.post("/api/attempts", json={"instrument": self.own})
            self.assertEqual(began.status_code, 404)
            stranger.delete("/api/learner")
        self.assertEqual(self.rows(), before)

    def test_every_route_is_one_or_the_other(self) -> None:
        paths = {one.path for one in ROUTES if isinstance(one, APIRoute)}
        someone_s = {one for one in paths if "_id}" in one}
        self.assertEqual(paths, someone_s | NOBODY_S)
