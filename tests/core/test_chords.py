import unittest

from meldrin.core.bench import GoTo, LayChord, NameOut, Play, Turn, opening, pitch_cents
from meldrin.core.bench.exercise import Exercise
from meldrin.core.bench.naming import furthest_out, may_name
from meldrin.core.bench.state import State
from meldrin.core.bench.step import step
from meldrin.core.catalogue import instrument, instrument_of, instrument_text, instruments
from meldrin.core.errors import MeldrinError
from meldrin.core.pitch import parse_note
from meldrin.core.scoring.chord import said_of_chord
from meldrin.core.strings import semitones_at, sounding_hz, stopped_cents, strain_sounding

# The notes of a chord, in semitones over its root.
TRIADS = {"": {0, 4, 7}, "m": {0, 3, 7}, "7": {0, 4, 7, 10}}


class TheShapes(unittest.TestCase):
    def test_every_chord_of_a_plucked_instrument_has_the_notes_of_its_name(self) -> None:
        found = 0
        for made in instruments():
            for chord in made.chords:
                root, kind = chord.name.rstrip("m7"), chord.name.lstrip("ABCDEFG#")
                if made.kind == "bowed" or chord.drone or kind not in TRIADS:
                    continue
                tuning = made.tuning(chord.tuning)
                over = {
                    (tuning.midi(n) + semitones_at(made.string(n), fret) - parse_note(f"{root}4"))
                    % 12
                    for n, fret in chord.notes
                }
                self.assertLessEqual(over, TRIADS[kind], (made.id, chord.name))
                self.assertGreaterEqual(len(over), 3, (made.id, chord.name))
                found += 1
        self.assertGreater(found, 50)

    def test_under_a_bow_two_strings_are_a_fifth_an_octave_or_one_note(self) -> None:
        sizes: dict[str, set[int]] = {}
        for made in instruments():
            if made.kind != "bowed":
                continue
            for chord in made.chords:
                (high, pressed), (low, held) = chord.notes
                tuning = made.tuning(chord.tuning)
                size = tuning.midi(high) + pressed - tuning.midi(low) - held
                sizes.setdefault(chord.name.split(" ", 1)[1].split(" ")[0], set()).add(size)
        self.assertEqual(sizes["on"], {0})
        self.assertEqual(sizes["and"], {5, 7, 12})  # the bass is tuned in fourths

    def test_a_finger_on_a_bare_board_and_a_moved_fret_are_set_pure(self) -> None:
        # 4/3 and 3/2 over the open string: 498.04 and 701.96 cents; a fret that stands firm: 500
        for name in ("violin", "sitar"):
            string = instrument(name).string(1)
            self.assertAlmostEqual(stopped_cents(string, 5), 498.045, places=3)
            self.assertAlmostEqual(stopped_cents(string, 7), 701.955, places=3)
            self.assertAlmostEqual(stopped_cents(string, 12), 1200.0, places=9)
        self.assertEqual(stopped_cents(instrument("guitar").string(1), 5), 500.0)

    def test_an_octave_over_a_pure_fifth_is_still(self) -> None:
        violin = instrument("violin")
        hz = {1: 440.0 * 1.5, 2: 440.0, 3: 440.0 / 1.5, 4: 440.0 / 2.25}
        made = violin.chord(violin.tuning(), "D and its octave")
        low, high = sorted(
            sounding_hz(
                violin.string(n),
                strain=strain_sounding(violin.string(n), frequency_hz=hz[n], fret=0, number=1),
                fret=fret,
                number=1,
            )
            for n, fret in made.notes
        )
        self.assertAlmostEqual(high / low, 2.0, delta=2e-4)  # a stopped string is a little stiffer

    def test_a_scale_over_the_drone_is_just(self) -> None:
        sitar = instrument("sitar")
        over = []
        for chord in sitar.chords_in(sitar.tuning()):
            self.assertTrue(chord.drone)
            ((number, fret),) = chord.notes
            first = {1: 498.045, 2: 0.0}[number]  # Ma is a pure fourth over Sa
            over.append(first + stopped_cents(sitar.string(number), fret))
        # 1, 9/8, 5/4, 4/3, 3/2, 5/3, 15/8, 2
        just = [0.0, 203.91, 386.314, 498.045, 701.955, 884.359, 1088.269, 1200.0]
        for mine, theirs in zip(over, just, strict=True):
            self.assertAlmostEqual(mine, theirs, places=2)

    def test_a_semitone_down_the_shapes_have_the_names_of_what_sounds(self) -> None:
        guitar = instrument("guitar")
        names = [one.name for one in guitar.chords_in(guitar.tuning("half-step-down"))]
        self.assertEqual(names[:3], ["B", "F#", "C#"])
        self.assertIn("G#m", names)
        violin = instrument("violin")
        self.assertEqual(violin.chords_in(violin.tuning("whole-step-down"))[0].name, "F and C")
        self.assertEqual(guitar.chords_in(guitar.tuning("g-modal")), ())

    def test_a_bad_chord_is_refused_with_its_line(self) -> None:
        text = instrument_text("guitar")
        for bad, reason in (
            ("x 3 2 0 1", "has 5 frets; it needs 6"),
            ("x 3 2 0 1 99", "has no fret “99”"),
            ("x x x x x x", "plays no string"),
            ("x 3 2 0 1 -1", "has no fret “-1”"),
        ):
            with self.assertRaisesRegex(MeldrinError, rf"line \d+: .*{reason}"):
                instrument_of(text.replace("x 3 2 0 1 0", bad))
        with self.assertRaisesRegex(MeldrinError, "unknown tuning “no”"):
            instrument_of(text.replace('"C"\ntuning = "standard"', '"C"\ntuning = "no"'))


