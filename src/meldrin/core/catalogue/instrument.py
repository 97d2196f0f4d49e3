"""What is known of an instrument: its strings by the players' own numbering, and its losses."""

from dataclasses import dataclass

from meldrin.core.errors import MeldrinError, within
from meldrin.core.strings import String


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


@dataclass(frozen=True, slots=True)
class Instrument:
    """An instrument; `strings` in the order of their numbers, `frets` 0 for a bare fingerboard."""

    id: str
    name: str
    frets: int
    losses: Losses
    strings: tuple[String, ...]

    def __post_init__(self) -> None:
        numbers = [string.number for string in self.strings]
        if numbers != list(range(1, len(numbers) + 1)):
            raise MeldrinError(
                "catalogue", f"The strings of {self.name} must be numbered 1, 2, 3 …"
            )

    def string(self, number: int) -> String:
        """Return the string that players give this number.

        Raises:
            MeldrinError: code ``no_such_string``.
        """
        if not 1 <= number <= len(self.strings):
            raise MeldrinError(
                "no_such_string",
                f"There is no string {number}; this instrument has strings 1 to"
                f" {len(self.strings)}.",
                number=number,
            )
        return self.strings[number - 1]
