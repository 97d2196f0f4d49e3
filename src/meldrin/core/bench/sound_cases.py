"""Sounds that Python and the browser must render alike: what is played in them, as timed events."""

from dataclasses import asdict, dataclass
from typing import Any

from meldrin.core.bench.actions import Action, GoTo, Play, Turn
from meldrin.core.bench.exercise import Behaviour, Exercise
from meldrin.core.bench.opening import opening
from meldrin.core.bench.step import step
from meldrin.core.sound.events import Release, SoundEvent
from meldrin.core.sound.render import SHARED

Timed = tuple[float, SoundEvent]


@dataclass(frozen=True, slots=True)
class SoundCase:
    """A name, how long it is listened to, and the events with their times in seconds."""

    name: str
    seconds: float
    events: tuple[Timed, ...]


def sound_cases() -> tuple[SoundCase, ...]:
    """Return the cases: a beating pair, turning and damping, a bow, a hard stroke, false strings,
    touched harmonics, a plucked bowed instrument, and all strings so loud that the limiter works.
    """
    odd = frozenset[Behaviour]({"stroke", "false"})
    all_six = Play((1, 2, 3, 4, 5, 6), strength=1.0)
    return (
        _struck(
            "a beating pair", 9.0, Exercise("guitar", "unison", "month", 26), GoTo(1), _both(4, 5)
        ),
        _turned(),
        _struck("bowed", 2.5, Exercise("cello", "fifths", "hair", 4), GoTo(1), _both(1, 2)),
        _struck(
            "struck hard, false",
            2.5,
            Exercise("bass", "each", "hair", 4, behaviours=odd),
            Play((4,), strength=1.0),
        ),
        _struck("touched", 2.5, Exercise("guitar", "harmonics", "hair", 4), GoTo(1), _both(4, 5)),
        _struck(
            "plucked on a viola",
            2.5,
            Exercise("viola", "each", "hair", 4, behaviours=odd),
            Play((3,), way="pluck"),
        ),
        _struck("at the limiter", 1.0, Exercise("guitar", "unison", "hair", 23), all_six),
    )


def sound_fixture() -> dict[str, Any]:
    """Return the shared constants and the cases as plain values."""
    return {
        "constants": dict(SHARED),
        "cases": [
            {
                "name": case.name,
                "seconds": case.seconds,
                "events": [[at_s, asdict(event)] for at_s, event in case.events],
            }
            for case in sound_cases()
        ],
    }


def _both(one: int, other: int) -> Play:
    return Play((one, other))


def _struck(name: str, seconds: float, made: Exercise, *actions: Action) -> SoundCase:
    state, events = opening(made), list[Timed]()
    for action in actions:
        state, sounds = step(state, action, dt_s=0.0)
        events += [(0.0, event) for event in sounds]
    return SoundCase(name, seconds, tuple(events))


def _turned() -> SoundCase:
    """Twenty turns a second, so that each glide is cut short by the next, and then silence."""
    state = opening(Exercise("guitar", "unison", "hair", 22))
    state, sounds = step(state, Play((5,), reference=True), dt_s=0.0)
    events: list[Timed] = [(0.01, event) for event in sounds]
    for n in range(30):
        state, sounds = step(state, Turn(5, 1.0 if n < 20 else -1.0), dt_s=0.05)
        events += [(0.5003 + n * 0.0331, event) for event in sounds]
    events += [(2.2, Release(1, 0.035)), (1.9, Release(2, 0.035, delay_s=0.3))]
    return SoundCase("turned while it sounds, then damped", 3.0, tuple(events))
