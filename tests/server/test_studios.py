"""Studios: made, joined, filled from a list, handed on, and erased; who may do what there."""

import hashlib
import io
from datetime import timedelta
from typing import Any
from unittest import mock

from fastapi.testclient import TestClient
from pypdf import PdfReader
from sqlalchemy import select

from meldrin.core.bench import Finish, Play, TimedAction, Turn
from meldrin.core.bench.exercise import Exercise
from meldrin.reports.attempt_record import attempt_text
from meldrin.services import studios
from meldrin.services.upkeep import tidy
from meldrin.store.tables import AccountRow, LearnerRow, MemberRow, SignInRow, StudioRow, TabletRow
from tests.server.base import NOW, ServerTest
from tests.server.test_accounts import unpacked
from tests.server.test_own_instruments import HEADERS

LOG = [
    TimedAction(1.0, Play((5,), True)),
    TimedAction(2.0, Turn(5, 2.0)),
    TimedAction(3.0, Finish()),
]
LIST = "name;group\nTarek;Saturday\nLiv;Saturday\nAnsel;Tuesday\n"


class StudioTest(ServerTest):
    """A teacher of a studio of her own, and others who come."""

    count = 0

    def setUp(self) -> None:
        super().setUp()
        StudioTest.count += 1  # names are those of the whole run
        self.number = f"{type(self).__name__} {StudioTest.count}"
        self.teacher = self.client
        self.named(self.teacher, "Oda")
        made = self.teacher.post("/api/studios", json={"name": "Boathouse"})
        self.assertEqual(made.status_code, 201, made.text)
        self.studio = f"/api/studios/{made.json()['id']}"

    def named(self, client: TestClient, name: str) -> str:
        """Somebody with an account."""
        reply = client.post("/api/account", json={"name": self.own(name)})
        self.assertEqual(reply.status_code, 201, reply.text)
        return str(reply.json()["code"])

    def own(self, name: str) -> str:
        """A name that no other test has."""
        return f"{name} {self.number}"[:30]

    def page(self, client: TestClient | None = None) -> dict[str, Any]:
        """The studio as its teachers see it."""
        reply = (client or self.teacher).get(self.studio)
        self.assertEqual(reply.status_code, 200, reply.text)
        return dict(reply.json())

    def members(self) -> dict[str, dict[str, Any]]:
        """Its members, by name."""
        return {one["name"]: one for one in self.page()["members"]}

    def listed(self, text: str = LIST) -> dict[str, dict[str, Any]]:
        """Make a class of a list; return the slips by name."""
        made = self.teacher.post(f"{self.studio}/class", json={"text": text})
        self.assertEqual(made.status_code, 201, made.text)
        return {one["called"]: one for one in made.json()}

    def signed_in(self, code: str) -> TestClient:
        """A browser that is signed in by the code of a slip."""
        client = self.another_guest()
        reply = client.post("/api/sign-in", json={"code": code})
        self.assertEqual(reply.status_code, 200, reply.text)
        return client

    def joined(self, name: str, **wanted: Any) -> TestClient:
        """Somebody who came by the code on the wall."""
        client = self.another_guest()
        code = self.page()["join_code"]
        reply = client.post("/api/studios/join", json={"code": code, "name": name, **wanted})
        self.assertEqual(reply.status_code, 201, reply.text)
        return client

    def invited(self, name: str) -> TestClient:
        """Another teacher."""
        client = self.another_guest()
        self.named(client, name)
        code = self.teacher.post(f"{self.studio}/invitations").json()["code"]
        reply = client.post("/api/studios/join", json={"code": code})
        self.assertEqual(reply.status_code, 201, reply.text)
        return client

    def attempt(self, client: TestClient) -> str:
        """A finished attempt of somebody's."""
        text = attempt_text(Exercise("guitar", "unison", "month", 3), LOG, made=NOW)
        made = client.post("/api/attempts/import", content=text, headers=HEADERS)
        self.assertEqual(made.status_code, 201, made.text)
        return str(made.json()["id"])

    def refused(self, reply: Any, status: int, code: str) -> str:
        """Hold a refusal against what it should be; return its sentence."""
        self.assertEqual(reply.status_code, status, reply.text)
        self.assertEqual(reply.json()["type"], f"urn:meldrin:{code}")
        return str(reply.json()["detail"])


