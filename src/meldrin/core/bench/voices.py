"""What begins to sound when strings are struck, bowed or touched, and what rings along."""

import math
from collections.abc import Iterable, Sequence
from typing import Final

from meldrin.core.bench.actions import Play
from meldrin.core.bench.fingers import touched_share
from meldrin.core.bench.observe import (
    own_series,
    reference_hz,
    reference_place,
    voice_series,
)
from meldrin.core.bench.state import Ringing, State
from meldrin.core.bench.turning import bent
from meldrin.core.catalogue import Instrument, Played
from meldrin.core.changed import changed
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.sound.events import Release, Retune, SoundEvent, Start
from meldrin.core.sound.partials import (
    AUDIBLE,
    PLUCKED_AT,
    PartialTable,
    ringing_along,
    snap,
    stroked,
)
from meldrin.core.sound.references import reference
from meldrin.core.strings import String, tension_at_strain

Sounds = tuple[SoundEvent, ...]

STRUM_S: Final = 0.03
REPLUCK_FADE_S: Final = 0.012
DAMP_FADE_S: Final = 0.035
SNAP_FADE_S: Final = 0.008
ALONG_TRANSFER: Final = 0.12  # the share of a partial that passes over the bridge
ALONG_PARTIALS: Final = 12
MATCHED_S: Final = 0.7  # after a stroke, a reference is as loud as the string
MOST_MATCHED: Final = 4.0  # times louder or softer than usual
STROKE_SWING: Final = 0.004  # of a full stroke: the swing at the middle, as a share of the length


def stroke_cents(string: String, *, strain: float, strength: float) -> float:
    """Return how far sharp a plucked string begins, in cents.

    1731 (3 pi^2/32) (EA/T) (a/L)^2 for a swing a in one plane (Fletcher and Rossing, 1998,
    ch. 5: the stretch of a string that swings is quadratic in its amplitude).
    """
    tension_n = tension_at_strain(string, strain)
    if tension_n <= 0.0:
        return 0.0
    axial_stiffness_n = string.load_area_m2 * (
        string.modulus_pa + string.modulus_slope * tension_n / string.load_area_m2
    )
    swing = STROKE_SWING * strength
    return 1731.0 * 3.0 * math.pi**2 / 32.0 * axial_stiffness_n / tension_n * swing**2


def begun(state: State, action: Play) -> tuple[State, Sounds]:
    """Return the state with these strings and the reference sounding, and the events of it.

    Raises:
        MeldrinError: ``no_such_string``; ``broken``; ``slack``.
    """
    instrument = state.rig.instrument
    order = sorted(action.strings, key=lambda n: (instrument.string(n).midi, -n))
    for number in order:
        if state.string(number).broken:
            label = state.rig.plan.label(number)
            raise MeldrinError(Code.BROKEN, f"The {label} string is broken; replace it first.")
        if state.strain(number) <= 0.0:
            label = state.rig.plan.label(number)
            raise MeldrinError(Code.SLACK, f"The {label} string hangs loose; tighten it first.")
    made: list[tuple[Ringing, PartialTable]] = []
    voice = state.next_voice
    if action.reference:
        made.append(_reference(state, action, voice))
    for number in order:
        state, ringing, table = _string(state, number, action, voice + len(made))
        made.append((ringing, table))
    if action.reference and not action.by_prongs:
        made[0] = _as_loud(state, made)
    sources = {ringing.string for ringing, _ in made}
    silenced = {
        voice.voice
        for voice in state.ringing
        if voice.string in sources
        or voice.along
        or (state.muted and voice.string not in (None, *_paired(state)))
    }
    events: list[SoundEvent] = [
        Release(voice.voice, REPLUCK_FADE_S) for voice in state.ringing if voice.voice in silenced
    ]
    kept = [voice for voice in state.ringing if voice.voice not in silenced]
    busy = {one.string for one in kept} | sources
    made += _along(state, made, busy=busy, voice=voice + len(made))
    for place, (ringing, table) in enumerate(made):
        delay_s = 0.0 if ringing.along else place * STRUM_S
        events.append(Start(ringing.voice, table, delay_s=delay_s))
        kept.append(ringing)
    strings = tuple(
        changed(now, unheard=0) if now.unheard and number in sources else now
        for number, now in enumerate(state.strings, start=1)
    )
    state = changed(
        state,
        ringing=tuple(kept),
        next_voice=state.next_voice + len(made),
        strings=strings,
    )
    return state, tuple(events)


