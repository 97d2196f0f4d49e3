"""What a plan is asked for."""

from dataclasses import dataclass, fields
from typing import Annotated, Any, Literal

from typing_extensions import Doc

from meldrin.core.catalogue import Instrument, Tuning, check_tuning
from meldrin.core.errors import Code, MeldrinError, one_of
from meldrin.core.pitch import Naming, checked_a4_hz
from meldrin.core.sound.references import Source
from meldrin.core.temperament import Temperament

Order = Literal["usual", "up", "down", "ear_first"]
ForkAt = Literal["open", "harmonic"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Options:
    """What can be chosen of a plan in plain values: by a learner, an address or a command."""

    start: Annotated[int | None, Doc("the string to begin with")] = None
    itself: Annotated[bool, Doc("trust that string as it is")] = False
    sounded: Annotated[bool, Doc("a piano, a pipe or a player gives the note, not a fork")] = False
    order: Annotated[Order, Doc("the order of the strings")] = "usual"
    fork_at: Annotated[ForkAt, Doc("match the fork with the open string or a harmonic")] = "open"
    second_pass: Annotated[bool, Doc("strings are far out, or the frame gives")] = False
    frets: Annotated[bool, Doc("set movable frets by the tonic string, over a drone")] = False
    naming: Annotated[Naming, Doc("what notes are called")] = "letters"

    def chosen(self) -> dict[str, Any]:
        """Return the choices by name."""
        return {one.name: getattr(self, one.name) for one in fields(Options)}


@dataclass(frozen=True, slots=True)
class Wanted(Options):
    """An instrument in a tuning at a calibration, and what is left to choose.

    a4_hz: the calibration, 390 to 470.
    temperament: where the notes lie, or None for the method's own.
    tonic: pitch class for a drone, 0 (C) to 11 (B), or None for the tuning's own.
    far: strings known to be far out, in the order they are to be tuned.
    source: what sounds the reference, or “” where that is not known: then the plan holds for all.
    stretched: whether it is minded that a piano's partials are spread; plans before 2026-12-01 were
        made without.
    a_first: whether strings above the A of a fork come last; plans before 2026-12-02 were made
        without.
    aims_cents: how far below its note (0 or less) each string is left at its turn, string 1 first,
        because those turned later lift it; empty for none.

    Raises:
        OutOfRange: for a calibration outside 390 to 470 Hz.
        MeldrinError: ``unsafe_tuning``, ``no_such_string``, ``order``, ``fork``, ``tonic``.
    """

    instrument: Instrument
    tuning: Tuning
    a4_hz: float = 440.0
    temperament: Temperament | None = None
    tonic: int | None = None
    far: tuple[int, ...] = ()
    source: Source | Literal[""] = ""
    stretched: bool = True
    a_first: bool = True
    aims_cents: tuple[float, ...] = ()

    def __post_init__(self) -> None:
        checked_a4_hz(self.a4_hz)
        check_tuning(self.instrument.strings, self.tuning, a4_hz=self.a4_hz)
        if self.start is not None:
            self.instrument.string(self.start)
        for number in self.far:
            self.instrument.string(number)
        one_of(Order, self.order, name="an order", code=Code.ORDER)
        one_of(Naming, self.naming, name="a way to name notes", code=Code.NOTE_NAME)
        one_of(ForkAt, self.fork_at, name="a place for the fork", code=Code.FORK)
        if self.tonic is not None and not 0 <= self.tonic < 12:
            raise MeldrinError(Code.TONIC, "A tonic is one of the twelve notes, C (0) to B (11).")
