"""What there is to hear and to know at a moment: the sounding pair, its beat, its true offset."""

from dataclasses import dataclass

from meldrin.core.bench.state import Ringing, State
from meldrin.core.methods import Check, Step, Touch
from meldrin.core.pitch import cents_between
from meldrin.core.strings import sounding_hz


@dataclass(frozen=True, slots=True)
class Heard:
    """The stage's two sides sounding together: their voices, the partials that meet in them
    (numbered from 1), how far the own side is from the other (cents) and their beat (Hz).
    """

    own_voice: int
    own_partial: int
    other_voice: int
    other_partial: int
    offset_cents: float
    beats_hz: float


def heard(state: State) -> Heard | None:
    """Return what the current stage's pair sounds like, with the fingers as they really are.

    None while one side is silent, or has fewer partials than the comparison needs.
    """
    stage = state.current()
    own, other = _voice(state, stage.own), _voice(state, stage.other)
    if own is None or other is None:
        return None
    own_hz = _sounding(state, stage.own, own.fret)
    other_hz = _sounding(state, stage.other, other.fret)
    return Heard(
        own_voice=own.voice,
        own_partial=stage.own.partial,
        other_voice=other.voice,
        other_partial=stage.other.partial,
        offset_cents=cents_between(own_hz, reference_hz=other_hz),
        beats_hz=abs(own_hz - other_hz),
    )


def matched_cents(state: State, stage: Step | Check) -> float:
    """Return how far the stage's own side is above the other, in cents, as the plan stops them.

    This is what a judgement is held against, whether or not anything sounds; 0 is still.
    """
    own_hz = _sounding(state, stage.own, stage.own.fret)
    other_hz = _sounding(state, stage.other, stage.other.fret)
    return cents_between(own_hz, reference_hz=other_hz)


def pitch_cents(state: State, number: int) -> float:
    """Return how far an open string is above the pitch its plan leads it to, in cents."""
    own_hz = _sounding(state, Touch(number, 0, 1), 0)
    return cents_between(own_hz, reference_hz=state.setup.plan.targets_hz[number - 1])


def _sounding(state: State, touch: Touch, fret: int) -> float:
    if touch.string is None:
        return state.setup.a4_hz
    return sounding_hz(
        state.setup.instrument.string(touch.string),
        strain=state.strain(touch.string),
        fret=fret,
        number=touch.partial,
    )


def _voice(state: State, touch: Touch) -> Ringing | None:
    for ringing in state.ringing:
        if ringing.string == touch.string and ringing.partials >= touch.partial:
            return ringing
    return None
