"""The matrix: every route and line by every role. Who may not is told that there is no such thing,
or that it is an owner's to do, and nothing changes.
"""

from typing import Any, Final

from fastapi.routing import APIRoute
from fastapi.testclient import TestClient
from sqlalchemy import select

from meldrin.store.tables import RemarkRow, Table
from tests.server.test_foreign import NOBODY_S, ROUTES
from tests.server.test_own_instruments import HEADERS
from tests.server.test_studios import StudioTest

OWNERS_ONLY: Final = {
    ("PATCH", "/api/studios/{studio_id}"),
    ("POST", "/api/studios/{studio_id}/invitations"),
    ("POST", "/api/studios/{studio_id}/ending"),
    ("GET", "/api/studios/{studio_id}/audit"),
}
MEMBERS_TOO: Final = {("POST", "/api/studios/{studio_id}/leave")}
# What a teacher may ask of a pupil's attempt, and the maker alone may do.
LOOKS: Final = {
    "/api/attempts/{attempt_id}",
    "/api/attempts/{attempt_id}/remarks",
    "/api/attempts/{attempt_id}/music",
    "/api/attempts/{attempt_id}/replay",
    "/api/attempts/{attempt_id}/sound.wav",
    "/api/attempts/{attempt_id}/attempt.json",
    "/api/drills/{sitting_id}",
    "/api/rounds/{round_id}",
}
PART: Final = {"kind": "tune", "exercise": {"instrument": "viola", "method": "fifths"}}
TASK: Final = {"name": "Mine now", "parts": [PART]}
BODIES: Final[dict[str, Any]] = {
    "/api/studios/{studio_id}": {"name": "Mine now"},
    "/api/studios/{studio_id}/class": {"text": "Somebody\n"},
    "/api/studios/{studio_id}/class/look": {"text": "Somebody\n"},
    "/api/studios/{studio_id}/members/{member_id}": {"name": "Mine now"},
    "/api/studios/{studio_id}/groups": {"name": "Mine now"},
    "/api/studios/{studio_id}/groups/{group_id}": {"name": "Mine now"},
    "/api/studios/{studio_id}/instruments": {"shelf": "X1", "instrument": "viola"},
    "/api/studios/{studio_id}/instruments/{instrument_id}": {"shelf": "X", "instrument": "viola"},
    "/api/studios/{studio_id}/devices": {"name": "Mine now"},
    "/api/studios/{studio_id}/tasks": TASK,
    "/api/studios/{studio_id}/tasks/{task_id}": TASK,
    "/api/studios/{studio_id}/tasks/ready": {
        "kind": "two_minutes",
        "instrument": "viola",
        "string": 1,
    },
    "/api/studios/{studio_id}/tasks/{task_id}/give": {"everyone": True},
    "/api/studios/{studio_id}/given/{assignment_id}": {"due": None, "by_link": False},
    "/api/studios/{studio_id}/rounds": {"show": "chord", "count": 3},
    "/api/studios/{studio_id}/rounds/{round_id}/moves": {"move": "ask", "version": 0},
    "/api/rounds/{round_id}/answers": {"number": 1, "answer": 0},
    "/api/studios/{studio_id}/ensembles": {"name": "Mine now"},
    "/api/studios/{studio_id}/ensembles/{ensemble_id}": {"name": "Mine now"},
    "/api/studios/{studio_id}/ensembles/{ensemble_id}/players/{member_id}": {"instrument": "viola"},
    "/api/studios/{studio_id}/ensembles/{ensemble_id}/players/{member_id}/strings": [
        {"string": 1, "cents": 1.0}
    ],
    "/api/attempts/{attempt_id}/remarks": {"at_s": 0.5, "text": "Mine now"},
    "/api/remarks/{remark_id}": {"text": "Mine now"},
    "/api/attempts/{attempt_id}": {"title": "Mine now"},
}
OWN_ROWS: Final = {"sign_ins", "learners", "uses", "accounts", "open_lines", "pulses", "audit"}


