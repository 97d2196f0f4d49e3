import json
import math
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from meldrin.core.bench import (
    Action,
    Damp,
    Finish,
    Go,
    Help,
    Judge,
    Setup,
    Sound,
    State,
    Stop,
    TimedAction,
    Turn,
    action_from_record,
    action_record,
    heard,
    matched_cents,
    opening,
    replay,
    step,
)
from meldrin.core.bench.caution import caution
from meldrin.core.bench.observe import pitch_cents
from meldrin.core.errors import MeldrinError, OutOfRange
from meldrin.core.sound.events import Release, Retune, Start
from meldrin.core.strings import tension_at_strain

STRINGS = st.integers(1, 6)
ACTIONS: st.SearchStrategy[Action] = st.one_of(
    st.builds(
        Sound,
        st.lists(STRINGS, min_size=1, max_size=6, unique=True).map(tuple),
        st.booleans(),
        st.floats(0.1, 1.0),
    ),
    st.builds(Stop, STRINGS, st.integers(0, 20)),
    st.builds(Turn, STRINGS, st.floats(-90.0, 90.0)),
    st.just(Damp()),
    st.builds(Judge, st.sampled_from(("low", "still", "high")), st.floats(0.0, 100.0)),
    st.builds(Go, st.integers(0, 6)),
    st.builds(Help, st.sampled_from(("ear", "ripple", "level"))),
)
LOGS = st.lists(st.tuples(st.floats(0.0, 5.0), ACTIONS), max_size=25)


def setup(start: str = "hair", seed: int = 7) -> Setup:
    return Setup("guitar", "unison", start, seed)  # type: ignore[arg-type]


def run(state: State, *actions: Action) -> State:
    for action in actions:
        state, _ = step(state, action, dt_s=0.5)
    return state


class Openings(unittest.TestCase):
    def test_starts_are_as_far_out_as_they_say(self) -> None:
        for seed in range(40):
            hair = opening(setup("hair", seed))
            for number in range(1, 7):
                self.assertTrue(3.99 < abs(pitch_cents(hair, number)) < 12.01)
            one = opening(setup("one", seed))
            out = [n for n in range(1, 7) if abs(pitch_cents(one, n)) > 2.0]
            self.assertEqual(len(out), 1)
            month = opening(setup("month", seed))
            self.assertTrue(all(-40.01 < pitch_cents(month, n) < 12.01 for n in range(1, 7)))

    def test_the_first_pair_always_beats_for_a_newcomer(self) -> None:
        # 440 Hz against a 4th partial at least 7 cents flat: 440 (1 - 2^(-7/1200)) = 1.78
        for seed in range(40):
            now = heard(run(opening(setup("hair", seed)), Sound((5,), reference=True)))
            assert now is not None
            self.assertGreater(now.beats_hz, 1.77)

    def test_what_there_is_none_of(self) -> None:
        for wrong in (
            ("lute", "unison", "hair"),
            ("guitar", "magic", "hair"),
            ("guitar", "unison", "x"),
        ):
            with self.assertRaises(MeldrinError):
                Setup(*wrong, seed=1)
        with self.assertRaises(OutOfRange):
            setup(seed=-1)


class Sounding(unittest.TestCase):
    def test_nothing_is_heard_until_both_sides_sound(self) -> None:
        state = run(opening(setup()), Sound((5,)))
        self.assertIsNone(heard(state))
        self.assertIsNotNone(heard(run(state, Sound((), reference=True))))

    def test_a_string_struck_again_lets_its_old_voice_go(self) -> None:
        state, first = step(opening(setup()), Sound((5,)), dt_s=0.0)
        _, again = step(state, Sound((5,)), dt_s=1.0)
        kinds = [type(event) for event in again]
        self.assertEqual(kinds, [Release, Start])
        self.assertEqual(again[0].voice, first[0].voice)
        self.assertNotEqual(again[1].voice, first[0].voice)

    def test_turning_retunes_what_rings_and_nothing_else(self) -> None:
        state = run(opening(setup()), Sound((5,), reference=True))
        _, sounds = step(state, Turn(5, 1.0), dt_s=0.1)
        self.assertEqual([type(event) for event in sounds], [Retune])
        self.assertEqual(step(state, Turn(4, 1.0), dt_s=0.1)[1], ())
        _, later = step(state, Turn(5, 1.0), dt_s=600.0)
        self.assertEqual(later, ())

    def test_the_finger_raises_by_the_frets_it_stands_on(self) -> None:
        state = opening(setup()).at_stage(1)
        state = run(state, Sound((5, 4)))
        before = heard(state)
        after = heard(run(state, Stop(5, 6)))
        assert before is not None
        assert after is not None
        # one fret is 100 cents, and stiffness adds under 0.01 to the first partial
        change = before.offset_cents - after.offset_cents
        self.assertAlmostEqual(change, 100.0, delta=0.02)

    def test_next_puts_the_finger_in_place_and_damps(self) -> None:
        state = run(opening(setup()), Sound((5,), reference=True))
        state, sounds = step(state, Go(1), dt_s=0.1)
        self.assertEqual({type(event) for event in sounds}, {Release})
        self.assertEqual([string.fret for string in state.strings], [0, 0, 0, 0, 5, 0])
        self.assertEqual([s.fret for s in run(state, Go(5)).strings], [0, 0, 0, 0, 0, 5])


