"""Music on the strings as they were and as they are now: what tuning is for.

A chord of the instrument, or two open strings, or the scale over its drone; and a short tune on the
open strings, one of our own for each instrument.
"""

import tomllib
from dataclasses import dataclass, replace
from functools import lru_cache
from importlib.resources import files
from typing import Final, Literal

from meldrin.core.bench.actions import Play
from meldrin.core.bench.state import State
from meldrin.core.bench.voices import begun
from meldrin.core.catalogue import Instrument
from meldrin.core.catalogue.chord import Chord
from meldrin.core.changed import changed
from meldrin.core.sound.events import Release, SoundEvent, Start

BEAT_S: Final = {"plucked": 0.42, "bowed": 0.62}
LAST_S: Final = 2.2  # the last note, and a chord, ring so long
FADE_S: Final = 0.06
STRENGTH: Final = 0.6
MOST_IN_SCALE: Final = 8
FIRST_VOICE: Final = 1_000_000  # far above the voices of any attempt

PieceId = Literal["chord", "tune"]


@dataclass(frozen=True, slots=True)
class Piece:
    """Something to hear before and after: its name, its sounds from the first moment on, and how
    long it lasts.
    """

    id: PieceId
    name: str
    was: tuple[SoundEvent, ...]
    now: tuple[SoundEvent, ...]
    lasts_s: float


@dataclass(frozen=True, slots=True)
class _Note:
    """Strings that sound together: (number, fret) each, from when on, and for how long."""

    strings: tuple[tuple[int, int], ...]
    at_s: float
    lasts_s: float
    reference: bool = False


def pieces(was: State, now: State) -> tuple[Piece, ...]:
    """Return what there is to hear of an instrument as it was and as it is now."""
    name, chord = _chord(now)
    made: list[tuple[PieceId, str, tuple[_Note, ...]]] = [
        ("chord", name, chord),
        ("tune", "The tune", tune_of(now.rig.instrument)),
    ]
    return tuple(
        Piece(
            piece_id,
            name,
            was=_played(was, notes),
            now=_played(now, notes),
            lasts_s=max(one.at_s + one.lasts_s for one in notes),
        )
        for piece_id, name, notes in made
        if notes
    )


def _chord(state: State) -> tuple[str, tuple[_Note, ...]]:
    """Return the chord that shows most of what was tuned: the one with most of its strings open."""
    made, plan = state.rig.instrument, state.rig.plan
    chords = made.chords_in(plan.tuning)
    tuned = {step.string for step in plan.steps}
    if any(one.drone for one in chords):
        lasts_s = 2.0 * BEAT_S["plucked"]
        scale = [one for one in chords if one.drone][:MOST_IN_SCALE]
        notes = tuple(
            _Note(one.notes, place * lasts_s, lasts_s, place == 0)
            for place, one in enumerate(scale)
        )
        return "The scale over the drone", notes
    if not chords:
        return "", ()
    best = max(chords, key=lambda one: (_open_of(one, tuned), len(one.notes)))
    name = best.name if " " in best.name else f"The chord of {best.name}"
    return name, (_Note(best.notes, 0.0, LAST_S),)


def _open_of(chord: Chord, tuned: set[int]) -> int:
    return sum(fret == 0 and number in tuned for number, fret in chord.notes)


def tune_of(made: Instrument) -> tuple[_Note, ...]:
    """Return the tune of an instrument, by its courses; for one that has none of its own, up and
    down its strings.
    """
    by_course: dict[int, tuple[tuple[int, int], ...]] = {}
    for string in made.strings:
        if string.role != "sympathetic":
            before = by_course.get(string.course, ())
            by_course[string.course] = (*before, (string.number, 0))
    said = [one.partition(":") for one in _tunes().get(made.id, "").split()]
    if not said or any(int(course) not in by_course for course, _, _ in said):
        up = sorted(by_course, reverse=True)
        said = [(str(course), "", "") for course in (*up, *up[-2::-1])]
    beat_s, at_s, notes = BEAT_S[made.kind], 0.0, list[_Note]()
    for course, _, beats in said:
        lasts_s = beat_s * float(beats or 1.0)
        notes.append(_Note(by_course[int(course)], at_s, lasts_s))
        at_s += lasts_s
    return (*notes[:-1], replace(notes[-1], lasts_s=LAST_S))


@lru_cache(maxsize=1)
def _tunes() -> dict[str, str]:
    text = files("meldrin.core.bench").joinpath("tunes.toml").read_text(encoding="utf-8")
    found: dict[str, str] = tomllib.loads(text)
    return found


def _played(state: State, notes: tuple[_Note, ...]) -> tuple[SoundEvent, ...]:
    """Return the sounds of notes on the strings as they stand; slack and broken ones are silent."""
    found: list[SoundEvent] = []
    voice = FIRST_VOICE
    for note in notes:
        sounding = [
            (number, fret)
            for number, fret in note.strings
            if not state.string(number).broken and state.strain(number) > 0.0
        ]
        if not sounding:
            continue
        ready = changed(state, ringing=(), pitches=(), muted=True, next_voice=voice)
        for number, fret in sounding:
            now = changed(ready.string(number), fret=float(fret), touched=False, hard=False)
            ready = ready.with_string(number, now)
        numbers = tuple(number for number, _ in sounding)
        reference = note.reference and state.rig.plan.reference.kind == "drone"
        ready, events = begun(ready, Play(numbers, reference=reference, strength=STRENGTH))
        for one in events:
            if not isinstance(one, Start):
                continue
            at_s = note.at_s + one.delay_s
            found.append(Start(one.voice, one.table, delay_s=at_s))
            lasts_s = note.lasts_s
            if reference and one.voice == voice:  # the drone goes on to the end
                lasts_s = notes[-1].at_s + notes[-1].lasts_s
            found.append(Release(one.voice, FADE_S, delay_s=note.at_s + lasts_s))
        voice = ready.next_voice
    return tuple(found)
