"""Spots of an attempt: where a step was met, and how far its string was, by a hand that knows."""

import unittest

from meldrin.core.bench import (
    Exercise,
    Finish,
    GoTo,
    Play,
    TimedAction,
    Turn,
    came_to,
    replay,
    spot_at,
)
from meldrin.core.bench.observe import matched_cents

FIFTHS = Exercise("viola", "fifths", "month", 3)
LOG = [
    TimedAction(1.0, Play((1,))),
    TimedAction(2.0, Turn(1, 4.0)),
    TimedAction(3.0, GoTo(1)),
    TimedAction(4.0, Play((2,))),
    TimedAction(5.0, Turn(2, 6.0)),
    TimedAction(7.0, Turn(2, -3.0)),
    TimedAction(9.0, Finish()),
]


class Spots(unittest.TestCase):
    def test_a_spot_begins_where_its_step_was_met(self) -> None:
        first = spot_at(FIFTHS, LOG, 2.5)
        self.assertEqual((first.before, first.stage), (0, 0))
        for at_s in (3.0, 4.5, 8.0):
            spot = spot_at(FIFTHS, LOG, at_s)
            # what led to the step, the third action, is done already
            self.assertEqual((spot.before, spot.stage), (3, 1))
        self.assertEqual(spot.label, "D")

    def test_it_says_how_far_the_string_was_at_the_moment_and_in_the_end(self) -> None:
        for at_s, until in ((4.5, 4), (6.0, 5), (8.0, 6)):
            state = replay(FIFTHS, LOG[:until])
            stage = state.current()
            assert stage is not None
            cents = spot_at(FIFTHS, LOG, at_s).cents
            self.assertEqual(cents, matched_cents(state, stage))
        self.assertEqual(came_to(FIFTHS, LOG, 1), spot_at(FIFTHS, LOG, 8.0).cents)
        higher, lower = (spot_at(FIFTHS, LOG, at_s).cents or 0.0 for at_s in (6.0, 8.0))
        self.assertGreater(higher, lower)  # it was let down in between

    def test_where_there_are_no_steps_it_begins_ten_seconds_before(self) -> None:
        free = Exercise("viola", "free", "month", 3)
        log = [TimedAction(float(at), Play((1,))) for at in range(0, 40, 2)]
        spot = spot_at(free, log, 30.0)
        self.assertEqual((spot.before, spot.stage, spot.label, spot.cents), (10, None, "", None))

    def test_what_was_refused_moves_nothing(self) -> None:
        """An action that today's bench passes over still has its place in the list."""
        refused = [TimedAction(0.5, GoTo(99)), *LOG]
        self.assertEqual(spot_at(FIFTHS, refused, 4.5).before, 4)
        self.assertIsNone(came_to(FIFTHS, LOG, 99))
