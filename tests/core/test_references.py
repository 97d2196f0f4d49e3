"""A reference is one thing: what sounds, what is said, what a plan leads to, what is scored."""

import unittest
from collections.abc import Iterator

from meldrin.core.bench import (
    Exercise,
    Play,
    State,
    heard,
    matched_cents,
    opening,
    pitch_cents,
    step,
)
from meldrin.core.bench.exercise import MeldrinError
from meldrin.core.catalogue import instruments
from meldrin.core.changed import changed
from meldrin.core.methods import METHODS, Step
from meldrin.core.pitch import cents_between
from meldrin.core.sound.events import Start
from meldrin.core.sound.references import SOURCES, reference, reference_series
from tests import slow


def on_target(state: State) -> State:
    """The state with every string where the plan leads it."""
    strings = tuple(
        changed(now, material_m=state.path_m(number) / (1.0 + strain))
        for number, (now, strain) in enumerate(
            zip(state.strings, state.rig.target_strains, strict=True), start=1
        )
    )
    return changed(state, strings=strings)


def exercises() -> Iterator[Exercise]:
    """Every instrument, tuning, method and source that has a reference to be matched."""
    for made in instruments():
        for tuning in made.tunings:
            for method in METHODS:
                for source in (None, *SOURCES):
                    asked = source or ""
                    try:
                        one = Exercise(made.id, method, "hair", 1, tuning=tuning.id, source=asked)
                    except MeldrinError:
                        continue
                    yield one


@slow
class EveryReference(unittest.TestCase):
    def test_still_ends_where_the_score_calls_it_right_and_beats_are_those_that_sound(self) -> None:
        looked = 0
        for made in exercises():
            state = on_target(opening(made))
            for index, stage in enumerate(made.plan.steps):
                if not stage.with_reference:
                    continue
                now = state.at_stage(index)
                after, sounds = step(now, Play(stage.strings, reference=True), dt_s=0.1)
                self.look(made, stage, after, [one for one in sounds if isinstance(one, Start)])
                looked += 1
        self.assertGreater(looked, 500)

    def look(self, made: Exercise, stage: Step, state: State, starts: list[Start]) -> None:
        where = (made.instrument_id, made.tuning, made.method, made.source, stage.title)
        tables = {start.voice: start.table for start in starts}
        pair = heard(state)
        assert pair is not None, where
        # the partials that are told are there, in the tables that are rendered
        own, other = tables[pair.own_voice], tables[pair.other_voice]
        self.assertGreater(len(other.amplitudes), pair.other_partial - 1, where)
        own_hz = own.frequencies_hz[pair.own_partial - 1]
        other_hz = other.frequencies_hz[pair.other_partial - 1]
        self.assertAlmostEqual(abs(own_hz - other_hz), pair.beats_hz, delta=0.01, msg=str(where))
        # brought to rest the string moves by what is missing; the score then calls it right
        rest = stage.offset_cents - cents_between(own_hz, reference_hz=other_hz)
        self.assertLess(abs(matched_cents(state, stage) + rest), 0.02, where)
        self.assertLess(abs(pitch_cents(state, stage.string) + rest), 0.5, where)


class APianosPartials(unittest.TestCase):
    def test_they_are_those_of_its_table(self) -> None:
        for source in SOURCES:
            for hz in (82.4, 220.0, 523.0):
                table, series = reference(source, hz=hz), reference_series(source, hz=hz)
                self.assertAlmostEqual(table.frequencies_hz[0], hz, places=6)
                if source not in ("fork", "drone"):
                    for number in range(1, len(table.amplitudes) + 1):
                        expected = table.frequencies_hz[number - 1]
                        self.assertAlmostEqual(series.partial_hz(number), expected, places=6)

    def test_the_fourth_of_a_middle_c_lies_five_cents_up(self) -> None:
        # B = 4e-4: 600 log2((1 + 16 B) / (1 + B)) = 5.18 cents
        series = reference_series("piano", hz=261.6)
        self.assertAlmostEqual(
            cents_between(series.partial_hz(4), reference_hz=4 * 261.6), 5.18, delta=0.01
        )
