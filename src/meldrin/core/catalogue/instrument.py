"""What is known of an instrument: its strings by the players' own numbering, and its losses."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final, Literal, get_args

from meldrin.core.catalogue.tuning import Tuning, tuning_of_notes
from meldrin.core.errors import Code, MeldrinError, within
from meldrin.core.strings import String

Kind = Literal["plucked", "bowed"]
KINDS: Final[tuple[Kind, ...]] = get_args(Kind)
Fretting = Literal["fixed", "movable", "none"]
FRETTINGS: Final[tuple[Fretting, ...]] = get_args(Fretting)
STANDARD: Final = "standard"
ID: Final = re.compile(r"[a-z0-9][a-z0-9-]{0,39}")
# How far a path lengthens for 10 % more relative humidity, once the wood has followed: damp wood
# swells and lifts the bridge. Judged so that a steel string rises by some 5 (plucked) and 12 cents.
DAMP_LENGTHENS_MM: Final = {"plucked": 0.03, "bowed": 0.05}


@dataclass(frozen=True, slots=True)
class Losses:
    """How fast partials die away: 1/tau = constant + quadratic f^2, in 1/s with f in Hz."""

    constant_per_s: float
    quadratic_s: float

    def __post_init__(self) -> None:
        within(self.constant_per_s, name="constant loss", low=0.01, high=20.0, unit="1/s")
        within(self.quadratic_s, name="quadratic loss", low=1e-9, high=1e-3, unit="s")

    def decay_s(self, frequency_hz: float) -> float:
        """Return the time in seconds in which a partial falls to 1/e of its amplitude."""
        return 1.0 / (self.constant_per_s + self.quadratic_s * frequency_hz**2)

    def decays_s(self, frequencies_hz: Sequence[float]) -> list[float]:
        """Return the same for many partials at once."""
        constant, quadratic = self.constant_per_s, self.quadratic_s
        return [1.0 / (constant + quadratic * hz * hz) for hz in frequencies_hz]


@dataclass(frozen=True, slots=True)
class Instrument:
    """An instrument.

    order: its place in lists.
    frets: 0 for a bare fingerboard.
    frame_compliance_m_per_n: how much every string's path shortens for each newton that all strings
        together gain.
    damp_lengthens_m: how much longer the paths grow in the end for 10 % more relative humidity;
        negative on a skin, which gives way.
    life_hours: playing hours after which strings have usually gone dull or false.
    strings: in the order of their numbers.

    Raises:
        MeldrinError: code ``catalogue`` for values that do not go together; OutOfRange for a
            number.
    """

    id: str
    name: str
    order: int
    kind: Kind
    fretting: Fretting
    frets: int
    frame_compliance_m_per_n: float
    damp_lengthens_m: float
    life_hours: tuple[float, float]
    losses: Losses
    strings: tuple[String, ...]
    tunings: tuple[Tuning, ...]

    def __post_init__(self) -> None:
        if not ID.fullmatch(self.id):
            raise MeldrinError(
                Code.CATALOGUE, "The id must be 1 to 40 small letters, digits and hyphens"
            )
        within(
            self.frame_compliance_m_per_n, name="frame compliance", low=0.0, high=1e-4, unit="m/N"
        )
        within(self.damp_lengthens_m, name="change by damp", low=-5e-4, high=5e-4, unit="m")
        within(self.frets, name="frets", low=0, high=36)
        if (self.fretting == "none") != (self.frets == 0):
            raise MeldrinError(Code.CATALOGUE, "An instrument has frets, or fretting “none”")
        low, high = self.life_hours
        within(low, name="string life", low=1.0, high=high, unit="hours")
        ids = [tuning.id for tuning in self.tunings]
        if STANDARD not in ids or len(set(ids)) < len(ids):
            raise MeldrinError(
                Code.CATALOGUE, f"Tunings need ids of their own, and one must be “{STANDARD}”"
            )

    @property
    def short_name(self) -> str:
        """The name inside a sentence."""
        return self.name.split(",")[0].lower()

    def string(self, number: int) -> String:
        """Return the string that players give this number.

        Raises:
            MeldrinError: code ``no_such_string``.
        """
        if not 1 <= number <= len(self.strings):
            raise MeldrinError(
                Code.NO_SUCH_STRING,
                f"Unknown string {number}; this instrument has strings 1 to {len(self.strings)}.",
                number=number,
            )
        return self.strings[number - 1]

    def tuning(self, tuning_id: str = STANDARD) -> Tuning:
        """Return the tuning of this id.

        Raises:
            MeldrinError: code ``no_such_tuning``; the message lists the ids there are.
        """
        for tuning in self.tunings:
            if tuning.id == tuning_id:
                return tuning
        raise MeldrinError(
            Code.NO_SUCH_TUNING,
            f"Unknown tuning “{tuning_id}” of the {self.short_name}. Available:"
            f" {', '.join(tuning.id for tuning in self.tunings)}, or your own notes.",
        )


def tuning_said(made: Instrument, said: str) -> Tuning:
    """Return the tuning of this id, or of these notes.

    Raises:
        MeldrinError: ``no_such_tuning``, or what `tuning_of_notes` finds wrong.
    """
    if said in {tuning.id for tuning in made.tunings} or not any(c.isdigit() for c in said):
        return made.tuning(said)
    return tuning_of_notes(made.strings, said)
