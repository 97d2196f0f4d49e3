"""What players call a string in words."""

from functools import lru_cache

from meldrin.core.catalogue import Instrument, Tuning
from meldrin.core.pitch import Naming, class_name, note_name
from meldrin.core.strings import String

ORDINALS = {1: "first", 2: "second", 3: "third", 4: "fourth"}
HEIGHTS = (
    ("",),
    ("low ", "high "),
    ("low ", "middle ", "high "),
    ("lowest ", "low ", "high ", "highest "),
)


def string_label(
    instrument: Instrument,
    number: int,
    tuning: Tuning | None = None,
    *,
    naming: Naming = "letters",
) -> str:
    """Return what players call the string: its letter, or its degree over a tonic where strings
    ring in sympathy, with high or low where two share one.

    Of two strings with the same name the one with the higher pitch is the high one; of a course
    the strings are the first and the second; of five or more the octave is said.
    """
    instrument.string(number)
    return string_labels(instrument, tuning or instrument.tuning(), naming)[number - 1]


@lru_cache(maxsize=256)
def string_labels(instrument: Instrument, tuning: Tuning, naming: Naming) -> tuple[str, ...]:
    """Return what players call each string, string 1 first."""
    return tuple(_label(instrument, tuning, string, naming) for string in instrument.strings)


def _label(instrument: Instrument, tuning: Tuning, string: String, naming: Naming) -> str:
    """Return the name of a string among those of its kind: the sympathetic ones, or the others."""
    sympathetic = string.role == "sympathetic"
    named = [one for one in instrument.strings if (one.role == "sympathetic") == sympathetic]
    scale = any(one.role == "sympathetic" for one in instrument.strings)
    midi = tuning.midi(string.number)
    by = "sargam" if scale and tuning.tonic is not None else naming
    name = class_name(midi, naming=by, tonic=tuning.tonic)
    kind = "sympathetic " if sympathetic else ""
    midis = [tuning.midi(one.number) for one in named]
    heights = sorted({other for other in midis if (other - midi) % 12 == 0})
    if len(heights) > len(HEIGHTS):
        name, height = note_name(midi, naming=by), ""
    else:
        height = HEIGHTS[len(heights) - 1][heights.index(midi)]
    same = [one.number for one in named if tuning.midi(one.number) == midi]
    which = ""
    if len(same) > 1:
        place = same.index(string.number) + 1
        which = f"{ORDINALS.get(place, str(place))} "
    return f"{which}{height}{kind}{name}"


def a_note(note: str) -> str:
    """Return a note's name with its article."""
    return f"{'an' if note[0] in 'AEF' else 'a'} {note}"


def ordinal(number: int) -> str:
    """Return 2nd, 3rd, 4th …"""
    return f"{number}{ {1: 'st', 2: 'nd', 3: 'rd'}.get(number, 'th') }"
