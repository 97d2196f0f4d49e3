"""Read the tuner: what it shows as a string sounds, and what is to be done."""

import random
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from meldrin.core.catalogue import instruments
from meldrin.core.drills.drill import (
    Answer,
    Example,
    Playback,
    Question,
    QuestionDrill,
    Sounding,
    Stretch,
    TrialSettings,
    TunerShown,
)
from meldrin.core.drills.notes import FADE_S, FADES, Course, courses, note
from meldrin.core.hearing import reading, tracked
from meldrin.core.hearing.tuner import Mode
from meldrin.core.pitch import note_name
from meldrin.core.sound.events import Release, Retune, SoundEvent, Start
from meldrin.core.sound.partials import PartialTable
from meldrin.core.sound.render import render
from meldrin.core.units import ratio_of_cents

GROUP_A4_HZ: Final = 440.0
RATE: Final = 16_000
WINDOW_S, EVERY_S, FIRST_S, LAST_S = 0.25, 0.25, 0.3, 3.1
OUT_CENTS: Final = {1: (15.0, 35.0), 2: (8.0, 20.0), 3: (5.0, 12.0)}
SHARP_CENTS: Final = {1: (30.0, 45.0), 2: (20.0, 35.0), 3: (15.0, 25.0)}
FALLS_S: Final = 0.6
END_S: Final = 3.2
WRONG_A4_HZ: Final = {1: (430.0, 432.0), 2: (432.0, 443.0), 3: (442.0, 443.0)}
NEIGHBOUR_S: Final = (0.9, 1.9)  # from when until when a neighbour rings, where one does
NEIGHBOUR: Final = 3.0  # times as loud, so that the tuner shows it
ANSWERS: Final = (
    Answer("low", "Tighten the string", "It stays below the note."),
    Answer("high", "Loosen the string", "It stays above the note."),
    Answer("wait", "Wait, then read again", "It begins high and falls to the note as it rings."),
    Answer("mute", "Mute the other strings", "It jumps from one string’s note to another’s."),
    Answer("set", "Set the tuner’s A", "The A on the tuner is not the group’s."),
    Answer("mode", "Change the tuner’s mode", "It names notes as for another instrument."),
)
SAYS: Final = {
    "low": "The string was low.",
    "high": "The string was high.",
    "wait": "It was the first moment of a stroke. Then it came down to the note.",
    "mute": "Another string rang along, and the tuner heard that.",
    "set": "The string was right. The tuner was set to another A.",
    "mode": "The string was right. The tuner was in the wrong mode.",
}


@dataclass(frozen=True, slots=True)
class _Set:
    """How the tuner is set: its A, and its mode in the tuner’s words and in the learner’s."""

    a4_hz: float = GROUP_A4_HZ
    mode: Mode = "chromatic"
    words: str = "all notes"
    strings_midi: tuple[int, ...] = ()


def _frames(
    events: Sequence[tuple[float, SoundEvent]], set_to: _Set, *, asked: TrialSettings
) -> tuple[tuple[float, str, float], ...]:
    """Return what the tuner shows of a sound, four times a second, as it does at the bench."""
    frames = []
    for look in range(round((LAST_S - FIRST_S) / EVERY_S) + 1):
        at_s = FIRST_S + look * EVERY_S
        samples = render(
            events, duration_s=WINDOW_S, sample_rate=RATE, begin_s=max(0.0, at_s - WINDOW_S)
        )
        found = tracked(samples, sample_rate=RATE)
        if found is None:
            frames.append((at_s, "", 0.0))
            continue
        shown = reading(
            found.hz, a4_hz=set_to.a4_hz, mode=set_to.mode, strings_midi=set_to.strings_midi
        )
        frames.append((at_s, note_name(shown.midi, naming=asked.naming), shown.cents))
    return tuple(frames)


