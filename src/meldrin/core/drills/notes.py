"""The notes of drills: a string of the learner’s own instrument, at a pitch near its own."""

import random
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from meldrin.core.catalogue import Instrument
from meldrin.core.drills.drill import Sounding, TrialSettings
from meldrin.core.methods.naming import string_label
from meldrin.core.pitch import equal_tempered_hz
from meldrin.core.sound.events import Release, SoundEvent, Start
from meldrin.core.sound.partials import PartialTable, string_series
from meldrin.core.sound.stroke import stroke
from meldrin.core.strings import String, stopped_cents, strain_sounding
from meldrin.core.units import ratio_of_cents

FADE_S: Final = 0.03  # under a finger, so that nothing clicks
FADES: Final = 3  # a note is let go that many time constants before its end
ROVES_CENTS: Final = 50.0  # from trial to trial, so that no pitch can be learned by heart


def roved(hz: float, draw: random.Random) -> float:
    """Return a pitch a little beside, another for every trial."""
    return hz * ratio_of_cents(draw.uniform(-ROVES_CENTS, ROVES_CENTS))


def note(
    made: Instrument,
    number: int,
    *,
    hz: float,
    fret: int = 0,
    plucked: bool = False,
    splits_cents: Sequence[float] = (),
) -> PartialTable:
    """Return a string as it is usually played, so tuned that it sounds `hz` stopped at a fret.

    Args:
        plucked: even where it is usually bowed.
        splits_cents: how far the two of each partial of a false string lie apart.

    Raises:
        MeldrinError: code ``no_such_string`` or ``unreachable``.
    """
    string, bow = made.string(number), made.kind == "bowed" and not plucked
    strain = strain_sounding(string, frequency_hz=hz, fret=fret, number=1)
    series = string_series(string, strain=strain, fret=fret, harmonic=bow)
    return stroke(made, number, series, by_bow=bow, pressed=fret, splits_cents=splits_cents)


def stopped_at(made: Instrument, number: int, *, hz: float, open_hz: float) -> int:
    """Return the fret, or its place on a bare board, where the string sounds nearest to `hz`."""
    string = made.string(number)
    frets = range(string.nut_fret + 25)
    return min(
        (fret for fret in frets if fret == 0 or fret > string.nut_fret),
        key=lambda fret: abs(ratio_of_cents(stopped_cents(string, fret)) * open_hz / hz - 1.0),
    )


def sounding(*notes: tuple[PartialTable, float, float]) -> Sounding:
    """Return notes that each begin at a time and are silent at another: (table, begin_s, end_s)."""
    events: list[tuple[float, SoundEvent]] = []
    for voice, (table, begin_s, end_s) in enumerate(notes):
        events.append((begin_s, Start(voice, table)))
        events.append((end_s - FADES * FADE_S, Release(voice, FADE_S)))
    return Sounding(tuple(sorted(events, key=lambda one: one[0])))


@dataclass(frozen=True, slots=True)
class Course:
    """A string that is played, or several that are played as one: its own number and its words."""

    string: String
    midi: int
    label: str
    written: str

    @property
    def hz(self) -> float:
        """Its pitch at A4 = 440."""
        return equal_tempered_hz(self.midi, a4_hz=440.0)


def courses(asked: TrialSettings) -> list[Course]:
    """Return what is played on the instrument, from string 1 on: no sympathetic strings, and of a
    course the first string.
    """
    made = asked.instrument
    found: dict[int, Course] = {}
    tuning = asked.tuning or made.tuning()
    for string in made.strings:
        if string.role != "sympathetic" and string.course not in found:
            label = string_label(made, string.number, tuning, naming=asked.naming)
            label = label.removeprefix("first ")
            found[string.course] = Course(string, tuning.midi(string.number), label, string.written)
    return list(found.values())
