"""Temperaments: where each note is wanted, as exact ratios as long as they are exact."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from fractions import Fraction
from functools import lru_cache
from typing import Final, Literal

from meldrin.core.errors import Code, MeldrinError, one_of, within
from meldrin.core.units import cents_of_ratio, ratio_of_cents

TemperamentKind = Literal["equal", "fifths", "just", "custom"]
PURE_FIFTH_CENTS: Final = cents_of_ratio(1.5)
MOST_FIFTH_CENTS: Final = 10.0
MOST_CUSTOM_CENTS: Final = 50.0

# Five-limit degrees over a tonic, by semitones (Ellis in Helmholtz, 1885). Of the two flat sevenths
# it is the fourth over the fourth, which open strings tuned in fourths and fifths make pure.
JUST_RATIOS: Final = (
    Fraction(1),
    Fraction(16, 15),
    Fraction(9, 8),
    Fraction(6, 5),
    Fraction(5, 4),
    Fraction(4, 3),
    Fraction(45, 32),
    Fraction(3, 2),
    Fraction(8, 5),
    Fraction(5, 3),
    Fraction(16, 9),
    Fraction(15, 8),
)


@dataclass(frozen=True, slots=True)
class Tone:
    """A pitch over a reference: an exact ratio, and cents on top for what has none."""

    ratio: Fraction
    cents: float = 0.0

    def over(self, other: "Tone") -> "Tone":
        """Return this tone as seen from another one."""
        return Tone(self.ratio / other.ratio, self.cents - other.cents)

    @property
    def size_cents(self) -> float:
        """How far it lies above the reference, in cents."""
        return cents_of(self.ratio) + self.cents

    def hz(self, reference_hz: float) -> float:
        """Return its frequency over a reference, both in Hz."""
        over = self.ratio.numerator / self.ratio.denominator  # fractions are slow
        return reference_hz * over * ratio_of_cents(self.cents)


@lru_cache(maxsize=512)
def cents_of(ratio: Fraction) -> float:
    """Return the size of a ratio in cents.

    >>> round(cents_of(Fraction(3, 2)), 3)
    701.955
    """
    return cents_of_ratio(ratio)


@dataclass(frozen=True, slots=True)
class Temperament:
    """Where the notes lie.

    kind: equal, fifths, just or custom.
    fifth_cents: for fifths: how much wider than pure they are made; negative is narrower.
    tonic: for just: a pitch class, 0 (C) to 11 (B).
    custom: for custom: cents against equal temperament by string number.
    reason: what the custom cents are for.

    Raises:
        MeldrinError: for an unknown kind, a number out of range, or custom cents with no reason.
    """

    kind: TemperamentKind
    fifth_cents: float = 0.0
    tonic: int | None = None
    custom: Mapping[int, float] = field(default_factory=dict)
    reason: str = ""

    def __post_init__(self) -> None:
        one_of(TemperamentKind, self.kind, name="a temperament", code=Code.TEMPERAMENT)
        most = MOST_FIFTH_CENTS
        within(self.fifth_cents, name="change of the fifths", low=-most, high=most, unit="cents")
        if self.kind == "just" and self.tonic is None:
            raise MeldrinError(
                Code.TEMPERAMENT, "Just intervals need a tonic to stand on, such as D."
            )
        if self.kind == "custom" and not self.reason.strip():
            raise MeldrinError(
                Code.TEMPERAMENT,
                "Say for what the strings are sweetened; a choice needs its reason.",
            )
        for number, cents in self.custom.items():
            most = MOST_CUSTOM_CENTS
            within(cents, name=f"offset of string {number}", low=-most, high=most, unit="cents")

    def tone(self, midi: int, *, reference_midi: int, number: int) -> Tone:
        """Return where a string's note lies over the reference note, by this temperament."""
        steps = midi - reference_midi
        match self.kind:
            case "equal":
                return Tone(Fraction(1), 100.0 * steps)
            case "custom":
                return Tone(Fraction(1), 100.0 * steps + self.custom.get(number, 0.0))
            case "fifths":
                fifths = (steps * 7 + 6) % 12 - 6
                octaves = (steps - 7 * fifths) // 12
                ratio = Fraction(3, 2) ** fifths * Fraction(2) ** octaves
                return Tone(ratio, fifths * self.fifth_cents)
            case "just":
                assert self.tonic is not None
                return Tone(just_ratio(midi - self.tonic) / just_ratio(reference_midi - self.tonic))


def just_ratio(semitones: int) -> Fraction:
    """Return the five-limit ratio of an interval over a tonic, any octave.

    >>> just_ratio(-5), just_ratio(16)
    (Fraction(3, 4), Fraction(5, 2))
    """
    octaves, degree = divmod(semitones, 12)
    return JUST_RATIOS[degree] * Fraction(2) ** octaves


def sweetened(
    midis: Mapping[int, int], *, tonic: int, share: float, reason: str = ""
) -> Temperament:
    """Return custom offsets that go a share of the way from equal temperament to just over a tonic.

    `midis` by string number; `share` 0 (equal) to 1 (just). The tonic itself stays where it is.

    Raises:
        OutOfRange: for a share outside 0 to 1.
    """
    part = within(share, name="share of the way to just", low=0.0, high=1.0)
    custom = {}
    for number, midi in midis.items():
        semitones = midi - tonic
        custom[number] = part * (cents_of(just_ratio(semitones)) - 100.0 * semitones)
    said = reason or f"{part:.0%} of the way from equal temperament to just"
    return Temperament("custom", custom=custom, reason=said)


EQUAL: Final = Temperament("equal")
PURE_FIFTHS: Final = Temperament("fifths")
