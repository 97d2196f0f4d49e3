"""Reading instrument files (TOML). A bad file is refused with its name, the line and the reason."""

import os
import re
import tomllib
from collections.abc import Mapping, Sequence
from dataclasses import replace
from difflib import get_close_matches
from functools import cache, cached_property, lru_cache
from importlib import resources
from importlib.resources.abc import Traversable
from pathlib import Path
from typing import Any, Final, TypeVar, get_args

from meldrin.core.catalogue.chord import MOST_CHORDS, Chord, chord_of
from meldrin.core.catalogue.instrument import (
    DAMP_LENGTHENS_MM,
    FRETTINGS,
    KINDS,
    PLAYED,
    POSTURES,
    Body,
    Fretting,
    Instrument,
    InstrumentKind,
    Losses,
    Resonance,
)
from meldrin.core.catalogue.tuning import Tuning, check_tuning, tuning_of_notes
from meldrin.core.errors import Code, MeldrinError, known
from meldrin.core.pitch import parse_note
from meldrin.core.strings import (
    ROLES,
    FineKind,
    FineTuner,
    Peg,
    PegKind,
    PegSide,
    String,
    Way,
    breaking_share,
    design_tension_n,
)
from meldrin.core.temperament import cents_of, just_ratio
from meldrin.core.units import kg_per_m_of_g_per_m, m_of_mm, pa_of_gpa

FORMAT: Final = 2  # in 1 the frame's compliance was called coupling_mm_per_n
MOST_CHARACTERS: Final = 40_000
MOST_STRINGS: Final = 40
MOST_SEMITONES: Final = 12  # where a finger may be laid on a bare fingerboard, over the open string
T = TypeVar("T")
K = TypeVar("K", bound=str)


class Catalogue:
    """The instruments there are: those built in, and a folder of somebody's own."""

    def __init__(self, own: Path | None = None) -> None:
        self._own = own
        self._read: dict[str, Instrument] = {}

    @cached_property
    def _files(self) -> dict[str, Path | Traversable]:
        built_in = resources.files("meldrin.core.catalogue") / "data"
        files: dict[str, Path | Traversable] = {}
        for folder in (built_in, self._own):
            if folder is None:
                continue
            if not folder.is_dir():
                raise MeldrinError(Code.CATALOGUE, f"There is no folder {folder} of instruments.")
            for entry in folder.iterdir():
                if entry.name.endswith(".toml"):
                    files[entry.name.removesuffix(".toml")] = entry
        return dict(sorted(files.items()))

    def ids(self) -> tuple[str, ...]:
        """Return all ids, in alphabetical order."""
        return tuple(self._files)

    def all(self) -> tuple[Instrument, ...]:
        """Return every instrument, in the order it is shown in.

        Raises:
            MeldrinError: code ``catalogue``, for a file that is bad, or named unlike its id.
        """
        read = (self.instrument(instrument_id) for instrument_id in self.ids())
        return tuple(sorted(read, key=lambda one: (one.order, one.id)))

    def text(self, instrument_id: str) -> str:
        """Return the text of the instrument's file.

        Raises:
            MeldrinError: code ``no_such_instrument``; the message lists the ids there are.
        """
        return _text(self._file(instrument_id))

    def instrument(self, instrument_id: str) -> Instrument:
        """Return the instrument with this id; a file of one's own comes before a built-in one.

        Raises:
            MeldrinError: code ``no_such_instrument``; the message lists the ids there are.
        """
        if instrument_id not in self._read:
            file = self._file(instrument_id)
            found = read_instrument(file)
            if found.id != instrument_id:
                raise MeldrinError(
                    Code.CATALOGUE, f"{file.name}: the id is “{found.id}”; name the file after it."
                )
            self._read[instrument_id] = found
        return self._read[instrument_id]

    def _file(self, instrument_id: str) -> Path | Traversable:
        code = Code.NO_SUCH_INSTRUMENT
        return known(self._files, instrument_id, name="instrument", code=code)


@cache
def catalogue() -> Catalogue:
    """Return the catalogue of this process: what is built in, and the folder that the environment
    names, if it does; data like the rest, read once.
    """
    own = os.environ.get("MELDRIN_INSTRUMENTS")
    return Catalogue(Path(own) if own else None)