class Made(StudioTest):
    def test_who_makes_it_owns_it_and_needs_a_name(self) -> None:
        page = self.page()
        self.assertEqual((page["name"], page["role"]), ("Boathouse", "owner"))
        self.assertEqual([one["role"] for one in page["members"]], ["owner"])
        guest = self.another_guest()
        guest.post("/api/attempts", json={})
        self.refused(guest.post("/api/studios", json={"name": "Mine"}), 403, "sign_in")
        newcomer = self.another_guest()
        self.refused(newcomer.post("/api/studios", json={"name": "Mine"}), 403, "sign_in")
        self.refused(self.teacher.post("/api/studios", json={"name": " \t"}), 422, "name")

    def test_at_most_ten_each(self) -> None:
        for _ in range(9):
            self.assertEqual(
                self.teacher.post("/api/studios", json={"name": "More"}).status_code, 201
            )
        self.refused(self.teacher.post("/api/studios", json={"name": "More"}), 429, "too_many")

    def test_it_is_renamed_by_its_owner(self) -> None:
        other = self.invited("Bo")
        self.refused(other.patch(self.studio, json={"name": "Bo's"}), 403, "role")
        self.assertEqual(
            self.teacher.patch(self.studio, json={"name": "  The   boathouse"}).status_code, 204
        )
        self.assertEqual(self.page()["name"], "The boathouse")


class Joined(StudioTest):
    def test_by_the_code_on_the_wall_however_it_is_typed(self) -> None:
        client = self.another_guest()
        code = self.page()["join_code"].lower().replace("-", " ")
        seen = client.post("/api/studios/join/look", json={"code": code}).json()
        self.assertEqual((seen["name"], seen["role"]), ("Boathouse", "pupil"))
        self.assertEqual(seen["teachers"], [self.own("Oda")])
        reply = client.post("/api/studios/join", json={"code": code, "name": "Mirre"})
        self.assertEqual(reply.json()[0]["role"], "pupil")
        again = client.post("/api/studios/join", json={"code": code, "name": "Mirre two"})
        self.refused(again, 422, "studio")
        self.assertEqual(self.members()["Mirre"]["signs_in_as"], None)

    def test_a_name_is_there_once_only(self) -> None:
        self.joined("Mirre")
        code = self.page()["join_code"]
        second = self.another_guest()
        wanted = {"code": code, "name": "mirre"}
        self.refused(second.post("/api/studios/join", json=wanted), 422, "name")
        self.assertEqual(second.get("/api/studios").json(), [])

    def test_a_code_that_was_replaced_or_closed_lets_nobody_in(self) -> None:
        before, client = self.page()["join_code"], self.another_guest()
        after = self.teacher.post(f"{self.studio}/code").json()["code"]
        wanted = {"code": before, "name": "Late"}
        self.refused(client.post("/api/studios/join", json=wanted), 404, "no_such_studio")
        self.teacher.delete(f"{self.studio}/code")
        wanted["code"] = after
        self.refused(client.post("/api/studios/join", json=wanted), 404, "no_such_studio")
        self.refused(client.post("/api/studios/join", json={"code": "?"}), 422, "slip")

    def test_codes_cannot_be_tried_without_end(self) -> None:
        client = self.another_guest()
        client.post("/api/attempts", json={})
        for _ in range(60):
            reply = client.post("/api/studios/join/look", json={"code": "CDFG HJKL"})
            self.refused(reply, 404, "no_such_studio")
        self.refused(
            client.post("/api/studios/join/look", json={"code": self.page()["join_code"]}),
            429,
            "too_many",
        )

    def test_a_teacher_comes_by_an_invitation_once_within_a_week(self) -> None:
        invite = f"{self.studio}/invitations"
        first, late = (self.teacher.post(invite).json()["code"] for _ in range(2))
        one, two = self.another_guest(), self.another_guest()
        self.refused(one.post("/api/studios/join", json={"code": first}), 403, "sign_in")
        self.named(one, "One")
        self.named(two, "Two")
        self.assertEqual(one.post("/api/studios/join", json={"code": first}).status_code, 201)
        self.refused(two.post("/api/studios/join", json={"code": first}), 404, "no_such_studio")
        self.now += timedelta(days=8)
        self.refused(two.post("/api/studios/join", json={"code": late}), 404, "no_such_studio")
        self.assertEqual(self.page(one)["role"], "teacher")
        self.refused(one.post(invite), 403, "role")

    def test_who_leaves_keeps_their_work_and_is_seen_no_more(self) -> None:
        pupil = self.joined("Mirre")
        attempt = self.attempt(pupil)
        self.assertEqual(self.teacher.get(f"/api/attempts/{attempt}").status_code, 200)
        self.assertEqual(pupil.post(f"{self.studio}/leave").status_code, 204)
        self.refused(pupil.post(f"{self.studio}/leave"), 404, "no_such_studio")
        self.assertEqual(self.teacher.get(f"/api/attempts/{attempt}").status_code, 404)
        self.assertEqual(pupil.get(f"/api/attempts/{attempt}").status_code, 200)

    def test_a_studio_always_has_an_owner(self) -> None:
        self.refused(self.teacher.post(f"{self.studio}/leave"), 422, "studio")
        self.refused(self.teacher.delete("/api/learner"), 422, "studio")
        other = self.invited("Bo")
        (them,) = [one for one in self.page()["members"] if one["role"] == "teacher"]
        made = self.teacher.patch(f"{self.studio}/members/{them['id']}", json={"role": "owner"})
        self.assertEqual(made.status_code, 204, made.text)
        self.assertEqual(self.teacher.post(f"{self.studio}/leave").status_code, 204)
        (me,) = self.page(other)["members"]
        self.refused(
            other.patch(f"{self.studio}/members/{me['id']}", json={"role": "teacher"}),
            422,
            "studio",
        )


