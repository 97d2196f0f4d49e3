"""Sounds to listen to before anything is practised: an open string, and what a wobble is."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final, Literal, get_args

from meldrin.core.catalogue import Chord, Instrument, instrument
from meldrin.core.pitch import equal_tempered_hz
from meldrin.core.sound.partials import PartialTable, string_series
from meldrin.core.sound.references import fork
from meldrin.core.sound.stroke import stroke
from meldrin.core.sound.together import as_loud
from meldrin.core.strings import strain_sounding

Wobble = Literal["fast", "slow", "still"]
WOBBLES: Final[tuple[Wobble, ...]] = get_args(Wobble)
BEATS_HZ: Final[dict[Wobble, float]] = {"fast": 4.0, "slow": 0.8, "still": 0.0}
FORK_HZ: Final = 440.0
A_STRING: Final = 5  # of a guitar
MEETS: Final = 4  # its partial that meets the fork


@dataclass(frozen=True, slots=True)
class Pair:
    """A string and the fork that it is held against, with the places (from 1) of the partials that
    meet and their beat.
    """

    string: PartialTable
    fork: PartialTable
    string_partial: int
    fork_partial: int
    beats_hz: float


def open_string(made: Instrument, number: int, *, hz: float | None = None) -> PartialTable:
    """Return an open string as it is usually played, by itself, in tune or at a pitch given.

    Raises:
        MeldrinError: code ``no_such_string``.
        OutOfRange: for a pitch that the string cannot have.
    """
    string = made.string(number)
    pitch_hz = equal_tempered_hz(string.midi, a4_hz=FORK_HZ) if hz is None else hz
    return _stopped(made, number, hz=pitch_hz, fret=0)


def chord(made: Instrument, chosen: Chord, *, open_hz: Sequence[float]) -> list[PartialTable]:
    """Return the strings of a chord as they are usually played, the last one first.

    Args:
        open_hz: the pitch of every open string, string 1 first.
    """
    return [
        _stopped(made, number, hz=open_hz[number - 1], fret=fret)
        for number, fret in reversed(chosen.notes)
    ]


def _stopped(made: Instrument, number: int, *, hz: float, fret: int) -> PartialTable:
    string, bow = made.string(number), made.kind == "bowed"
    strain = strain_sounding(string, frequency_hz=hz, fret=0, number=1)
    series = string_series(string, strain=strain, fret=fret, harmonic=bow)
    return stroke(made, number, series, by_bow=bow, pressed=fret)


def wobble(how: Wobble) -> Pair:
    """Return a guitar's A string beside the fork, so far under it that they beat like this."""
    guitar = instrument("guitar")
    string = guitar.string(A_STRING)
    beats_hz = BEATS_HZ[how]
    strain = strain_sounding(
        string,
        frequency_hz=FORK_HZ - beats_hz,
        fret=0,
        number=MEETS,
    )
    series = string_series(string, strain=strain, fret=0)
    table = stroke(guitar, A_STRING, series, by_bow=False)
    return Pair(table, as_loud(fork(hz=FORK_HZ), 1, table, MEETS), MEETS, 1, beats_hz)
