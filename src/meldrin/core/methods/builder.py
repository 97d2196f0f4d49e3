"""Works along a plan, keeping where each string is wanted and the strain that brings it there."""

from collections.abc import Iterable
from fractions import Fraction

from meldrin.core.beats import FIFTH_FAMILY, beats_per_cent, interval_name, meeting, seconds_to_hear
from meldrin.core.errors import MeldrinError
from meldrin.core.methods.naming import string_label
from meldrin.core.methods.pairs import apart, leaders, node_fret
from meldrin.core.methods.plan import Check, Plan, Reference, Step, Touch
from meldrin.core.methods.wanted import Wanted
from meldrin.core.pitch import (
    A4_MIDI,
    cents_between,
    equal_tempered_hz,
    note_name,
    shifted_by_cents,
)
from meldrin.core.strings import (
    EVERYDAY_SHARE,
    WARNING_SHARE,
    breaking_share,
    semitones_at,
    sounding_hz,
    strain_sounding,
    tension_at_strain,
)
from meldrin.core.temperament import Temperament, Tone, just_ratio
from meldrin.core.words import capital, cents_said

LISTENING_CENTS = 2.0
LOWEST_TONE_MIDI = 52
MIDDLE_MIDI = 54  # where a drone or a voice lies
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
        self._strains: dict[int, float] = {}
        self._tones: dict[int, Tone] = {}
        self._labels = [
            string_label(self.instrument, string.number, self.tuning)
            for string in self.instrument.strings
        ]
        self._reference_tones: dict[float, Tone] = {}
        self._sound = "Bow" if self.instrument.kind == "bowed" else "Sound"

    def label(self, number: int) -> str:
        """Return what players call the string."""
        return self._labels[number - 1]

    def tone(self, number: int) -> Tone:
        """Return where the string is wanted over the reference; set once by a pure chain."""
        if number not in self._tones:
            self._tones[number] = self.temperament.tone(
                self.tuning.midi(number), reference_midi=self.reference.midi, number=number
            )
        return self._tones[number]

    def place(self, number: int, tone: Tone) -> None:
        """Say where the string is wanted, for a school that goes by pure intervals alone."""
        self._tones[number] = tone

    # Sides of a comparison

    def open(self, number: int, partial: int = 1) -> Touch:
        """Return the open string, of which one partial is listened to."""
        return Touch(number, 0, partial)

    def stopped(self, number: int, fret: int) -> Touch:
        """Return the string pressed behind a fret."""
        return Touch(number, fret, 1)

    def harmonic(self, number: int, partial: int) -> Touch:
        """Return the string touched where partial n has its node nearest the nut; 1 is open."""
        if partial == 1:
            return self.open(number)
        nut = self.instrument.string(number).nut_fret
        return Touch(number, 0, partial, node_fret(partial, nut_fret=nut), 1.0 / partial)

    def sounded(self, partial: int = 1, hz: float | None = None) -> Touch:
        """Return the reference."""
        return Touch(None, 0, partial, hz=self.reference.hz if hz is None else hz)

    def where(self, touch: Touch) -> str:
        """Return in words where a harmonic is touched."""
        if touch.node_fret is None:
            return "open"
        if self.instrument.frets:
            fret = round(touch.node_fret)
            if abs(touch.node_fret - fret) < 0.06:
                return f"over fret {fret}"
            return f"just {'below' if touch.node_fret < fret else 'above'} fret {fret}"
        parts = {2: "at half the string", 3: "at a third of the string", 4: "at a quarter of it"}
        return parts.get(touch.partial, f"at 1/{touch.partial} of the string")

    # Steps

    def step(
        self,
        own: Touch,
        other: Touch,
        *,
        title: str,
        instruction: str,
        interval: str | None = None,
        listen_s: float | None = None,
    ) -> None:
        """Tune `own.string` against the other side; `listen_s` where it is not beats that tell."""
        assert own.string is not None
        gap = self._ideal(own).over(self._ideal(other))
        offset = gap.size_cents if gap.cents or gap.ratio != 1 else 0.0
        if abs(offset) < 1e-9:
            offset = 0.0
        other_hz = self._hz(other)
        string = self.instrument.string(own.string)
        self._strains[own.string] = strain_sounding(
            string,
            frequency_hz=shifted_by_cents(other_hz, cents=offset),
            fret=own.fret,
            number=own.partial,
        )
        self.tone(own.string)
        if other.string is not None:
            self.pairs.append((own.string, other.string))
        per_cent = beats_per_cent(other_hz)
        beats = self._beats(other, offset)
        listen = seconds_to_hear(LISTENING_CENTS * per_cent)
        if offset:
            listen = max(listen, min(seconds_to_hear(beats), 30.0))
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
                seconds_to_hear=listen if listen_s is None else listen_s,
                title=title,
                instruction=instruction,
                caution=self._caution(own.string),
            )
        )
        self._companions(own.string)

    def goal(self, own: Touch, other: Touch) -> str:
        """Return the half sentence that says when a comparison is right."""
        gap = self._ideal(own).over(self._ideal(other)).size_cents
        if abs(gap) < 1e-9:
            return "until the beats stop"
        rate = self._beats(other, gap)
        side = self._side(own, other, gap)
        return f"until it stands still, then a little {side} that, to {rate:.1f} beats a second"

    def _side(self, own: Touch, other: Touch, offset: float) -> str:
        """Return on which side of still an offset lies: of a pitch, or of an interval."""
        if other.string is None:
            return "above" if offset > 0.0 else "below"
        own_higher = self._semitones(own) >= self._semitones(other)
        return "wide of" if (offset > 0.0) == own_higher else "narrow of"

    def words_for(self, own: Touch, other: Touch, offset: float) -> str:
        """Return the interval in the school's words: its name, pure or by how much it is not."""
        semitones = abs(self._semitones(own) - self._semitones(other))
        name = interval_name(semitones)
        if semitones == 0 and offset == 0.0:
            return "unison"
        if offset == 0.0:
            return f"pure {name}"
        size = cents_said(abs(offset))
        side = self._side(own, other, offset)
        if other.string is None:
            return f"{name}, {size} {side} still"
        return f"{name} {'widened' if side == 'wide of' else 'narrowed'} by {size}"

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
                "unsafe_tuning",
                f"String {string.label or number} would be at {share:.0%} of its breaking load;"
                f" the most is {WARNING_SHARE:.0%}.",
            )
        if share > EVERYDAY_SHARE:
            return NEAR_LIMIT
        if string.peg.kind == "friction peg":
            return f"{PUSH_IN} {TURN_ASIDE}"
        return TURN_ASIDE

    def from_reference(self, number: int) -> None:
        """Begin with one string, from the fork or from a note sounded for it."""
        label = self.label(number)
        if self.reference.kind == "fork":
            partial = int(2 ** ((A4_MIDI - self.tuning.midi(number)) // 12))
            which = "It" if partial == 1 else f"Its {ordinal(partial)} partial"
            own = self.open(number, partial)
            self.step(
                own,
                self.sounded(),
                title=f"{capital(label)} from the fork",
                instruction=(
                    f"Sound the fork and the open {label} together. {which} meets the fork."
                    f" Turn the peg of {label} {self.goal(own, self.sounded())}."
                ),
            )
            return
        note = note_name(self.reference.midi)
        partial = int(2 ** ((self.reference.midi - self.tuning.midi(number)) // 12))
        own, other = self.harmonic(number, partial), self.sounded()
        touch = "" if partial == 1 else f", touched {self.where(own)},"
        self.step(
            own,
            other,
            title=f"{capital(label)} from a sounded {note}",
            instruction=(
                f"Have {a_note(note)} sounded, by a tuner, a pipe or a piano, and sound the open"
                f" {label}{touch} with it. Turn the peg of {label} {self.goal(own, other)}."
            ),
        )

    def open_pair(self, new: int, old: int, *, listen: str = "") -> None:
        """Tune a string against another, both open, where two of their partials meet."""
        own, other = self.meeting_touches(new, old)
        names = f"{self.label(old)} and {self.label(new)}"
        self.step(
            own,
            other,
            title=f"{capital(self.label(new))} from {self.label(old)}",
            instruction=(
                f"{self._sound} the open {names} together. Turn the peg of {self.label(new)}"
                f" {self.goal(own, other)}.{listen}"
            ),
        )

    def meeting_touches(self, new: int, old: int) -> tuple[Touch, Touch]:
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
                    f"Sound the {first} and the {second} together, as one course. Turn the peg of"
                    f" the {second} until the two are one sound."
                ),
            )

    def _shifted(self, number: int, other: int) -> Tone:
        octaves = (self.tuning.midi(other) - self.tuning.midi(number)) // 12
        tone = self.tone(number)
        return Tone(tone.ratio * Fraction(2) ** octaves, tone.cents)

    # Checks

    def check(self, own: Touch, other: Touch, *, title: str, instruction: str) -> None:
        """Listen to two tuned strings at the end."""
        meeting_hz, own_hz = self._hz(other), self._hz(own)
        gap = self._ideal(own).over(self._ideal(other)).size_cents
        size = abs(self._note(own).over(self._note(other)).size_cents)
        self.checks.append(
            Check(
                own=own,
                other=other,
                target_cents=size,
                interval=self.words_for(own, other, 0.0 if abs(gap) < 1e-9 else gap),
                meeting_hz=meeting_hz,
                beats_hz=abs(own_hz - meeting_hz),
                beats_hz_per_cent=beats_per_cent(meeting_hz),
                title=title,
                instruction=instruction,
            )
        )

    def check_octaves(self, *, most: int = 1) -> None:
        """Check strings whole octaves apart that were not compared; the outer ones first."""
        octaves = {1: "an octave", 2: "two octaves", 3: "three octaves"}
        for low, high in self._octave_pairs()[:most]:
            span = (self.tuning.midi(high) - self.tuning.midi(low)) // 12
            own, other = self.open(low, 2**span), self.open(high)
            names = (self.label(low), self.label(high))
            self.check(
                own,
                other,
                title=f"Check: {names[0]} with {names[1]}",
                instruction=(
                    f"{self._sound} the open {names[0]} and {names[1]}, {octaves[span]} apart."
                    " A very slow beat may stay, since thick strings are a little stiff."
                    " If it is quicker, go back to the string you trust least."
                ),
            )

    def check_pairs(self, pairs: Iterable[tuple[int, int]], *, why: str) -> None:
        """Check pairs of open strings that have partials in common."""
        for one, two in pairs:
            low, high = sorted((one, two), key=self.tuning.midi)
            own, other = self.meeting_touches(low, high)
            gap = abs(self._ideal(own).over(self._ideal(other)).size_cents)
            rate = self._beats(other, gap)
            sound = "still" if rate < 0.05 else f"at about {rate:.1f} beats a second"
            self.check(
                own,
                other,
                title=f"Check: {self.label(low)} with {self.label(high)}",
                instruction=(
                    f"{self._sound} the open {self.label(low)} and {self.label(high)}: they should"
                    f" stand {sound}. {why}"
                ),
            )

    def check_again(self) -> None:
        """Go through the comparisons once more: later strings have moved the earlier ones."""
        firsts = set(leaders(self.instrument))
        for step in self.steps:
            if not {step.own.string, step.other.string} <= firsts:
                continue
            labels = sorted(
                (touch.string for touch in (step.own, step.other) if touch.string is not None),
                key=self.tuning.midi,
            )
            names = " with ".join(self.label(number) for number in labels)
            sound = "still" if step.beats_hz < 0.05 else f"at {step.beats_hz:.1f} beats a second"
            first = not self.checks
            self.check(
                step.own,
                step.other,
                title=f"Again: {names}",
                instruction=f"As you tuned them: {sound}."
                + (
                    " Each string you turned has moved the others a little; touch up what has"
                    " moved."
                    if first
                    else ""
                ),
            )

    def _octave_pairs(self) -> list[tuple[int, int]]:
        used = {frozenset(pair) for pair in self.pairs}
        found = []
        firsts = [
            number
            for number in leaders(self.instrument)
            if self.instrument.string(number).role != "sympathetic"
        ]
        for low in firsts:
            for high in firsts:
                span = self.tuning.midi(high) - self.tuning.midi(low)
                if span in (12, 24, 36) and frozenset((low, high)) not in used:
                    found.append((-span, -apart(self.instrument, low, high), low, high))
        return [(low, high) for _, _, low, high in sorted(found)]

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
        )

    def _ideal(self, touch: Touch) -> Tone:
        """Return the partial listened to, on flexible strings, over the reference."""
        note = self._note(touch)
        return note if touch.partial == 1 else Tone(note.ratio * touch.partial, note.cents)

    def _note(self, touch: Touch) -> Tone:
        """Return the note of the string as stopped, on flexible strings, over the reference."""
        if touch.string is None:
            assert touch.hz is not None
            return self._reference_tone(touch.hz)
        tone = self.tone(touch.string)
        if touch.fret == 0:
            return tone
        semitones = semitones_at(self.instrument.string(touch.string), touch.fret)
        return Tone(tone.ratio, tone.cents + 100.0 * semitones)

    def _reference_tone(self, hz: float) -> Tone:
        if hz not in self._reference_tones:
            ratio = Fraction(hz / self.reference.hz).limit_denominator(64)
            exact = abs(float(ratio) * self.reference.hz - hz) < 1e-9 * hz
            cents = 0.0 if exact else cents_between(hz, reference_hz=self.reference.hz)
            self._reference_tones[hz] = Tone(ratio if exact else Fraction(1), cents)
        return self._reference_tones[hz]

    def _semitones(self, touch: Touch) -> int:
        if touch.string is None:
            assert touch.hz is not None
            return round(self.reference.midi + self._reference_tone(touch.hz).size_cents / 100.0)
        string = self.instrument.string(touch.string)
        return self.tuning.midi(touch.string) + semitones_at(string, touch.fret)

    def _beats(self, other: Touch, offset: float) -> float:
        """Return the beats of an ideal, flexible pair whose partials lie `offset` cents apart."""
        ideal_hz = self._ideal(other).hz(self.reference.hz)
        return abs(shifted_by_cents(ideal_hz, cents=offset) - ideal_hz)

    def _hz(self, touch: Touch) -> float:
        if touch.string is None:
            assert touch.hz is not None
            return touch.hz * touch.partial
        return sounding_hz(
            self.instrument.string(touch.string),
            strain=self._strains[touch.string],
            fret=touch.fret,
            number=touch.partial,
        )


def starting_string(wanted: Wanted) -> int:
    """Return the string to begin with: the one asked for, else the one nearest below a fork's A,
    else one on the tonic, else the one that is an A in standard tuning, else the lowest.
    """
    if wanted.start is not None:
        return wanted.start
    tuning, instrument = wanted.tuning, wanted.instrument
    choices = [n for n in leaders(instrument) if instrument.string(n).role == "playing"]
    fitting = [n for n in choices if _fork_fits(tuning.midi(n))]
    if fitting:
        return min(fitting, key=lambda n: (A4_MIDI - tuning.midi(n), n))
    on_tonic = [n for n in choices if tuning.midi(n) % 12 == tuning.tonic]
    if on_tonic:
        return min(on_tonic, key=lambda n: (abs(MIDDLE_MIDI - tuning.midi(n)), n))
    usual = [n for n in choices if (instrument.string(n).midi - A4_MIDI) % 12 == 0]
    return usual[0] if usual else min(choices, key=lambda n: (tuning.midi(n), n))


def reference_for(wanted: Wanted, number: int) -> Reference:
    """Return the fork where it fits this string, else a tone at the string's own note.

    Low strings get it an octave or two up, where a beat is quick enough to be heard.
    """
    midi = wanted.tuning.midi(number)
    if _fork_fits(midi):
        return Reference("fork", A4_MIDI, wanted.a4_hz)
    while midi < LOWEST_TONE_MIDI:
        midi += 12
    return Reference("tone", midi, equal_tempered_hz(midi, a4_hz=wanted.a4_hz))


def _fork_fits(midi: int) -> bool:
    return midi <= A4_MIDI and (A4_MIDI - midi) % 12 == 0 and A4_MIDI - midi <= 24


def a_note(note: str) -> str:
    """Return a note's name with its article."""
    return f"{'an' if note[0] in 'AEF' else 'a'} {note}"


def ordinal(number: int) -> str:
    """Return 2nd, 3rd, 4th …"""
    return f"{number}{ {1: 'st', 2: 'nd', 3: 'rd'}.get(number, 'th') }"