class Listed(StudioTest):
    def test_a_class_from_a_list_with_its_groups(self) -> None:
        looked = self.teacher.post(f"{self.studio}/class/look", json={"text": LIST}).json()
        self.assertEqual([one["name"] for one in looked], ["Tarek", "Liv", "Ansel"])
        self.assertEqual(self.page()["groups"], [])  # nothing is made by looking
        slips = self.listed()
        page = self.page()
        groups = {one["id"]: one["name"] for one in page["groups"]}
        self.assertEqual(sorted(groups.values()), ["Saturday", "Tuesday"])
        tarek = self.members()["Tarek"]
        self.assertEqual([groups[one] for one in tarek["groups"]], ["Saturday"])
        self.assertEqual(tarek["signs_in_as"], slips["Tarek"]["name"])
        client = self.signed_in(slips["Tarek"]["code"])
        self.assertEqual(client.get("/api/studios").json()[0]["called"], "Tarek")
        wanted = {
            "name": slips["Liv"]["name"],
            "pictures": [one["id"] for one in slips["Liv"]["pictures"]],
        }
        self.assertEqual(self.another_guest().post("/api/sign-in", json=wanted).status_code, 200)

    def test_a_name_that_somebody_elsewhere_has_gets_a_number(self) -> None:
        first = self.listed("Solveig\n")["Solveig"]["name"]
        made = self.teacher.post("/api/studios", json={"name": "Second"}).json()["id"]
        reply = self.teacher.post(f"/api/studios/{made}/class", json={"text": "Solveig\n"})
        second = reply.json()[0]
        self.assertEqual(second["called"], "Solveig")
        self.assertNotEqual(second["name"], first)
        self.assertTrue(second["name"].startswith("Solveig "))

    def test_all_of_a_list_or_nothing(self) -> None:
        self.listed()
        before = self.page()
        more = self.teacher.post(f"{self.studio}/class", json={"text": "Ebba\nliv\n"})
        self.assertIn("“liv”", self.refused(more, 422, "name"))
        bad = self.teacher.post(f"{self.studio}/class", json={"text": "Ebba\nx\n"})
        self.assertTrue(self.refused(bad, 422, "class_list").startswith("Line 2: "))
        self.assertEqual(self.page(), before)

    def test_a_new_slip_ends_the_one_before_and_every_sign_in(self) -> None:
        slips = self.listed()
        client = self.signed_in(slips["Tarek"]["code"])
        member = f"{self.studio}/members/{self.members()['Tarek']['id']}"
        new = self.teacher.post(f"{member}/slip").json()
        self.assertEqual(new["name"], slips["Tarek"]["name"])
        self.assertEqual(client.get("/api/learner").json()["who"], "newcomer")
        old = self.another_guest().post("/api/sign-in", json={"code": slips["Tarek"]["code"]})
        self.refused(old, 403, "sign_in")
        self.signed_in(new["code"])

    def test_who_came_by_themselves_lets_a_teacher_or_not(self) -> None:
        self.joined("Keeps")
        lets = self.joined("Lets", lets_reset=True)
        attempt = self.attempt(lets)
        members = self.members()
        self.assertEqual([members[one]["can_reset"] for one in ("Keeps", "Lets")], [False, True])
        path = f"{self.studio}/members/{members['Keeps']['id']}"
        self.refused(self.teacher.post(f"{path}/slip"), 403, "role")
        self.refused(self.teacher.delete(f"{path}/everything"), 403, "role")
        path = f"{self.studio}/members/{members['Lets']['id']}"
        self.refused(self.teacher.delete(f"{path}/everything"), 403, "role")
        code = self.teacher.post(f"{path}/slip").json()["code"]  # a guest gets an account by it
        back = self.signed_in(code)
        self.assertEqual(back.get(f"/api/attempts/{attempt}").status_code, 200)

    def test_who_teaches_elsewhere_is_neither_reset_nor_erased(self) -> None:
        slips = self.listed()
        liv = self.signed_in(slips["Liv"]["code"])
        self.assertEqual(liv.post("/api/studios", json={"name": "Liv’s own"}).status_code, 201)
        member = self.members()["Liv"]
        self.assertEqual((member["can_reset"], member["can_erase"]), (False, False))
        path = f"{self.studio}/members/{member['id']}"
        self.refused(self.teacher.post(f"{path}/slip"), 403, "role")
        self.refused(self.teacher.delete(f"{path}/everything"), 403, "role")
        self.assertEqual(liv.get("/api/learner").json()["who"], "learner")

    def test_a_pupil_is_erased_wholly(self) -> None:
        slips = self.listed()
        client = self.signed_in(slips["Tarek"]["code"])
        attempt = self.attempt(client)
        self.teacher.get(f"/api/attempts/{attempt}")
        path = f"{self.studio}/members/{self.members()['Tarek']['id']}"
        self.assertEqual(self.teacher.delete(f"{path}/everything").status_code, 204)
        self.assertEqual(client.get("/api/learner").json()["who"], "newcomer")
        self.assertNotIn("Tarek", self.teacher.get(f"{self.studio}/audit").text)
        with self.client.app.state.kept.pools.requests() as session:  # type: ignore[attr-defined]
            kept = session.scalar(
                select(AccountRow).where(AccountRow.name == slips["Tarek"]["name"])
            )
        self.assertIsNone(kept)

    def test_slips_are_printed_eight_on_a_page(self) -> None:
        slips = list(self.listed("\n".join(f"Łukasz {n}" for n in range(9))).values())
        printed = [
            {
                **{key: one[key] for key in ("called", "name", "code")},
                "pictures": [picture["id"] for picture in one["pictures"]],
            }
            for one in slips
        ]
        wanted = {"slips": printed, "heading": "Boathouse"}
        reply = self.teacher.post("/api/slips.pdf", json=wanted)
        self.assertEqual(reply.status_code, 200, reply.text)
        pages = PdfReader(io.BytesIO(reply.content)).pages
        self.assertEqual(len(pages), 2)
        text = pages[0].extract_text()
        for one in slips[:8]:
            self.assertIn(one["called"], text)
            self.assertIn(one["code"], text)
            for picture in one["pictures"]:
                self.assertIn(picture["words"].split()[0], text)
        self.assertNotIn(slips[8]["code"], text)
        for wrong in ({"code": "CDFG"}, {"pictures": ["boat"]}, {"called": "<b>"}):
            bad = {**wanted, "slips": [{**printed[0], **wrong}]}
            self.assertEqual(self.teacher.post("/api/slips.pdf", json=bad).status_code, 422)