def instruments() -> tuple[Instrument, ...]:
    """Return the whole catalogue, in the order it is shown in."""
    return catalogue().all()


def instrument(instrument_id: str) -> Instrument:
    """Return the instrument of the catalogue with this id.

    Raises:
        MeldrinError: code ``no_such_instrument``; the message lists the ids there are.
    """
    return catalogue().instrument(instrument_id)


def instrument_text(instrument_id: str) -> str:
    """Return the data of the instrument of the catalogue with this id, as its file holds it.

    Raises:
        MeldrinError: code ``no_such_instrument``; the message lists the ids there are.
    """
    return catalogue().text(instrument_id)


def read_instrument(path: Path | Traversable) -> Instrument:
    """Read and check one instrument file.

    Raises:
        MeldrinError: code ``catalogue``; the message gives file, line and reason.
    """
    return instrument_of(_text(path), name=path.name)


@lru_cache(maxsize=128)
def instrument_of(text: str, *, name: str = "instrument") -> Instrument:
    """Return the instrument that the text of a file describes; `name` is what errors call it.

    Raises:
        MeldrinError: code ``catalogue``; the message gives file, line and reason.
    """
    if len(text) > MOST_CHARACTERS:
        raise MeldrinError(
            Code.CATALOGUE,
            f"{name} has {len(text)} characters; the most is {MOST_CHARACTERS}.",
        )
    try:
        table = tomllib.loads(text)
    except (tomllib.TOMLDecodeError, RecursionError) as error:
        raise MeldrinError(Code.CATALOGUE, f"{name}: {error}.") from error
    return _Reader(name, text).instrument(table)


def _text(path: Path | Traversable) -> str:
    try:
        return path.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise MeldrinError(Code.CATALOGUE, f"{path.name} cannot be read as text.") from error


# What the files may hold. What a string is made of and how it is turned decide how it behaves, so a
# word that nobody knows is refused rather than passed over.
KEYS: Final = {
    "instrument": {
        "format", "id", "name", "order", "kind", "fretting", "frets", "frame_compliance_mm_per_n",
        "damp_lengthens_mm", "life_hours", "posture", "losses", "body", "strings", "tunings",
        "chords",
    },
    "losses": {
        "constant_per_s", "linear", "quadratic_s", "bridge_per_s", "tail_share", "tail_times",
    },
    "body": {
        "played", "place", "edge_hz", "lowest_hz", "falls_from_hz", "falls_db_per_octave",
        "pickup_at", "attack_s", "swell", "swell_s", "noise_db", "noise_hz", "noise_s", "bloom_s",
        "resonances",
    },
    "resonance": {"hz", "width_hz", "level_db"},
    "string": {
        "number", "course", "note", "scale_mm", "material", "core_mm", "outer_mm", "packing",
        "density_g_per_m", "modulus_gpa", "modulus_slope", "breaking_n", "bending_factor",
        "dead_nut_mm", "dead_bridge_mm", "peg", "fine", "role", "label", "nut_fret",
    },
    "peg": {"kind", "gear_ratio", "post_mm", "side", "tightens"},
    "fine": {"kind", "take_up_mm"},
    "tuning": {"id", "name", "notes", "about", "tonic"},
    "chord": {"name", "tuning", "frets", "drone"},
}  # fmt: skip
PEG_KINDS: Final[tuple[PegKind, ...]] = get_args(PegKind)
PEG_SIDES: Final[tuple[PegSide, ...]] = get_args(PegSide)
WAYS: Final[tuple[Way, ...]] = get_args(Way)
FINE_KINDS: Final[tuple[FineKind, ...]] = get_args(FineKind)
MATERIALS: Final = (
    "plain steel",
    "plain phosphor bronze",
    "plain drawn polyamide",
    "bronze-wound steel",
    "nickel-wound steel",
    "nickel-plated steel-wound steel",
    "steel, flat-wound in aluminium",
    "stranded steel, flat-wound in aluminium",
    "stranded steel, flat-wound in chromium steel",
    "tungsten and chromium steel-wound stranded steel",
    "polyamide filament, flat-wound in aluminium",
    "polyamide filament, flat-wound in silver",
    "silver-plated copper-wound polyamide filament",
)


