import io
import json
import wave
from dataclasses import replace
from datetime import timedelta
from typing import Any
from unittest import mock

import numpy as np
from sqlalchemy import update

from meldrin.core.bench import (
    Exercise,
    Finish,
    GoTo,
    Judge,
    Play,
    Stop,
    TimedAction,
    Turn,
    played,
    replay,
    with_instrument,
)
from meldrin.core.errors import MeldrinError
from meldrin.core.learner import Ear, Learner, practise
from meldrin.core.scoring import score
from meldrin.core.sound.render import render
from meldrin.demo.load import load_demo
from meldrin.reports.attempt_record import ReadAttempt, attempt_text, read_attempt
from meldrin.reports.attempt_wav import attempt_wav, sounds_of
from meldrin.server.attempts.present import replay_of
from meldrin.server.scores.present import score_of
from meldrin.services.actor import NEWCOMER
from meldrin.services.attempts import (
    Batch,
    Filter,
    Numbered,
    Summary,
    append_actions,
    erase_attempt,
    import_attempt,
    list_attempts,
    open_attempt,
    record_of,
    start_attempt,
    take_over,
)
from meldrin.services.figures import figures_of
from meldrin.services.identity import actor_of, erase_learner, new_secret, welcome_guest
from meldrin.services.practices import KINDS
from meldrin.services.replays import MOST_FRAMES, Replays
from meldrin.services.results import Results
from meldrin.store.tables import AttemptRow
from tests.server.base import NOW, StoreTest


def numbered(*actions: Play | Turn | Judge | Finish, first: int = 1) -> tuple[Numbered, ...]:
    return tuple(Numbered(n, TimedAction(float(n), a)) for n, a in enumerate(actions, start=first))


class ServiceTest(StoreTest):
    def setUp(self) -> None:
        super().setUp()
        self.secret = new_secret()
        self.learner = welcome_guest(self.session, secret=self.secret, now=NOW)

    def begin(self, seed: int = 4) -> Summary:
        exercise = Exercise("guitar", "unison", "hair", seed)
        return start_attempt(self.session, self.learner, exercise, now=NOW)


class Guests(ServiceTest):
    def test_a_guest_is_known_by_the_secret_and_nothing_else(self) -> None:
        self.assertEqual(actor_of(self.session, self.secret, now=NOW), self.learner)
        self.assertEqual(actor_of(self.session, new_secret(), now=NOW), NEWCOMER)
        self.assertEqual(actor_of(self.session, None, now=NOW), NEWCOMER)

    def test_erasing_a_learner_takes_everything_along(self) -> None:
        begun = self.begin()
        erase_learner(self.session, self.learner)
        self.assertEqual(actor_of(self.session, self.secret, now=NOW), NEWCOMER)
        with self.assertRaises(MeldrinError):
            open_attempt(self.session, self.learner, begun.id)


