"""An attempt looked at again: every moment of it, with what sounded and what was so."""

from collections.abc import Sequence
from dataclasses import dataclass

from meldrin.core.bench import Action, Setup, TimedAction, heard, opening, step
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


def frames_of(setup: Setup, log: Sequence[TimedAction]) -> list[Frame]:
    """Return the moments of an attempt in their order, by running its list again."""
    state = opening(setup)
    frames = []
    for entry in log:
        state, sounds = step(state, entry.action, dt_s=entry.at_s - state.time_s)
        frames.append(
            Frame(entry.at_s, entry.action, state.stage, sounds, heard(state), level(state))
        )
    return frames
