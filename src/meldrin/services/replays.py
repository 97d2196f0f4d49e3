"""An attempt looked at again: every moment of it, with what sounded and how the strings stood."""

from collections.abc import Sequence
from dataclasses import dataclass

from meldrin.core.bench import Action, Exercise, TimedAction, heard, played
from meldrin.core.bench.observe import Heard, Level, level
from meldrin.core.sound.events import SoundEvent


@dataclass(frozen=True, slots=True)
class Frame:
    """A moment of an attempt: what was done, at which stage, what sounded from then on, and how it
    stood: the pair that sounds and the string that is looked at.
    """

    at_s: float
    action: Action
    stage: int
    sounds: tuple[SoundEvent, ...]
    pair: Heard | None
    level: Level | None


def frames_of(exercise: Exercise, log: Sequence[TimedAction]) -> list[Frame]:
    """Return the moments of an attempt in their order, by playing its list again."""
    return [
        Frame(
            one.entry.at_s,
            one.entry.action,
            one.after.stage,
            one.sounds,
            heard(one.after),
            level(one.after),
        )
        for one in played(exercise, log)
    ]
