"""What there is to hear and to know at a moment: the sounding pair, its beat, its true offset."""

import math
from dataclasses import dataclass
from functools import lru_cache

from meldrin.core.beats import meeting
from meldrin.core.bench.fingers import finger_cents
from meldrin.core.bench.rig import Rig
from meldrin.core.bench.state import Ringing, State, over_frets
from meldrin.core.methods import Check, Side, Step
from meldrin.core.pitch import cents_between, shifted_by_cents
from meldrin.core.sound.partials import Series, string_series
from meldrin.core.sound.references import partial_place, reference_series
from meldrin.core.strings import semitones_at, sounding_hz
from meldrin.core.units import semitones_of_cents

LOWEST_HZ = 8.0  # below it there is no pitch to compare


@dataclass(frozen=True, slots=True)
class PairBeat:
    """Two sides sounding together: their voices, the places (from 1) in their tables of the
    partials that meet, how far the own side is from where it is wanted over the other (cents),
    their beat, and that beat where it is wanted (Hz).
    """

    own_voice: int
    own_partial: int
    other_voice: int
    other_partial: int
    offset_cents: float
    beats_hz: float
    wanted_hz: float


def heard(state: State) -> PairBeat | None:
    """Return what the current stage's pair sounds like, with the fingers as they really are.

    In free play it is the two voices struck last. None while one side is silent, has fewer
    partials than the comparison needs, or is too slack for a pitch.
    """
    stage = state.current()
    if stage is None:
        return _heard_freely(state)
    own, other = _voice(state, stage.own), _voice(state, stage.other)
    if own is None or other is None:
        return None
    own_hz = _partial_hz(state, own, stage.own.partial)
    other_hz = _partial_hz(state, other, stage.other.partial, stage.other)
    if min(own_hz, other_hz) < LOWEST_HZ:
        return None
    wanted = stage.offset_cents
    return PairBeat(
        own_voice=own.voice,
        own_partial=_place(state, stage.own),
        other_voice=other.voice,
        other_partial=_place(state, stage.other),
        offset_cents=cents_between(own_hz, reference_hz=other_hz) - wanted,
        beats_hz=abs(own_hz - other_hz),
        wanted_hz=abs(shifted_by_cents(other_hz, cents=wanted) - other_hz),
    )


@dataclass(frozen=True, slots=True)
class Level:
    """How far the string that is looked at stands from where it is wanted, in cents, and the voice
    it sounds with.
    """

    string: int
    cents: float
    voice: int


def level(state: State) -> Level | None:
    """Return how the string that sounds stands: over the other side of its stage, or, where it is
    read from a tuner or played freely, over its own note. None while it is silent.
    """
    stage = state.current()
    if stage is not None and not stage.by_tuner:
        now = heard(state)
        assert stage.own.string is not None
        return None if now is None else Level(stage.own.string, now.offset_cents, now.own_voice)
    wanted = None if stage is None else stage.own.string
    for voice in reversed(state.ringing):
        if voice.string is None or voice.along or voice.audible_s < state.time_s:
            continue
        if wanted is not None and voice.string != wanted:
            continue
        cents = pitch_cents(state, voice.string)
        return Level(voice.string, cents, voice.voice) if math.isfinite(cents) else None
    return None


def matched_cents(state: State, stage: Step | Check) -> float:
    """Return how far the stage's own side is from where it is wanted over the other, in cents.

    With the fingers where the plan lays them, lightly, and a right reference; this is what a
    judgement is held against, whether or not anything sounds. A tuner step is held against its
    note. Minus infinity for a slack string.
    """
    own_hz = planned_hz(state, stage.own)
    other_hz = planned_hz(state, stage.other)
    if own_hz < LOWEST_HZ or other_hz < LOWEST_HZ:
        return float("-inf") if own_hz <= other_hz else float("inf")
    if isinstance(stage, Check) and not stage.sets_fret:
        wanted = cents_between(
            planned_hz(state, stage.own, on_target=True),
            reference_hz=planned_hz(state, stage.other, on_target=True),
        )
    else:
        wanted = stage.offset_cents
    return cents_between(own_hz, reference_hz=other_hz) - wanted


def judged_cents(state: State, stage: Step) -> float:
    """Return what an honest ear finds at this stage: as above, but against the reference as it
    really sounds.
    """
    off = matched_cents(state, stage)
    by_reference = stage.other.string is None and not stage.by_tuner
    return off - state.reference_cents if by_reference else off


def pitch_cents(state: State, number: int) -> float:
    """Return how far an open string is above the pitch its plan leads it to, in cents; minus
    infinity for one that is slack or broken. Where a string is trusted as it is, that pitch moves
    with it.
    """
    own_cents = _off_cents(state, number)
    trusted = state.rig.plan.trusted
    if not trusted or trusted == number or own_cents == float("-inf"):
        return own_cents if trusted != number else 0.0
    return own_cents - _off_cents(state, trusted)


def _off_cents(state: State, number: int) -> float:
    return _off_at(state.rig, number, state.strain(number))


@lru_cache(maxsize=1024)
def _off_at(rig: Rig, number: int, strain: float) -> float:
    own_hz = 0.0
    if strain > 0.0:
        own_hz = sounding_hz(rig.strings[number - 1], strain=strain, fret=0, number=1)
    if own_hz < LOWEST_HZ:
        return float("-inf")
    return cents_between(own_hz, reference_hz=rig.plan.targets_hz[number - 1])


