"""Works along a plan, keeping where each string is wanted and the strain that brings it there."""

import math
from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction
from typing import Final

from meldrin.core.beats import (
    FIFTH_FAMILY,
    attainable_cents,
    beats_per_cent,
    interval_name,
    meeting,
    overtone_name,
    seconds_to_hear,
)
from meldrin.core.catalogue import Chord
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.methods.naming import string_labels
from meldrin.core.methods.pairs import node_fret
from meldrin.core.methods.plan import Check, Plan, Reference, Side, Step
from meldrin.core.methods.wanted import Wanted
from meldrin.core.pitch import (
    cents_between,
    note_name,
    shifted_by_cents,
)
from meldrin.core.sound.partials import AUDIBLE, PartialTable, Series, string_series
from meldrin.core.sound.references import (
    Source,
    partial_place,
    reference,
    reference_series,
    stretched_cents,
)
from meldrin.core.sound.stroke import stroke
from meldrin.core.sound.together import (
    as_loud_by,
    balanced,
    levels_over,
    matched_at_s,
    mean_depth,
)
from meldrin.core.strings import (
    EVERYDAY_SHARE,
    WARNING_SHARE,
    breaking_share,
    semitones_at,
    sounding_hz,
    stopped_cents,
    strain_sounding,
    tension_at_strain,
)
from meldrin.core.temperament import Temperament, Tone, just_ratio
from meldrin.core.units import cents_of_ratio, semitones_of_cents
from meldrin.core.words import capital, cents_said, with_article

LISTENING_CENTS = 2.0
# So much of the loudness comes and goes, on average, while one listens: half of it, and a little
# more, since a string may stand beside its note.
DEEP: Final = 0.55
MOST_PARTED_CENTS: Final = 3.0
MOST_STRETCHED_CENTS: Final = 0.5  # by which a reference's partial may lie beside its multiple
SHIMMER = " A piano’s upper tones are sharp: match its lowest tone, not the shimmer."
OF_A_PIANO = " With a piano match its lowest tone instead, not the shimmer."
TIMES: Final = (1, 2, 3, 4, 6, 8)  # octaves and fifths above, which an ear finds
HIGHEST_OF_REFERENCE: Final = 10
HIGHEST_OF_STRING: Final = 12
HIGHEST_TOUCHED: Final = 8
# The two that lack most at some partials go first, and spare the others a look.
TONES: Final[tuple[Source, ...]] = ("oboe", "pipe", "piano", "player", "tone")
HIGHEST_MEETING_HZ: Final = 2700.0  # above it nobody picks out a partial
LEAST_AIM_CENTS = 0.5  # nobody aims off by less
SHORTEST_RING_S: Final = 0.1
LONGEST_RING_S: Final = 60.0
READING_S = 1.5  # half a second of attack, and a settled second
TURN_ASIDE = "Small turns on the way up, and your face turned aside: a string can snap."
PUSH_IN = "Push the peg in while you turn it, or it slips back."
NEAR_LIMIT = (
    "This string is near its limit even in tune. The smallest turns, eyes and face away,"
    " and nobody close."
)


