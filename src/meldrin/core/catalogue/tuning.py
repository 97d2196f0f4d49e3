"""Tunings: which note each open string is brought to, and whether the strings can bear it."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from meldrin.core.errors import Code, MeldrinError
from meldrin.core.pitch import NOTE_CLASSES, equal_tempered_hz, note_name, parse_note
from meldrin.core.strings import (
    WARNING_SHARE,
    String,
    breaking_share,
    design_tension_n,
    strain_at_frequency,
    tension_at_strain,
)

SLACKEST_SHARE: Final = 0.25  # of the designed tension, an octave down: below it a string flaps


@dataclass(frozen=True, slots=True)
class Tuning:
    """`midis[n - 1]` is the note of string n; `tonic` the pitch class (0 is C) it is built on."""

    id: str
    name: str
    midis: tuple[int, ...]
    tonic: int | None
    about: str

    def midi(self, number: int) -> int:
        """Return the MIDI note number string `number` is tuned to."""
        return self.midis[number - 1]

    @property
    def notes(self) -> str:
        """The notes as players read them, from the last string to the first."""
        return " ".join(note_name(midi) for midi in reversed(self.midis))


@dataclass(frozen=True, slots=True)
class Load:
    """What one string carries at its note: newtons, and the share of its breaking load."""

    number: int
    tension_n: float
    breaking_share: float
    design_share: float

    @property
    def too_tight(self) -> bool:
        """Whether the string is past what a straight new one should carry."""
        return self.breaking_share > WARNING_SHARE

    @property
    def too_slack(self) -> bool:
        """Whether the string flaps rather than sounds."""
        return self.design_share < SLACKEST_SHARE


def tuning_of_notes(
    strings: Sequence[String],
    notes: str,
    *,
    tuning_id: str = "custom",
    name: str = "Your own",
    tonic: str | None = None,
    about: str = "",
) -> Tuning:
    """Return the tuning that a line of notes says, read from the last string to the first.

    One note for each string, or one for each course.

    Raises:
        MeldrinError: code ``tuning`` for another count; ``note_name`` for what is not a note.
    """
    words = notes.replace(",", " ").split()
    courses = sorted({string.course for string in strings}, reverse=True)
    if len(words) == len(strings):
        midis = tuple(parse_note(word) for word in reversed(words))
    elif len(words) == len(courses):
        by_course = {course: parse_note(word) for course, word in zip(courses, words, strict=True)}
        midis = tuple(by_course[string.course] for string in strings)
    else:
        counts = f"{len(strings)} notes"
        if len(courses) != len(strings):
            counts += f", or {len(courses)}, one a course"
        raise MeldrinError(
            Code.TUNING, f"“{notes}” has {len(words)} notes; this instrument needs {counts}."
        )
    for course in courses:
        notes_of = {
            midi for midi, string in zip(midis, strings, strict=True) if string.course == course
        }
        if len({midi % 12 for midi in notes_of}) > 1:
            raise MeldrinError(
                Code.TUNING,
                f"“{notes}”: the strings of course {course} sound as one; give them one note, or"
                " octaves of it.",
            )
    return Tuning(
        id=tuning_id,
        name=name,
        midis=midis,
        tonic=None if tonic is None else tonic_of(tonic),
        about=about,
    )


def tonic_of(name: str) -> int:
    """Return the pitch class (0 is C) of a name such as ``C#`` or ``Bb``.

    Raises:
        MeldrinError: code ``note_name``, for what is not a note.
    """
    try:
        return parse_note(f"{name.strip()}4") % 12
    except MeldrinError:
        raise MeldrinError(
            Code.NOTE_NAME, f"“{name}” is not a tonic; write a letter, and # or b if needed: D, F#."
        ) from None


def tonic_name(tonic: int) -> str:
    """Return the name of a pitch class, black keys as sharps."""
    return NOTE_CLASSES[tonic % 12]


def load_at(string: String, frequency_hz: float) -> Load:
    """Return what a string carries when its fundamental is at `frequency_hz`.

    Raises:
        MeldrinError: code ``unreachable``, where no tension gives that.
    """
    tension_n = tension_at_strain(string, strain_at_frequency(string, frequency_hz))
    return Load(
        number=string.number,
        tension_n=tension_n,
        breaking_share=breaking_share(string, tension_n=tension_n),
        design_share=tension_n / design_tension_n(string),
    )


def check_tuning(strings: Sequence[String], tuning: Tuning, *, a4_hz: float) -> tuple[Load, ...]:
    """Return what every string carries in a tuning, if none is too tight or too slack.

    Raises:
        OutOfRange: for a calibration outside 390 to 470 Hz.
        MeldrinError: code ``unsafe_tuning``; the message names the strings and their load.
    """
    loads, wrong = [], []
    for string in strings:
        midi = tuning.midi(string.number)
        named = f"string {string.label or string.number} at {note_name(midi)}"
        hz = equal_tempered_hz(midi, a4_hz=a4_hz)
        try:
            load = load_at(string, hz)
        except MeldrinError:
            wrong.append(f"{named} is out of its reach")
            continue
        loads.append(load)
        if load.too_tight:
            wrong.append(f"{named} would be at {load.breaking_share:.0%} of its breaking load")
        elif load.too_slack:
            wrong.append(f"{named} would hang at {load.design_share:.0%} of its usual tension")
    if wrong:
        raise MeldrinError(
            Code.UNSAFE_TUNING,
            f"These strings are not made for it: {'; '.join(wrong)}."
            f" The most is {WARNING_SHARE:.0%} of the breaking load, the least"
            f" {SLACKEST_SHARE:.0%} of the usual tension; choose nearer notes or other strings.",
        )
    return tuple(loads)
