"""Hertz, cents, note names and calibration. The reference pitch is always an argument."""

import re
from typing import Final, Literal

from meldrin.core.errors import Code, MeldrinError, within
from meldrin.core.units import cents_of_ratio, ratio_of_cents

LOWEST_HZ: Final = 8.0
HIGHEST_HZ: Final = 20_000.0
LOWEST_A4_HZ: Final = 390.0
HIGHEST_A4_HZ: Final = 470.0
CALIBRATIONS_HZ: Final = (415.0, 430.0, 432.0, 440.0, 442.0, 443.0)  # in common use
A4_MIDI: Final = 69

NOTE_CLASSES: Final = ("C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B")
FLAT_CLASSES: Final = ("C", "Db", "D", "Eb", "E", "F", "Gb", "G", "Ab", "A", "Bb", "B")
Naming = Literal["letters", "letters_h", "solfege", "sargam"]
SOLFEGE: Final = {
    "C": "Do", "D": "Re", "E": "Mi", "F": "Fa", "G": "Sol", "A": "La", "B": "Si",
}  # fmt: skip
# The degrees of a scale over its tonic; small letters are the lowered ones, Má the raised fourth.
SARGAM: Final = ("Sa", "re", "Re", "ga", "Ga", "Ma", "Má", "Pa", "dha", "Dha", "ni", "Ni")
_SUNG: Final = {name.lower(): letter for letter, name in SOLFEGE.items()} | {"ti": "B", "h": "B"}
_STEPS: Final = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}
_NOTE: Final = re.compile(
    r"([A-Ha-h]|do|re|mi|fa|sol|la|si|ti)([#b]{0,2})(-?\d{1,2})", re.IGNORECASE
)


def checked_hz(frequency_hz: float, *, name: str = "frequency") -> float:
    """Return the frequency if it lies in the range the program works in (8 Hz to 20 kHz).

    Raises:
        OutOfRange: outside of it, or not finite.
    """
    return within(frequency_hz, name=name, low=LOWEST_HZ, high=HIGHEST_HZ, unit="Hz")


def checked_a4_hz(a4_hz: float) -> float:
    """Return the calibration if it lies between 390 and 470 Hz.

    Raises:
        OutOfRange: outside of it, or not finite.
    """
    return within(a4_hz, name="A4", low=LOWEST_A4_HZ, high=HIGHEST_A4_HZ, unit="Hz")


def cents_between(frequency_hz: float, *, reference_hz: float) -> float:
    """Return how far `frequency_hz` lies above `reference_hz`, in cents (negative: below).

    1200 log2(f / reference), after Ellis (1885).

    >>> round(cents_between(660.0, reference_hz=440.0), 3)
    701.955
    """
    return cents_of_ratio(checked_hz(frequency_hz) / checked_hz(reference_hz, name="reference"))


def shifted_by_cents(frequency_hz: float, *, cents: float) -> float:
    """Return the frequency that lies `cents` above `frequency_hz`; the inverse of `cents_between`.

    >>> round(shifted_by_cents(440.0, cents=1200.0), 6)
    880.0
    """
    return frequency_hz * ratio_of_cents(cents)


def equal_tempered_hz(midi: int, *, a4_hz: float) -> float:
    """Return the equal-tempered frequency of a MIDI note number (69 is A4), in Hz.

    >>> round(equal_tempered_hz(40, a4_hz=440.0), 3)
    82.407
    """
    return float(checked_a4_hz(a4_hz) * 2.0 ** ((midi - A4_MIDI) / 12.0))


def class_name(
    midi: int, *, naming: Naming = "letters", tonic: int | None = None, flats: bool = False
) -> str:
    """Return the name of a note without its octave.

    Args:
        naming: by letters, letters with H, do-re-mi, or over a tonic by sargam; without one by
            letters.
        tonic: the pitch class of Sa, 0 (C) to 11, or None.
        flats: black keys as flats, where they have two names.

    >>> [class_name(71, naming=one, tonic=2) for one in ("letters_h", "solfege", "sargam")]
    ['H', 'Si', 'Dha']
    """
    if naming == "sargam" and tonic is not None:
        return SARGAM[(midi - tonic) % 12]
    name = (FLAT_CLASSES if flats else NOTE_CLASSES)[midi % 12]
    if naming == "letters_h":
        return {"B": "H", "Bb": "B"}.get(name, name)
    if naming == "solfege":
        return SOLFEGE[name[0]] + name[1:]
    return name


def note_name(
    midi: int, *, flats: bool = False, naming: Naming = "letters", tonic: int | None = None
) -> str:
    """Return the name with its octave in scientific pitch, black keys as sharps or as flats; by
    sargam, which counts no octaves, the degree alone.

    >>> note_name(55), note_name(58, flats=True), note_name(59, naming="letters_h")
    ('G3', 'Bb3', 'H3')
    """
    name = class_name(midi, naming=naming, tonic=tonic, flats=flats)
    return name if naming == "sargam" and tonic is not None else f"{name}{midi // 12 - 1}"


def parse_note(name: str) -> int:
    """Return the MIDI note number of a name such as ``F#3``, ``Bb2``, ``H3`` or ``Sol3``. B is the
    note a semitone below C, as everywhere here; who says H means the same.

    Raises:
        MeldrinError: code ``note_name``, when the text is not a note between C-1 and G9.
    """
    match = _NOTE.fullmatch(name.strip())
    if match is not None:
        letter, accidentals, octave = match.groups()
        shift = accidentals.count("#") - accidentals.lower().count("b")
        letter = _SUNG.get(letter.lower(), letter)
        midi = _STEPS[letter.upper()] + shift + 12 * (int(octave) + 1)
        if 0 <= midi <= 127:
            return midi
    raise MeldrinError(
        Code.NOTE_NAME,
        f"“{name}” is not a note; write a letter, # or b if needed, and the octave, such as F#3.",
        value=name,
    )
