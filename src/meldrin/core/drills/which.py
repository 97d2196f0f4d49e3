"""Strings and pegs: which string sounds, in which octave, and which peg turns it which way."""

import random
from typing import Final

from meldrin.core.drills.drill import (
    Answer,
    Example,
    MarkedPeg,
    Playback,
    Question,
    QuestionDrill,
    Stretch,
    TrialSettings,
)
from meldrin.core.drills.notes import Course, courses, note, sounding
from meldrin.core.pitch import equal_tempered_hz
from meldrin.core.sound.partials import PartialTable
from meldrin.core.sound.references import reference
from meldrin.core.strings import cents_per_degree, strain_sounding, tension_at_strain
from meldrin.core.units import ratio_of_cents
from meldrin.core.words import capital

EACH_S, REST_S = 1.5, 0.3
SECOND_S: Final = EACH_S + REST_S
TWO: Final = (Stretch("first", 0.0, EACH_S), Stretch("second", SECOND_S, SECOND_S + EACH_S + 0.1))
ROVES_CENTS: Final = {1: 0.0, 2: 25.0, 3: 50.0}  # how far a string is out that is to be named
LOW_BY_CENTS: Final = (10.0, 20.0, 50.0, 100.0)
LADDER: Final = 4.0  # from one size of a turn to the next
SIZES: Final = 4
LOWEST_PIPE_HZ: Final = 60.0  # below it nobody names an octave


def _after_one_another(first: PartialTable, second: PartialTable) -> Playback:
    return Playback(sounding((first, 0.0, EACH_S), (second, SECOND_S, SECOND_S + EACH_S)), TWO)


def _named(one: Course) -> str:
    return f"{one.written} · {one.label}"


def _by_ear(asked: TrialSettings, draw: random.Random) -> Question:
    """The first string, and one that is to be named by its distance from it."""
    strings = courses(asked)
    right = draw.randrange(len(strings))
    chosen = strings[right]
    out = draw.uniform(-1.0, 1.0) * ROVES_CENTS[asked.level]
    return Question(
        question=f"First you hear string {strings[0].written}, {strings[0].label}. Which string is"
        " the second one?",
        answers=tuple(Answer(_id(one), _named(one)) for one in strings),
        right=right,
        says=f"It was string {chosen.written}, {chosen.label}.",
        tells="Sing the first note, then go from string to string until you meet the second.",
        heard=_pair_of(asked, strings[0], chosen, cents=out),
    )


def _pair_of(
    asked: TrialSettings, first: Course, second: Course, *, cents: float = 0.0
) -> Playback:
    made = asked.instrument
    return _after_one_another(
        note(made, first.string.number, hz=first.hz),
        note(made, second.string.number, hz=second.hz * ratio_of_cents(cents)),
    )


def _id(one: Course) -> str:
    return f"string-{one.string.number}"


OCTAVES: Final = (
    Answer("low", "It is an octave low", "The string has the same name, but sounds deeper."),
    Answer("same", "It is in the same octave", "Both lie at the same height."),
    Answer("high", "It is an octave high", "The string has the same name, but sounds brighter."),
)


def _octave(asked: TrialSettings, draw: random.Random) -> Question:
    """A pipe, and the string: in one octave or not."""
    fits = [one for one in courses(asked) if one.hz >= LOWEST_PIPE_HZ]
    chosen = draw.choice(fits or courses(asked))
    away = draw.choice((-1, 0, 1))
    said = {-1: "an octave lower than", 0: "in the same octave as", 1: "an octave higher than"}
    return Question(
        question=f"The pipe gives the note of the {chosen.label} string. In which octave is the"
        " string?",
        answers=OCTAVES,
        right=1 + away,
        says=f"The string was {said[away]} the pipe.",
        tells=OCTAVES[1 + away].listen_for,
        heard=_pipe_and(asked, chosen, away),
        order="upwards",
    )


def _pipe_and(asked: TrialSettings, chosen: Course, away: int) -> Playback:
    """The string stays where it is, and the pipe is an octave off: no string is to snap."""
    pipe_hz = equal_tempered_hz(chosen.midi - 12 * away, a4_hz=440.0)
    return _after_one_another(
        reference("pipe", hz=pipe_hz),
        note(asked.instrument, chosen.string.number, hz=chosen.hz),
    )