def _with_places(string: String, fretting: Fretting) -> String:
    """Return the string as it is stopped: frets that stand firm lie in equal temperament; those
    that are moved, and a finger on a bare board, are set by ear, pure over the open string.
    """
    if fretting == "fixed":
        return string
    return replace(string, fret_cents=PURE_PLACES)


PURE_PLACES: Final = tuple(cents_of(just_ratio(n)) - 100.0 * n for n in range(1, 13))


class _Reader:
    def __init__(self, name: str, text: str) -> None:
        self._name = name
        self._lines = text.splitlines()

    def instrument(self, table: Mapping[str, Any]) -> Instrument:
        if self._value(table, "format", int, 0) != FORMAT:
            raise self._error(self._line_of("format", 0), f"the format must be {FORMAT}")
        self._known(table, "instrument", 0)
        losses = self._value(table, "losses", dict, 0)
        self._known(losses, "losses", self._line_of("losses", 0))
        made = []
        for number, (row, at) in enumerate(self._rows(table, "strings"), start=1):
            made.append(self._string(row, at))
            if made[-1].number != number:
                raise self._error(at, "strings must be numbered 1, 2, 3 … in their order")
        if len(made) > MOST_STRINGS:
            raise self._error(0, f"it has {len(made)} strings; the most is {MOST_STRINGS}")
        fretting = self._one_of(table, "fretting", FRETTINGS, 0)
        strings = tuple(_with_places(string, fretting) for string in made)
        tunings = tuple(self._tuning(row, at, strings) for row, at in self._rows(table, "tunings"))
        start = self._line_of("losses", 0)
        kind = self._one_of(table, "kind", KINDS, 0)
        try:
            return Instrument(
                id=self._value(table, "id", str, 0),
                name=self._value(table, "name", str, 0),
                order=self._value(table, "order", int, 0),
                kind=kind,
                fretting=fretting,
                frets=self._value(table, "frets", int, 0),
                frame_compliance_m_per_n=self._number(table, "frame_compliance_mm_per_n", 0)
                / 1000.0,
                damp_lengthens_m=m_of_mm(
                    self._number(table, "damp_lengthens_mm", 0, DAMP_LENGTHENS_MM.get(kind, 0.0))
                ),
                life_hours=self._range(table, "life_hours"),
                losses=Losses(
                    constant_per_s=self._number(losses, "constant_per_s", start),
                    linear=self._number(losses, "linear", start, 0.0),
                    quadratic_s=self._number(losses, "quadratic_s", start),
                    bridge_per_s=self._number(losses, "bridge_per_s", start, 0.0),
                    tail_share=self._number(losses, "tail_share", start, 0.0),
                    tail_times=self._number(losses, "tail_times", start, 1.0),
                ),
                body=self._body(table, kind),
                strings=strings,
                tunings=tunings,
                chords=self._chords(table, strings, tunings),
                posture=self._one_of({"posture": "lap", **table}, "posture", POSTURES, 0),
            )
        except MeldrinError as error:
            raise self._at(start, error) from error

    def _body(self, table: Mapping[str, Any], kind: InstrumentKind) -> Body:
        """Return how it sounds; without a word of it, as an even body does."""
        start = self._line_of("body", 0)
        row = self._value(table, "body", dict, 0) if "body" in table else {}
        self._known(row, "body", start)
        usual = Body(played="bow" if kind == "bowed" else "fingertip")
        numbers = {
            name: self._number(row, name, start, getattr(usual, name))
            for name in KEYS["body"] - {"played", "resonances"}
        }
        rows: list[object] = self._optional(row, "resonances", [], start)
        resonances = [self._resonance(one, start) for one in rows]
        try:
            return Body(
                played=self._one_of({"played": usual.played, **row}, "played", PLAYED, start),
                resonances=tuple(resonances),
                **numbers,
            )
        except MeldrinError as error:
            raise self._at(start, error) from error

    def _resonance(self, row: object, start: int) -> Resonance:
        line = self._line_of("resonances", start)
        if not isinstance(row, dict):
            raise self._error(line, "a resonance has “hz”, “width_hz” and “level_db”")
        self._known(row, "resonance", line)
        return Resonance(
            hz=self._number(row, "hz", line),
            width_hz=self._number(row, "width_hz", line),
            level_db=self._number(row, "level_db", line),
        )

    def _peg(self, row: Mapping[str, Any], start: int) -> Peg:
        line = self._line_of("peg", start)
        kind = self._one_of(row, "kind", PEG_KINDS, line)
        side = self._one_of({"side": "treble", **row}, "side", PEG_SIDES, line)
        # A friction peg through the side of the head winds away from the nut; machines are the same
        # on both sides.
        usual = "clockwise" if kind == "friction peg" and side == "treble" else "anticlockwise"
        return Peg(
            kind=kind,
            gear_ratio=self._number(row, "gear_ratio", start),
            post_m=m_of_mm(self._number(row, "post_mm", start)),
            side=side,
            tightens=self._one_of({"tightens": usual, **row}, "tightens", WAYS, line),
        )

    def _string(self, row: Mapping[str, Any], start: int) -> String:
        def milli(key: str) -> float:
            return m_of_mm(self._number(row, key, start))

        self._known(row, "string", start)
        number = self._value(row, "number", int, start)
        peg = self._value(row, "peg", dict, start)
        self._known(peg, "peg", self._line_of("peg", start))
        try:
            string = String(
                number=number,
                course=self._optional(row, "course", number, start),
                midi=parse_note(self._value(row, "note", str, start)),
                scale_m=milli("scale_mm"),
                material=self._one_of(row, "material", MATERIALS, start),
                core_m=milli("core_mm"),
                outer_m=milli("outer_mm"),
                packing=self._number(row, "packing", start, 1.0),
                linear_density_kg_per_m=kg_per_m_of_g_per_m(
                    self._number(row, "density_g_per_m", start)
                ),
                modulus_pa=pa_of_gpa(self._number(row, "modulus_gpa", start)),
                modulus_slope=self._number(row, "modulus_slope", start, 0.0),
                breaking_n=self._number(row, "breaking_n", start),
                bending_factor=self._number(row, "bending_factor", start, 1.0),
                dead_nut_m=milli("dead_nut_mm"),
                dead_bridge_m=milli("dead_bridge_mm"),
                peg=self._peg(peg, start),
                fine=self._fine(row, start),
                role=self._one_of({"role": "playing", **row}, "role", ROLES, start),
                label=self._optional(row, "label", "", start) or None,
                nut_fret=self._optional(row, "nut_fret", 0, start),
            )
        except MeldrinError as error:
            raise self._at(start, error) from error
        share = breaking_share(string, tension_n=design_tension_n(string))
        if share > 0.85:
            raise self._error(
                start, f"string {number} would be at {share:.0%} of its breaking load at pitch"
            )
        return string

    def _fine(self, row: Mapping[str, Any], start: int) -> FineTuner | None:
        if "fine" not in row:
            return None
        fine = self._value(row, "fine", dict, start)
        line = self._line_of("fine", start)
        self._known(fine, "fine", line)
        return FineTuner(
            kind=self._one_of(fine, "kind", FINE_KINDS, line),
            take_up_m=m_of_mm(self._number(fine, "take_up_mm", start)),
        )

    def _known(self, table: Mapping[str, Any], what: str, start: int) -> None:
        """Refuse a key that is not one of those a table of this kind may have."""
        for key in table:
            if key not in KEYS[what]:
                near = get_close_matches(key, KEYS[what], n=1)
                hint = f"; the nearest is “{near[0]}”" if near else ""
                raise self._error(
                    self._line_of(key, start), f"“{key}” is no key of the {what}{hint}"
                )

    def _one_of(self, row: Mapping[str, Any], key: str, known: Sequence[K], start: int) -> K:
        value = self._value(row, key, str, start)
        for one in known:
            if value == one:
                return one
        raise self._error(
            self._line_of(key, start),
            f"unknown {key} “{value}”. Available: {', '.join(known)}",
        )

    def _tuning(self, row: Mapping[str, Any], start: int, strings: tuple[String, ...]) -> Tuning:
        self._known(row, "tuning", start)
        try:
            tuning = tuning_of_notes(
                strings,
                self._value(row, "notes", str, start),
                tuning_id=self._value(row, "id", str, start),
                name=self._value(row, "name", str, start),
                tonic=self._value(row, "tonic", str, start) if "tonic" in row else None,
                about=self._value(row, "about", str, start),
            )
            check_tuning(strings, tuning, a4_hz=440.0)
        except MeldrinError as error:
            raise self._at(start, error) from error
        return tuning

    def _chords(
        self, table: Mapping[str, Any], strings: tuple[String, ...], tunings: tuple[Tuning, ...]
    ) -> tuple[Chord, ...]:
        if "chords" not in table:
            return ()
        rows = self._rows(table, "chords")
        if len(rows) > MOST_CHORDS:
            raise self._error(0, f"it has {len(rows)} chords; the most is {MOST_CHORDS}")
        ids = [one.id for one in tunings]
        most = self._value(table, "frets", int, 0) or MOST_SEMITONES
        found = []
        for row, at in rows:
            self._known(row, "chord", at)
            try:
                found.append(
                    chord_of(
                        strings,
                        self._value(row, "frets", str, at),
                        name=self._value(row, "name", str, at),
                        tuning=self._one_of(row, "tuning", ids, at),
                        most=most,
                        drone=self._optional(row, "drone", False, at),
                    )
                )
            except MeldrinError as error:
                raise self._at(at, error) from error
        return tuple(found)

    def _rows(self, table: Mapping[str, Any], key: str) -> list[tuple[Mapping[str, Any], int]]:
        """Return the tables of a list with the line each begins at."""
        rows = self._value(table, key, list, 0)
        starts = [n for n, text in enumerate(self._lines) if text.strip() == f"[[{key}]]"]
        if not rows or len(rows) != len(starts):
            raise self._error(
                self._line_of(key, 0),
                f"every one of the {key} needs a heading [[{key}]] of its own",
            )
        return list(zip(rows, starts, strict=True))

    def _optional(self, row: Mapping[str, Any], key: str, default: T, start: int) -> T:
        return self._value(row, key, type(default), start) if key in row else default

    def _range(self, table: Mapping[str, Any], key: str) -> tuple[float, float]:
        pair = self._value(table, key, list, 0)
        if len(pair) != 2 or not all(isinstance(one, int | float) for one in pair):
            raise self._error(self._line_of(key, 0), f"“{key}” must be two numbers")
        return float(pair[0]), float(pair[1])

    def _value(self, table: Mapping[str, Any], key: str, kind: type[T], start: int) -> T:
        value = table.get(key)
        if not isinstance(value, kind) or (isinstance(value, bool) and kind is not bool):
            said = (
                f"“{key}” is missing" if value is None else f"“{key}” has the wrong kind of value"
            )
            raise self._error(self._line_of(key, start), said)
        return value

    def _number(
        self, table: Mapping[str, Any], key: str, start: int, default: float | None = None
    ) -> float:
        if default is not None and key not in table:
            return default
        value = table.get(key)
        return float(self._value(table, key, int if isinstance(value, int) else float, start))

    def _line_of(self, key: str, start: int) -> int:
        pattern = re.compile(rf"\[?{re.escape(key)}\b|.*[{{,]\s*{re.escape(key)}\s*=")
        for line in range(start, len(self._lines)):
            text = self._lines[line].strip()
            if pattern.match(text):
                return line
            if line > start > 0 and text.startswith("["):
                break  # the next table, whose keys are not meant
        return start

    def _at(self, start: int, error: MeldrinError) -> MeldrinError:
        """Return the error with file and line, unless it has them already."""
        return error if "line" in error.facts else self._error(start, error.message.rstrip("."))

    def _error(self, line: int, reason: str) -> MeldrinError:
        return MeldrinError(
            Code.CATALOGUE,
            f"{self._name}, line {line + 1}: {reason}.",
            file=self._name,
            line=line + 1,
        )
