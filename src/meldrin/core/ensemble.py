"""A group before a concert: where each open string is wanted by what the group has agreed, how far
it stands from there, whom to help first, and what agreed fifths do between the instruments.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final, Literal

from meldrin.core.catalogue import Instrument, Tuning
from meldrin.core.errors import within
from meldrin.core.methods.naming import string_label
from meldrin.core.pitch import A4_MIDI, cents_between, checked_a4_hz, equal_tempered_hz
from meldrin.core.temperament import EQUAL, MOST_FIFTH_CENTS, Temperament, cents_of, just_ratio
from meldrin.core.words import capital, cents_said, how_far, listed, signed_cents

NEAR_CENTS: Final = 3.0  # what lies nearer is in tune for a group; a judgement
MOST_TYPED_CENTS: Final = 200.0
Source = Literal["bench", "typed"]


@dataclass(frozen=True, slots=True)
class Agreed:
    """What a group has agreed: its A, and how much wider than pure its fifths are (negative:
    narrower; -1.955 is equal temperament).

    Raises:
        OutOfRange: for an A outside 390 to 470 Hz, or fifths more than 10 cents from pure.
    """

    a4_hz: float = 440.0
    fifth_cents: float = 0.0

    def __post_init__(self) -> None:
        checked_a4_hz(self.a4_hz)
        most = MOST_FIFTH_CENTS
        within(self.fifth_cents, name="change of the fifths", low=-most, high=most, unit="cents")

    def temperament(self, made: Instrument) -> Temperament:
        """Return where an instrument's strings are wanted: bowed ones go by the group's fifths;
        frets have equal temperament.
        """
        if made.kind == "bowed":
            return Temperament("fifths", fifth_cents=self.fifth_cents)
        return EQUAL

    def wanted_cents(self, made: Instrument, midi: int) -> float:
        """Return how far above equal temperament at the group's A an open string is wanted."""
        tone = self.temperament(made).tone(midi, reference_midi=A4_MIDI, number=0)
        return tone.size_cents - 100.0 * (midi - A4_MIDI)


@dataclass(frozen=True, slots=True)
class Reading:
    """Where an open string stands, in cents above equal temperament at the group's A, as a tuner
    shows it that is set to that A; and where that is known from.

    Raises:
        OutOfRange: for more than 200 cents.
    """

    string: int
    cents: float
    source: Source = "typed"

    def __post_init__(self) -> None:
        most = MOST_TYPED_CENTS
        within(self.cents, name=f"string {self.string}", low=-most, high=most, unit="cents")


def reading_of_hz(string: int, hz: float, *, midi: int, a4_hz: float) -> Reading | None:
    """Return the reading of a string that sounds at a frequency; None where it is not near its note
    at all.
    """
    cents = cents_between(hz, reference_hz=equal_tempered_hz(midi, a4_hz=a4_hz))
    return Reading(string, cents, "bench") if abs(cents) <= MOST_TYPED_CENTS else None


@dataclass(frozen=True, slots=True)
class Player:
    """Somebody in the group: the instrument in its tuning, and what is known of its strings."""

    name: str
    instrument: Instrument
    tuning: Tuning
    readings: tuple[Reading, ...] = ()

    @property
    def playing(self) -> list[int]:
        """The strings that are played, by number."""
        return [one.number for one in self.instrument.strings if one.role == "playing"]

    def label(self, number: int) -> str:
        """Return what players call a string."""
        return string_label(self.instrument, number, self.tuning)


@dataclass(frozen=True, slots=True)
class Standing:
    """How an open string stands: its note, and how far above where the group wants it; None where
    nothing is known.
    """

    string: int
    label: str
    midi: int
    wanted_cents: float
    off_cents: float | None
    source: Source | None


@dataclass(frozen=True, slots=True)
class PlayerStands:
    """How somebody's strings stand, string 1 first; worst: the one farthest off, or None.

    says: what to help with, in words; “” where all that is known is in tune.
    """

    name: str
    instrument: str
    strings: tuple[Standing, ...]
    worst: Standing | None
    says: str