class Taught(StudioTest):
    def test_a_teacher_sees_a_pupil_s_work_and_that_is_written_down(self) -> None:
        pupil = self.joined("Mirre")
        attempt = self.attempt(pupil)
        path = f"{self.studio}/members/{self.members()['Mirre']['id']}"
        listed = self.teacher.get(f"{path}/attempts").json()["attempts"]
        self.assertEqual([one["id"] for one in listed], [attempt])
        self.assertEqual(self.teacher.get(f"{path}/progress").status_code, 200)
        printed = self.teacher.get(f"{path}/progress.pdf")
        text = PdfReader(io.BytesIO(printed.content)).pages[0].extract_text()
        self.assertIn("Mirre: progress", text)
        self.assertEqual(self.teacher.get(f"/api/attempts/{attempt}/replay").status_code, 200)
        looks = pupil.get("/api/looks").json()
        self.assertEqual(
            [(one["who"], one["says"]) for one in looks],
            [(self.own("Oda"), "looked at the work of Mirre")],
        )
        self.now += timedelta(hours=2)
        self.teacher.get(f"/api/attempts/{attempt}")
        self.assertEqual(len(pupil.get("/api/looks").json()), 2)
        whole = unpacked(pupil.get("/api/learner/everything.zip").content)
        self.assertIn("Boathouse", whole["studios.json"])
        self.assertIn(self.own("Oda"), whole["looked-at-by.json"])

    def test_a_teacher_changes_nothing_of_it(self) -> None:
        attempt = self.attempt(self.joined("Mirre"))
        path = f"/api/attempts/{attempt}"
        self.refused(self.teacher.patch(path, json={"title": "x"}), 404, "no_such_attempt")
        self.refused(self.teacher.delete(path), 404, "no_such_attempt")
        with self.teacher.websocket_connect(f"{path}/bench") as socket:
            socket.send_json({"kind": "hello", "tab": "teacher-1"})
            self.assertEqual(socket.receive_json()["code"], "no_such_attempt")

    def test_groups(self) -> None:
        self.listed()
        made = self.teacher.post(f"{self.studio}/groups", json={"name": "Quartet"}).json()["id"]
        self.refused(
            self.teacher.post(f"{self.studio}/groups", json={"name": "quartet"}), 422, "name"
        )
        path = f"{self.studio}/members/{self.members()['Liv']['id']}"
        self.assertEqual(self.teacher.patch(path, json={"groups": [made]}).status_code, 204)
        self.assertEqual(self.members()["Liv"]["groups"], [made])
        wrong = self.teacher.patch(path, json={"groups": [made, "0" * 32]})
        self.refused(wrong, 404, "no_such_group")
        self.assertEqual(self.members()["Liv"]["groups"], [made])
        group = f"{self.studio}/groups/{made}"
        self.assertEqual(self.teacher.patch(group, json={"name": "Trio"}).status_code, 204)
        self.assertEqual(self.teacher.delete(group).status_code, 204)
        self.assertEqual(self.members()["Liv"]["groups"], [])

    def test_instruments_on_the_shelf(self) -> None:
        shelf = f"{self.studio}/instruments"
        viola = {"shelf": "V3", "instrument": "viola", "behaviours": ["pegs"], "note": "Old pegs."}
        made = self.teacher.post(shelf, json=viola)
        self.assertEqual(made.status_code, 201, made.text)
        self.refused(self.teacher.post(shelf, json=viola), 422, "name")
        unknown = {"shelf": "V4", "instrument": "viol"}
        self.refused(self.teacher.post(shelf, json=unknown), 404, "no_such_instrument")
        wrong = {"shelf": "V4", "instrument": "viola", "tuning": "sideways"}
        self.assertIn(self.teacher.post(shelf, json=wrong).status_code, (404, 422))
        path = f"{shelf}/{made.json()['id']}"
        self.assertEqual(self.teacher.put(path, json={**viola, "note": ""}).status_code, 204)
        (kept,) = self.page()["instruments"]
        self.assertEqual((kept["shelf"], kept["note"], kept["behaviours"]), ("V3", "", ["pegs"]))
        self.assertEqual(self.teacher.delete(path).status_code, 204)
        self.assertEqual(self.page()["instruments"], [])

    def test_a_member_is_called_otherwise_or_removed(self) -> None:
        slips = self.listed()
        path = f"{self.studio}/members/{self.members()['Liv']['id']}"
        self.refused(self.teacher.patch(path, json={"name": "Ansel"}), 422, "name")
        self.assertEqual(self.teacher.patch(path, json={"name": "Liv B"}).status_code, 204)
        self.assertIn("Liv B", self.members())
        self.assertEqual(self.teacher.delete(path).status_code, 204)
        self.assertEqual(self.signed_in(slips["Liv"]["code"]).get("/api/studios").json(), [])

    def test_a_teacher_is_called_otherwise_by_an_owner_or_by_themselves(self) -> None:
        other = self.invited("Bo")
        ids = {one["role"]: one["id"] for one in self.page()["members"]}
        wanted = {"name": "Somebody"}
        reply = other.patch(f"{self.studio}/members/{ids['owner']}", json=wanted)
        self.refused(reply, 403, "role")
        own = other.patch(f"{self.studio}/members/{ids['teacher']}", json=wanted)
        self.assertEqual(own.status_code, 204)
        by_owner = self.teacher.patch(
            f"{self.studio}/members/{ids['teacher']}", json={"name": "Bo again"}
        )
        self.assertEqual(by_owner.status_code, 204)

    def test_a_teacher_removes_pupils_and_no_teachers(self) -> None:
        other = self.invited("Bo")
        self.invited("Cy")
        by_role = {one["role"]: one["id"] for one in self.page()["members"]}
        for role in ("owner", "teacher"):
            reply = other.delete(f"{self.studio}/members/{by_role[role]}")
            self.refused(reply, 403, "role")
        gone = self.teacher.delete(f"{self.studio}/members/{by_role['teacher']}")
        self.assertEqual(gone.status_code, 204)


