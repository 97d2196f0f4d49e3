"""What begins to sound when strings are struck, bowed or touched, and what rings along."""

import math
from collections.abc import Iterable
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
from meldrin.core.changed import changed
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.sound.events import Release, Retune, SoundEvent, Start
from meldrin.core.sound.partials import (
    AUDIBLE,
    PartialTable,
    ringing_along,
    snap,
)
from meldrin.core.sound.references import reference
from meldrin.core.sound.stroke import stroke
from meldrin.core.sound.together import as_loud, balanced, matched_at_s
from meldrin.core.strings import String, cents_per_strain, tension_at_strain

Sounds = tuple[SoundEvent, ...]

STRUM_S: Final = 0.03
REPLUCK_FADE_S: Final = 0.012
DAMP_FADE_S: Final = 0.035
SNAP_FADE_S: Final = 0.008
ALONG_TRANSFER: Final = 0.12  # the share of a partial that passes over the bridge
ALONG_PARTIALS: Final = 12
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
    if not action.by_prongs:
        made = _held(state, made)
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
    return _sunk(state, sources), tuple(events)


def _sunk(state: State, played: set[int | None]) -> State:
    """Return the state after a stroke: the string of a peg that slips is lower. What
    rings is not moved by it, the next stroke is.
    """
    fault = state.rig.fault
    if fault is None or fault.kind != "slip" or fault.string not in played:
        return state
    string, now = state.rig.strings[fault.string - 1], state.string(fault.string)
    strain = state.strain(fault.string)
    if strain <= 0.0:
        return state
    lower = strain - fault.size / cents_per_strain(string, strain)
    material_m = state.path_m(fault.string) / (1.0 + max(lower, 0.0))
    return state.with_string(fault.string, changed(now, material_m=material_m))


def _paired(state: State) -> tuple[int | None, ...]:
    stage = state.current()
    return () if stage is None else (stage.own.string, stage.other.string)


def _reference(state: State, action: Play, voice: int) -> tuple[Ringing, PartialTable]:
    hz = reference_hz(state)
    table = reference(state.rig.source, hz=hz, held_wrong=action.by_prongs)
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


def _held(
    state: State, made: list[tuple[Ringing, PartialTable]]
) -> list[tuple[Ringing, PartialTable]]:
    """Return the two sides of a stage, where both are sounded, so loud that they beat: a reference
    as loud as its string, or of two strings the louder one more softly.
    """
    stage = state.current()
    if stage is None or stage.by_tuner or len(made) != 2:
        return made
    sides = {ringing.string: (ringing, table) for ringing, table in made}
    if set(sides) != {stage.own.string, stage.other.string}:
        return made
    (mine, own), (theirs, other) = sides[stage.own.string], sides[stage.other.string]
    at_s = matched_at_s(stage.seconds_to_hear)
    if theirs.string is None:
        place = reference_place(state, stage.other)
        other = as_loud(other, place, own, stage.own.partial, at_s=at_s)
    else:
        own, other = balanced(own, stage.own.partial, other, stage.other.partial, at_s=at_s)
    tables = {mine.voice: own, theirs.voice: other}
    return [
        (changed(ringing, audible_s=state.time_s + table.audible_s(AUDIBLE)), table)
        for ringing, table in ((one, tables[one.voice]) for one, _ in made)
    ]


def _string(
    state: State, number: int, action: Play, voice: int
) -> tuple[State, Ringing, PartialTable]:
    rig = state.rig
    string, now = rig.strings[number - 1], state.string(number)
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
    table = stroke(
        rig.instrument,
        number,
        series,
        by_bow=by_bow,
        pressed=pressed,
        touched_at=touched_share(string, now.fret) if touched else None,
        strength=action.strength,
        place=action.place,
        splits_cents=odd.splits_cents,
        glide_cents=glide,
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
    if before.frets_cents != after.frets_cents:
        moved |= {voice.string for voice in after.ringing if voice.string and voice.fret}
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
        and before.longer_m == after.longer_m
        and before.frets_cents is after.frets_cents
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
