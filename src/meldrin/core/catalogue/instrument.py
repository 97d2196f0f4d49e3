"""What is known of an instrument: its strings by the players' own numbering, and how it sounds."""

import math
import re
from dataclasses import dataclass, field
from typing import Final, Literal, get_args

from meldrin.core.catalogue.chord import Chord, chords_in
from meldrin.core.catalogue.tuning import Tuning, tuning_of_notes
from meldrin.core.errors import Code, MeldrinError, known, within
from meldrin.core.strings import String

Posture = Literal["lap", "chin", "upright", "floor"]
InstrumentKind = Literal["plucked", "bowed"]
KINDS: Final[tuple[InstrumentKind, ...]] = get_args(InstrumentKind)
Played = Literal["fingertip", "nail", "plectrum", "thumb", "bow"]
PLAYED: Final[tuple[Played, ...]] = get_args(Played)
POSTURES: Final[tuple[Posture, ...]] = get_args(Posture)
Fretting = Literal["fixed", "movable", "none"]
FRETTINGS: Final[tuple[Fretting, ...]] = get_args(Fretting)
STANDARD: Final = "standard"
ID: Final = re.compile(r"[a-z0-9][a-z0-9-]{0,39}")
# How far a path lengthens for 10 % more relative humidity, once the wood has followed: damp wood
# swells and lifts the bridge. Judged so that a steel string rises by some 5 (plucked) and 12 cents.
DAMP_LENGTHENS_MM: Final = {"plucked": 0.03, "bowed": 0.05}


@dataclass(frozen=True, slots=True)
class Resonance:
    """A mode of the body: where it is, how wide at half its power, and how far it stands out."""

    hz: float
    width_hz: float
    level_db: float

    def __post_init__(self) -> None:
        within(self.hz, name="resonance", low=20.0, high=20_000.0, unit="Hz")
        within(self.width_hz, name="width of a resonance", low=1.0, high=20_000.0, unit="Hz")
        within(self.level_db, name="level of a resonance", low=-20.0, high=40.0, unit="dB")

    def share(self, hz: float) -> float:
        """Return its power at a frequency, as a share of that at its peak."""
        off = (hz - self.hz) / (0.5 * self.width_hz)
        return 1.0 / (1.0 + off * off)


@dataclass(frozen=True, eq=False)
class Body:
    """How the force of a string on the bridge becomes sound: resonances over an even ground, less
    below the lowest of them (12 dB an octave), and less from some frequency on; or, without a body
    that sounds, what a pickup hears of the string.

    played, place: with what and where strings are usually sounded (of the open length, from the
        bridge).
    edge_hz: up to where what sounds the string excites it; 0 for what is usual of its kind.
    lowest_hz, falls_from_hz, falls_db_per_octave: where the body begins and ends.
    pickup_at: of the open length from the bridge; 0 without one.
    attack_s: of the onset; swell, swell_s: what a bow still lacks then, and how fast that comes.
    noise_db: of the stroke, over the tone. noise_hz, noise_s: where it lies and how long it lasts.
    bloom_s: how slowly the upper partials rise, as over the flat bridge of a sitar; 0 at once.
    """

    resonances: tuple[Resonance, ...] = ()
    played: Played = "fingertip"
    place: float = 0.14
    edge_hz: float = 0.0
    lowest_hz: float = 60.0
    falls_from_hz: float = 3000.0
    falls_db_per_octave: float = 6.0
    pickup_at: float = 0.0
    attack_s: float = 0.003
    swell: float = 0.0
    swell_s: float = 0.1
    noise_db: float = -30.0
    noise_hz: float = 1500.0
    noise_s: float = 0.03
    bloom_s: float = 0.0

    def __post_init__(self) -> None:
        within(self.place, name="place of the stroke", low=0.02, high=0.5)
        within(self.edge_hz, name="edge", low=0.0, high=20_000.0, unit="Hz")
        within(self.lowest_hz, name="lowest radiation", low=10.0, high=2000.0, unit="Hz")
        within(self.falls_from_hz, name="upper end", low=200.0, high=20_000.0, unit="Hz")
        within(self.falls_db_per_octave, name="fall", low=0.0, high=48.0, unit="dB an octave")
        within(self.pickup_at, name="place of the pickup", low=0.0, high=0.5)
        within(self.attack_s, name="attack", low=0.0005, high=0.5, unit="s")
        within(self.swell, name="swell", low=0.0, high=1.0)
        within(self.swell_s, name="swell", low=0.01, high=2.0, unit="s")
        within(self.noise_db, name="noise", low=-90.0, high=0.0, unit="dB")
        within(self.noise_hz, name="noise", low=50.0, high=12_000.0, unit="Hz")
        within(self.noise_s, name="noise", low=0.001, high=2.0, unit="s")
        within(self.bloom_s, name="bloom", low=0.0, high=2.0, unit="s")

    def response(self, hz: float) -> float:
        """Return how much of a force at a frequency is heard, as a ratio of amplitudes."""
        above = (hz / self.lowest_hz) ** 2
        power = 1.0 + sum(10.0 ** (one.level_db / 10.0) * one.share(hz) for one in self.resonances)
        falls = (1.0 + (hz / self.falls_from_hz) ** 2) ** (-self.falls_db_per_octave / 12.04)
        return float(above / (1.0 + above) * math.sqrt(power) * falls)