def _scene(
    asked: TrialSettings, chosen: Course, cause: str, draw: random.Random
) -> tuple[Playback, TunerShown]:
    """Return a string as it sounds, and what the tuner shows of it."""
    made, number = asked.instrument, chosen.string.number
    low, high = OUT_CENTS[asked.level]
    out = {"low": -1.0, "high": 1.0}.get(cause, 0.0) * draw.uniform(low, high)
    table = note(made, number, hz=chosen.hz * ratio_of_cents(out))
    events: list[tuple[float, SoundEvent]] = [(0.0, Start(0, table))]
    set_to = _Set()
    if cause == "wait":
        sharp = ratio_of_cents(draw.uniform(*SHARP_CENTS[asked.level]))
        hard = note(made, number, hz=chosen.hz * sharp)
        settled = Retune(0, table.fundamental_hz, table.stiffness, 3.0 * FALLS_S)
        events = [(0.0, Start(0, hard)), (0.1, settled)]
    elif cause == "set":
        set_to = _Set(a4_hz=draw.choice(WRONG_A4_HZ[asked.level]))
    elif cause == "mode":
        set_to = _wrong_mode(chosen, draw)
    if cause == "mute":
        events, frames = _with_neighbour(asked, chosen, table)
    else:
        frames = _frames(events, set_to, asked=asked)
    voices = [event.voice for _, event in events if isinstance(event, Start)]
    ends = [(END_S - FADES * FADE_S, Release(voice, FADE_S)) for voice in voices]
    parts = (Stretch("string", 0.0, END_S + 0.1),)
    heard = Playback(Sounding((*events, *ends)), parts, cuts_s=NEIGHBOUR_S)
    return heard, TunerShown(set_to.a4_hz, set_to.words, frames)


def _with_neighbour(
    asked: TrialSettings, chosen: Course, table: PartialTable
) -> tuple[list[tuple[float, SoundEvent]], tuple[tuple[float, str, float], ...]]:
    """Return the string with another one that rings along for a while, one that the tuner takes
    for it: a lower one most easily.
    """
    others = [one for one in courses(asked) if one.midi != chosen.midi]
    events: list[tuple[float, SoundEvent]] = [(0.0, Start(0, table))]
    frames: tuple[tuple[float, str, float], ...] = ()
    away = {one.midi: abs(one.midi - chosen.midi) for one in others}
    for other in sorted(others, key=lambda one: (one.midi > chosen.midi, away[one.midi])):
        loud = note(asked.instrument, other.string.number, hz=other.hz).times(NEIGHBOUR)
        events = [
            (0.0, Start(0, table)),
            (NEIGHBOUR_S[0], Start(1, loud)),
            (NEIGHBOUR_S[1], Release(1, FADE_S)),
            (NEIGHBOUR_S[1], Start(2, table)),
        ]
        frames = _frames(events, _Set(), asked=asked)
        if len({name for _, name, _ in frames if name}) > 1:
            break
    return events, frames


def _wrong_mode(chosen: Course, draw: random.Random) -> _Set:
    """Return a mode that shows another note: a semitone off, or that of another instrument."""
    strangers = [
        one
        for one in instruments()
        if chosen.midi not in one.tuning().midis and len(one.strings) < 7
    ]
    if not strangers or draw.random() < 0.5:
        return _Set(mode="lowered", words="strings a semitone lower")
    other = draw.choice(strangers)
    return _Set(mode="instrument", words=other.short_name, strings_midi=other.tuning().midis)


def _posed(asked: TrialSettings, draw: random.Random) -> Question:
    chosen = draw.choice(courses(asked))
    right = draw.randrange(len(ANSWERS))
    cause = ANSWERS[right].id
    wanted = note_name(chosen.midi, naming=asked.naming)
    heard, shown = _scene(asked, chosen, cause, draw)
    return Question(
        question=f"This string should be {wanted}, and the group has A at {GROUP_A4_HZ:g} Hz."
        " What do you do first?",
        answers=ANSWERS,
        right=right,
        says=SAYS[cause],
        tells=ANSWERS[right].listen_for,
        heard=heard,
        shown=shown,
    )


def _examples(asked: TrialSettings) -> tuple[Example, ...]:
    draw = random.Random("examples")
    found = []
    for answer in ANSWERS:
        heard, shown = _scene(asked, courses(asked)[0], answer.id, draw)
        found.append(Example(answer.words, answer.listen_for, heard, shown))
    return tuple(found)


READINGS: Final = QuestionDrill(
    id="readings",
    name="Read the tuner",
    about="What is the matter, and what to do",
    posed=_posed,
    examples=_examples,
)