class Attempts(ServiceTest):
    def test_actions_come_back_as_they_were_done(self) -> None:
        begun = self.begin()
        record = take_over(self.session, self.learner, begun.id, holder="a")
        actions = numbered(Play((5,), True), Turn(5, 1.0 / 3.0), Judge("low", 2.5))
        refused = append_actions(self.session, [Batch(record.key, "a", actions)], now=NOW)
        self.assertEqual(refused, set())
        again = open_attempt(self.session, self.learner, begun.id)
        self.assertEqual(again.log, actions)
        # what is kept holds the data of its instrument, and is otherwise what was asked for
        exercise = with_instrument(Exercise("guitar", "unison", "hair", 4))
        self.assertEqual(
            replay(again.exercise, again.timed),
            replay(exercise, [one.timed for one in actions]),
        )

    def test_the_same_actions_sent_twice_are_kept_once(self) -> None:
        begun = self.begin()
        record = take_over(self.session, self.learner, begun.id, holder="a")
        batch = Batch(record.key, "a", numbered(Turn(5, 1.0), Turn(5, 2.0)))
        append_actions(self.session, [batch], now=NOW)
        append_actions(self.session, [batch], now=NOW)
        again = open_attempt(self.session, self.learner, begun.id)
        self.assertEqual([one.number for one in again.log], [1, 2])

    def test_who_has_been_replaced_is_refused_and_others_are_not(self) -> None:
        mine, other = self.begin(), self.begin()
        first = take_over(self.session, self.learner, mine.id, holder="a")
        second = take_over(self.session, self.learner, other.id, holder="c")
        take_over(self.session, self.learner, mine.id, holder="b")
        refused = append_actions(
            self.session,
            [
                Batch(first.key, "a", numbered(Turn(5, 1.0))),
                Batch(second.key, "c", numbered(Turn(4, 1.0))),
            ],
            now=NOW,
        )
        self.assertEqual(refused, {(first.key, "a")})
        self.assertEqual(open_attempt(self.session, self.learner, mine.id).log, ())
        self.assertEqual(len(open_attempt(self.session, self.learner, other.id).log), 1)

    def test_finish_closes_and_the_score_is_computed_once_and_kept(self) -> None:
        begun = self.begin()
        record = take_over(self.session, self.learner, begun.id, holder="a")
        later = NOW + timedelta(minutes=5)
        pair = Play((5,), True)
        batch = Batch(
            record.key, "a", numbered(pair, Turn(5, 1.0), pair, Judge("low", 9.0), Finish())
        )
        append_actions(self.session, [batch], now=later)
        (listed,) = list_attempts(self.session, self.learner).attempts
        self.assertEqual((listed.finished_at, listed.points, listed.brief), (later, None, None))
        results = Results(self.sessions)
        record = record_of(self.session, record.key)
        first = results.of(record)
        assert first is not None
        never = replace(KINDS["bench"], score=mock.Mock(side_effect=AssertionError("again")))
        with mock.patch.dict(KINDS, {"bench": never}):
            self.assertEqual(results.of(record), first)
        self.session.expire_all()
        (listed,) = list_attempts(self.session, self.learner).attempts
        assert listed.brief is not None
        # its start came with a seed that could be known: practice, where nothing is “by ear”
        self.assertEqual((listed.points, listed.brief.by_ear_of), (first.points, 0))
        self.assertEqual(listed.brief.worst_cents, first.accuracy.worst_cents)

    def test_what_was_not_scored_when_the_program_ended_is_scored_at_its_next_start(self) -> None:
        begun = self.begin()
        record = take_over(self.session, self.learner, begun.id, holder="a")
        append_actions(self.session, [Batch(record.key, "a", numbered(Finish()))], now=NOW)
        Results(self.sessions).catch_up()
        self.session.expire_all()
        (listed,) = list_attempts(self.session, self.learner).attempts
        self.assertEqual(listed.points, 0.0)

    def test_one_that_cannot_be_scored_stops_no_start_and_no_other(self) -> None:
        Results(self.sessions).catch_up()  # what other tests have left
        begun = [self.begin(), self.begin(), self.begin()]
        for one in begun:
            record = take_over(self.session, self.learner, one.id, holder="a")
            append_actions(self.session, [Batch(record.key, "a", numbered(Finish()))], now=NOW)
        real, calls = KINDS["bench"].score, iter((False, True, False))

        def second_fails(*what: Any) -> Any:
            if next(calls):
                raise ZeroDivisionError("nought")
            return real(*what)

        with (
            mock.patch.dict(KINDS, {"bench": replace(KINDS["bench"], score=second_fails)}),
            self.assertLogs("meldrin.results", "ERROR") as logs,
        ):
            Results(self.sessions).catch_up()
        self.assertEqual(len(logs.records), 1)
        self.session.expire_all()
        listed = list_attempts(self.session, self.learner).attempts
        self.assertEqual(sorted(str(one.points) for one in listed), ["0.0", "0.0", "None"])

    def test_one_that_cannot_be_read_is_listed_as_such_and_takes_nothing_away(self) -> None:
        good, bad = self.begin(), self.begin()
        row = update(AttemptRow).where(AttemptRow.public_id == bad.id)
        for exercise in ('{"v":3,"instrument_id":"lute"}', "no JSON", "[]", '{"v":3}'):
            self.session.execute(row.values(exercise=exercise))
            with self.assertLogs("meldrin.attempts", "WARNING"):
                listed = list_attempts(self.session, self.learner).attempts
                self.assertEqual(
                    {one.id: one.exercise is None for one in listed}, {good.id: False, bad.id: True}
                )
                with self.assertRaisesRegex(MeldrinError, "cannot be opened"):
                    open_attempt(self.session, self.learner, bad.id)
        erase_attempt(self.session, self.learner, bad.id)

    def test_newest_first_and_only_ones_own(self) -> None:
        older = self.begin()
        newer = self.begin()
        stranger = welcome_guest(self.session, secret=new_secret(), now=NOW)
        self.assertEqual(
            [one.id for one in list_attempts(self.session, self.learner).attempts],
            [newer.id, older.id],
        )
        self.assertEqual(list_attempts(self.session, stranger).attempts, [])
        for act in (open_attempt, erase_attempt):
            with self.assertRaisesRegex(MeldrinError, "no such attempt among yours"):
                act(self.session, stranger, older.id)
        erase_attempt(self.session, self.learner, older.id)
        self.assertEqual(len(list_attempts(self.session, self.learner).attempts), 1)


