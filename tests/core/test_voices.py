import math
import unittest
from itertools import combinations

import numpy as np
from numpy.typing import NDArray
from tools.studies import beat_depths

from meldrin.core.bench import (
    MuteAll,
    MuteOthers,
    Play,
    State,
    Stop,
    heard,
    matched_cents,
    opening,
    pitch_cents,
    step,
)
from meldrin.core.bench.fingers import misplaced_cents, pressed_cents, touched_share
from meldrin.core.bench.voices import stroke_cents
from meldrin.core.catalogue import instrument
from meldrin.core.changed import changed
from meldrin.core.errors import MeldrinError
from meldrin.core.pitch import cents_between
from meldrin.core.sound.events import Release, Start
from meldrin.core.sound.partials import Series, ringing_along, snap
from meldrin.core.sound.references import SOURCES, Source, fork, partial_place, reference
from meldrin.core.sound.render import render
from meldrin.core.strings import design_tension_n, strain_at_tension
from tests.core.bench_hand import exercise, made_to_measure, run
from tests.core.test_sound import RATE, measured_beat_hz

GUITAR = instrument("guitar")


def strain_of(instrument_id: str, number: int) -> float:
    string = instrument(instrument_id).string(number)
    return strain_at_tension(string, design_tension_n(string))


def struck(state: State, *strings: int, **how: object) -> tuple[State, list[Start]]:
    state, sounds = step(state, Play(strings, **how), dt_s=0.5)  # type: ignore[arg-type]
    return state, [event for event in sounds if isinstance(event, Start)]


