"""The simulated instrument: a pure reducer, step(state, action, dt) -> state and sound events.

An attempt is its Setup and the list of its timed actions; everything else is computed from them.
"""

from meldrin.core.bench.actions import (
    Action,
    Damp,
    Finish,
    Go,
    Help,
    Judge,
    Sound,
    Stop,
    Turn,
    action_from_record,
    action_record,
)
from meldrin.core.bench.observe import Heard, heard, matched_cents
from meldrin.core.bench.setup import START_KINDS, Setup, opening
from meldrin.core.bench.state import Judgement, State
from meldrin.core.bench.step import TimedAction, replay, step

__all__ = [
    "START_KINDS",
    "Action",
    "Damp",
    "Finish",
    "Go",
    "Heard",
    "Help",
    "Judge",
    "Judgement",
    "Setup",
    "Sound",
    "State",
    "Stop",
    "TimedAction",
    "Turn",
    "action_from_record",
    "action_record",
    "heard",
    "matched_cents",
    "opening",
    "replay",
    "step",
]