class Builder:
    """Adds steps and checks in order; a string must be tuned before others are compared with it."""

    def __init__(self, wanted: Wanted, temperament: Temperament, reference: Reference) -> None:
        self.wanted = wanted
        self.instrument = wanted.instrument
        self.tuning = wanted.tuning
        self.temperament = temperament
        self.reference = reference
        self.steps: list[Step] = []
        self.checks: list[Check] = []
        self.pairs: list[tuple[int, int]] = []
        self.trusted = 0
        self._strains: dict[int, float] = {}
        self._tones: dict[int, Tone] = {}
        # what each string sounds like where it is wanted, asked for at every partial considered
        self._partials_at: dict[tuple[int, int, bool], Series] = {}
        self._tables: dict[tuple[int, int, float | None], PartialTable] = {}
        self._labels = string_labels(self.instrument, self.tuning, wanted.naming)
        self._reference_tones: dict[float, Tone] = {}
        self.sound_word = "Bow" if self.instrument.kind == "bowed" else "Play"

    def label(self, number: int) -> str:
        """Return what players call the string."""
        return self._labels[number - 1]

    def peg(self, number: int) -> str:
        """Return what is turned, and whose: “the peg of D”, “the tuning machine of D”."""
        return f"the {self.instrument.string(number).peg.word} of {self.label(number)}"

    def note(self, midi: int) -> str:
        """Return what a note is called."""
        return note_name(midi, naming=self.wanted.naming, tonic=self.tuning.tonic)

    def tone(self, number: int) -> Tone:
        """Return where the string is wanted over the reference; set once by a pure chain."""
        if number not in self._tones:
            self._tones[number] = self.temperament.tone(
                self.tuning.midi(number), reference_midi=self.reference.midi, number=number
            )
        return self._tones[number]

    def place(self, number: int, tone: Tone) -> None:
        """Say where the string is wanted, for a method that goes by pure intervals alone."""
        self._tones[number] = tone
        self._tables.clear()
        self._partials_at.clear()

    def trust(self, number: int) -> None:
        """Take a string as it is: the others are tuned to it, and it needs no step."""
        self.trusted = number
        hz = self.tone(number).hz(self.reference.hz)
        self._strains[number] = strain_sounding(
            self.instrument.string(number), frequency_hz=hz, fret=0, number=1
        )
        self._companions(number)

    # Sides of a comparison

    def open(self, number: int, partial: int = 1) -> Side:
        """Return the open string, of which one partial is listened to."""
        return Side(number, 0, partial)

    def stopped(self, number: int, fret: int) -> Side:
        """Return the string pressed behind a fret."""
        return Side(number, fret, 1)

    def harmonic(self, number: int, partial: int) -> Side:
        """Return the string touched where partial n has its node nearest the nut; 1 is open."""
        if partial == 1:
            return self.open(number)
        nut = self.instrument.string(number).nut_fret
        return Side(number, 0, partial, node_fret(partial, nut_fret=nut), 1.0 / partial)

    def sounded(self, partial: int = 1, hz: float | None = None) -> Side:
        """Return the reference."""
        return Side(None, 0, partial, hz=self.reference.hz if hz is None else hz)

    def where(self, touch: Side) -> str:
        """Return in words where a harmonic is touched."""
        if touch.node_fret is None:
            return "open"
        if self.instrument.frets:
            fret = round(touch.node_fret)
            if abs(touch.node_fret - fret) < 0.06:
                return f"over fret {fret}"
            return f"just {'below' if touch.node_fret < fret else 'above'} fret {fret}"
        parts = {2: "half", 3: "a third of", 4: "a quarter of"}
        return f"at {parts.get(touch.partial, f'1/{touch.partial} of')} the string"

    # Which partials are listened to

    def clearest(self, own: Side, other: Side) -> tuple[Side, Side]:
        """Return the two sides with the lowest partials that beat deep enough while one listens.

        Where a string dies away long before a slow beat is over, or is far weaker there than its
        partner, the same interval is heard better at multiples of the two partials: they beat
        faster for the same offset. The first that beats by half on average, else the best.
        """
        shallow = []
        for times in TIMES:
            sides = own, other
            if times > 1:
                sides = (
                    replace(own, partial=times * own.partial),
                    replace(other, partial=times * other.partial),
                )
                if not self._heard_there(*sides):
                    break
                if self._parts_cents(*sides, (own, other)) > MOST_PARTED_CENTS:
                    break
            rest = self._depths(*sides)
            depth = next((one for one in rest if one < DEEP), None)
            if depth is None:
                return sides
            shallow.append((depth, rest, sides))
        found, deepest = (own, other), -1.0
        # one that is already no deeper than another is not looked at to its end: this is the
        # longest part of making a plan
        for depth, rest, sides in sorted(shallow, key=lambda one: one[0], reverse=True):
            least = depth
            while least > deepest and (more := next(rest, None)) is not None:
                least = min(least, more)
            if least > deepest:
                found, deepest = sides, least
        return found

    def _heard_there(self, own: Side, other: Side) -> bool:
        if other.string is None and "fork" in self._sources():
            return False  # it has one tone
        if self.wanted.source == "piano" and self._piano_cents(other) > MOST_STRETCHED_CENTS:
            return False  # still would leave the note beside itself
        highest = [
            HIGHEST_OF_REFERENCE
            if side.string is None
            else HIGHEST_OF_STRING
            if side.node_fret is None
            else HIGHEST_TOUCHED  # a finger a little beside its node takes the higher ones
            for side in (own, other)
        ]
        return (
            own.partial <= highest[0]
            and other.partial <= highest[1]
            and self._meeting_hz(other) <= HIGHEST_MEETING_HZ
        )

    def _shimmer(self, own: Side, other: Side) -> str:
        """Return what to mind where a piano's stretch could lead the ear astray."""
        if other.string is not None or self.reference.kind in ("fork", "drone"):
            return ""
        if self.wanted.source == "piano" and min(self._depths(own, other)) < DEEP:
            return SHIMMER
        return OF_A_PIANO if self._piano_cents(other) > MOST_STRETCHED_CENTS else ""

    def _depths(self, own: Side, other: Side) -> Iterator[float]:
        """Yield the mean depth of their beat while one listens, by each of the sounds that a
        reference may have.
        """
        listen_s = self._listen_s(other)
        heard: list[float] = []
        for one, place, given, its_place, loud in self._sounding(own, other, listen_s):
            # of the string it is the same beside every reference
            heard = heard or levels_over(one, place, listen_s=listen_s)
            its = levels_over(given, its_place, listen_s=listen_s)
            yield mean_depth(heard, its, loud=loud)

    def _listen_s(self, other: Side) -> float:
        """Return how long it takes to hear two cents where the partials meet."""
        return seconds_to_hear(LISTENING_CENTS * beats_per_cent(self._meeting_hz(other)))

    def _meeting_hz(self, other: Side) -> float:
        """Return where the partials meet, on flexible strings."""
        return other.partial * self._note(other).hz(self.reference.hz)

    def _sounding(
        self, own: Side, other: Side, listen_s: float
    ) -> Iterator[tuple[PartialTable, int, PartialTable, int, float]]:
        """Yield both sides as they sound together, each with the place of its partial, and how
        many times as loud the other one is; once for every sound that the reference may have.
        """
        at_s = matched_at_s(listen_s)
        table = self._table(own)
        if other.string is not None:
            both = balanced(table, own.partial, self._table(other), other.partial, at_s=at_s)
            yield both[0], own.partial, both[1], other.partial, 1.0
            return
        assert other.hz is not None
        meets = table.level(own.partial, at_s)
        for source in self._sources():
            first_hz = self.reference.hz if source == "drone" else other.hz
            given = reference(source, hz=first_hz)
            place = partial_place(source, partial=other.partial, over_first=other.hz / first_hz)
            loud = as_loud_by(given, place, meets=meets, at_s=at_s)
            yield table, own.partial, given, place, loud

    def _rings_s(self, own: Side, other: Side) -> float:
        """Return for how long both can be heard, by whichever reference is the shortest."""
        sounding = list(self._sounding(own, other, self._listen_s(other)))
        table, place, *_ = sounding[0]  # the string is the same beside each
        rings = [given.heard_s(its, AUDIBLE / loud) for _, _, given, its, loud in sounding]
        rings_s = min(table.heard_s(place, AUDIBLE), *rings)
        return min(max(rings_s, SHORTEST_RING_S), LONGEST_RING_S)

    def _sources(self) -> tuple[Source, ...]:
        kind = self.reference.kind
        if kind in ("fork", "drone"):
            return (kind,)
        return (self.wanted.source,) if self.wanted.source else TONES

    def _piano_cents(self, side: Side) -> float:
        """Return how far a piano's partial lies above the multiple of its first, in cents; 0 for a
        string, and for a reference that is no piano.
        """
        if side.string is not None or self.reference.kind in ("fork", "drone"):
            return 0.0
        if not self.wanted.stretched or self.wanted.source not in ("", "piano"):
            return 0.0
        assert side.hz is not None
        return stretched_cents("piano", hz=side.hz, partial=side.partial)

    def _table(self, side: Side) -> PartialTable:
        """Return how a string sounds on this instrument, tuned where it is wanted."""
        assert side.string is not None
        made = (side.string, side.fret, side.node_share)
        if made not in self._tables:
            self._tables[made] = stroke(
                self.instrument,
                side.string,
                self._series(side),
                by_bow=self.instrument.kind == "bowed",
                pressed=side.fret,
                touched_at=side.node_share,
            )
        return self._tables[made]

    def _series(self, side: Side) -> Series:
        assert side.string is not None
        locked = self.instrument.kind == "bowed" and side.node_fret is None
        made = (side.string, side.fret, locked)
        if made not in self._partials_at:
            string = self.instrument.string(side.string)
            note_hz = self.tone(side.string).hz(self.reference.hz)
            strain = strain_sounding(string, frequency_hz=note_hz, fret=0, number=1)
            self._partials_at[made] = string_series(
                string, strain=strain, fret=side.fret, harmonic=locked
            )
        return self._partials_at[made]

    def _parts_cents(self, own: Side, other: Side, plain: tuple[Side, Side]) -> float:
        """Return how far the stiffness of the strings parts these partials, beside what it does to
        those that meet first: so far the note would end off.
        """
        return abs(
            self._stretched(own)
            - self._stretched(plain[0])
            - self._stretched(other)
            + self._stretched(plain[1])
        )

    def _stretched(self, side: Side) -> float:
        """Return how far a partial lies above the multiple of its first, in cents."""
        if side.string is None:
            return 0.0
        stiffness = self._series(side).stiffness
        return cents_of_ratio(math.sqrt((1.0 + stiffness * side.partial**2) / (1.0 + stiffness)))

    def _higher(self, own: Side, *, over: int) -> str:
        """Return where in the sound to listen, if not at the partials that meet first."""
        if own.partial == over:
            return ""
        name = with_article(overtone_name(own.partial))
        return f" The wobble is clearest {name} above the note."

    # Steps

    def step(
        self,
        own: Side,
        other: Side,
        *,
        title: str,
        instruction: str,
        interval: str | None = None,
        by_tuner: bool = False,
    ) -> None:
        """Tune `own.string` against the other side, or to a tuner's reading of that pitch."""
        if not by_tuner:
            plain = own.partial
            own, other = self.clearest(own, other)
            instruction += self._higher(own, over=plain)
            instruction += self._shimmer(own, other)
        assert own.string is not None
        offset = self._offset(own, other)
        other_hz = self._hz(other)
        string = self.instrument.string(own.string)
        locked = self._locked(own)
        self._strains[own.string] = strain_sounding(
            string,
            frequency_hz=shifted_by_cents(other_hz, cents=offset) / locked,
            fret=own.fret,
            number=own.partial // locked,
        )
        self.tone(own.string)
        if self.trusted and not self.steps:
            label = self.label(self.trusted)
            instruction += (
                f" You trust {label} as it is: the instrument will agree with itself, and may be"
                " off for playing with others."
            )
        if other.string is not None:
            self.pairs.append((own.string, other.string))
        per_cent = beats_per_cent(other_hz)
        beats = self._beats(other, offset)
        listen, hears = READING_S, 0.0
        if not by_tuner:
            listen = seconds_to_hear(LISTENING_CENTS * per_cent)
            hears = attainable_cents(other_hz, ringing_s=self._rings_s(own, other))
        if offset:
            listen = max(listen, min(seconds_to_hear(beats), 30.0))
        aim = self._aim(own.string)
        if aim:
            rate = "" if by_tuner else f", at about {-aim * per_cent:.1f} beats a second"
            instruction += (
                f" Leave it {cents_said(-aim)} low{rate}: the strings turned after it lift it."
            )
        size = abs(self._note(own).over(self._note(other)).size_cents)
        self.steps.append(
            Step(
                own=own,
                other=other,
                target_cents=size,
                interval=interval or self.words_for(own, other, offset),
                offset_cents=offset,
                meeting_hz=other_hz,
                beats_hz=beats,
                beats_hz_per_cent=per_cent,
                seconds_to_hear=listen,
                hears_cents=hears,
                title=title,
                instruction=instruction,
                caution=self._caution(own.string),
                by_tuner=by_tuner,
                aim_cents=aim,
            )
        )
        self._companions(own.string)

    def _aim(self, number: int) -> float:
        """Return how far from its note a string is left at its turn, in cents; 0 or below."""
        aim = self.wanted.aims_cents[number - 1] if self.wanted.aims_cents else 0.0
        return aim if aim <= -LEAST_AIM_CENTS else 0.0

    def goal(self, own: Side, other: Side) -> str:
        """Return the half sentence that says when a comparison is right."""
        offset = self._offset(own, other)
        if offset == 0.0:
            return "until the beats stop"
        rate = self._beats(other, offset)
        side = self._side(own, other, offset)
        return f"until it is still, then a little {side} still, to {rate:.1f} beats a second"

    def _side(self, own: Side, other: Side, offset: float) -> str:
        """Return on which side of still an offset lies: of a pitch, or of an interval."""
        if other.string is None:
            return "above" if offset > 0.0 else "below"
        own_higher = self._semitones(own) >= self._semitones(other)
        return "wider than" if (offset > 0.0) == own_higher else "narrower than"

    def words_for(self, own: Side, other: Side, offset: float) -> str:
        """Return the interval in the method's words: its name, pure or by how much it is not."""
        semitones = abs(self._semitones(own) - self._semitones(other))
        name = interval_name(semitones)
        if semitones == 0 and offset == 0.0:
            return "unison"
        if offset == 0.0:
            return f"{name}, pure" if name.endswith("octaves") else f"pure {name}"
        size = cents_said(abs(offset))
        side = self._side(own, other, offset)
        if other.string is None:
            return f"{name}, {size} {side} still"
        return f"{name} {'widened' if side == 'wider than' else 'narrowed'} by {size}"

    def _caution(self, number: int) -> str:
        """Return the caution for turning this string's peg.

        Raises:
            MeldrinError: code ``unsafe_tuning``, for an offset past what the string should bear.
        """
        string = self.instrument.string(number)
        tension_n = tension_at_strain(string, self._strains[number])
        share = breaking_share(string, tension_n=tension_n)
        if share > WARNING_SHARE:
            raise MeldrinError(
                Code.UNSAFE_TUNING,
                f"String {string.label or number} would be at {share:.0%} of its breaking load;"
                f" the most is {WARNING_SHARE:.0%}.",
            )
        if share > EVERYDAY_SHARE:
            return NEAR_LIMIT
        if string.peg.kind == "friction peg":
            return f"{PUSH_IN} {TURN_ASIDE}"
        return TURN_ASIDE

    def open_pair(self, new: int, old: int, *, listen: str = "") -> None:
        """Tune a string against another, both open, where two of their partials meet."""
        own, other = self.meeting_touches(new, old)
        names = f"{self.label(old)} and {self.label(new)}"
        self.step(
            own,
            other,
            title=f"{capital(self.label(new))} from {self.label(old)}",
            instruction=(
                f"{self.sound_word} the open {names} together. Turn {self.peg(new)}"
                f" {self.goal(own, other)}.{listen}"
            ),
        )

    def meeting_touches(self, new: int, old: int) -> tuple[Side, Side]:
        """Return both open strings with the partials of theirs that meet."""
        difference = self.tuning.midi(new) - self.tuning.midi(old)
        pair = meeting(abs(difference))
        assert pair is not None
        of_lower, of_upper = pair
        if difference >= 0:
            return self.open(new, of_upper), self.open(old, of_lower)
        return self.open(new, of_lower), self.open(old, of_upper)

    def can_meet(self, one: int, two: int) -> bool:
        """Whether two open strings share low partials at an octave, a fifth or a fourth."""
        return abs(self.tuning.midi(one) - self.tuning.midi(two)) in FIFTH_FAMILY

    def just_ratio_over_reference(self, number: int) -> Fraction:
        """Return the plain ratio of the string's note over the reference's note."""
        return just_ratio(self.tuning.midi(number) - self.reference.midi)

    def _companions(self, number: int) -> None:
        """Bring the other strings of a course to the one just tuned."""
        course = self.instrument.string(number).course
        if self.instrument.strings[number - 1].number != min(
            string.number for string in self.instrument.strings if string.course == course
        ):
            return
        for string in self.instrument.strings:
            if string.course != course or string.number == number:
                continue
            if self.tuning.midi(string.number) != self.tuning.midi(number):
                self.place(string.number, self._shifted(number, string.number))
            else:
                self.place(string.number, self.tone(number))
            own, other = self.meeting_touches(string.number, number)
            first, second = self.label(number), self.label(string.number)
            self.step(
                own,
                other,
                title=f"{capital(second)} with {first}",
                instruction=(
                    f"Play the {first} and the {second} together, as one course. Turn"
                    f" {self.peg(string.number)} until the two are one sound."
                ),
            )

    def _shifted(self, number: int, other: int) -> Tone:
        octaves = (self.tuning.midi(other) - self.tuning.midi(number)) // 12
        tone = self.tone(number)
        return Tone(tone.ratio * Fraction(2) ** octaves, tone.cents)

    # Checks

    def check(
        self,
        own: Side,
        other: Side,
        *,
        title: str,
        instruction: str,
        chord: Chord | None = None,
        sets_fret: bool = False,
    ) -> None:
        """Listen to two tuned strings at the end, or to a chord they are part of; or set the fret
        of the own side.
        """
        own, other = self.clearest(own, other)
        meeting_hz, own_hz = self._hz(other), self._hz(own)
        offset = self._offset(own, other)
        beats_hz = self._beats(other, offset) if sets_fret else abs(own_hz - meeting_hz)
        size = abs(self._note(own).over(self._note(other)).size_cents)
        self.checks.append(
            Check(
                own=own,
                other=other,
                target_cents=size,
                interval=self.words_for(own, other, offset),
                meeting_hz=meeting_hz,
                beats_hz=beats_hz,
                beats_hz_per_cent=beats_per_cent(meeting_hz),
                title=title,
                instruction=instruction,
                chord=chord,
                offset_cents=offset if sets_fret else 0.0,
                sets_fret=sets_fret,
            )
        )

    # The plan

    def plan(self, method: str) -> Plan:
        """Return what has been put together."""
        numbers = [string.number for string in self.instrument.strings]
        return Plan(
            method=method,
            instrument=self.instrument,
            tuning=self.tuning,
            temperament=self.temperament,
            reference=self.reference,
            a4_hz=self.wanted.a4_hz,
            ideal_hz=tuple(self.tone(number).hz(self.reference.hz) for number in numbers),
            targets_hz=tuple(self._hz(self.open(number)) for number in numbers),
            steps=tuple(self.steps),
            checks=tuple(self.checks),
            trusted=self.trusted,
            naming=self.wanted.naming,
        )

    def _offset(self, own: Side, other: Side) -> float:
        """Return how far the own partial is wanted above the other's, in cents; 0: still."""
        cents = self._ideal(own).over(self._ideal(other)).size_cents
        return 0.0 if abs(cents) < 1e-9 else cents

    def _ideal(self, touch: Side) -> Tone:
        """Return the partial listened to, on flexible strings, over the reference."""
        note = self._note(touch)
        return note if touch.partial == 1 else Tone(note.ratio * touch.partial, note.cents)

    def _note(self, touch: Side) -> Tone:
        """Return the note of the string as stopped, on flexible strings, over the reference."""
        if touch.string is None:
            assert touch.hz is not None
            return self._reference_tone(touch.hz)
        tone = self.tone(touch.string)
        if touch.fret == 0:
            return tone
        string = self.instrument.string(touch.string)
        return Tone(tone.ratio, tone.cents + stopped_cents(string, touch.fret))

    def _reference_tone(self, hz: float) -> Tone:
        if hz not in self._reference_tones:
            ratio = Fraction(hz / self.reference.hz).limit_denominator(64)
            exact = abs(float(ratio) * self.reference.hz - hz) < 1e-9 * hz
            cents = 0.0 if exact else cents_between(hz, reference_hz=self.reference.hz)
            self._reference_tones[hz] = Tone(ratio if exact else Fraction(1), cents)
        return self._reference_tones[hz]

    def _semitones(self, touch: Side) -> int:
        if touch.string is None:
            assert touch.hz is not None
            return round(
                self.reference.midi + semitones_of_cents(self._reference_tone(touch.hz).size_cents)
            )
        string = self.instrument.string(touch.string)
        return self.tuning.midi(touch.string) + semitones_at(string, touch.fret)

    def beats_between(self, own: Side, other: Side) -> float:
        """Return how fast both sides beat where the method wants them, on flexible strings."""
        return self._beats(other, self._offset(own, other))

    def _beats(self, other: Side, offset: float) -> float:
        """Return the beats of an ideal, flexible pair whose partials lie `offset` cents apart."""
        ideal_hz = self._ideal(other).hz(self.reference.hz)
        return abs(shifted_by_cents(ideal_hz, cents=offset) - ideal_hz)

    def _hz(self, touch: Side) -> float:
        if touch.string is None:
            assert touch.hz is not None
            if self.wanted.source and self.wanted.stretched:
                return reference_series(self.wanted.source, hz=touch.hz).partial_hz(touch.partial)
            return touch.hz * touch.partial
        locked = self._locked(touch)
        return locked * sounding_hz(
            self.instrument.string(touch.string),
            strain=self._strains[touch.string],
            fret=touch.fret,
            number=touch.partial // locked,
        )

    def _locked(self, touch: Side) -> int:
        """Return by how much the partial is an exact multiple of what the string is made to sound.

        A bow keeps the whole motion periodic, so a bowed string's partials are harmonic however
        stiff it is (Helmholtz motion; Cremer, The Physics of the Violin, 1984). Touched at a node
        it sounds that partial of its own as it is; plucked, every partial goes its own way.
        """
        bowed = self.instrument.kind == "bowed" and touch.node_fret is None
        return touch.partial if bowed else 1