def played(state: State, *actions: object) -> State:
    for action in actions:
        state, _ = step(state, action, dt_s=0.5)  # type: ignore[arg-type]
    return state


class SayingWhichIsOut(unittest.TestCase):
    def setUp(self) -> None:
        self.free = opening(Exercise("guitar", "free", "one", 4, out_string=3, out_cents=-15.0))

    def test_the_string_that_is_out_is_found_and_told(self) -> None:
        laid = played(self.free, LayChord("C"))
        self.assertEqual([one.fret for one in laid.strings], [0, 1, 0, 2, 3, 0])
        self.assertFalse(may_name(laid))
        with self.assertRaisesRegex(MeldrinError, "Play the chord first"):
            played(laid, NameOut(3, "low"))
        heard = played(laid, Play((5, 4, 3, 2, 1)))
        self.assertTrue(may_name(heard))
        for said, told in (
            (NameOut(3, "low"), r"^G was about 1[45] cents low, as you said\.$"),
            (NameOut(3, "high"), r"^G was about 1[45] cents low: the right string, the other way"),
            (NameOut(2, "high"), r"^G was about 1[45] cents low; you named B\.$"),
            (NameOut(0, "in_tune"), r"^You heard none, but G was about 1[45] cents low\.$"),
        ):
            after = played(heard, said)
            self.assertRegex(said_of_chord(after, after.named[-1]), told)
            self.assertFalse(may_name(after))
            self.assertTrue(may_name(played(after, Play((5, 4, 3, 2, 1)))))

    def test_where_all_are_equally_low_none_is_out(self) -> None:
        state = opening(Exercise("guitar", "free", "one", 4, out_string=3, out_cents=0.1))
        _, cents = furthest_out(state, range(1, 7))
        self.assertLess(abs(cents), 1.7)  # they were put within 0.8 of their notes
        state = played(state, LayChord("C"), Play((5, 4, 3, 2, 1)), NameOut(4, "low"))
        self.assertRegex(said_of_chord(state, state.named[-1]), "no string stood out")
        low = state
        for number in range(1, 7):
            while pitch_cents(low, number) > -40.0:
                low = played(low, Turn(number, -8.0))
        self.assertLess(abs(furthest_out(low, range(1, 7))[1]), 25.0)

    def test_at_its_stage_the_fingers_lie_and_it_is_said_once(self) -> None:
        state = opening(Exercise("guitar", "unison", "hair", 3))
        last = len(state.rig.plan.stages) - 1
        with self.assertRaisesRegex(MeldrinError, "Only of a chord"):
            played(state, Play((6,)), NameOut(3, "low"))
        state = played(state, GoTo(last))
        self.assertEqual([one.fret for one in state.strings], [3, 0, 0, 0, 2, 3])
        with self.assertRaisesRegex(MeldrinError, "Play the chord first"):
            played(state, Play((6, 3)), NameOut(3, "low"))
        said = played(state, Play((6, 5, 4, 3, 2, 1)), NameOut(3, "low"))
        with self.assertRaisesRegex(MeldrinError, "said once"):
            played(said, Play((6, 5, 4, 3, 2, 1)), NameOut(2, "low"))

    def test_none_is_in_tune_and_a_string_is_not(self) -> None:
        for string, verdict in ((0, "low"), (3, "in_tune")):
            with self.assertRaisesRegex(MeldrinError, "Name the string"):
                NameOut(string, verdict)  # type: ignore[arg-type]
        with self.assertRaisesRegex(MeldrinError, "Unknown chord “H”. Available: C, G"):
            played(self.free, LayChord("H"))
