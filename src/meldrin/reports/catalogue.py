"""Instruments, their tunings, and going from one tuning to another, as documents."""

from dataclasses import dataclass

from meldrin.core.catalogue import Instrument
from meldrin.core.catalogue.instrument import Fretting, InstrumentKind
from meldrin.core.methods.naming import string_label
from meldrin.core.pitch import note_name
from meldrin.core.retune import Retuning
from meldrin.core.strings import Role
from meldrin.core.units import mm_of_m
from meldrin.reports.shape import document


@dataclass(frozen=True, slots=True)
class CatalogueString:
    """A string as it is made; `label` is what players call it in the usual tuning, `written` what
    they write for its number.
    """

    number: int
    label: str
    written: str
    course: int
    note: str
    role: Role
    scale_mm: float
    material: str
    peg: str
    fine_tuner: str | None


@dataclass(frozen=True, slots=True)
class CatalogueTuning:
    """A tuning; its notes are read from the last string to the first."""

    id: str
    name: str
    notes: str
    about: str


@dataclass(frozen=True, slots=True)
class CatalogueInstrument:
    """An instrument with its strings and tunings; `own`: the learner brought it in."""

    id: str
    name: str
    kind: InstrumentKind
    fretting: Fretting
    frets: int
    strings: list[CatalogueString]
    tunings: list[CatalogueTuning]
    own: bool = False


@dataclass(frozen=True, slots=True)
class RetunedString:
    """One string of a retuning; cents against its new note."""

    number: int
    label: str
    from_note: str
    to_note: str
    semitones: int
    tension_before_n: float
    tension_after_n: float
    breaking_share: float
    aim_cents: float
    drift_cents: float
    remains_cents: float


@dataclass(frozen=True, slots=True)
class RetuningPage:
    """A retuning, string by string."""

    strings: list[RetunedString]
    load_before_n: float
    load_after_n: float
    load_change_n: float
    order: list[int]
    cautions: list[str]
    passes_cents: list[float]


def instrument_page(made: Instrument, *, own: bool = False) -> CatalogueInstrument:
    """Return an instrument with its strings and tunings."""
    return document(
        CatalogueInstrument,
        made,
        own=own,
        strings=[
            document(
                CatalogueString,
                string,
                label=string_label(made, string.number),
                note=note_name(string.midi),
                scale_mm=mm_of_m(string.scale_m),
                peg=string.peg.kind,
                fine_tuner=None if string.fine is None else string.fine.kind,
            )
            for string in made.strings
        ],
        tunings=[document(CatalogueTuning, tuning) for tuning in made.tunings],
    )


def retuning_page(change: Retuning) -> RetuningPage:
    """Return a retuning, string by string."""
    return document(
        RetuningPage,
        change,
        strings=[
            document(
                RetunedString,
                row,
                from_note=note_name(row.midi_from),
                to_note=note_name(row.midi_to),
            )
            for row in change.strings
        ],
    )
