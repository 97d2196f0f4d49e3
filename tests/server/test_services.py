from datetime import timedelta

from meldrin.core.bench import Finish, Judge, Setup, Sound, TimedAction, Turn, replay
from meldrin.core.errors import MeldrinError
from meldrin.demo.load import load_demo
from meldrin.services.attempts import (
    Batch,
    Numbered,
    Summary,
    append_actions,
    erase_attempt,
    list_attempts,
    open_attempt,
    start_attempt,
    take_over,
)
from meldrin.services.identity import erase_learner, learner_id, new_secret, welcome_guest
from tests.server.base import NOW, StoreTest


def numbered(*actions: Sound | Turn | Judge | Finish, first: int = 1) -> tuple[Numbered, ...]:
    return tuple(Numbered(n, TimedAction(float(n), a)) for n, a in enumerate(actions, start=first))


class ServiceTest(StoreTest):
    def setUp(self) -> None:
        super().setUp()
        self.secret = new_secret()
        self.learner = welcome_guest(self.session, secret=self.secret, now=NOW)

    def begin(self, seed: int = 4) -> Summary:
        return start_attempt(
            self.session,
            learner=self.learner,
            instrument="guitar",
            method="unison",
            start="hair",
            a4_hz=440.0,
            now=NOW,
            seed=seed,
        )


class Guests(ServiceTest):
    def test_a_guest_is_known_by_the_secret_and_nothing_else(self) -> None:
        self.assertEqual(learner_id(self.session, self.secret), self.learner)
        self.assertIsNone(learner_id(self.session, new_secret()))
        self.assertIsNone(learner_id(self.session, None))

    def test_erasing_a_learner_takes_everything_along(self) -> None:
        begun = self.begin()
        erase_learner(self.session, self.learner)
        self.assertIsNone(learner_id(self.session, self.secret))
        with self.assertRaises(MeldrinError):
            open_attempt(self.session, begun.id, learner=self.learner)


class Attempts(ServiceTest):
    def test_actions_come_back_as_they_were_done(self) -> None:
        begun = self.begin()
        record = take_over(self.session, begun.id, learner=self.learner, holder="a")
        actions = numbered(Sound((5,), True), Turn(5, 1.0 / 3.0), Judge("low", 2.5))
        refused = append_actions(self.session, [Batch(record.key, "a", actions)], now=NOW)
        self.assertEqual(refused, set())
        again = open_attempt(self.session, begun.id, learner=self.learner)
        self.assertEqual(again.log, actions)
        setup = Setup("guitar", "unison", "hair", 4)
        self.assertEqual(
            replay(again.summary.setup, [one.timed for one in again.log]),
            replay(setup, [one.timed for one in actions]),
        )

    def test_the_same_actions_sent_twice_are_kept_once(self) -> None:
        begun = self.begin()
        record = take_over(self.session, begun.id, learner=self.learner, holder="a")
        batch = Batch(record.key, "a", numbered(Turn(5, 1.0), Turn(5, 2.0)))
        append_actions(self.session, [batch], now=NOW)
        append_actions(self.session, [batch], now=NOW)
        again = open_attempt(self.session, begun.id, learner=self.learner)
        self.assertEqual([one.number for one in again.log], [1, 2])

    def test_who_has_been_replaced_is_refused_and_others_are_not(self) -> None:
        mine, other = self.begin(), self.begin()
        first = take_over(self.session, mine.id, learner=self.learner, holder="a")
        second = take_over(self.session, other.id, learner=self.learner, holder="c")
        take_over(self.session, mine.id, learner=self.learner, holder="b")
        refused = append_actions(
            self.session,
            [
                Batch(first.key, "a", numbered(Turn(5, 1.0))),
                Batch(second.key, "c", numbered(Turn(4, 1.0))),
            ],
            now=NOW,
        )
        self.assertEqual(refused, {(first.key, "a")})
        self.assertEqual(open_attempt(self.session, mine.id, learner=self.learner).log, ())
        self.assertEqual(len(open_attempt(self.session, other.id, learner=self.learner).log), 1)

    def test_finish_closes_and_scores(self) -> None:
        begun = self.begin()
        record = take_over(self.session, begun.id, learner=self.learner, holder="a")
        later = NOW + timedelta(minutes=5)
        batch = Batch(record.key, "a", numbered(Sound((5,), True), Judge("low", 9.0), Finish()))
        append_actions(self.session, [batch], now=later)
        (listed,) = list_attempts(self.session, learner=self.learner)
        self.assertEqual(listed.finished_at, later)
        assert listed.points is not None
        # A was listened to and never turned; only A's match, place and judgement can bring points
        self.assertTrue(0.0 < listed.points <= 6.0 + 2.0 + 4.0)

    def test_newest_first_and_only_ones_own(self) -> None:
        older = self.begin()
        newer = self.begin()
        stranger = welcome_guest(self.session, secret=new_secret(), now=NOW)
        self.assertEqual(
            [one.id for one in list_attempts(self.session, learner=self.learner)],
            [newer.id, older.id],
        )
        self.assertEqual(list_attempts(self.session, learner=stranger), [])
        for act in (open_attempt, erase_attempt):
            with self.assertRaisesRegex(MeldrinError, "no such attempt among yours"):
                act(self.session, older.id, learner=stranger)
        erase_attempt(self.session, older.id, learner=self.learner)
        self.assertEqual(len(list_attempts(self.session, learner=self.learner)), 1)


class Demo(StoreTest):
    def test_twelve_weeks_are_loaded_once_and_show_progress(self) -> None:
        for _ in range(2):
            load_demo(self.session, secret="pupil", now=NOW)
        pupil = learner_id(self.session, "pupil")
        assert pupil is not None
        attempts = list_attempts(self.session, learner=pupil)
        self.assertEqual(len(attempts), 13)
        self.assertIsNone(attempts[0].finished_at)
        points = [one.points for one in reversed(attempts) if one.points is not None]
        self.assertGreater(sum(points[6:]) / 6, sum(points[:6]) / 6)
        self.assertTrue(all(one.created_at <= NOW for one in attempts))
