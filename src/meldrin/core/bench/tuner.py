"""The tuner on the stand: it hears the bench's rendered sound and knows nothing of its state."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Final

from meldrin.core.bench.actions import Play
from meldrin.core.bench.state import State
from meldrin.core.bench.voices import begun
from meldrin.core.changed import changed
from meldrin.core.hearing import Reading, reading, room_noise, tracked
from meldrin.core.sound.events import Release, SoundEvent, Start
from meldrin.core.sound.render import render
from meldrin.core.strings import sounding_hz
from meldrin.core.units import cents_of_semitones

RATE: Final = 16_000
WINDOW_S: Final = 0.25  # seven periods of the lowest string there is
COARSE_WINDOW_S: Final = 0.75  # a coarse one takes its time
CHECKED_AFTER_S: Final = 0.9  # of a stroke, where each string is read in turn

MANY: Final = 60  # events, after which is looked which of them are over
MOST_VOICES: Final = (
    120  # that still sound or fade: of all strings there are, five strokes a second
)


def tuner_reading(
    state: State,
    events: Sequence[tuple[float, SoundEvent]],
    *,
    at_s: float,
    flats: bool = False,
) -> Reading | None:
    """Return what the tuner shows at a moment, or None where it hears no one pitch.

    It shows the first partial, which is what plans lead strings to. A contact pickup does not hear
    the room; a coarse one shows the nearest of its steps.

    Args:
        state: for the tuner's own setting, the room's noise and the strings it was sold for.
        events: (time in s, event) of what sounds, in the order of their times.
        at_s: the moment; the quarter of a second before it is listened to.
    """
    step_cents = state.tuner_step_cents
    window_s = COARSE_WINDOW_S if step_cents else WINDOW_S
    begin_s = max(0.0, at_s - window_s)
    samples = render(events, duration_s=window_s, sample_rate=RATE, begin_s=begin_s)
    if state.rig.on("noise") and state.tuner_pickup == "microphone":
        noise = room_noise(len(samples), seed=f"noise {state.exercise.seed} {at_s:.2f}")
        samples = samples + noise
    found = tracked(samples, sample_rate=RATE)
    if found is None:
        return None
    shown = reading(
        found.hz,
        a4_hz=state.tuner_a4_hz,
        mode=state.tuner_mode,
        strings_midi=[string.midi for string in state.rig.strings],
        flats=flats,
        clarity=found.clarity,
    )
    if not step_cents:
        return shown
    return replace(shown, cents=float(step_cents * round(shown.cents / step_cents)))


def tuner_check(state: State) -> dict[int, Reading | None]:
    """Return what the tuner shows of every open string, each plucked or bowed alone, by number.

    The state stays as it is.
    """
    found: dict[int, Reading | None] = {}
    for string in state.rig.strings:
        now = state.string(string.number)
        if now.broken or state.strain(string.number) <= 0.0:
            found[string.number] = None
            continue
        alone = state.with_string(string.number, changed(now, fret=0.0, touched=False, hard=False))
        alone = changed(alone, ringing=(), muted=True, finished=False)
        after, sounds = begun(alone, Play((string.number,)))
        events = [(after.time_s, event) for event in sounds]
        found[string.number] = tuner_reading(after, events, at_s=after.time_s + CHECKED_AFTER_S)
    return found


@dataclass(frozen=True, slots=True)
class Held:
    """A reading held against the method: what it should show there, and how far from that it is
    (cents, None where nothing was read).
    """

    found: Reading | None
    should: Reading
    off_cents: float | None


def held(state: State, number: int, found: Reading | None) -> Held:
    """Return what the tuner should show of an open string by the plan, as it is set, and how far
    from that a reading of it is.

    A fifth that is meant to be pure is 2 cents wider than a tuner's own notes: no fault of it.
    """
    plan = state.rig.plan
    target_hz = plan.targets_hz[number - 1]
    if plan.trusted and plan.trusted != number:  # what is counted from it moves with it
        strain = state.strain(plan.trusted)
        if strain > 0.0:
            string = state.rig.strings[plan.trusted - 1]
            now_hz = sounding_hz(string, strain=strain, fret=0, number=1)
            target_hz *= now_hz / plan.targets_hz[plan.trusted - 1]
    elif plan.trusted == number and found is not None:
        return Held(found, found, 0.0)
    should = reading(
        target_hz,
        a4_hz=state.tuner_a4_hz,
        mode=state.tuner_mode,
        strings_midi=[string.midi for string in state.rig.strings],
    )
    if found is None:
        return Held(None, should, None)
    off = cents_of_semitones(found.midi - should.midi) + found.cents - should.cents
    return Held(found, should, round(off, 1))


class Sounding:
    """Keeps the events of what still sounds, for the tuner to hear."""

    def __init__(self) -> None:
        self._events: list[tuple[float, SoundEvent]] = []
        self._state: State | None = None

    @property
    def events(self) -> Sequence[tuple[float, SoundEvent]]:
        """(time, event) pairs in the order of their times."""
        self._drop()
        return self._events

    def add(self, events: Sequence[SoundEvent], *, state: State) -> None:
        """Take what an action made sound; `state` is the one after it."""
        self._events += [(state.time_s, event) for event in events]
        self._state = state
        if len(self._events) > MANY:
            self._drop()

    def _drop(self) -> None:
        """Drop what is over."""
        if self._state is None:
            return
        at_s = self._state.time_s
        ringing = {voice.voice for voice in self._state.ringing}
        fading = {
            event.voice
            for t, event in self._events
            if isinstance(event, Release | Start) and at_s - t < 1.0
        }
        # time that stands still lets nothing fade
        kept = set(sorted(ringing | fading)[-MOST_VOICES:])
        self._events = [(t, event) for t, event in self._events if event.voice in kept]