def _paired(state: State) -> tuple[int | None, ...]:
    stage = state.current()
    return () if stage is None else (stage.own.string, stage.other.string)


def _reference(state: State, action: Play, voice: int) -> tuple[Ringing, PartialTable]:
    hz = reference_hz(state)
    return _given(state, voice, hz, reference(state.rig.source, hz=hz, held_wrong=action.by_prongs))


def _given(
    state: State, voice: int, hz: float, table: PartialTable
) -> tuple[Ringing, PartialTable]:
    ringing = Ringing(
        voice=voice,
        string=None,
        partials=len(table.amplitudes),
        since_s=state.time_s,
        until_s=state.time_s + table.lasts_s(),
        audible_s=state.time_s + table.audible_s(AUDIBLE),
        hz=hz,
    )
    return ringing, table


def _as_loud(
    state: State, made: Sequence[tuple[Ringing, PartialTable]]
) -> tuple[Ringing, PartialTable]:
    """Return the reference as loud as the string that it is played with, where their partials meet
    and a moment after the stroke: who holds a fork, or gives a note, holds it so that they beat.
    """
    (ringing, table), *strings = made
    stage = state.current()
    own = next((one for at, one in strings if stage and at.string == stage.own.string), None)
    if stage is None or stage.other.string is not None or own is None:
        return ringing, table
    meets = own.level(stage.own.partial, MATCHED_S)
    given = table.level(reference_place(state, stage.other), MATCHED_S)
    if not meets or not given:
        return ringing, table
    times = max(1.0 / MOST_MATCHED, min(MOST_MATCHED, meets / given))
    return _given(state, ringing.voice, ringing.hz, table.times(times))


def _string(
    state: State, number: int, action: Play, voice: int
) -> tuple[State, Ringing, PartialTable]:
    rig = state.rig
    string, now = rig.strings[number - 1], state.string(number)
    body, losses = rig.instrument.body, rig.instrument.losses
    odd = rig.quirks[number - 1]
    by_bow = action.way == "bow" or (action.way == "usual" and rig.instrument.kind == "bowed")
    glide = 0.0
    if not by_bow and rig.on("stroke"):
        glide = stroke_cents(string, strain=state.strain(number), strength=action.strength)
    if glide:
        # the swing stretches the string as a small pull does, and may free what lies behind the nut
        state = bent(state, number, cents=glide)
    touched = now.touched and now.fret > 0
    pressed = 0 if touched else int(now.fret)
    series = own_series(
        state,
        number,
        fret=pressed,
        hard=now.hard,
        press=now.press,
        harmonic=by_bow and not touched,
    )
    # the hand keeps its place over the string while the finger shortens it; where that is, is said
    # against where it usually is
    place = body.place * action.place / PLUCKED_AT
    shortened = 2.0 ** ((pressed - string.nut_fret if pressed else 0) / 12.0)
    first_hz = series.partial_hz(1)
    table = stroked(
        series,
        body,
        losses,
        played=_played(rig.instrument, by_bow),
        strength=action.strength,
        place=min(0.99, place * shortened),
        length_m=string.scale_m / shortened,
        touched_at=touched_share(string, now.fret) if touched else None,
        splits_cents=odd.splits_cents,
        glide_cents=min(100.0, glide),
        glide_s=_glide_s(first_hz, losses.decay_s(first_hz, body)),
    )
    ringing = Ringing(
        voice=voice,
        string=number,
        partials=len(table.amplitudes) // (2 if odd.splits_cents else 1),
        since_s=state.time_s,
        until_s=state.time_s + table.lasts_s(),
        audible_s=state.time_s + table.audible_s(AUDIBLE),
        fret=now.fret,
        touched=touched,
        hard=now.hard,
        press=now.press,
        bowed=by_bow,
    )
    return state, ringing, table


