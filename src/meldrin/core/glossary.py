"""The words of the job, from one file: a sentence each, and a sound or a picture."""

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib import resources
from typing import Any, Final, Literal

from meldrin.core.catalogue import instrument
from meldrin.core.errors import Code, MeldrinError, known, one_of
from meldrin.core.pitch import equal_tempered_hz, shifted_by_cents
from meldrin.core.sound.events import SoundEvent, Start
from meldrin.core.sound.partials import PartialTable, string_series
from meldrin.core.sound.references import Source, reference
from meldrin.core.sound.stroke import stroke
from meldrin.core.strings import strain_sounding

Picture = Literal["node", "course", "nut", "saddle", "overshoot", "settle"]
FORMAT: Final = 1
A4_HZ: Final = 440.0
FIRST_VOICE: Final = 300
SPLIT_PARTIALS: Final = 40


@dataclass(frozen=True, slots=True, kw_only=True)
class Note:
    """A note of a sound: when it begins (s), and the string of a guitar, or a reference."""

    at: float
    string: int = 0
    fret: int = 0
    cents: float = 0.0
    touch: int = 0
    split: float = 0.0
    strength: float = 0.7
    sinks: float = 0.0
    source: Source | None = None
    hz: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Entry:
    """A word: how it is written, what it says, and what there is to hear or to see."""

    id: str
    words: tuple[str, ...]
    says: str
    hear: tuple[Note, ...] = ()
    see: Picture | None = None


@cache
def glossary() -> Mapping[str, Entry]:
    """Return the words by their ids, in the order of the file.

    Raises:
        MeldrinError: code ``glossary``, for a file that is not as it should be.
    """
    text = (resources.files("meldrin.core") / "glossary.toml").read_text(encoding="utf-8")
    table = tomllib.loads(text)
    if table.get("format") != FORMAT:
        raise MeldrinError(Code.GLOSSARY, f"The format of the glossary must be {FORMAT}.")
    entries = [_entry(row) for row in table["entry"]]
    return {one.id: one for one in sorted(entries, key=lambda one: one.words[0].lower())}


def _entry(row: dict[str, Any]) -> Entry:
    try:
        hear = tuple(Note(**note) for note in row.get("hear", ()))
        made = Entry(**{**row, "words": tuple(row["words"]), "hear": hear})
    except (KeyError, TypeError) as error:
        raise MeldrinError(Code.GLOSSARY, f"Word {row.get('id')}: {error}.") from error
    if made.see is not None:
        one_of(Picture, made.see, name="a picture", code=Code.GLOSSARY)
    if bool(made.hear) == bool(made.see):
        raise MeldrinError(Code.GLOSSARY, f"Word {made.id} needs a sound or a picture.")
    return made


def sounds_of(word: str) -> list[SoundEvent]:
    """Return what a word sounds like; nothing where it is a picture.

    Raises:
        MeldrinError: code ``no_such_word``; the message lists those there are.
    """
    entry = known(glossary(), word, name="word", code=Code.NO_SUCH_WORD)
    return [
        Start(FIRST_VOICE + place, _table(note), delay_s=note.at)
        for place, note in enumerate(entry.hear)
    ]


def _table(note: Note) -> PartialTable:
    if note.source is not None:
        return reference(note.source, hz=note.hz)
    guitar = instrument("guitar")
    string = guitar.string(note.string)
    in_tune_hz = equal_tempered_hz(string.midi, a4_hz=A4_HZ)
    hz = shifted_by_cents(in_tune_hz, cents=note.cents)
    strain = strain_sounding(string, frequency_hz=hz, fret=0, number=1)
    return stroke(
        guitar,
        note.string,
        string_series(string, strain=strain, fret=note.fret),
        by_bow=False,
        pressed=note.fret,
        touched_at=1.0 - 2.0 ** (-note.touch / 12.0) if note.touch else None,
        strength=note.strength,
        splits_cents=(note.split,) * SPLIT_PARTIALS if note.split else (),
        glide_cents=note.sinks,
    )
