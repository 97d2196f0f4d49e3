"""Keep my work: a name, pictures and a slip bring somebody back; wrong ones do not, and lock."""

import io
import json
import tempfile
import threading
import zipfile
from datetime import datetime, timedelta
from pathlib import Path
from unittest import mock

from sqlalchemy import select

from meldrin.core.errors import Code, MeldrinError
from meldrin.services import accounts
from meldrin.services.actor import Actor
from meldrin.services.identity import actor_of, new_secret, welcome_guest
from meldrin.services.upkeep import tidy
from meldrin.store.tables import AccountRow, AttemptRow, SignInRow
from tests.server.base import NOW, ServerTest, StoreTest
from tests.server.test_own_instruments import HEADERS, OWN

DAY = timedelta(days=1)
COOKIE = "meldrin_learner"


def unpacked(packed: bytes) -> dict[str, str]:
    """The files of an archive."""
    with zipfile.ZipFile(io.BytesIO(packed)) as files:
        return {name: files.read(name).decode() for name in files.namelist()}


class Services(StoreTest):
    def kept(self, name: str) -> tuple[Actor, accounts.ShownKeys]:
        actor = welcome_guest(self.session, secret=new_secret(), now=NOW)
        return actor, accounts.keep_work(self.session, actor, name, now=NOW)

    def try_in(self, name: str, pictures: tuple[str, ...], *, now: datetime = NOW) -> Actor:
        return accounts.sign_in(
            self.session, name, pictures, secret=new_secret(), device="tablet", now=now
        )

    def refused(self, name: str, pictures: tuple[str, ...], *, now: datetime = NOW) -> MeldrinError:
        with self.assertRaises(MeldrinError) as refused:
            self.try_in(name, pictures, now=now)
        return refused.exception

    def test_name_and_pictures_bring_back_in_their_order_only(self) -> None:
        actor, kept = self.kept("Wim of the pier")
        self.assertEqual(self.try_in("wim OF the  pier", kept.pictures), actor)
        self.assertEqual(self.refused("Wim of the pier", kept.pictures[::-1]).code, Code.SIGN_IN)
        nobody = self.refused("Nobody of the pier", kept.pictures)
        self.assertEqual((nobody.code, nobody.message), (Code.SIGN_IN, accounts.WRONG))

    def test_only_digests_are_stored(self) -> None:
        actor, kept = self.kept("Digest")
        row = self.session.get_one(AccountRow, actor.learner)
        self.assertTrue(row.passphrase.startswith("$argon2id$"))
        stored = repr([getattr(row, one.name) for one in AccountRow.__table__.columns])
        for told in (*kept.pictures, kept.code):
            self.assertNotIn(told, stored)

    def test_wrong_ones_lock_the_name_for_a_while_and_the_slip_still_opens(self) -> None:
        actor, kept = self.kept("Locked")
        wrong = kept.pictures[::-1]
        for n in range(5):
            self.assertEqual(
                self.refused("locked", wrong, now=NOW + n * timedelta(seconds=9)).code, Code.SIGN_IN
            )
        late = NOW + timedelta(minutes=10)
        locked = self.refused("locked", kept.pictures, now=late)  # even the right ones
        self.assertEqual(locked.code, Code.TOO_MANY)
        self.assertEqual(locked.facts["after_s"], 5 * 60)
        other, others = self.kept("Neighbour")  # of the same school is not locked
        self.assertEqual(self.try_in("Neighbour", others.pictures, now=late), other)
        self.assertEqual(
            self.try_in("locked", kept.pictures, now=NOW + timedelta(minutes=15)), actor
        )
        for _ in range(5):
            self.refused("locked", wrong, now=NOW + DAY)
        by_slip = accounts.sign_in_by_slip(
            self.session, kept.code.lower(), secret="by slip", device="phone", now=NOW + DAY
        )
        self.assertEqual(by_slip, actor)
        self.assertEqual(self.try_in("locked", kept.pictures, now=NOW + DAY), actor)

    def test_too_many_who_hash_are_turned_away(self) -> None:
        _, kept = self.kept("Busy")
        with mock.patch.object(accounts, "_HERE", threading.BoundedSemaphore(1)):
            accounts._HERE.acquire()
            self.assertEqual(self.refused("Busy", kept.pictures).code, Code.BUSY)

    def test_a_name_is_taken_once(self) -> None:
        actor, _ = self.kept("Only one")
        for again, words in ((actor, "a name already"), (None, "already. Add")):
            guest = again or welcome_guest(self.session, secret=new_secret(), now=NOW)
            with self.assertRaises(MeldrinError) as refused:
                accounts.keep_work(self.session, guest, "ONLY-one", now=NOW)
            self.assertEqual(refused.exception.code, Code.NAME)
            self.assertIn(words, refused.exception.message)

    def test_new_keys_end_the_old_ones(self) -> None:
        actor, kept = self.kept("Renewed")
        fresh = accounts.new_keys(self.session, actor)
        self.assertEqual(self.refused("Renewed", kept.pictures).code, Code.SIGN_IN)
        with self.assertRaises(MeldrinError):
            accounts.sign_in_by_slip(self.session, kept.code, secret="x", device="phone", now=NOW)
        self.assertEqual(self.try_in("Renewed", fresh.pictures), actor)

    def test_sign_ins_are_listed_ended_and_bounded(self) -> None:
        actor, kept = self.kept("Everywhere")
        for n in range(accounts.MOST_SIGN_INS + 5):
            accounts.sign_in(
                self.session, "Everywhere", kept.pictures,
                secret=f"everywhere {n}", device="phone", now=NOW + n * DAY,
            )  # fmt: skip
        found = accounts.sign_ins(self.session, actor, secret="everywhere 34")
        self.assertEqual(len(found), accounts.MOST_SIGN_INS)
        self.assertEqual([one.here for one in found].count(True), 1)
        self.assertTrue(found[0].here)
        accounts.end_sign_in(self.session, actor, found[3].id)
        gone = actor_of(self.session, "everywhere 31", now=NOW)
        self.assertIsNone(gone.learner)
        self.assertEqual(actor_of(self.session, "everywhere 34", now=NOW), actor)

    def test_who_has_a_name_is_not_tidied_away(self) -> None:
        then = NOW - 900 * DAY
        actor = welcome_guest(self.session, secret="long away", now=then)
        accounts.keep_work(self.session, actor, "Long away", now=then)
        tidy(self.sessions, keep=400 * DAY, now=NOW)
        self.session.expire_all()
        self.assertEqual(accounts.name_of(self.session, actor), "Long away")