class Matrix(StudioTest):
    def setUp(self) -> None:
        super().setUp()
        slips = self.listed()
        self.pupil = self.signed_in(slips["Liv"]["code"])
        self.made = self.attempt(self.pupil)
        self.sitting = self.pupil.post("/api/drills", json={"drill": "higher"}).json()["id"]
        shelf = {"shelf": "V3", "instrument": "viola"}
        self.teacher.post(f"{self.studio}/instruments", json=shelf)
        self.desk = self.invited("Desk")
        self.desk.post(f"{self.studio}/devices", json={"name": "Tablet 1"})
        task = self.teacher.post(f"{self.studio}/tasks", json=TASK).json()["id"]
        give = f"{self.studio}/tasks/{task}/give"
        member = self.members()["Liv"]["id"]
        given = self.teacher.post(give, json={"members": [member]}).json()["id"]
        page = self.page()
        begun = self.teacher.post(f"{self.studio}/rounds", json={"show": "chord", "count": 3})
        self.round = begun.json()["scene"]["id"]
        self.ids = {
            "ensemble_id": self.teacher.post(
                f"{self.studio}/ensembles", json={"name": "Concert"}
            ).json()["id"],
            "string": 1,
            "round_id": self.round,
            "remark_id": self.teacher.post(
                f"/api/attempts/{self.made}/remarks", json={"at_s": 1.0, "text": "Mine"}
            ).json()["id"],
            "task_id": task,
            "assignment_id": given,
            "given_id": given,
            "number": 0,
            "studio_id": page["id"],
            "member_id": member,
            "group_id": page["groups"][0]["id"],
            "instrument_id": page["instruments"][0]["id"],
            "tablet_id": page["devices"][0]["id"],
            "attempt_id": self.made,
            "sitting_id": self.sitting,
        }

    def foreigners(self) -> dict[str, TestClient]:
        """Those who teach nobody here, by what they are."""
        guest, learner, owner = (self.another_guest() for _ in range(3))
        guest.post("/api/attempts", json={})
        self.named(learner, "Named")
        self.named(owner, "Owner")
        made = owner.post("/api/studios", json={"name": "Elsewhere"}).json()
        elsewhere = f"/api/studios/{made['id']}"
        teacher, pupil = self.another_guest(), self.another_guest()
        self.named(teacher, "Teacher")
        code = owner.post(f"{elsewhere}/invitations").json()["code"]
        teacher.post("/api/studios/join", json={"code": code})
        wanted = {"code": made["join_code"], "name": "There"}
        pupil.post("/api/studios/join", json=wanted)
        return {
            "newcomer": self.another_guest(),
            "guest": guest,
            "learner": learner,
            "pupil elsewhere": pupil,
            "teacher elsewhere": teacher,
            "owner elsewhere": owner,
            "pupil here": self.joined("Neighbour"),
            "shared device": self.desk,
        }

    def rows(self) -> dict[str, Any]:
        """All that is kept, but for who is here and how often somebody asked."""
        with self.client.app.state.kept.pools.requests() as session:  # type: ignore[attr-defined]
            return {
                name: sorted(map(repr, session.execute(table.select()).all()))
                for name, table in Table.metadata.tables.items()
                if name not in OWN_ROWS
            }

    def ask(self, client: TestClient, route: APIRoute, method: str) -> int:
        """Ask a route for what is another's, with a body that it can read."""
        body = BODIES.get(route.path, {})
        path = route.path.format(**self.ids)
        if route.path.endswith("/import"):
            return client.request(method, path, content="{}", headers=HEADERS).status_code
        return client.request(method, path, json=body).status_code

    def cells(self) -> list[tuple[str, APIRoute]]:
        """Each method of each route that is about somebody's things."""
        return [
            (method, route)
            for route in ROUTES
            if isinstance(route, APIRoute) and route.path not in NOBODY_S
            if "plan_id" not in route.path and "sign_in_id" not in route.path
            if route.path != "/api/instruments/{instrument_id}"  # these are one's own alone
            for method in sorted(route.methods or ())
        ]

    def test_who_teaches_nobody_here_finds_nothing(self) -> None:
        foreigners, before, asked = self.foreigners(), None, 0
        before = self.rows()
        for role, client in foreigners.items():
            for method, route in self.cells():
                if (method, route.path) in MEMBERS_TOO and role == "pupil here":
                    continue
                status = self.ask(client, route, method)
                self.assertEqual(status, 404, f"{role}: {method} {route.path}")
                asked += 1
            for line in (f"/api/attempts/{self.made}/bench", f"/api/drills/{self.sitting}/line"):
                with client.websocket_connect(line) as socket:
                    socket.send_json({"kind": "hello", "tab": "stranger-1"})
                    self.assertEqual(socket.receive_json()["code"], "no_such_attempt", role)
                asked += 1
            with client.websocket_connect(f"/api/rounds/{self.round}/line") as socket:
                self.assertEqual(socket.receive_json()["code"], "no_such_round", role)
            asked += 1
        self.assertEqual(self.rows(), before)
        self.assertGreaterEqual(asked, 8 * 45)

    def erase_newest_remark(self) -> None:
        """What a teacher may pin is not looked at as a change of a pupil's work."""
        with self.client.app.state.kept.pools.requests() as session:  # type: ignore[attr-defined]
            newest = select(RemarkRow).order_by(RemarkRow.id.desc()).limit(1)
            session.delete(session.scalars(newest).one())
            session.commit()

    def test_a_teacher_here_looks_at_a_pupil_s_work_and_owns_nothing(self) -> None:
        teacher = self.invited("Bo")
        before = self.rows()
        for method, route in self.cells():
            what = f"{method} {route.path}"
            if "studio_id" in route.path:
                if (method, route.path) in OWNERS_ONLY:
                    self.assertEqual(self.ask(teacher, route, method), 403, what)
            elif (method, route.path) == ("POST", "/api/attempts/{attempt_id}/remarks"):
                self.assertEqual(self.ask(teacher, route, method), 201, what)
                self.erase_newest_remark()
            elif method == "GET" and route.path in LOOKS:
                self.assertEqual(self.ask(teacher, route, method), 200, what)
            elif route.path.endswith("/sound"):  # where there is something to play
                self.assertEqual(self.ask(teacher, route, method), 422, what)
            elif "given_id" not in route.path:  # a teacher may try what is set
                self.assertEqual(self.ask(teacher, route, method), 404, what)
        after = self.rows()
        for computed in ("results", "figures", "attempts"):  # scores come by looking
            before.pop(computed), after.pop(computed)
        self.assertEqual(after, before)

    def test_a_teacher_and_an_owner_may_do_the_rest(self) -> None:
        for role, client in (("teacher", self.invited("Bo")), ("owner", self.teacher)):
            for method, route in self.cells():
                if "studio_id" not in route.path or method == "DELETE":
                    continue
                if role == "teacher" and (method, route.path) in OWNERS_ONLY:
                    continue
                if (method, route.path) in MEMBERS_TOO or "devices" in route.path:
                    continue  # these end what is asked about
                status = self.ask(client, route, method)
                self.assertIn(status, (200, 201, 204, 422), f"{role}: {method} {route.path}")