class TakenAlong(ServiceTest):
    """An attempt as a file, and back."""

    def played(self) -> tuple[Exercise, list[TimedAction]]:
        exercise = Exercise("viola", "fifths", "month", 4, behaviours=frozenset({"nut", "pegs"}))
        learner = Learner(Ear(threshold_cents=8.0, slowest_hz=0.3))
        return exercise, practise(exercise, learner, seed=1)

    def test_a_file_brings_back_the_same_attempt_and_the_same_score(self) -> None:
        exercise, log = self.played()
        text = attempt_text(exercise, log, made=NOW)
        self.assertEqual(read_attempt(text), ReadAttempt(exercise, log, NOW, earlier=False))
        kept = import_attempt(self.session, self.learner, exercise, log, made=NOW)
        # at its own time, and over when its last action was done
        self.assertEqual(kept.created_at, NOW)
        self.assertEqual(kept.finished_at, NOW + timedelta(seconds=log[-1].at_s))
        again = open_attempt(self.session, self.learner, kept.id)
        self.assertEqual(again.timed, log)
        found = Results(self.sessions).of(again)
        assert found is not None
        self.assertEqual(found.points, score(exercise, log).points)

    def test_a_file_of_an_earlier_version_always_plays(self) -> None:
        exercise, log = self.played()
        old = json.loads(attempt_text(exercise, log, made=NOW))
        old["version"] = 1
        old["exercise"]["v"] = 2
        # judged at once, without a sound: refused today, and taken then
        told = {"at_s": 0.0, "v": 2, "kind": "judge", "verdict": "low", "cents": 3.0}
        old["actions"] = [told, *({**one, "v": 2} for one in old["actions"])]
        found = read_attempt(json.dumps(old))
        self.assertTrue(found.earlier)
        self.assertFalse(found.exercise.decides)
        kept = import_attempt(
            self.session, self.learner, found.exercise, found.log, made=NOW, earlier=True
        )
        self.assertIsNotNone(kept.finished_at)
        with self.assertRaisesRegex(MeldrinError, "Play it with its partner first"):
            import_attempt(self.session, self.learner, found.exercise, found.log, made=NOW)

    def test_a_bad_file_is_refused_with_what_is_wrong_and_nothing_is_kept(self) -> None:
        exercise, log = self.played()
        good = json.loads(attempt_text(exercise, log, made=NOW))
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
            ({"actions": [{**act, "kind": "shout"}]}, "action 1: "),
            (
                {"actions": [{**act, "v": 9}]},
                "action 1: This action was written by another version (9)",
            ),
            ({"actions": [{**act, "at_s": "1"}]}, "action 1: at_s is a number"),
            ({"actions": [{"v": 3, "at_s": 1, "kind": "mute", "on": None}]}, "action 1: on"),
            (
                {"actions": [{"v": 3, "at_s": 1, "kind": "turn", "string": "x", "degrees": 1}]},
                "action 1: string",
            ),
            (
                {
                    "actions": [
                        {"v": 3, "at_s": 1, "kind": "sound", "strings": [1], "strength": "0.5"}
                    ]
                },
                "action 1: strength",
            ),
            ({"exercise": {**good["exercise"], "voice": None}}, "exercise: "),
            ({"exercise": {**good["exercise"], "tuning": "\ud800"}}, "exercise: "),
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
            import_attempt(self.session, self.learner, exercise, impossible, made=NOW)
        self.assertEqual(list_attempts(self.session, self.learner).attempts, [])

    def test_the_sound_of_it_is_what_the_bench_sounded(self) -> None:
        exercise, log = self.played()
        log = log[:14]
        data = b"".join(attempt_wav(exercise, log))
        with wave.open(io.BytesIO(data)) as file:
            self.assertEqual((file.getnchannels(), file.getsampwidth()), (1, 2))
            rate, frames = file.getframerate(), file.getnframes()
            heard = np.frombuffer(file.readframes(frames), dtype="<i2") / 32767.0
        self.assertEqual(frames, round((log[-1].at_s + 1.0) * rate))
        rendered = 0.9 * render(
            sounds_of(exercise, log), duration_s=frames / rate, sample_rate=rate
        )
        # in stretches of ten seconds as in one; 16 bits round to half a step
        self.assertLess(float(np.max(np.abs(heard - rendered))), 1.0 / 32767.0)
        self.assertGreater(float(np.max(np.abs(heard))), 0.05)

    def test_every_moment_can_be_looked_at_again(self) -> None:
        exercise, log = self.played()
        frames = Replays().stretch(1, exercise, log, begin=0).frames
        self.assertEqual([frame.action for frame in frames], [entry.action for entry in log])
        sounding = [frame for frame in frames if frame.pair is not None]
        self.assertTrue(sounding)
        for frame in sounding:
            assert frame.pair is not None
            assert frame.level is not None
            self.assertAlmostEqual(frame.pair.offset_cents, frame.level.cents)

    def test_a_long_one_is_looked_at_in_stretches_from_anywhere(self) -> None:
        exercise = Exercise("guitar", "unison", "month", 5)
        log = [TimedAction(float(n), Turn(5, 0.5 * (-1) ** n)) for n in range(2 * MOST_FRAMES + 7)]
        log[40] = TimedAction(40.0, GoTo(99))  # an earlier version took it; it is passed over
        whole = [one.after for one in played(exercise, log)]
        begins, replays = (0, MOST_FRAMES, 2 * MOST_FRAMES), Replays()
        in_order = [replays.stretch(1, exercise, log, begin=at) for at in begins]
        frames = [frame for one in in_order for frame in one.frames]
        self.assertEqual(len(frames), len(whole))
        self.assertEqual({one.duration_s for one in in_order}, {log[-1].at_s})
        for begin, one in zip(begins, in_order, strict=True):
            self.assertEqual(Replays().stretch(1, exercise, log, begin=begin), one)


