"""Names and frets: from one note to another by counting, and the frets where they lie."""

import random
from typing import Final

from meldrin.core.drills.drill import (
    Answer,
    Example,
    Playback,
    Question,
    QuestionDrill,
    Stretch,
    TrialSettings,
)
from meldrin.core.drills.notes import Course, courses, note, sounding
from meldrin.core.pitch import class_name, equal_tempered_hz, note_name

MOST_AWAY: Final = {1: 2, 2: 4, 3: 6}  # semitones between what is shown and what is wanted
EACH_S: Final = 0.5
BLACK: Final = (1, 3, 6, 8, 10)


def _counted(asked: TrialSettings, chosen: Course, midis: list[int]) -> Playback:
    """The notes that are counted, one after the other."""
    made, number = asked.instrument, chosen.string.number
    notes = [
        (
            note(made, number, hz=equal_tempered_hz(midi, a4_hz=440.0)),
            at * EACH_S,
            (at + 1) * EACH_S,
        )
        for at, midi in enumerate(midis)
    ]
    parts = tuple(
        Stretch(class_name(midi, naming=asked.naming), at * EACH_S, (at + 1) * EACH_S)
        for at, midi in enumerate(midis)
    )
    return Playback(sounding(*notes), parts)


def _steps(begin: int, end: int) -> list[int]:
    way = 1 if end >= begin else -1
    return list(range(begin, end + way, way))


def _semitones(count: int) -> str:
    return f"{count} {'semitone' if count == 1 else 'semitones'}"


def _moved(semitones: int) -> str:
    return f"{'Up' if semitones > 0 else 'Down'} {_semitones(abs(semitones))}"


def _tuner(asked: TrialSettings, draw: random.Random) -> Question:
    """The tuner shows one note, the string should be another."""
    chosen = draw.choice(courses(asked))
    most = MOST_AWAY[asked.level]
    move = draw.choice([n for n in range(-most, most + 1) if n])
    shown, wanted = chosen.midi - move, chosen.midi
    flats = asked.level > 1 and draw.random() < 0.5
    # both ways of two sizes, so that the list itself points at none
    other = draw.choice([n for n in (abs(move) - 1, abs(move) + 1) if n])
    offered = sorted({move, -move, other, -other})
    names = [class_name(one, naming=asked.naming, flats=flats) for one in _steps(shown, wanted)]
    shows, be = (note_name(one, naming=asked.naming, flats=flats) for one in (shown, wanted))
    return Question(
        question=f"The tuner shows {shows}. The string should be {be}. How far, and which way?",
        answers=tuple(Answer(f"move{one:+d}", _moved(one)) for one in offered),
        right=offered.index(move),
        says=f"{_moved(move)}: {', '.join(names)}.",
        tells="Count note by note, and begin after the first.",
        afterwards=_counted(asked, chosen, _steps(shown, wanted)),
        order="upwards",
    )


def _fret(asked: TrialSettings, draw: random.Random) -> Question:
    """Where a note lies on a string: that of the next open string, or later any."""
    strings = courses(asked)
    at = draw.randrange(1, len(strings)) if len(strings) > 1 else 0
    low, high = strings[at], strings[max(0, at - 1)]
    if low.midi > high.midi:
        low, high = high, low
    away = high.midi - low.midi
    name = high.label
    if asked.level > 1 or not 0 < away <= 12:
        away = draw.randint(1, 7 if asked.level < 3 else 11)
        name = class_name(low.midi + away, naming=asked.naming, flats=draw.random() < 0.5)
    elif len(strings) > 1:
        name = f"the note of the open {high.label} string"
    nut = low.string.nut_fret
    offered = sorted({away, *draw.sample([n for n in range(1, 13) if 0 < abs(n - away) < 4], 3)})
    names = [class_name(one, naming=asked.naming) for one in _steps(low.midi, low.midi + away)]
    frets = asked.instrument.fretting != "none"
    return Question(
        question=f"On which fret of the {low.label} string does {name} lie?"
        if frets
        else f"How many semitones above the open {low.label} string is {name}?",
        answers=tuple(
            Answer(f"fret-{one}", f"Fret {one + nut}" if frets else _semitones(one))
            for one in offered
        ),
        right=offered.index(away),
        says=f"{f'Fret {away + nut}' if frets else _semitones(away)}: {', '.join(names)}.",
        tells="Count one note for each fret." if frets else "Count one note for each semitone.",
        afterwards=_counted(asked, low, _steps(low.midi, low.midi + away)),
        order="upwards",
    )


def _same(asked: TrialSettings, draw: random.Random) -> Question:
    """One note with two names, as a tuner has it."""
    black = draw.choice(BLACK)
    as_flat = draw.random() < 0.5

    def said(midi: int, *, flat: bool) -> str:
        return class_name(midi % 12, naming=asked.naming, flats=flat)

    shown = said(black, flat=as_flat)
    others = [one for one in BLACK if one != black]
    offered = sorted([black, *draw.sample(others, 3)])
    other = said(black, flat=not as_flat)
    way = "above" if as_flat else "below"
    near = said(black - 1, flat=False) if as_flat else said(black + 1, flat=False)
    return Question(
        question=f"On a tuner, which other name has {shown}?",
        answers=tuple(Answer(f"key-{one}", said(one, flat=not as_flat)) for one in offered),
        right=offered.index(black),
        says=f"On a tuner {shown} and {other} are one note.",
        tells=f"It lies one semitone {way} {near}.",
        afterwards=_counted(asked, courses(asked)[0], [_near(courses(asked)[0], black)]),
    )


def _near(chosen: Course, note_class: int) -> int:
    """Return the note of this class that lies nearest above a string."""
    return chosen.midi + (note_class - chosen.midi) % 12


KINDS: Final = (_tuner, _fret, _tuner, _same)


def _posed(asked: TrialSettings, draw: random.Random) -> Question:
    return KINDS[asked.number % len(KINDS)](asked, draw)


def _examples(asked: TrialSettings) -> tuple[Example, ...]:
    """One counted of each kind."""
    draw = random.Random("examples")
    found = []
    for name, kind in (("How far", _tuner), ("On which fret", _fret), ("Two names", _same)):
        one = kind(asked, draw)
        found.append(Example(name, f"{one.question} {one.says}", heard=one.afterwards))
    return tuple(found)


NAMES: Final = QuestionDrill(
    id="names",
    name="Names and frets",
    about="Count from note to note",
    posed=_posed,
    examples=_examples,
    differ=True,
)