@dataclass(frozen=True, slots=True)
class Check:
    """A group's check. help_first: the places of players (from 0) to be helped, the worst first.

    says: one sentence. fifths: what the agreed fifths mean between the instruments.
    """

    players: tuple[PlayerStands, ...]
    help_first: tuple[int, ...]
    says: str
    fifths: tuple[str, ...]


def check(agreed: Agreed, players: Sequence[Player]) -> Check:
    """Return how a group stands against what it has agreed."""
    stands = tuple(_stands(agreed, one) for one in players)
    off = [
        place
        for place, one in enumerate(stands)
        if one.worst is not None and abs(one.worst.off_cents or 0.0) > NEAR_CENTS
    ]
    off.sort(key=lambda place: -abs(_worst_cents(stands[place])))
    return Check(stands, tuple(off), _says(stands, off), tuple(_fifths_said(agreed, players)))


def _stands(agreed: Agreed, player: Player) -> PlayerStands:
    known = {one.string: one for one in player.readings}
    strings = []
    for number in player.playing:
        midi = player.tuning.midi(number)
        wanted = agreed.wanted_cents(player.instrument, midi)
        read = known.get(number)
        strings.append(
            Standing(
                string=number,
                label=player.label(number),
                midi=midi,
                wanted_cents=wanted,
                off_cents=None if read is None else read.cents - wanted,
                source=None if read is None else read.source,
            )
        )
    told = [one for one in strings if one.off_cents is not None]
    worst = max(told, key=lambda one: abs(one.off_cents or 0.0), default=None)
    off = [one for one in told if abs(one.off_cents or 0.0) > NEAR_CENTS]
    words = listed([f"{one.label} {how_far(one.off_cents or 0.0)}" for one in off])
    return PlayerStands(player.name, player.instrument.short_name, tuple(strings), worst, words)


def _worst_cents(one: PlayerStands) -> float:
    return one.worst.off_cents or 0.0 if one.worst is not None else 0.0


def _says(stands: Sequence[PlayerStands], off: Sequence[int]) -> str:
    known = sum(one.worst is not None for one in stands)
    if known == 0:
        return "Nothing is known of their strings yet."
    if not off:
        return f"All {known} whose strings are known are in tune." if known > 1 else "In tune."
    first = stands[off[0]]
    assert first.worst is not None
    worst = f"{first.worst.label} is {how_far(first.worst.off_cents or 0.0)}"
    if len(off) == 1:
        return f"1 of {known} is out. {first.name}: {worst}."
    return f"{len(off)} of {known} are out. {first.name} first: {worst}."


def _fifths_said(agreed: Agreed, players: Sequence[Player]) -> list[str]:
    """Return what the fifths mean for each kind of bowed instrument, and between their outermost
    strings.
    """
    bowed = {one.instrument.short_name: one for one in players if one.instrument.kind == "bowed"}
    found = []
    ends: list[tuple[int, str, str]] = []
    for name, one in bowed.items():
        strings = sorted((one.tuning.midi(number), one.label(number)) for number in one.playing)
        words = [
            f"{label} {signed_cents(agreed.wanted_cents(one.instrument, midi))}"
            for midi, label in strings
        ]
        found.append(f"{capital(name)}: {', '.join(words)} on a tuner at A = {agreed.a4_hz:g}.")
        ends += [(midi, name, label) for midi, label in strings]
    if len(bowed) > 1:
        found.append(_outermost(agreed, min(ends), max(ends)))
    return found


def _outermost(agreed: Agreed, low: tuple[int, str, str], high: tuple[int, str, str]) -> str:
    fifths = Temperament("fifths", fifth_cents=agreed.fifth_cents)
    sizes = [
        fifths.tone(one[0], reference_midi=A4_MIDI, number=0).size_cents for one in (low, high)
    ]
    apart, semitones = sizes[1] - sizes[0], high[0] - low[0]
    equal = _wider(apart - 100.0 * semitones, "in equal temperament")
    pure = _wider(apart - cents_of(just_ratio(semitones)), "pure")
    return f"From the {low[1]}’s {low[2]} to the {high[1]}’s {high[2]}: {equal}, {pure}."


def _wider(cents: float, what: str) -> str:
    if abs(cents) < 0.05:
        return f"as wide as {what}"
    return f"{cents_said(abs(cents))} {'wider' if cents > 0.0 else 'narrower'} than {what}"
