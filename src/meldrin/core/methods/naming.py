"""What players call a string in words."""

from functools import lru_cache

from meldrin.core.catalogue import Instrument, Tuning
from meldrin.core.pitch import NOTE_CLASSES, note_name

ORDINALS = {1: "first", 2: "second", 3: "third", 4: "fourth"}


def string_label(instrument: Instrument, number: int, tuning: Tuning | None = None) -> str:
    """Return what players call the string: its letter, with high or low where two share one.

    Of two strings with the same letter the one with the higher pitch is the high one; of a course
    the strings are the first and the second; of four or more the octave is said.
    """
    instrument.string(number)
    return _labels(instrument, tuning or instrument.tuning())[number - 1]


@lru_cache(maxsize=256)
def _labels(instrument: Instrument, tuning: Tuning) -> tuple[str, ...]:
    return tuple(_label(instrument, tuning, string.number) for string in instrument.strings)


def _label(instrument: Instrument, tuning: Tuning, number: int) -> str:
    string = instrument.string(number)
    if string.label is not None:
        return string.label
    midi = tuning.midi(number)
    letter = NOTE_CLASSES[midi % 12]
    named = [one for one in instrument.strings if one.label is None]
    midis = [tuning.midi(one.number) for one in named]
    heights = sorted({other for other in midis if (other - midi) % 12 == 0})
    if len(heights) > 3:
        letter = note_name(midi)
    elif len(heights) > 1:
        place = heights.index(midi)
        word = "high" if place == len(heights) - 1 else "low" if place == 0 else "middle"
        letter = f"{word} {letter}"
    same = [one.number for one in named if tuning.midi(one.number) == midi]
    if len(same) == 1:
        return letter
    return f"{ORDINALS.get(same.index(number) + 1, str(number))} {letter}"


def a_note(note: str) -> str:
    """Return a note's name with its article."""
    return f"{'an' if note[0] in 'AEF' else 'a'} {note}"


def ordinal(number: int) -> str:
    """Return 2nd, 3rd, 4th …"""
    return f"{number}{ {1: 'st', 2: 'nd', 3: 'rd'}.get(number, 'th') }"