def _peg(asked: TrialSettings, draw: random.Random) -> Question:
    strings = courses(asked)
    right = draw.randrange(len(strings))
    chosen = strings[right]
    return Question(
        question="Which string does the marked peg turn?",
        answers=tuple(Answer(_id(one), _named(one)) for one in strings),
        right=right,
        says=f"It turns string {chosen.written}, {chosen.label}.",
        tells="Follow the string from the peg to the nut, and count.",
        shown=MarkedPeg(chosen.string.number),
    )


WAYS: Final = (Answer("anticlockwise", "Anticlockwise"), Answer("clockwise", "Clockwise"))


def _way(asked: TrialSettings, draw: random.Random) -> Question:
    chosen = draw.choice(courses(asked))
    pegs = [one.string.peg for one in courses(asked)]
    peg = chosen.string.peg
    alike = all(one.tightens == peg.tightens for one in pegs)
    others = (
        "All pegs of this instrument turn the same way."
        if alike
        else "Pegs on the other side turn the other way."
        if all((one.side == peg.side) == (one.tightens == peg.tightens) for one in pegs)
        else "Each peg has its own way. Learn it from the card."
    )
    up = draw.random() < 0.5
    loosens = "clockwise" if peg.tightens == "anticlockwise" else "anticlockwise"
    way = peg.tightens if up else loosens
    does = "tighten" if up else "loosen"
    return Question(
        question=f"You look at the end of the marked knob. Which way do you turn it to {does}"
        f" the {chosen.label} string?",
        answers=WAYS,
        right=[one.id for one in WAYS].index(way),
        says=f"You {does} it {way}.",
        tells=others,
        shown=MarkedPeg(chosen.string.number),
    )


def _how_far(asked: TrialSettings, draw: random.Random) -> Question:
    """So many cents: how far is that at the knob?"""
    chosen, cents = draw.choice(courses(asked)), draw.choice(LOW_BY_CENTS)
    strain = strain_sounding(chosen.string, frequency_hz=chosen.hz, fret=0, number=1)
    tension_n = tension_at_strain(chosen.string, strain)
    degrees = cents / cents_per_degree(chosen.string, tension_n=tension_n)
    right = draw.randrange(SIZES)
    turns = [turn_said(degrees * LADDER ** (at - right)) for at in range(SIZES)]
    return Question(
        question=f"String {chosen.written}, {chosen.label}, is {cents:g} cents low. How far do you"
        " turn its peg?",
        answers=tuple(Answer(f"turn-{at}", capital(one)) for at, one in enumerate(turns)),
        right=right,
        says=f"{capital(turn_said(degrees))} is {cents:g} cents on this string.",
        tells="Each string has its own. Turn a little, then listen.",
        order="upwards",
    )


def turn_said(degrees: float) -> str:
    """Return a turn in words a hand understands.

    >>> turn_said(3.4), turn_said(95.0), turn_said(720.0), turn_said(0.6)
    ('about 3 degrees', 'about 1/4 of a turn', 'about 2 turns', 'about half a degree')
    """
    if degrees >= 330.0:
        turns = round(degrees / 360.0)
        return f"about {turns} {'turn' if turns == 1 else 'turns'}"
    if degrees >= 25.0:
        parts = min((12, 8, 6, 4, 3, 2), key=lambda n: abs(360.0 / n / degrees - 1.0))
        return "about half a turn" if parts == 2 else f"about 1/{parts} of a turn"
    if degrees >= 0.9:
        whole = round(degrees)
        return f"about {whole} {'degree' if whole == 1 else 'degrees'}"
    return "about half a degree" if degrees >= 0.3 else "next to nothing"


KINDS: Final = (_by_ear, _peg, _octave, _way, _by_ear, _how_far)


def _posed(asked: TrialSettings, draw: random.Random) -> Question:
    return KINDS[asked.number % len(KINDS)](asked, draw)


def _examples(asked: TrialSettings) -> tuple[Example, ...]:
    strings = courses(asked)
    first = strings[0]
    named = [
        Example(
            _named(one),
            f"String {one.written} after string {first.written}, {first.label}.",
            heard=_pair_of(asked, first, one),
            shown=MarkedPeg(one.string.number),
        )
        for one in strings
    ]
    chosen = next((one for one in strings if one.hz >= LOWEST_PIPE_HZ), strings[0])
    octaves = [
        Example(answer.words, answer.listen_for, heard=_pipe_and(asked, chosen, at - 1))
        for at, answer in enumerate(OCTAVES)
    ]
    return (*named, *octaves)


WHICH: Final = QuestionDrill(
    id="which",
    name="Strings and pegs",
    about="Right string, right octave, right peg",
    drawn="notes",
    posed=_posed,
    examples=_examples,
)
