"""Chords: where the hand presses, and which strings are played."""

import re
from dataclasses import dataclass, replace
from typing import Final

from meldrin.core.catalogue.tuning import Tuning
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.pitch import Naming, class_name, note_name, parse_note
from meldrin.core.strings import String

MOST_CHORDS: Final = 40
MOST_NAME: Final = 24
SILENT: Final = "x"
_ROOT: Final = re.compile(r"\b([A-G][#b]?)((?:m|7)*)(?![a-z])")


@dataclass(frozen=True, slots=True)
class Chord:
    """A shape of the hand, or strings that are played open together.

    name: what players call it.
    tuning: the id of the tuning it belongs to.
    frets: where each string is pressed, string 1 first; 0 open, None where it is not played.
    drone: whether the drone sounds with it.
    """

    name: str
    tuning: str
    frets: tuple[int | None, ...]
    drone: bool = False

    @property
    def notes(self) -> tuple[tuple[int, int], ...]:
        """The strings that are played, by number, and the fret of each."""
        return tuple(
            (number, fret) for number, fret in enumerate(self.frets, start=1) if fret is not None
        )

    def fret_of(self, number: int) -> int:
        """Return where a string is pressed; 0 where it is open or not played."""
        return self.frets[number - 1] or 0


def chord_of(
    strings: tuple[String, ...],
    frets: str,
    *,
    name: str,
    tuning: str,
    most: int,
    drone: bool = False,
) -> Chord:
    """Return the chord that a line of frets says, read from the last string to the first, as notes
    are; one for each string, or one for each course; x where it is not played.

    Raises:
        MeldrinError: code ``catalogue``, for another count, a fret a string does not have, a name
            that is too long, or no string at all.
    """
    if not 0 < len(name) <= MOST_NAME:
        raise MeldrinError(Code.CATALOGUE, f"A chord needs a name of 1 to {MOST_NAME} characters.")
    words = frets.split()
    courses = sorted({string.course for string in strings}, reverse=True)
    by_course = dict(zip(courses, words, strict=False))
    if len(words) == len(strings):
        said = list(reversed(words))
    elif len(words) == len(courses):
        said = [by_course[string.course] for string in strings]
    else:
        raise MeldrinError(
            Code.CATALOGUE,
            f"chord “{name}” has {len(words)} frets; it needs {len(strings)}, one a string",
        )
    pressed = tuple(
        _fret(string, word, name=name, most=most)
        for string, word in zip(strings, said, strict=True)
    )
    if all(fret is None for fret in pressed):
        raise MeldrinError(Code.CATALOGUE, f"chord “{name}” plays no string")
    return Chord(name, tuning, pressed, drone)


def _fret(string: String, word: str, *, name: str, most: int) -> int | None:
    if word == SILENT:
        return None
    if not word.isdecimal() or not (word == "0" or string.nut_fret < int(word) <= most):
        raise MeldrinError(
            Code.CATALOGUE,
            f"chord “{name}”: string {string.number} has no fret “{word}”; write 0 for open, x for"
            " not played",
        )
    return int(word)


def chords_in(
    chords: tuple[Chord, ...], tunings: tuple[Tuning, ...], tuning: Tuning
) -> tuple[Chord, ...]:
    """Return the chords that can be played in a tuning: its own, or those of a tuning which all its
    strings lie equally far above or below; these have the names of what then sounds.
    """
    own = tuple(one for one in chords if one.tuning == tuning.id)
    if own:
        return own
    for other in tunings:
        moved = {mine - theirs for mine, theirs in zip(tuning.midis, other.midis, strict=True)}
        found = tuple(one for one in chords if one.tuning == other.id)
        if found and len(moved) == 1:
            by = moved.pop()
            return tuple(replace(one, name=_moved(one.name, by), tuning=tuning.id) for one in found)
    return ()


def chord_words(name: str, *, naming: Naming) -> str:
    """Return what a chord is called where notes are named so.

    >>> chord_words("Bm", naming="letters_h"), chord_words("G and its octave", naming="solfege")
    ('Hm', 'Sol and its octave')
    """
    return _ROOT.sub(
        lambda found: class_name(parse_note(f"{found[1]}4"), naming=naming) + found[2], name
    )


def _moved(name: str, semitones: int) -> str:
    """Return a name with every note in it raised by some semitones."""

    def higher(found: re.Match[str]) -> str:
        midi = parse_note(f"{found[1]}4") + semitones
        return note_name(midi).rstrip("0123456789") + found[2]

    return _ROOT.sub(higher, name)