class SharedDevices(StudioTest):
    def setUp(self) -> None:
        super().setUp()
        self.slips = self.listed()
        self.desk = self.invited("Bo")
        shared = self.desk.post(f"{self.studio}/devices", json={"name": "Tablet 1"})
        self.assertEqual(shared.status_code, 201, shared.text)

    def sign_in(self, name: str, *, pictures_of: str | None = None) -> Any:
        pupils = {
            one["name"]: one["id"] for one in self.desk.get("/api/shared-device").json()["pupils"]
        }
        pictures = [one["id"] for one in self.slips[pictures_of or name]["pictures"]]
        return self.desk.post(
            "/api/shared-device/sign-in", json={"pupil": pupils[name], "pictures": pictures}
        )

    def test_the_teacher_is_signed_out_there_and_pupils_take_turns(self) -> None:
        self.assertEqual(self.desk.get("/api/learner").json()["who"], "newcomer")
        self.assertEqual(self.desk.get(self.studio).status_code, 404)
        shown = self.desk.get("/api/shared-device").json()
        self.assertEqual(shown["studio"], "Boathouse")
        self.assertEqual([one["name"] for one in shown["pupils"]], ["Ansel", "Liv", "Tarek"])
        self.assertEqual(self.sign_in("Liv").status_code, 200)
        attempt = self.attempt(self.desk)
        liv = self.desk.cookies.get("meldrin_learner")
        self.assertEqual(self.sign_in("Ansel").status_code, 200)  # without handing it on
        self.assertEqual(self.desk.get(f"/api/attempts/{attempt}").status_code, 404)
        self.assertEqual(self.desk.get("/api/attempts").json()["attempts"], [])
        self.assertEqual(self.desk.post("/api/shared-device/hand-on").status_code, 204)
        self.assertEqual(self.desk.get("/api/learner").json()["who"], "newcomer")
        stolen = self.another_guest()  # the secret of before is worth nothing
        stolen.cookies.set("meldrin_learner", str(liv))
        self.assertEqual(stolen.get("/api/learner").json()["who"], "newcomer")

    def test_somebody_else_s_pictures_do_not_open(self) -> None:
        self.refused(self.sign_in("Liv", pictures_of="Tarek"), 403, "sign_in")

    def test_it_ends_by_itself(self) -> None:
        self.sign_in("Liv")
        self.now += timedelta(hours=1, minutes=59)
        self.assertEqual(self.desk.get("/api/learner").json()["who"], "learner")
        self.now += timedelta(minutes=2)
        self.assertEqual(self.desk.get("/api/learner").json()["who"], "newcomer")
        kept = self.client.app.state.kept  # type: ignore[attr-defined]
        tidy(kept.pools.background, keep=timedelta(days=90), now=self.now)
        with kept.pools.requests() as session:
            ending = select(SignInRow.id).where(SignInRow.ends_at.is_not(None))
            self.assertEqual(session.scalars(ending.where(SignInRow.ends_at < self.now)).all(), [])

    def test_a_device_that_is_shared_no_longer_names_nobody(self) -> None:
        (device,) = self.page()["devices"]
        gone = self.teacher.delete(f"{self.studio}/devices/{device['id']}")
        self.assertEqual(gone.status_code, 204)
        self.assertEqual(self.desk.get("/api/shared-device").json(), {"studio": None, "pupils": []})
        self.assertIsNone(self.desk.cookies.get("meldrin_shared"))
        self.assertFalse(self.desk.get("/api/learner").json()["shared"])
        pupil = self.members()["Liv"]["id"]
        late = self.desk.post(
            "/api/shared-device/sign-in", json={"pupil": pupil, "pictures": ["a"] * 4}
        )
        self.refused(late, 404, "no_such_tablet")

    def test_the_secret_of_a_device_is_not_stored(self) -> None:
        secret = self.desk.cookies.get("meldrin_shared")
        with self.client.app.state.kept.pools.requests() as session:  # type: ignore[attr-defined]
            kept = session.scalars(select(TabletRow.secret_sha256)).all()
        self.assertIn(hashlib.sha256(str(secret).encode()).digest(), kept)