class Judging(unittest.TestCase):
    def test_what_was_so_is_kept_with_what_was_said(self) -> None:
        state = run(opening(setup()), Judge("low", 8.0))
        said = state.judgement(0)
        assert said is not None
        self.assertEqual((said.verdict, said.cents), ("low", 8.0))
        self.assertEqual(said.was_cents, matched_cents(state, state.setup.plan.steps[0]))

    def test_once_for_each_step_and_not_at_the_check(self) -> None:
        state = run(opening(setup()), Judge("still", 0.0))
        with self.assertRaisesRegex(MeldrinError, "said already"):
            run(state, Judge("low", 3.0))
        with self.assertRaisesRegex(MeldrinError, "only listened to"):
            run(state, Go(6), Judge("low", 3.0))


class Refusals(unittest.TestCase):
    def test_too_tight_and_too_slack(self) -> None:
        state = opening(setup())
        with self.assertRaisesRegex(MeldrinError, "above 80% of what breaks it"):
            for _ in range(12):
                state = run(state, Turn(1, 90.0))
        self.assertIn("near its limit", caution(state) or "")
        tension = tension_at_strain(state.setup.instrument.string(1), state.strain(1))
        self.assertLessEqual(tension, 0.8 * 191.9)
        with self.assertRaisesRegex(MeldrinError, "hangs slack"):
            for _ in range(40):
                state = run(state, Turn(2, -90.0))

    def test_a_far_too_high_string_brings_a_caution(self) -> None:
        state = opening(setup())
        self.assertIsNone(caution(state))
        # low E moves 1.7 cents a degree: 80 degrees are about 130 cents
        self.assertIn("right peg", caution(run(state, Turn(6, 80.0))) or "")

    def test_what_cannot_be_done(self) -> None:
        state = opening(setup())
        for action in (
            Stop(1, 21),
            Stop(1, -1),
            Stop(7, 1),
            Turn(0, 1.0),
            Sound((9,)),
            Go(7),
            Go(-1),
        ):
            with self.assertRaises(MeldrinError):
                step(state, action, dt_s=0.1)
        for dt_s in (-0.001, math.nan, math.inf, 1e6):
            with self.assertRaises(OutOfRange):
                step(state, Damp(), dt_s=dt_s)
        with self.assertRaisesRegex(MeldrinError, "finished"):
            run(state, Finish(), Damp())

    def test_actions_are_checked_when_made(self) -> None:
        for make in (
            lambda: Turn(1, math.nan),
            lambda: Turn(1, 91.0),
            lambda: Sound(()),
            lambda: Sound((1, 1)),
            lambda: Sound((1,), strength=0.0),
            lambda: Judge("sharp", 1.0),  # type: ignore[arg-type]
            lambda: Judge("low", -1.0),
            lambda: Help("cheat"),  # type: ignore[arg-type]
        ):
            with self.assertRaises(MeldrinError):
                make()


class Laws(unittest.TestCase):
    @given(LOGS, st.integers(0, 50))
    @settings(max_examples=60)
    def test_the_same_list_gives_the_same_end_to_the_last_bit(
        self, log: list[tuple[float, Action]], seed: int
    ) -> None:
        state = opening(setup(seed=seed))
        kept: list[TimedAction] = []
        for gap, action in log:
            at_s = state.time_s + gap
            try:
                state, sounds = step(state, action, dt_s=at_s - state.time_s)
            except MeldrinError:
                continue
            kept.append(TimedAction(at_s, action))
            for event in sounds:
                if isinstance(event, Retune):
                    self.assertTrue(
                        all(math.isfinite(hz) and hz > 0 for hz in event.frequencies_hz)
                    )
        stored = json.dumps([(entry.at_s, action_record(entry.action)) for entry in kept])
        read = [TimedAction(at, action_from_record(r)) for at, r in json.loads(stored)]
        self.assertEqual(replay(setup(seed=seed), read), state)

    @given(STRINGS, st.floats(0.01, 40.0), st.floats(0.01, 40.0))
    def test_turning_tighter_never_lowers_the_sounding_string(
        self, number: int, first: float, second: float
    ) -> None:
        state = run(opening(setup()), Sound((number,)))
        lowest = 0.0
        for degrees in (first, second):
            state, sounds = step(state, Turn(number, degrees), dt_s=0.1)
            (event,) = sounds
            assert isinstance(event, Retune)
            self.assertGreater(event.frequencies_hz[0], lowest)
            lowest = event.frequencies_hz[0]

    @given(STRINGS, st.floats(0.1, 60.0))
    def test_a_turn_and_its_undoing_leave_the_pitch(self, number: int, degrees: float) -> None:
        state = opening(setup())
        back = run(state, Turn(number, degrees), Turn(number, -degrees))
        self.assertAlmostEqual(pitch_cents(back, number), pitch_cents(state, number), delta=1e-8)

    def test_records_of_other_versions_are_refused(self) -> None:
        with self.assertRaisesRegex(MeldrinError, "no action “turn” of version 2"):
            action_from_record({"v": 2, "kind": "turn", "string": 1, "degrees": 1.0})

    def test_a_record_of_version_1_is_read_as_it_was_written(self) -> None:
        # an example of each stored shape is kept here for good
        for record, action in (
            (
                '{"v":1,"strings":[5],"reference":true,"strength":0.7,"kind":"sound"}',
                Sound((5,), True),
            ),
            ('{"v":1,"string":5,"fret":3,"kind":"stop"}', Stop(5, 3)),
            ('{"v":1,"string":5,"degrees":-1.5,"kind":"turn"}', Turn(5, -1.5)),
            ('{"v":1,"kind":"damp"}', Damp()),
            ('{"v":1,"verdict":"low","cents":4.0,"kind":"judge"}', Judge("low", 4.0)),
            ('{"v":1,"stage":2,"kind":"next"}', Go(2)),
            ('{"v":1,"aid":"ear","kind":"help"}', Help("ear")),
            ('{"v":1,"kind":"finish"}', Finish()),
        ):
            self.assertEqual(action_from_record(json.loads(record)), action)