def _played(made: Instrument, by_bow: bool) -> Played:
    """Return with what a string is sounded: plucked, a bowed instrument is played by a finger."""
    if by_bow:
        return "bow"
    return "fingertip" if made.body.played == "bow" else made.body.played


def _glide_s(first_hz: float, decay_s: float) -> float:
    """Return how fast a sharp start falls: half a second for a low string, less for a high one and
    for what dies away fast; a judgement within what guitars, basses and banjos do.
    """
    return max(0.02, 0.5 * math.sqrt(100.0 / first_hz) * min(1.0, decay_s / 1.2))


def _along(
    state: State,
    made: Iterable[tuple[Ringing, PartialTable]],
    *,
    busy: set[int | None],
    voice: int,
) -> list[tuple[Ringing, PartialTable]]:
    """Return the voices of free strings that answer what has just been struck."""
    rig = state.rig
    if not rig.on("ringing") or state.muted:
        return []
    drivers = sorted(
        (hz, amplitude)
        for ringing, table in made
        if ringing.string is not None
        for hz, amplitude in zip(table.frequencies_hz, table.amplitudes, strict=True)
        if amplitude
    )
    found: list[tuple[Ringing, PartialTable]] = []
    for number, now in enumerate(state.strings, start=1):
        if number in busy or now.broken or now.fret or state.strain(number) <= 0.0:
            continue
        table = ringing_along(
            own_series(state, number),
            rig.instrument.body,
            rig.instrument.losses,
            count=ALONG_PARTIALS,
            drivers=drivers,
            transfer=ALONG_TRANSFER,
        )
        if table is None:
            continue
        ringing = Ringing(
            voice=voice + len(found),
            string=number,
            partials=ALONG_PARTIALS,
            since_s=state.time_s,
            until_s=state.time_s + table.lasts_s(),
            audible_s=state.time_s,
            along=True,
        )
        found.append((ringing, table))
    return found


def retuned(before: State, after: State, *, glide_s: float) -> Sounds:
    """Return the events by which what rings follows the strings from one state to the next."""
    if before.ringing == after.ringing and _at_rest(before, after):
        return ()
    sounding = {voice.string for voice in after.ringing}
    moved = {n for n in sounding if n is not None and before.strain(n) != after.strain(n)}
    known = {voice.voice: voice for voice in before.ringing}
    events: list[SoundEvent] = []
    for voice in after.ringing:
        old = known.get(voice.voice)
        if old is None or voice.string is None or after.string(voice.string).broken:
            continue  # what has just been struck has its frequencies already
        if old == voice and voice.string not in moved:
            continue
        series = voice_series(after, voice)
        events.append(Retune(voice.voice, series.fundamental_hz, series.stiffness, glide_s))
    return tuple(events)


def _at_rest(before: State, after: State) -> bool:
    return (
        before.strings == after.strings
        and before.give_m == after.give_m
        and before.swell_m == after.swell_m
    )


def snapped(before: State, after: State) -> tuple[State, Sounds]:
    """Return the state without the voices of strings that broke, and the sound of that."""
    if len(before.snaps) == len(after.snaps):
        return after, ()
    gone = {snap_.string for snap_ in after.snaps[len(before.snaps) :]}
    events: list[SoundEvent] = [
        Release(voice.voice, SNAP_FADE_S) for voice in after.ringing if voice.string in gone
    ]
    events.append(Start(after.next_voice, snap()))
    kept = tuple(voice for voice in after.ringing if voice.string not in gone)
    return changed(after, ringing=kept, next_voice=after.next_voice + 1), tuple(events)


def silenced(state: State, *, keep: tuple[int | None, ...] = ()) -> tuple[State, Sounds]:
    """Return the state with nothing sounding but what is kept, and the events of the rest."""
    gone = [voice for voice in state.ringing if not keep or voice.string not in (None, *keep)]
    events = tuple(Release(voice.voice, DAMP_FADE_S) for voice in gone)
    kept = tuple(voice for voice in state.ringing if voice not in gone)
    return changed(state, ringing=kept), events