def planned_hz(state: State, touch: Side, *, on_target: bool = False) -> float:
    """Return the frequency of a side's partial, stopped lightly where the plan has it; with its
    string as it stands, or as it would be on its target. 0 for a slack string.
    """
    if touch.string is None:
        assert touch.hz is not None
        return _of_reference(state, touch.hz, touch.partial)
    number, rig = touch.string, state.rig
    strain = rig.target_strains[number - 1] if on_target else state.strain(number)
    if strain <= 0.0:
        return 0.0
    string = rig.strings[number - 1] if on_target else state.fretted(number)
    locked = rig.instrument.kind == "bowed" and touch.node_fret is None
    hz = sounding_hz(
        string,
        strain=strain,
        fret=touch.fret,
        number=1 if locked else touch.partial,
    )
    off = finger_cents(rig, number, strain=strain, fret=touch.fret, hard=False)
    return shifted_by_cents(hz * (touch.partial if locked else 1), cents=off)


def reference_hz(state: State) -> float:
    """Return the first partial of the reference as it sounds at this stage, right or wrong."""
    stage, plan = state.current(), state.rig.plan
    hz = plan.reference.hz
    if plan.reference.kind == "tones" and stage is not None and stage.own.string is not None:
        if stage.other.string is None and stage.other.hz is not None:
            hz = stage.other.hz
        else:
            hz = plan.targets_hz[stage.own.string - 1]
    return shifted_by_cents(hz, cents=state.reference_cents)


def voice_series(state: State, ringing: Ringing) -> Series:
    """Return where the partials of a string's voice lie as the string now stands."""
    assert ringing.string is not None
    return own_series(
        state,
        ringing.string,
        fret=0 if ringing.touched else int(ringing.fret),
        hard=ringing.hard,
        press=ringing.press,
        harmonic=ringing.bowed and not ringing.touched,
    )


def own_series(
    state: State,
    number: int,
    *,
    fret: int = 0,
    hard: bool = False,
    press: float = 1.0,
    harmonic: bool = False,
) -> Series:
    """Return where a string's partials lie as it now stands."""
    frets_cents = state.frets_cents if fret else ()
    strain = state.strain(number)
    return _series(state.rig, number, strain, frets_cents, fret, hard, press, harmonic)


@lru_cache(maxsize=1024)  # within a step the same is asked for several times
def _series(
    rig: Rig,
    number: int,
    strain: float,
    frets_cents: tuple[float, ...],
    fret: int,
    hard: bool,
    press: float,
    harmonic: bool,
) -> Series:
    string = over_frets(rig, number, frets_cents)
    true = string_series(string, strain=strain, fret=fret, harmonic=harmonic)
    off = finger_cents(rig, number, strain=strain, fret=fret, hard=hard, press=press)
    if not off:
        return true
    return Series(shifted_by_cents(true.fundamental_hz, cents=off), true.stiffness)


def _partial_hz(state: State, ringing: Ringing, partial: int, touch: Side | None = None) -> float:
    if ringing.string is None:
        over = 1.0 if touch is None else _over_first(state, touch)
        return _of_reference(state, ringing.hz * over, partial)
    if state.strain(ringing.string) <= 0.0:
        return 0.0
    return voice_series(state, ringing).partial_hz(partial)


def _of_reference(state: State, hz: float, partial: int) -> float:
    """Return where a partial of the reference lies, as it sounds, its first at `hz`."""
    if state.exercise.rules == 1:  # it was reckoned as a multiple then
        return hz * partial
    return reference_series(state.rig.source, hz=hz).partial_hz(partial)


def _over_first(state: State, touch: Side) -> float:
    """Return the ratio of the note listened to over the first partial of what sounds."""
    kind = state.rig.plan.reference.kind
    return (touch.hz or 1.0) / state.rig.plan.reference.hz if kind == "drone" else 1.0


def _place(state: State, touch: Side) -> int:
    return touch.partial if touch.string is not None else reference_place(state, touch)


def reference_place(state: State, touch: Side) -> int:
    """Return the place (from 1) in the reference's table of the partial that a side listens to."""
    over = _over_first(state, touch)
    return partial_place(state.rig.source, partial=touch.partial, over_first=over)


def _voice(state: State, touch: Side) -> Ringing | None:
    for ringing in reversed(state.ringing):
        if ringing.string != touch.string or ringing.along or ringing.audible_s < state.time_s:
            continue
        if touch.string is None or ringing.partials >= touch.partial:
            return ringing
    return None


def _heard_freely(state: State) -> PairBeat | None:
    voices = [one for one in state.ringing if not one.along and one.audible_s >= state.time_s]
    if len(voices) < 2:
        return None
    own, other = voices[-1], voices[-2]
    notes = [_note(state, voice) for voice in (own, other)]
    pair = meeting(abs(round(notes[0] - notes[1])))
    if pair is None:
        return None
    of_lower, of_upper = pair
    own_partial, other_partial = pair if notes[0] <= notes[1] else (of_upper, of_lower)
    if own.string is not None and own.partials < own_partial:
        return None
    if other.string is not None and other.partials < other_partial:
        return None
    own_hz = _partial_hz(state, own, own_partial)
    other_hz = _partial_hz(state, other, other_partial)
    if min(own_hz, other_hz) < LOWEST_HZ:
        return None
    return PairBeat(
        own.voice,
        own_partial,
        other.voice,
        other_partial,
        cents_between(own_hz, reference_hz=other_hz),
        abs(own_hz - other_hz),
        0.0,
    )


def _note(state: State, ringing: Ringing) -> float:
    """Return the note a voice is meant to sound, in semitones over 1 Hz."""
    if ringing.string is None:
        return semitones_of_cents(cents_between(ringing.hz, reference_hz=1000.0))
    string = state.rig.strings[ringing.string - 1]
    fret = 0 if ringing.touched else semitones_at(string, int(ringing.fret))
    target_hz = state.rig.plan.targets_hz[ringing.string - 1]
    return semitones_of_cents(cents_between(target_hz, reference_hz=1000.0)) + fret
