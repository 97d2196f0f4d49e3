"""An attempt looked at again: every moment of it, with what sounded and how the strings stood."""

import threading
from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from meldrin.core.bench import Action, Exercise, State, TimedAction, heard, played
from meldrin.core.bench.observe import Level, PairBeat, level
from meldrin.core.session import Played
from meldrin.core.sound.events import SoundEvent

MOST_FRAMES: Final = 400  # about 5 MB where every one of them begins a chord
MOST_KEPT: Final = 16


@dataclass(frozen=True, slots=True)
class Frame:
    """A moment of an attempt: what was done, at which stage, what sounded from then on, and how it
    stood: the pair that sounds and the string that is looked at.
    """

    at_s: float
    action: Action
    stage: int
    sounds: tuple[SoundEvent, ...]
    pair: PairBeat | None
    level: Level | None


@dataclass(frozen=True, slots=True)
class Stretch:
    """Some moments of an attempt: from which action on (0 the first), how many actions there are
    in all, and when the last one was.
    """

    begin: int
    actions: int
    duration_s: float
    frames: list[Frame]


class Replays:
    """Attempts played again, a stretch at a time. It is kept where lately asked-for stretches
    ended, so that the next one need not play the attempt from its beginning.
    """

    def __init__(self) -> None:
        self._ends: OrderedDict[tuple[int, int], State] = OrderedDict()
        self._guard = threading.Lock()

    def stretch(
        self, key: int, exercise: Exercise, log: Sequence[TimedAction], *, begin: int
    ) -> Stretch:
        """Return the moments of the actions from `begin` on, at most 400.

        Args:
            key: the row of the attempt, which is finished.
        """
        with self._guard:
            state = self._ends.get((key, begin))
        if state is None:
            for one in played(exercise, log[:begin]):
                state = one.after
        frames = []
        for one in played(exercise, log[begin : begin + MOST_FRAMES], begin=state):
            state = one.after
            frames.append(_frame(one))
        if state is not None:
            with self._guard:
                self._ends[key, begin + MOST_FRAMES] = state
                while len(self._ends) > MOST_KEPT:
                    self._ends.popitem(last=False)
        return Stretch(begin, len(log), log[-1].at_s if log else 0.0, frames)


def _frame(one: Played[State, Action]) -> Frame:
    return Frame(
        one.entry.at_s,
        one.entry.action,
        one.after.stage,
        one.sounds,
        heard(one.after),
        level(one.after),
    )
