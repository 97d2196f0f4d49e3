"""What the hand feels and a friend would say: a peg that slips or sticks, a machine with play, and
what helps who is lost or stuck.
"""

import math
from typing import Final

from meldrin.core.bench.actions import Action, JudgeReference, LetGo, Turn
from meldrin.core.bench.observe import pitch_cents
from meldrin.core.bench.state import State
from meldrin.core.methods import Step
from meldrin.core.sound.references import SOURCE_NAMES
from meldrin.core.words import how_far

LOST_CENTS: Final = 250.0
LOST_TURNS: Final = 25
NEARLY_OUT: Final = 0.75  # of a fine tuner's way, either way
STUCK_MOVES: Final = 12  # runs of turns there and back on one string, and nothing said of it


def felt(before: State, action: Action, after: State) -> str | None:
    """Return what an action made the hand feel, in a sentence, or None for nothing unusual."""
    match action:
        case LetGo():
            was, now = before.string(action.string), after.string(action.string)
            if now.material_m == was.material_m:
                return None
            if was.loose:
                return "The peg slipped. Push it in as you turn."
            return "The peg slipped a little."
        case Turn() if not action.fine:
            was, now = before.string(action.string), after.string(action.string)
            if now.twist_deg:
                return "The peg sticks. Keep turning: it will jump."
            if now.lost_deg != was.lost_deg and now.material_m == was.material_m:
                return "The machine has play: keep turning."
        case Turn():
            return _nearly_at_its_end(before, action, after)
        case JudgeReference():
            source = SOURCE_NAMES[before.rig.source]
            if action.verdict == "in_tune":  # said alike of a right one and of a wrong one
                return f"You keep this {source}."
            if before.reference_cents:
                return f"That {source} was {how_far(before.reference_cents)}. It is right now."
            return f"That {source} was right. You keep it."
        case _:
            pass
    return None


def _nearly_at_its_end(before: State, action: Turn, after: State) -> str | None:
    """Return what a fine tuner says that has little way left, at the turn that brings it there."""
    string = after.rig.strings[action.string - 1]
    if string.fine is None:
        return None
    most_m = NEARLY_OUT * string.fine.take_up_m / 2.0
    was_m, now_m = before.string(action.string).fine_m, after.string(action.string).fine_m
    if abs(now_m) <= most_m or abs(was_m) > most_m:
        return None
    end = "in" if now_m > 0.0 else "out"
    return f"The fine tuner is nearly all the way {end}. Take the {string.peg.word} for the rest."


def hint(state: State) -> str | None:
    """Return what helps who is lost or stuck at a step, or None where nothing is needed."""
    stage = state.current()
    if not isinstance(stage, Step):
        return None
    now, label = state.string(stage.string), state.rig.labels[stage.string - 1]
    if state.lying and not any(one.turns for one in state.strings):
        return "It lies on its back. Take it up as you play, then tune."
    if now.broken or now.turned_s < 0.0:
        return None
    if now.turns >= LOST_TURNS and state.exercise.start not in ("slack", "octave"):
        off = pitch_cents(state, stage.string)
        if math.isfinite(off) and abs(off) > LOST_CENTS:
            return f"Lost? Loosen {label} fully and come up again, playing it as you turn."
    said = state.judged(state.stage)
    if now.moves >= STUCK_MOVES and not said and not stage.by_tuner and state.aid != "tuner":
        return f"Stuck? You may look at the tuner for {label}; it counts as help."
    return None