class LongAttempts(ServiceTest):
    def test_pages_stay_small_however_long_one_is(self) -> None:
        log = [TimedAction(0.5 * n, Turn(5, 4.0 if n % 2 else -4.0)) for n in range(4000)]
        log.append(TimedAction(2001.0, Finish()))
        exercise = Exercise("guitar", "unison", "month", 3)
        found = score(exercise, log)
        self.assertGreater(len(found.moments), 1000)
        page = score_of(found, tolerance="settled").model_dump_json()
        self.assertLess(len(page), 100_000)
        stretch = replay_of(Replays().stretch(1, exercise, log, begin=1200))
        self.assertEqual((len(stretch.frames), stretch.next), (MOST_FRAMES, 1200 + MOST_FRAMES))


class OlderAttempts(ServiceTest):
    def test_they_keep_the_points_they_had_and_say_so(self) -> None:
        begun = self.begin()
        record = take_over(self.session, self.learner, begun.id, holder="a")
        batch = Batch(record.key, "a", numbered(Play((5,), True), Judge("low", 9.0), Finish()))
        append_actions(self.session, [batch], now=NOW)
        older = update(AttemptRow).where(AttemptRow.id == record.key)
        self.session.execute(older.values(engine=2, points=73.5))
        self.session.expire_all()
        again = open_attempt(self.session, self.learner, begun.id)
        self.assertEqual((again.summary.points, again.summary.earlier), (73.5, True))
        self.assertIsNone(Results(self.sessions).of(again))
        stretch = Replays().stretch(again.key, again.exercise, again.timed, begin=0)
        self.assertEqual(len(stretch.frames), 3)
        Results(self.sessions).catch_up()
        self.session.expire_all()
        (listed,) = list_attempts(self.session, self.learner).attempts
        self.assertEqual(listed.points, 73.5)

    def test_one_that_is_played_on_is_scored_as_it_ends(self) -> None:
        begun = self.begin()
        older = update(AttemptRow).where(AttemptRow.public_id == begun.id)
        self.session.execute(older.values(engine=2))
        self.session.expire_all()
        record = take_over(self.session, self.learner, begun.id, holder="a")
        append_actions(self.session, [Batch(record.key, "a", numbered(Finish()))], now=NOW)
        again = record_of(self.session, record.key)
        self.assertIsNotNone(Results(self.sessions).of(again))


class Demo(StoreTest):
    def test_twelve_weeks_are_loaded_once_and_show_progress(self) -> None:
        for _ in range(2):
            load_demo(self.session, secret="pupil", teacher="teacher", now=NOW)
        Results(self.sessions).catch_up()
        pupil = actor_of(self.session, "pupil", now=NOW)
        self.assertNotEqual(pupil, NEWCOMER)
        attempts = list_attempts(self.session, pupil, Filter(practice="bench")).attempts
        self.assertEqual(len(attempts), 14)  # one of them was set
        sat, tuned = figures_of(self.session, pupil)
        self.assertEqual(
            (len(sat), len(tuned)), (42, 13)
        )  # three or four sittings a week, all over
        self.assertIsNone(attempts[0].finished_at)
        points = [one.points for one in reversed(attempts) if one.points is not None]
        self.assertGreater(sum(points[6:]) / len(points[6:]), sum(points[:6]) / 6)
        self.assertTrue(all(one.created_at <= NOW for one in attempts))