class OverHttp(ServerTest):
    def keep(self, name: str) -> dict[str, object]:
        reply = self.client.post("/api/account", json={"name": name})
        self.assertEqual(reply.status_code, 201, reply.text)
        return dict(reply.json())

    def sign_in(self, **wanted: object) -> int:
        return self.client.post("/api/sign-in", json=wanted).status_code

    def sign_ins_of(self, name: str) -> int:
        with self.client.app.state.kept.pools.requests() as session:  # type: ignore[attr-defined]
            learner = select(AccountRow.learner_id).where(AccountRow.name == name)
            rows = select(SignInRow.id).where(SignInRow.learner_id == learner.scalar_subquery())
            return len(session.scalars(rows).all())

    def attempts(self) -> set[str]:
        listed = self.client.get("/api/attempts").json()["attempts"]
        return {one["id"] for one in listed}

    def test_a_guest_keeps_everything_and_finds_it_on_another_device(self) -> None:
        mine = self.begin()
        kept = self.keep("Kept on the net")
        pictures = [one["id"] for one in kept["pictures"]]  # type: ignore[attr-defined]
        self.assertIn(mine, self.attempts())
        self.assertEqual(self.client.get("/api/learner").json()["name"], "Kept on the net")
        self.client.cookies.clear()  # another device, or cookies were cleared
        self.assertEqual(self.attempts(), set())
        self.assertEqual(self.sign_in(name="kept on the net", pictures=pictures), 200)
        self.assertIn(mine, self.attempts())
        self.assertEqual(len(self.client.get("/api/sign-ins").json()), 2)
        self.client.cookies.clear()
        self.assertEqual(self.sign_in(code=kept["code"]), 200)
        self.assertIn(mine, self.attempts())
        self.assertEqual(self.client.post("/api/sign-out").status_code, 204)
        self.assertEqual(self.client.get("/api/learner").json()["who"], "newcomer")
        self.assertEqual(self.attempts(), set())

    def test_tries_at_once_count_each(self) -> None:
        kept = self.keep("Many at once")
        wrong = [one["id"] for one in kept["pictures"]][::-1]  # type: ignore[attr-defined]
        codes: list[Code] = []

        def guess() -> None:
            with self.client.app.state.kept.pools.requests() as session:  # type: ignore[attr-defined]
                try:
                    accounts.sign_in(
                        session,
                        "Many at once",
                        wrong,
                        secret=new_secret(),
                        device="computer",
                        now=NOW,
                    )
                except MeldrinError as error:
                    codes.append(error.code)

        threads = [threading.Thread(target=guess) for _ in range(12)]
        for one in threads:
            one.start()
        for one in threads:
            one.join()
        self.assertEqual(sorted(codes), [Code.SIGN_IN] * 5 + [Code.TOO_MANY] * 7)

    def test_what_was_done_without_a_name_comes_along_only_when_asked(self) -> None:
        first = self.begin()
        kept = self.keep("Brings it")
        for bring in (False, True):
            self.client.cookies.clear()
            other = self.begin()
            self.assertEqual(self.sign_in(code=kept["code"], bring=bring), 200)
            self.assertEqual(self.attempts() >= {first, other}, bring)
        # of another name nothing is taken
        self.client.cookies.clear()
        self.begin()
        self.keep("Not to be taken")
        before = self.sign_ins_of("Brings it")
        self.assertEqual(self.sign_in(code=kept["code"], bring=True), 403)
        self.assertEqual(self.sign_ins_of("Brings it"), before)  # nobody was let in
        self.assertEqual(self.client.get("/api/learner").json()["name"], "Not to be taken")

    def test_a_guest_is_not_signed_out_of_work_that_nothing_brings_back(self) -> None:
        mine = self.begin()
        self.assertEqual(self.client.post("/api/sign-out").status_code, 403)
        (place,) = self.client.get("/api/sign-ins").json()
        self.assertEqual(self.client.delete(f"/api/sign-ins/{place['id']}").status_code, 403)
        self.assertIn(mine, self.attempts())

    def test_erased_is_erased_with_name_and_sign_ins(self) -> None:
        mine = self.begin()
        kept = self.keep("To be erased")
        self.assertEqual(self.client.delete("/api/learner").status_code, 204)
        self.assertEqual(self.sign_in(code=kept["code"]), 403)
        with self.client.app.state.kept.pools.requests() as session:  # type: ignore[attr-defined]
            names = session.scalars(select(AccountRow.name)).all()
            self.assertNotIn("To be erased", names)
            kept_rows = select(AttemptRow.id).where(AttemptRow.public_id == mine)
            self.assertIsNone(session.scalar(kept_rows))

    def test_everything_can_be_taken_along_but_for_what_lets_in(self) -> None:
        mine = self.begin()
        own = self.client.post("/api/instruments", content=OWN, headers=HEADERS).json()["id"]
        self.client.put("/api/today/aim", json={"instrument": "viola", "method": "fifths"})
        self.client.post("/api/today/plans", json={"instrument": "viola", "method": "fifths"})
        kept = self.keep("Takes it along")
        with (
            tempfile.TemporaryDirectory() as folder,
            mock.patch.object(tempfile, "tempdir", folder),
        ):
            reply = self.client.get("/api/learner/everything.zip")
            self.assertEqual(list(Path(folder).iterdir()), [])  # nothing of it stays behind
        self.assertEqual(reply.headers["content-type"], "application/zip")
        files = unpacked(reply.content)
        self.assertEqual(json.loads(files["who.json"])["account"]["name"], "Takes it along")
        attempt = json.loads(files[f"attempts/{mine}.json"])
        self.assertEqual(attempt["attempt"]["exercise"]["instrument_id"], "guitar")
        self.assertEqual(files[f"instruments/{own}.toml"], OWN)
        self.assertEqual(len(json.loads(files["plans.json"])), 1)
        self.assertEqual(len(json.loads(files["sign-ins.json"])), 1)
        for secret in (kept["code"], self.client.cookies[COOKIE], "argon2", "sha256"):
            self.assertNotIn(str(secret), " ".join(files.values()))

    def test_what_cannot_be_is_refused_in_a_sentence(self) -> None:
        for path, body in (
            ("/api/account", {"name": "ida@home"}),
            ("/api/account", {"name": "x" * 61}),
            ("/api/sign-in", {"name": "Ida", "pictures": ["cat"]}),
            ("/api/sign-in", {"code": "no code"}),
            ("/api/sign-in", {"name": "Ida", "pictures": ["cat", "dog", "fish", "bird"]}),
            ("/api/sign-in", {"code": "CDFG-HJKL-MNPQ-RTVW"}),
            ("/api/account/keys", {}),
        ):
            reply = self.client.post(path, json=body)
            self.assertIn(reply.status_code, (403, 422), reply.text)
            self.assertTrue(reply.json()["detail"].endswith((".", "?")), reply.text)