class Ended(StudioTest):
    def gone(self) -> bool:
        with self.client.app.state.kept.pools.requests() as session:  # type: ignore[attr-defined]
            key = self.studio.rsplit("/", 1)[-1]
            found = session.scalar(select(StudioRow.id).where(StudioRow.public_id == key))
            return found is None

    def tidied(self) -> None:
        pools = self.client.app.state.kept.pools  # type: ignore[attr-defined]
        tidy(pools.background, keep=timedelta(days=90), now=self.now)

    def test_alone_it_takes_a_week(self) -> None:
        for _ in range(2):  # asking twice is still one person
            asked = self.teacher.post(f"{self.studio}/ending").json()
            self.assertEqual(asked, {"erased": False})
        self.assertTrue(self.page()["ending"]["asked_by_you"])
        self.now += timedelta(days=6, hours=23)
        self.tidied()
        self.assertFalse(self.gone())
        self.now += timedelta(hours=2)
        self.tidied()
        self.assertTrue(self.gone())

    def test_a_second_person_agrees_or_keeps_it(self) -> None:
        other = self.invited("Bo")
        self.refused(other.post(f"{self.studio}/ending"), 403, "role")
        self.teacher.post(f"{self.studio}/ending")
        self.assertEqual(other.delete(f"{self.studio}/ending").status_code, 204)
        self.assertIsNone(self.page()["ending"])
        self.teacher.post(f"{self.studio}/ending")
        self.assertEqual(other.post(f"{self.studio}/ending").json(), {"erased": True})
        self.assertTrue(self.gone())

    def test_pupils_keep_their_work_but_for_those_who_never_came(self) -> None:
        slips, other = self.listed(), self.invited("Bo")
        came = self.joined("Mirre")
        tarek = self.signed_in(slips["Tarek"]["code"])  # on the same day
        attempt = self.attempt(tarek)
        self.teacher.post(f"{self.studio}/ending")
        other.post(f"{self.studio}/ending")
        self.assertEqual(tarek.get(f"/api/attempts/{attempt}").status_code, 200)
        self.assertEqual(came.get("/api/learner").json()["who"], "guest")
        never = self.another_guest().post("/api/sign-in", json={"code": slips["Liv"]["code"]})
        self.refused(never, 403, "sign_in")


class AtOnce(StudioTest):
    def test_a_full_studio_takes_nobody_more(self) -> None:
        with mock.patch.object(studios, "MOST_MEMBERS", 3):
            self.joined("One")
            self.joined("Two")
            code, late = self.page()["join_code"], self.another_guest()
            reply = late.post("/api/studios/join", json={"code": code, "name": "Three"})
            self.refused(reply, 429, "too_many")
            more = self.teacher.post(f"{self.studio}/class", json={"text": "Four\n"})
            self.refused(more, 429, "too_many")
        self.assertEqual(len(self.page()["members"]), 3)
        with self.client.app.state.kept.pools.requests() as session:  # type: ignore[attr-defined]
            left = select(LearnerRow.id).join(MemberRow).where(MemberRow.name == "Four")
            self.assertEqual(session.scalars(left).all(), [])
