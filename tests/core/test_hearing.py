import unittest

import numpy as np

from meldrin.core.bench import Action, Exercise, Play, SetTuner, Stop, opening, pitch_cents, step
from meldrin.core.bench.tuner import RATE, Sounding, tuner_reading
from meldrin.core.catalogue import instruments
from meldrin.core.errors import MeldrinError, OutOfRange
from meldrin.core.hearing import Reading, reading, room_noise, tracked
from meldrin.core.pitch import cents_between, equal_tempered_hz
from meldrin.core.sound.render import Samples
from tests.core.bench_hand import exercise, run


def tone(hz: float, *, amplitudes: tuple[float, ...] = (0.1, 0.05, 0.03)) -> Samples:
    time = np.arange(round(0.25 * RATE)) / RATE
    partials = [
        a * np.sin(2 * np.pi * hz * n * time + n) for n, a in enumerate(amplitudes, start=1)
    ]
    return np.asarray(np.sum(partials, axis=0))


class Tracker(unittest.TestCase):
    def test_steady_harmonic_tones_to_a_fraction_of_a_cent(self) -> None:
        for midi in range(28, 89, 3):
            hz = equal_tempered_hz(midi, a4_hz=441.3)
            found = tracked(tone(hz), sample_rate=RATE)
            assert found is not None
            self.assertAlmostEqual(cents_between(found.hz, reference_hz=hz), 0.0, delta=0.02)
            self.assertGreater(found.clarity, 0.95)

    def test_the_first_partial_is_read_where_stiffness_spreads_the_others(self) -> None:
        """f_n = n f sqrt((1 + B n^2)/(1 + B)), whose common period is sharp of the first."""
        time, stiff = np.arange(round(0.25 * RATE)) / RATE, 3e-4
        for hz in (31.0, 41.2, 82.4, 196.0):
            spread = [n * hz * np.sqrt((1 + stiff * n * n) / (1 + stiff)) for n in range(1, 13)]
            sound = sum(0.1 / n * np.sin(2 * np.pi * f * time + n) for n, f in enumerate(spread, 1))
            found = tracked(np.asarray(sound), sample_rate=RATE)
            assert found is not None
            self.assertAlmostEqual(cents_between(found.hz, reference_hz=hz), 0.0, delta=0.1)

    def test_only_even_partials_are_an_octave(self) -> None:
        found = tracked(tone(110.0, amplitudes=(0.0, 0.1, 0.0, 0.08)), sample_rate=RATE)
        assert found is not None
        self.assertAlmostEqual(found.hz, 220.0, delta=0.1)

    def test_silence_and_noise_have_no_pitch(self) -> None:
        self.assertIsNone(tracked(np.zeros(4000), sample_rate=RATE))
        self.assertIsNone(tracked(1e-5 * tone(220.0), sample_rate=RATE))
        white = np.random.default_rng(5).standard_normal(4000) * 0.1
        self.assertIsNone(tracked(white, sample_rate=RATE))
        self.assertIsNone(tracked(np.zeros(5), sample_rate=RATE))
        with self.assertRaises(OutOfRange):
            tracked(np.zeros(4000), sample_rate=10)

    def test_two_strings_are_never_read_as_a_note_that_nobody_plays(self) -> None:
        # 110 and 146.8 share a period of 36.7 Hz, a D1; 220 and 330 one of 110 Hz
        for one, two in ((110.0, 146.83), (220.0, 330.0), (82.41, 110.0), (196.0, 246.94)):
            found = tracked(tone(one) + tone(two), sample_rate=RATE)
            if found is not None:
                played = [one, two, *(2 * one, 2 * two)]
                off = min(abs(cents_between(found.hz, reference_hz=hz)) for hz in played)
                self.assertLess(off, 5.0)

    def test_above_its_range_it_says_nothing(self) -> None:
        for hz in (1610.0, 1700.0, 1800.0, 1900.0, 1999.0):
            for amplitudes in ((0.1,), (0.1, 0.05, 0.03)):
                self.assertIsNone(tracked(tone(hz, amplitudes=amplitudes), sample_rate=RATE))
        self.assertIsNotNone(tracked(tone(1590.0), sample_rate=RATE))


class Names(unittest.TestCase):
    def test_the_nearest_note_and_tenths_of_a_cent(self) -> None:
        # 1200 log2(438/440) = -7.887
        self.assertEqual(reading(438.0, a4_hz=440.0), Reading(69, "A4", -7.9, 1.0))
        self.assertEqual(reading(440.0, a4_hz=442.0).cents, -7.9)
        self.assertEqual(reading(466.16, a4_hz=440.0).name, "A#4")
        self.assertEqual(reading(466.16, a4_hz=440.0, flats=True).name, "Bb4")

    def test_a_low_e_far_down_reads_as_another_note(self) -> None:
        # 82.41 Hz down by a tone and a bit is a D: know the alphabet
        self.assertEqual(reading(82.41 * 2 ** (-2.3 / 12), a4_hz=440.0).name, "D2")
        far = reading(
            82.41 * 2 ** (-2.3 / 12), a4_hz=440.0, mode="instrument", strings_midi=[40, 45]
        )
        self.assertEqual((far.name, far.cents), ("E2", -229.9))  # 82.41 Hz is 0.04 cents above E2

    def test_lowered_by_a_semitone(self) -> None:
        self.assertEqual(reading(415.3, a4_hz=440.0, mode="lowered").name, "A4")


