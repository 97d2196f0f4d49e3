"""A minute of playing, and one of waiting: what has not been settled moves."""

import math
from typing import Final

from meldrin.core.bench import ageing, turning
from meldrin.core.bench.actions import LetGo
from meldrin.core.bench.frame import laid, rested
from meldrin.core.bench.observe import pitch_cents
from meldrin.core.bench.state import Minute, State
from meldrin.core.changed import changed

LASTS_S: Final = 120.0
BENDS: Final = 3
BEND_CENTS: Final = 60.0  # of playing: a bend, a slide, a hard stroke


def played_a_minute(state: State) -> State:
    """Return the state after every string was played hard and then left, with how far each moved.

    A peg that was not pushed in runs back, what lies behind a gripping nut comes out, and new
    strings sink.
    """
    state = laid(state, down=False)
    numbers = range(1, len(state.strings) + 1)
    before = [pitch_cents(state, number) for number in numbers]
    for number in numbers:
        if state.string(number).broken:
            continue
        state = turning.let_go(state, LetGo(number))
        for _ in range(BENDS):
            state = turning.bent(state, number, cents=BEND_CENTS)
    state = ageing.aged(rested(state), seconds=LASTS_S)
    moved = tuple(
        after - was if math.isfinite(was) and math.isfinite(after) else 0.0
        for was, after in zip(before, (pitch_cents(state, n) for n in numbers), strict=True)
    )
    minute = Minute(state.time_s, sum(string.turns for string in state.strings), moved)
    return changed(state, minutes=(*state.minutes, minute))