class Strokes(unittest.TestCase):
    def test_a_hard_stroke_starts_as_sharp_as_its_stretch_says(self) -> None:
        # 1731 (3 pi^2/32)(EA/T)(a/L)^2 with a/L = 0.004: EA/T is 302 on low E, 144 on high E
        low = stroke_cents(GUITAR.string(6), strain=strain_of("guitar", 6), strength=1.0)
        high = stroke_cents(GUITAR.string(1), strain=strain_of("guitar", 1), strength=1.0)
        self.assertAlmostEqual(low, 1731 * 0.92528 * 301.8 * 1.6e-5, delta=0.05)
        self.assertAlmostEqual(high, 1731 * 0.92528 * 144.4 * 1.6e-5, delta=0.05)
        half = stroke_cents(GUITAR.string(6), strain=strain_of("guitar", 6), strength=0.5)
        self.assertAlmostEqual(low / half, 4.0, places=9)  # as the square of the swing
        nylon = instrument("classical-guitar").string(1)
        soft = stroke_cents(nylon, strain=strain_of("classical-guitar", 1), strength=1.0)
        self.assertLess(soft, 1.0)

    def test_it_falls_to_the_pitch_and_a_bow_has_none(self) -> None:
        state = opening(exercise("guitar", "each", "hair", 4, "stroke"))
        _, (start,) = struck(state, 6, strength=1.0)
        table = start.table
        self.assertTrue(6.0 < table.glide_cents < 9.0)
        self.assertTrue(0.3 < table.glide_s < 0.7)  # basses, as players know
        samples = render([(0.0, start)], duration_s=3.0, sample_rate=RATE)
        early, late = (
            first_hz(samples[round(a * RATE) : round(b * RATE)], 82.0)
            for a, b in ((0.05, 0.55), (2.4, 2.9))
        )
        fell = cents_between(early, reference_hz=late)
        # the mean of exp(-t/tau) over the first half second, of what it began with
        tau = table.glide_s
        mean = tau / 0.5 * (math.exp(-0.05 / tau) - math.exp(-0.55 / tau))
        self.assertAlmostEqual(fell, table.glide_cents * mean, delta=1.0)
        _, (bowed,) = struck(
            opening(exercise("viola", "each", "hair", 4, "stroke")), 1, strength=1.0
        )
        self.assertEqual(bowed.table.glide_cents, 0.0)

    def test_a_bow_sustains_and_keeps_the_partials_harmonic(self) -> None:
        state = opening(exercise("cello", "each"))
        _, (bow,) = struck(state, 2)
        first = bow.table.frequencies_hz[0]
        for n, hz in enumerate(bow.table.frequencies_hz, start=1):
            self.assertAlmostEqual(hz / first, n, places=9)
        self.assertGreater(bow.table.sustain_s, 3.0)
        samples = render([(0.0, bow)], duration_s=4.0, sample_rate=RATE)
        loud = [float(np.std(samples[round(t * RATE) :][: RATE // 2])) for t in (1.5, 2.5, 3.5)]
        self.assertAlmostEqual(loud[0] / loud[2], 1.0, delta=0.08)
        _, (pluck,) = struck(state, 2, way="pluck")
        self.assertEqual(pluck.table.sustain_s, 0.0)
        # EA/T of steel spreads them: above the multiples
        ratio = pluck.table.frequencies_hz[9] / pluck.table.frequencies_hz[0]
        self.assertGreater(ratio, 10.001)

    def test_the_place_of_the_pluck_changes_the_balance(self) -> None:
        state = opening(exercise("guitar", "each"))
        _, (bridge,) = struck(state, 6, place=0.05)
        _, (neck,) = struck(state, 6, place=0.35)
        shares = [
            abs(s.table.amplitudes[0]) / sum(map(abs, s.table.amplitudes)) for s in (bridge, neck)
        ]
        self.assertGreater(shares[1], 2.0 * shares[0])


def first_hz(samples: np.ndarray, near_hz: float) -> float:
    """The strongest line near a frequency, by a fine search."""
    window = samples * np.hanning(len(samples))
    time = np.arange(len(samples)) / RATE
    rates = near_hz * 2.0 ** (np.linspace(-60, 60, 481) / 1200.0)
    lines = [abs(np.sum(window * np.exp(-2j * np.pi * r * time))) for r in rates]
    return float(rates[int(np.argmax(lines))])


class Harmonics(unittest.TestCase):
    def touched(self, fret: float) -> list[float]:
        state = run(opening(exercise("guitar", "each")), Stop(5, fret, touch=True))
        _, (start,) = struck(state, 5)
        return [abs(a) for a in start.table.amplitudes]

    def test_only_partials_with_a_node_under_the_finger_ring(self) -> None:
        # over fret 12 the even ones, over fret 7 (a third) every third
        half, third = self.touched(12.0), self.touched(7.02)
        self.assertTrue(all(a < 1e-6 for a in half[0:9:2]))
        self.assertTrue(all(a > 1e-3 for a in half[1:6:2]))
        self.assertTrue(all(third[n] < 1e-4 for n in (0, 1, 3, 4)))
        self.assertGreater(third[2], 5e-3)

    def test_a_missed_node_is_weak_or_dead(self) -> None:
        on, near, off = (self.touched(fret)[2] for fret in (7.02, 6.7, 6.0))
        self.assertGreater(on, 1.3 * near)
        self.assertLess(off, 0.05 * on)

    def test_the_third_partial_s_node_lies_at_a_third(self) -> None:
        string = GUITAR.string(5)
        self.assertAlmostEqual(touched_share(string, 12.0), 0.5, places=12)
        self.assertAlmostEqual(touched_share(string, 7.0196), 1.0 / 3.0, delta=1e-5)
        banjo = instrument("banjo").string(5)
        self.assertAlmostEqual(touched_share(banjo, 17.0), 0.5, places=12)  # begins at fret 5

    def test_on_a_bare_fingerboard_as_well_and_bowed(self) -> None:
        state = run(opening(exercise("double-bass", "each")), Stop(3, 12.0, touch=True))
        _, (start,) = struck(state, 3)
        self.assertLess(abs(start.table.amplitudes[0]), 1e-6)
        self.assertGreater(start.table.sustain_s, 1.0)


class Fingers(unittest.TestCase):
    def test_pressing_hard_sharpens_by_known_magnitudes(self) -> None:
        """Hard less light, at frets 1, 5 and 12, from the geometry of ordinary instruments."""
        for instrument_id, number, cents in (
            ("guitar", 1, (6.6, 4.7, 4.6)),
            ("guitar", 6, (13.7, 9.4, 8.4)),
            ("electric-guitar", 3, (15.0, 10.8, 10.2)),
            ("bass", 4, (9.6, 6.7, 6.5)),
            ("classical-guitar", 3, (2.4, 1.5, 1.5)),
            ("mandolin", 7, (26.0, 13.0, 12.0)),
        ):
            string = instrument(instrument_id).string(number)
            strain = strain_at_tension(string, design_tension_n(string))
            for fret, expected in zip((1, 5, 12), cents, strict=True):
                found = pressed_cents(string, strain=strain, fret=fret)
                self.assertLessEqual(abs(found - expected), max(0.5, 0.1 * expected))

    def test_no_finger_presses_twice_the_same(self) -> None:
        state = opening(exercise("guitar", "unison", "hair", 3, "fretting")).at_stage(1)
        found = set()
        for _ in range(6):
            state = run(state, Stop(5, 5, hard=True), Play((4, 5)))
            now = heard(state)
            assert now is not None
            found.add(round(now.offset_cents, 3))
        self.assertEqual(len(found), 6)

    def test_hard_against_light_as_measured_by_geometry(self) -> None:
        # hard minus light at frets 1, 5, 12, in cents: E4 8-1.4, 6-1.3, 7-2.4; E2 17-3.3, …
        for number, expected in ((1, (6.6, 4.7, 4.6)), (6, (13.7, 9.4, 8.4))):
            strain = strain_of("guitar", number)
            found = [
                pressed_cents(GUITAR.string(number), strain=strain, fret=fret)
                for fret in (1, 5, 12)
            ]
            for got, wanted in zip(found, expected, strict=True):
                self.assertAlmostEqual(got, wanted, delta=0.35 * wanted)
        self.assertEqual(pressed_cents(GUITAR.string(1), strain=0.007, fret=0), 0.0)

    def test_set_up_grows_up_the_neck_and_a_high_nut_shrinks(self) -> None:
        state = opening(exercise("guitar", "unison", "hair", 3, "setup"))
        odd, string = state.rig.quirks[0], GUITAR.string(1)
        saddle = made_to_measure(state, fret_1_cents=0.0).rig.quirks[0]
        self.assertAlmostEqual(misplaced_cents(saddle, string, 12), odd.fret_12_cents, places=9)
        # one cent in 2^(n/12) - 1: 0.335 at fret 5
        self.assertAlmostEqual(
            misplaced_cents(saddle, string, 5), odd.fret_12_cents * (2 ** (5 / 12) - 1), places=9
        )
        nut = made_to_measure(state, fret_12_cents=0.0, fret_1_cents=2.7).rig.quirks[0]
        for fret, cents in ((1, 2.7), (2, 1.4), (5, 0.6), (12, 0.3)):
            self.assertAlmostEqual(misplaced_cents(nut, string, fret), cents, delta=0.1)

    def test_a_hard_finger_sharpens_what_sounds_and_not_what_the_plan_means(self) -> None:
        state = opening(exercise("guitar", "unison", "hair", 3, "fretting")).at_stage(1)
        light = run(state, Play((4, 5)))
        hard = run(light, Stop(5, 5, hard=True))
        before, after = heard(light), heard(hard)
        assert before is not None
        assert after is not None
        # the other side, A at fret 5, is sharper: D seems lower
        self.assertTrue(2.0 < before.offset_cents - after.offset_cents < 12.0)
        stage = state.rig.plan.steps[1]
        self.assertEqual(matched_cents(light, stage), matched_cents(hard, stage))


class FalseStrings(unittest.TestCase):
    def test_a_doublet_beats_with_itself_at_its_split(self) -> None:
        # 3 cents at E4's first partial: 329.6 (2^(3/1200) - 1) = 0.57 a second
        state = made_to_measure(
            opening(exercise("guitar", "each", "one", 3, "false")), splits_cents=(3.0,) * 40
        )
        _, (start,) = struck(state, 1)
        first = start.table.frequencies_hz[0]
        expected = first * (2 ** (3 / 1200) - 1)
        self.assertAlmostEqual(expected, 0.57, delta=0.017)  # the string is up to 48 cents out
        samples = render([(0.0, start)], duration_s=6.0, sample_rate=RATE)
        measured = measured_beat_hz(samples, near_hz=first, expected_hz=expected)
        self.assertAlmostEqual(measured, expected, delta=0.02)
        # its pitch is that of the middle of the two
        upper = start.table.frequencies_hz[len(start.table.frequencies_hz) // 2]
        true = state.rig.plan.targets_hz[0] * 2 ** (pitch_cents(state, 1) / 1200)
        self.assertAlmostEqual(math.sqrt(first * upper), true, places=6)

    def test_every_partial_has_a_split_of_its_own(self) -> None:
        _, (start,) = struck(opening(exercise("guitar", "each", "one", 3, "false")), 1)
        all_hz = start.table.frequencies_hz
        lower, upper = all_hz[: len(all_hz) // 2], all_hz[len(all_hz) // 2 :]
        splits = [1200 * math.log2(b / a) for a, b in zip(lower, upper, strict=True)]
        middle = sum(splits) / len(splits)
        self.assertTrue(all(0.4 * middle < one < 1.6 * middle for one in splits))
        self.assertGreater(max(splits) - min(splits), 0.3 * middle)

    def test_a_string_in_order_has_no_twins(self) -> None:
        _, (start,) = struck(opening(exercise("guitar", "each")), 1)
        self.assertEqual(len(set(start.table.frequencies_hz)), len(start.table.frequencies_hz))
        self.assertLess(len(start.table.frequencies_hz), 31)


class RingingAlong(unittest.TestCase):
    def test_a_string_in_unison_answers_and_one_far_off_does_not(self) -> None:
        body, losses = GUITAR.body, GUITAR.losses
        drivers = [(110.0, 0.2), (220.0, 0.1)]
        on = ringing_along(Series(55.0, 0.0), body, losses, count=3, drivers=drivers, transfer=0.05)
        assert on is not None
        self.assertAlmostEqual(on.amplitudes[1], 0.2 * 0.05, places=9)
        self.assertEqual(on.amplitudes[0], 0.0)
        # half a hertz off: 1/sqrt(1 + (2 pi 0.5 tau)^2), tau about 4 s
        off = ringing_along(
            Series(110.5, 0.0), body, losses, count=1, drivers=drivers, transfer=0.05
        )
        assert off is not None
        tau = losses.decay_s(110.5, body)
        self.assertAlmostEqual(off.amplitudes[0], 0.01 / math.hypot(1.0, math.pi * tau), delta=1e-6)
        far = Series(131.0, 0.0)
        self.assertIsNone(ringing_along(far, body, losses, count=1, drivers=drivers, transfer=0.05))

    def test_free_strings_ring_along_unless_they_are_damped(self) -> None:
        state = opening(exercise("guitar", "each", "one", 3, "ringing"))
        after, starts = struck(state, 6)
        along = [voice.string for voice in after.ringing if voice.along]
        self.assertTrue(along)
        self.assertNotIn(6, along)
        self.assertEqual(len(starts), 1 + len(along))
        quiet, starts = struck(run(state, MuteOthers(True)), 6)
        self.assertEqual(len(starts), 1)
        self.assertFalse(any(voice.along for voice in quiet.ringing))
        self.assertEqual(run(after, MuteAll()).ringing, ())

    def test_damping_the_rest_leaves_the_pair(self) -> None:
        state = opening(exercise("violin", "fifths", "hair")).at_stage(1)
        stage = state.rig.plan.steps[1]
        pair = {stage.own.string, stage.other.string}
        state = run(state, Play((1, 2, 3, 4)))
        after, sounds = step(state, MuteOthers(True), dt_s=0.1)
        self.assertEqual({voice.string for voice in after.ringing}, pair)
        self.assertEqual(sum(isinstance(event, Release) for event in sounds), 2)


class Sources(unittest.TestCase):
    def test_every_reference_sounds_its_pitch_and_no_louder_than_a_string(self) -> None:
        for voice in SOURCES:
            table = reference(voice, hz=330.0)
            self.assertAlmostEqual(table.frequencies_hz[0], 330.0)
            samples = render([(0.0, Start(1, table))], duration_s=2.0, sample_rate=RATE)
            self.assertTrue(0.02 < np.max(np.abs(samples)) < 0.3, voice)
            # and begins and goes on without a click: no jump beyond its own steepest slope
            slope = sum(
                abs(a) * 2 * np.pi * f / RATE
                for a, f in zip(table.amplitudes, table.frequencies_hz, strict=True)
            )
            noise = 8.0 * table.noise.level if table.noise else 0.0  # of two samples, at most
            jump = float(np.max(np.abs(np.diff(samples))))
            self.assertLessEqual(jump, slope * 1.05 + noise)

    def test_each_reference_is_plainly_itself(self) -> None:
        def heard(source: Source) -> NDArray[np.float64]:
            """Its first eight partials and what sounds a fifth above, in dB over the strongest,
            its noise in dB under the tone, and what is left after two seconds; none under -40 dB.
            """
            table = reference(source, hz=220.0)
            sizes = np.array([table.level(n, 0.0) for n in range(1, 9)])
            noise = table.noise.level / sizes.sum() if table.noise else 0.0
            later = np.array([table.level(n, 2.0) for n in range(1, 9)])
            fifth = sum(
                size
                for size, hz in zip(table.amplitudes, table.frequencies_hz, strict=True)
                if abs(hz - 330.0) < 1.0
            )
            shares = [*sizes / sizes.max(), fifth / sizes.max(), noise, later.sum() / sizes.sum()]
            return 20.0 * np.log10(np.maximum(shares, 0.01))

        for one, other in combinations(SOURCES, 2):
            apart = float(np.sqrt(np.mean((heard(one) - heard(other)) ** 2)))
            self.assertGreater(apart, 5.0, (one, other))

    def test_where_the_partial_stands_that_is_listened_to(self) -> None:
        for voice in ("pipe", "oboe", "player", "tone", "piano"):
            table = reference(voice, hz=220.0)
            place = partial_place(voice, partial=3, over_first=1.0)
            ratio = table.frequencies_hz[place - 1] / 220.0
            self.assertAlmostEqual(ratio, 3.0, delta=0.01 if voice == "piano" else 1e-9)
        drone = reference("drone", hz=138.6)
        place = partial_place("drone", partial=2, over_first=1.5)
        self.assertAlmostEqual(drone.frequencies_hz[place - 1] / 138.6, 3.0, places=9)

    def test_a_fork_held_by_a_prong_dies_at_once(self) -> None:
        stem, prong = fork(hz=440.0), fork(hz=440.0, held_wrong=True)
        self.assertGreater(stem.audible_s(4e-4), 10.0 * prong.audible_s(4e-4))
        state = opening(exercise("viola", "fifths", "hair", 3))
        wrong = run(state, Play((1,), reference=True, by_prongs=True), MuteAll(), gap_s=1.5)
        self.assertEqual(wrong.ringing, ())
        sounding, _ = step(state, Play((1,), reference=True, by_prongs=True), dt_s=0.1)
        self.assertIsNone(heard(changed(sounding, time_s=sounding.time_s + 1.0)))

    def test_a_fork_fades_and_is_then_no_longer_heard(self) -> None:
        state = run(opening(exercise("guitar", "unison", "hair")), Play((5,), reference=True))
        self.assertIsNotNone(heard(changed(state, time_s=state.time_s + 4.0)))
        self.assertIsNone(heard(changed(state, time_s=state.time_s + 60.0)))

    def test_a_reference_is_as_loud_as_the_string_where_their_partials_meet(self) -> None:
        for instrument_id, method in (("viola", "fifths"), ("guitar", "unison"), ("cello", "each")):
            state = opening(exercise(instrument_id, method, "hair", 3))
            stages = state.rig.plan.stages
            at = next(n for n, stage in enumerate(stages) if stage.other.string is None)
            state, stage = state.at_stage(at), stages[at]
            assert stage.own.string is not None
            after, (given, own) = struck(state, stage.own.string, reference=True)
            pair = heard(after)
            assert pair is not None
            assert stage.seconds_to_hear is not None
            levels, half_s = [], 0.5 * stage.seconds_to_hear  # half way through the listening
            for table, place in (
                (given.table, pair.other_partial - 1),
                (own.table, pair.own_partial - 1),
            ):
                falling = max(0.0, half_s - table.sustain_s)
                level = table.amplitudes[place] * math.exp(-falling / table.decays_s[place])
                if table.second_amplitudes:
                    decay_s = table.second_decays_s[place]
                    level += table.second_amplitudes[place] * math.exp(-falling / decay_s)
                levels.append(level)
            usual = reference(state.rig.source, hz=given.table.fundamental_hz).amplitudes[0]
            times = given.table.amplitudes[0] / usual
            self.assertTrue(0.1 <= times <= 10.0)
            if 0.1 < times < 10.0:  # it is not held any nearer or further off than that
                self.assertAlmostEqual(abs(levels[0] / levels[1]), 1.0, delta=0.1)

    def test_two_strings_are_played_so_that_neither_drowns_the_other(self) -> None:
        # violin E and A meet at the E's 2nd and the A's 3rd partial, where the body favours one
        state = opening(exercise("violin", "fifths", "hair", 3))
        at = next(n for n, one in enumerate(state.rig.plan.steps) if one.own.string == 1)
        state, stage = state.at_stage(at), state.rig.plan.steps[at]
        assert stage.other.string is not None
        alone = []
        for number, side in ((1, stage.own), (stage.other.string, stage.other)):
            _, sounds = step(state, Play((number,)), dt_s=0.1)
            table = next(one.table for one in sounds if isinstance(one, Start))
            alone.append(table.amplitudes[side.partial - 1])
        _, sounds = step(state, Play((1, stage.other.string)), dt_s=0.1)
        tables = [one.table for one in sounds if isinstance(one, Start)]
        tables.sort(key=lambda table: -table.fundamental_hz)
        both = [
            table.amplitudes[side.partial - 1]
            for table, side in zip(tables, (stage.own, stage.other), strict=True)
        ]
        self.assertGreater(max(alone) / min(alone), 2.0)
        self.assertAlmostEqual(min(both), min(alone), delta=1e-3 * min(alone))
        self.assertAlmostEqual(max(both), 0.5 * max(alone), delta=0.01 * max(alone))

    def test_beats_are_deep_while_one_listens(self) -> None:
        found = beat_depths()
        shallow = [one for one in found if one.depth < 0.5]
        self.assertGreater(len(found), 400)
        # the few that are left are strings so stiff that higher partials would mislead
        self.assertLessEqual(len(shallow), len(found) // 50, shallow)
        self.assertEqual({one.instrument for one in shallow} & {"guitar", "violin", "cello"}, set())

    def test_what_there_is_none_of(self) -> None:
        with self.assertRaisesRegex(MeldrinError, "The references are"):
            reference("kazoo", hz=440.0)  # type: ignore[arg-type]
        with self.assertRaises(MeldrinError):
            reference("pipe", hz=math.nan)

    def test_a_snap_is_short_and_quiet(self) -> None:
        samples = render([(0.0, Start(1, snap()))], duration_s=0.6, sample_rate=RATE)
        self.assertLess(np.max(np.abs(samples)), 0.4)
        self.assertLess(np.max(np.abs(samples[round(0.5 * RATE) :])), 1e-3)


class Slack(unittest.TestCase):
    def test_a_flapping_string_sounds_low_and_is_compared_once_it_has_a_pitch(self) -> None:
        state = opening(exercise("bass5", "each", "slack", 4))
        state, starts = struck(state, 5)
        self.assertLess(starts[0].table.frequencies_hz[0], 12.0)
        self.assertTrue(pitch_cents(state, 5) < -1500.0)
        stage = state.rig.plan.steps[0]
        self.assertTrue(matched_cents(state, stage) < -1000.0)