class StandIn(unittest.TestCase):
    """It hears the bench's sound and never the state."""

    def reads(
        self,
        made: Exercise,
        number: int,
        at_s: float = 1.2,
        *first: Action,
        strength: float = 0.7,
    ) -> tuple[float, Reading]:
        state = run(opening(made), *first)
        begun = state.time_s
        state, sounds = step(state, Play((number,), strength=strength), dt_s=0.0)
        sounding = Sounding()
        sounding.add(sounds, state=state)
        found = tuner_reading(state, sounding.events, at_s=begun + at_s)
        assert found is not None
        notes = state.exercise.tuning_in.midi(number) - found.midi
        return found.cents - (pitch_cents(state, number) + 100.0 * notes), found

    def test_following_the_reading_to_0_leaves_half_a_cent_at_most_on_every_string(self) -> None:
        for made in instruments():
            for string in made.strings:
                for at_s in (0.5, 1.2):
                    what = exercise(made.id, "tuner", "hair", 3)
                    error, _ = self.reads(what, string.number, at_s)
                    # the reading is to a tenth of a cent, and a bow's noise is heard too
                    most = 0.4 if made.kind == "bowed" else 0.15
                    self.assertLess(abs(error), most, (made.id, string.number, error))

    def test_a_coarse_tuner_shows_the_nearest_of_its_steps_and_follows_slowly(self) -> None:
        made = exercise("viola", "tuner", "hair", 3)
        for step_cents in (2, 5):
            for number in (1, 2, 3, 4):
                _, fine = self.reads(made, number, 1.5)
                _, shown = self.reads(made, number, 1.5, SetTuner(440.0, step_cents=step_cents))
                self.assertEqual(shown.cents % step_cents, 0.0)
                # half a step, and what the longer listening of a bowed note adds
                self.assertLessEqual(abs(shown.cents - fine.cents), step_cents / 2 + 0.5)
        with self.assertRaises(MeldrinError):
            SetTuner(440.0, step_cents=3)  # type: ignore[arg-type]

    def test_a_contact_pickup_does_not_hear_the_room(self) -> None:
        made = exercise("viola", "tuner", "hair", 3, "noise")
        by_contact, _ = self.reads(made, 3, 1.2, SetTuner(440.0, pickup="contact"), strength=0.3)
        self.assertLess(abs(by_contact), 0.15)
        by_air = [self.reads(made, 3, 0.6 + 0.1 * n, strength=0.3)[0] for n in range(8)]
        self.assertGreater(max(abs(one) for one in by_air), 0.3)

    def test_the_attack_reads_sharp_and_the_settled_part_right(self) -> None:
        made = exercise("guitar", "tuner", "hair", 3, "stroke")
        early, _ = self.reads(made, 4, 0.27, strength=1.0)
        late, _ = self.reads(made, 4, 2.5, strength=1.0)
        self.assertGreater(early, late + 2.0)
        self.assertLess(abs(late), 1.6)

    def test_a_wrong_calibration_reads_wrong_by_just_so_much(self) -> None:
        made = exercise("violin", "tuner", "hair", 3)
        right, _ = self.reads(made, 2)
        wrong, _ = self.reads(made, 2, 1.2, SetTuner(444.0))
        # 1200 log2(440/444) = -15.7
        self.assertAlmostEqual(wrong - right, -15.7, delta=1.1)

    def test_with_a_neighbour_ringing_it_reads_one_of_the_two_or_nothing(self) -> None:
        state = opening(exercise("guitar", "tuner", "month", 3))
        state, sounds = step(state, Play((4, 3)), dt_s=0.1)
        sounding = Sounding()
        sounding.add(sounds, state=state)
        found = tuner_reading(state, sounding.events, at_s=1.3)
        self.assertTrue(found is None or found.name in ("D3", "G3"), found)

    def test_a_harmonic_reads_as_the_note_it_sounds(self) -> None:
        _, found = self.reads(
            exercise("guitar", "tuner", "one", 3), 5, 1.2, Stop(5, 12.0, touch=True)
        )
        self.assertEqual(found.name, "A3")

    def test_noise_moves_a_faint_reading_and_not_a_loud_one(self) -> None:
        made = exercise("guitar", "tuner", "one", 3, "noise")
        loud, _ = self.reads(made, 4, 1.0)
        self.assertLess(abs(loud), 2.1)
        noise = room_noise(4000, seed="a")
        self.assertAlmostEqual(float(np.std(noise)), 0.006, delta=1e-4)
        self.assertTrue(np.array_equal(noise, room_noise(4000, seed="a")))
        self.assertFalse(np.array_equal(noise, room_noise(4000, seed="b")))

    def test_nothing_sounding_shows_nothing_and_old_events_are_let_go(self) -> None:
        state, sounding = opening(exercise("guitar", "tuner")), Sounding()
        self.assertIsNone(tuner_reading(state, sounding.events, at_s=1.0))
        for _ in range(30):
            state, sounds = step(state, Play((2,)), dt_s=2.0)
            sounding.add(sounds, state=state)
        self.assertLess(len(sounding.events), 6)
