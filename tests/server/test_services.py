import io
import json
import wave
from datetime import timedelta

import numpy as np
from sqlalchemy import update

from meldrin.core.bench import Finish, Judge, Setup, Sound, Stop, TimedAction, Turn, replay
from meldrin.core.errors import MeldrinError
from meldrin.core.learner import Ear, Learner, practise
from meldrin.core.scoring import score
from meldrin.core.sound.render import render
from meldrin.demo.load import load_demo
from meldrin.reports.attempt_record import attempt_text, read_attempt
from meldrin.reports.attempt_wav import attempt_wav, sounds_of
from meldrin.services.attempts import (
    Batch,
    Numbered,
    Summary,
    append_actions,
    bring_up_to_date,
    erase_attempt,
    import_attempt,
    list_attempts,
    open_attempt,
    start_attempt,
    take_over,
)
from meldrin.services.identity import erase_learner, learner_id, new_secret, welcome_guest
from meldrin.services.replays import frames_of
from meldrin.store.tables import AttemptRow
from tests.server.base import NOW, StoreTest


def numbered(*actions: Sound | Turn | Judge | Finish, first: int = 1) -> tuple[Numbered, ...]:
    return tuple(Numbered(n, TimedAction(float(n), a)) for n, a in enumerate(actions, start=first))


class ServiceTest(StoreTest):
    def setUp(self) -> None:
        super().setUp()
        self.secret = new_secret()
        self.learner = welcome_guest(self.session, secret=self.secret, now=NOW)

    def begin(self, seed: int = 4) -> Summary:
        setup = Setup("guitar", "unison", "hair", seed)
        return start_attempt(self.session, setup, learner=self.learner, now=NOW)


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
        # (a sixth of 25, 8 and 15), and a sixth of what the manner of it brings
        self.assertTrue(0.0 < listed.points <= (25 + 8 + 15 + 24 + 6 + 6) / 6 / 0.95)

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


class TakenAlong(ServiceTest):
    """An attempt as a file, and back."""

    def played(self) -> tuple[Setup, list[TimedAction]]:
        setup = Setup("viola", "fifths", "month", 4, behaviours=frozenset({"nut", "pegs"}))
        learner = Learner(Ear(threshold_cents=8.0, slowest_hz=0.3))
        return setup, practise(setup, learner, seed=1)

    def test_a_file_brings_back_the_same_attempt_and_the_same_score(self) -> None:
        setup, log = self.played()
        text = attempt_text(setup, log, made=NOW)
        self.assertEqual(read_attempt(text), (setup, log))
        made = import_attempt(self.session, setup, log, learner=self.learner, now=NOW)
        self.assertEqual(made.points, score(setup, log).points)
        self.assertEqual(made.finished_at, NOW)
        again = open_attempt(self.session, made.id, learner=self.learner)
        self.assertEqual([one.timed for one in again.log], log)

    def test_a_bad_file_is_refused_with_what_is_wrong_and_nothing_is_kept(self) -> None:
        setup, log = self.played()
        good = json.loads(attempt_text(setup, log, made=NOW))
        act = good["actions"][0]
        for change, words in (
            ("", "not JSON"),
            ("[]", "does not say"),
            ("[" * 5000, "not JSON"),
            ({"format": "else"}, "does not say"),
            ({"version": 9}, "its version is 9"),
            ({"actions": 5}, "a list of actions"),
            ({"actions": [5]}, "action 1: an action is a record"),
            ({"actions": [{**act, "at_s": -1}]}, "action 1: at_s is -1"),
            ({"actions": [{**act, "at_s": 5.0}, {**act, "at_s": 4.0}]}, "action 2: at_s is 4"),
            ({"actions": [{**act, "kind": "shout"}]}, "action 1: There is no action"),
            ({"actions": [{"kind": "damp", "v": 2}]}, "action 1: at_s is missing"),
            ({"actions": [{**act, "at_s": 1.0}] * 20_001}, "20001 actions"),
            ({"exercise": {**good["exercise"], "seed": "x"}}, "exercise: "),
            ({"exercise": {**good["exercise"], "instrument_id": "lute"}}, "exercise: "),
            ({"exercise": {"v": 1}}, "another version"),
        ):
            text = change if isinstance(change, str) else json.dumps({**good, **change})
            with self.assertRaises(MeldrinError) as caught:
                read_attempt(text)
            self.assertIn(words, caught.exception.message)
            self.assertTrue(caught.exception.message.endswith("."))
        impossible = [*log[:3], TimedAction(log[2].at_s, Stop(1, 5))]  # a viola has no frets
        with self.assertRaisesRegex(MeldrinError, "no frets"):
            import_attempt(self.session, setup, impossible, learner=self.learner, now=NOW)
        self.assertEqual(list_attempts(self.session, learner=self.learner), [])

    def test_the_sound_of_it_is_what_the_bench_sounded(self) -> None:
        setup, log = self.played()
        log = log[:14]
        data = b"".join(attempt_wav(setup, log))
        with wave.open(io.BytesIO(data)) as file:
            self.assertEqual((file.getnchannels(), file.getsampwidth()), (1, 2))
            rate, frames = file.getframerate(), file.getnframes()
            heard = np.frombuffer(file.readframes(frames), dtype="<i2") / 32767.0
        self.assertEqual(frames, round((log[-1].at_s + 1.0) * rate))
        rendered = 0.9 * render(sounds_of(setup, log), duration_s=frames / rate, sample_rate=rate)
        # in stretches of ten seconds as in one; 16 bits round to half a step
        self.assertLess(float(np.max(np.abs(heard - rendered))), 1.0 / 32767.0)
        self.assertGreater(float(np.max(np.abs(heard))), 0.05)

    def test_every_moment_can_be_looked_at_again(self) -> None:
        setup, log = self.played()
        frames = frames_of(setup, log)
        self.assertEqual([frame.action for frame in frames], [entry.action for entry in log])
        sounding = [frame for frame in frames if frame.pair is not None]
        self.assertTrue(sounding)
        for frame in sounding:
            assert frame.pair is not None
            assert frame.level is not None
            self.assertAlmostEqual(frame.pair.offset_cents, frame.level.cents)


class OlderAttempts(ServiceTest):
    def test_they_are_scored_again_by_the_rules_of_today(self) -> None:
        begun = self.begin()
        record = take_over(self.session, begun.id, learner=self.learner, holder="a")
        batch = Batch(record.key, "a", numbered(Sound((5,), True), Judge("low", 9.0), Finish()))
        append_actions(self.session, [batch], now=NOW)
        right = open_attempt(self.session, begun.id, learner=self.learner).summary.points
        older = update(AttemptRow).where(AttemptRow.id == record.key)
        self.session.execute(older.values(engine=1, points=3.0))
        self.assertEqual(bring_up_to_date(self.session), 1)
        self.session.expire_all()
        again = open_attempt(self.session, begun.id, learner=self.learner).summary
        self.assertEqual(again.points, right)
        self.assertEqual(bring_up_to_date(self.session), 0)


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
