"""What a plan is asked for."""

from dataclasses import dataclass
from typing import Literal, get_args

from meldrin.core.catalogue import Instrument, Tuning, check_tuning
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.pitch import checked_a4_hz
from meldrin.core.temperament import Temperament

Order = Literal["usual", "up", "down", "ear_first"]
ForkAt = Literal["open", "harmonic"]


@dataclass(frozen=True, slots=True)
class Wanted:
    """An instrument in a tuning at a calibration, and what is left to choose.

    a4_hz: the calibration, 390 to 470.
    temperament: where the notes lie, or None for the method's own.
    start: the string to begin with, or None for the one a fork's A fits.
    itself: that string is trusted as it is, and the others are tuned to it.
    order: the method's own, from the lowest string up, or down, or (tuner and ear) by ear first.
    tonic: pitch class for a drone, 0 (C) to 11 (B), or None for the tuning's own.
    sounded: a pipe, a piano or a player gives the note, at any pitch, and not a fork.
    fork_at: whether a fork is matched with the open string or with its harmonic.
    far: strings known to be far out, in the order they are to be tuned.
    twice: strings are far out or the frame gives, so all are gone through once more.
    aims_cents: how far below its note (0 or less) each string is left at its turn, string 1 first,
        because those turned later lift it; empty for none.

    Raises:
        OutOfRange: for a calibration outside 390 to 470 Hz.
        MeldrinError: ``unsafe_tuning``, ``no_such_string``, ``tonic``.
    """

    instrument: Instrument
    tuning: Tuning
    a4_hz: float = 440.0
    temperament: Temperament | None = None
    start: int | None = None
    itself: bool = False
    order: Order = "usual"
    tonic: int | None = None
    sounded: bool = False
    fork_at: ForkAt = "open"
    far: tuple[int, ...] = ()
    twice: bool = False
    aims_cents: tuple[float, ...] = ()

    def __post_init__(self) -> None:
        checked_a4_hz(self.a4_hz)
        check_tuning(self.instrument.strings, self.tuning, a4_hz=self.a4_hz)
        if self.start is not None:
            self.instrument.string(self.start)
        for number in self.far:
            self.instrument.string(number)
        if self.order not in get_args(Order):
            raise MeldrinError(Code.ORDER, f"The order is one of {', '.join(get_args(Order))}.")
        if self.fork_at not in get_args(ForkAt):
            raise MeldrinError(Code.FORK, f"A fork is matched {' or '.join(get_args(ForkAt))}.")
        if self.tonic is not None and not 0 <= self.tonic < 12:
            raise MeldrinError(Code.TONIC, "A tonic is one of the twelve notes, C (0) to B (11).")
