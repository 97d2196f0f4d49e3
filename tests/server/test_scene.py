"""What a player is told of the bench, action by action, is what a fresh look at it would tell."""

import random
import unittest

from meldrin.core.bench import Behaviour, Exercise, State, opening, step
from meldrin.core.bench.actions import (
    Action,
    GoTo,
    LeaveOff,
    MuteAll,
    Play,
    SetAid,
    SlideFret,
    Turn,
    Wait,
)
from meldrin.core.errors import MeldrinError
from meldrin.server.bench.scene import seen_of
from meldrin.wire import text_of

EVERYTHING: frozenset[Behaviour] = frozenset({"breaking", "ringing", "coupling"})


def drawn(state: State, draw: random.Random) -> Action:
    """Return some action, whether the bench allows it or not."""
    string = draw.randrange(1, len(state.strings) + 1)
    return draw.choice(
        (
            Play((string,), True),
            Play((string,), False),
            Turn(string, draw.choice((-90.0, -5.0, 5.0, 90.0))),
            Turn(string, 90.0),
            SlideFret(draw.randrange(1, 13), 1.0),
            GoTo(draw.randrange(0, 8)),
            SetAid(draw.choice(("ear", "ripple", "level", "tuner"))),
            LeaveOff(string),
            MuteAll(),
            Wait(60.0),
        )
    )


class Scenes(unittest.TestCase):
    def assert_told(self, exercise: Exercise, seed: int) -> None:
        draw, state = random.Random(seed), opening(exercise)
        before = seen_of(state)
        told = 0
        for _ in range(120):
            try:
                state, _ = step(state, drawn(state, draw), dt_s=draw.choice((0.1, 2.0)))
            except MeldrinError:
                continue
            now, fresh = seen_of(state, before=before), seen_of(state)
            self.assertEqual(now.fields, fresh.fields)
            text_of(before.changes_to(now))  # and every number of it is finite
            before, told = now, told + 1
        self.assertGreater(told, 20)

    def test_nothing_of_it_is_as_it_was_where_it_has_changed(self) -> None:
        for made in (
            # many slack strings: each that is tightened lets others go slack
            Exercise("sitar", "drone", "slack", 1, behaviours=EVERYTHING),
            Exercise("sitar", "drone", "hair", 2, frets=True),
            Exercise("guitar", "unison", "octave", 3, behaviours=EVERYTHING, numbers=True),
            Exercise("viola", "tuner", "damp", 4, behaviours=EVERYTHING),
        ):
            for seed in range(3):
                with self.subTest(made.instrument_id, start=made.start, seed=seed):
                    self.assert_told(made, seed)