@dataclass(frozen=True, eq=False)
class Losses:
    """How fast partials die away: 1/tau = constant + linear f + quadratic f^2 (1/s, f in Hz), and
    more where the body resonates and takes the string's energy. What is left in a second direction
    of swinging, which the bridge feels less, dies away more slowly (Weinreich, 1977).

    bridge_per_s: what a resonance at its peak adds.
    tail_share, tail_times: of the amplitude that is left, and how much longer it lasts.
    """

    constant_per_s: float
    quadratic_s: float
    linear: float = 0.0
    bridge_per_s: float = 0.0
    tail_share: float = 0.0
    tail_times: float = 1.0

    def __post_init__(self) -> None:
        within(self.constant_per_s, name="constant loss", low=0.01, high=20.0, unit="1/s")
        within(self.linear, name="linear loss", low=0.0, high=0.1)
        within(self.quadratic_s, name="quadratic loss", low=1e-9, high=1e-3, unit="s")
        within(self.bridge_per_s, name="loss at the bridge", low=0.0, high=50.0, unit="1/s")
        within(self.tail_share, name="share of the tail", low=0.0, high=0.9)
        within(self.tail_times, name="length of the tail", low=1.0, high=20.0)

    def decay_s(self, frequency_hz: float, body: Body | None = None) -> float:
        """Return the time in seconds in which a partial falls to 1/e of its amplitude, at first."""
        loss = self._of_string(frequency_hz)
        if self.bridge_per_s and body is not None:
            loss += self.bridge_per_s * sum(one.share(frequency_hz) for one in body.resonances)
        return 1.0 / loss

    def shortest_s(self, frequency_hz: float, body: Body) -> float:
        """Return what `decay_s` is at least, were every resonance at its peak; found faster."""
        return 1.0 / (self._of_string(frequency_hz) + self.bridge_per_s * len(body.resonances))

    def _of_string(self, hz: float) -> float:
        return self.constant_per_s + hz * (self.linear + self.quadratic_s * hz)


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
    posture: how it is held while it is tuned: on the lap or a strap, under the chin (on the knee at
        first), upright on its spike, or at a slant by one who sits on the floor.
    chords: what players end with, by tuning.

    Raises:
        MeldrinError: code ``catalogue`` for values that do not go together; OutOfRange for a
            number.
    """

    id: str
    name: str
    order: int
    kind: InstrumentKind
    fretting: Fretting
    frets: int
    frame_compliance_m_per_n: float
    damp_lengthens_m: float
    life_hours: tuple[float, float]
    losses: Losses = field(compare=False)  # known by the file, as all of it is
    body: Body = field(compare=False)
    strings: tuple[String, ...]
    tunings: tuple[Tuning, ...]
    chords: tuple[Chord, ...] = field(default=(), compare=False)
    posture: Posture = field(default="lap", compare=False)

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

    def __hash__(self) -> int:
        return hash(self.id)  # equal ones have one id, and all the strings take long to hash

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

    def chords_in(self, tuning: Tuning) -> tuple[Chord, ...]:
        """Return the chords that can be played in a tuning."""
        return chords_in(self.chords, self.tunings, tuning)

    def chord(self, tuning: Tuning, name: str) -> Chord:
        """Return the chord of this name in a tuning.

        Raises:
            MeldrinError: code ``no_such_chord``; the message lists those there are.
        """
        found = {one.name: one for one in self.chords_in(tuning)}
        return known(found, name, name="chord", code=Code.NO_SUCH_CHORD)


def tuning_said(made: Instrument, said: str) -> Tuning:
    """Return the tuning of this id, or of these notes.

    Raises:
        MeldrinError: ``no_such_tuning``, or what `tuning_of_notes` finds wrong.
    """
    if said in {tuning.id for tuning in made.tunings} or not any(c.isdigit() for c in said):
        return made.tuning(said)
    return tuning_of_notes(made.strings, said)
