"""Unison by stopped strings: stop one string where the next open string lives, and match the two.

The chain starts at the string whose pitch the fork gives (one of its partials lies at A4), goes up
from neighbour to neighbour, and then down from it: there the new string itself is stopped and
matched to its upper neighbour, open. Every fretted comparison rests on true frets and a light hand.
"""

from meldrin.core.beats import beats_per_cent, seconds_to_hear
from meldrin.core.catalogue import Instrument
from meldrin.core.errors import MeldrinError
from meldrin.core.methods.plan import Check, Plan, Step, Touch, string_label
from meldrin.core.pitch import A4_MIDI, checked_a4_hz
from meldrin.core.strings import sounding_hz, strain_sounding
from meldrin.core.words import capital

LISTENING_CENTS = 2.0
TURN_ASIDE = "Small turns on the way up, and your face turned aside: a string can snap."


def unison_plan(instrument: Instrument, *, a4_hz: float) -> Plan:
    """Return the plan that tunes every string by stopped-string unisons, starting from a fork's A.

    Raises:
        OutOfRange: for a calibration outside 390 to 470 Hz.
        MeldrinError: code ``method``, when the instrument has no frets, no string that a fork's A
            is a partial of, or neighbours further apart than the fingerboard is long.
    """
    checked_a4_hz(a4_hz)
    if instrument.frets == 0:
        raise MeldrinError(
            "method",
            f"The {instrument.name} has no frets to place a unison by; its fifths do it better.",
        )
    builder = _Builder(instrument, a4_hz)
    order = sorted(instrument.strings, key=lambda string: (string.midi, string.number))
    start = builder.fork_string()
    at = next(n for n, string in enumerate(order) if string.number == start)
    steps = [builder.from_fork(start)]
    for lower, upper in zip(order[at:], order[at + 1 :], strict=False):
        steps.append(builder.upward(lower.number, upper.number))
    for upper, lower in zip(order[at::-1], order[at - 1 :: -1] if at else [], strict=False):
        steps.append(builder.downward(upper.number, lower.number))
    return Plan(
        method="unison",
        a4_hz=a4_hz,
        targets_hz=builder.targets_hz(),
        steps=tuple(steps),
        checks=builder.outer_octaves(order[0].number, order[-1].number),
    )


class _Builder:
    """Works along the chain, keeping the strain each string has once it is exactly in tune."""

    def __init__(self, instrument: Instrument, a4_hz: float) -> None:
        self._instrument = instrument
        self._a4_hz = a4_hz
        self._strains: dict[int, float] = {}

    def fork_string(self) -> int:
        """Return the number of the string that has A4 among its octave partials, nearest first."""
        octaves = {
            string.number: (A4_MIDI - string.midi) // 12
            for string in self._instrument.strings
            if string.midi % 12 == A4_MIDI % 12 and string.midi <= A4_MIDI
        }
        if not octaves:
            raise MeldrinError(
                "method", f"No string of the {self._instrument.name} is an A to match to a fork."
            )
        return min(octaves, key=lambda number: (octaves[number], number))

    def from_fork(self, number: int) -> Step:
        string = self._instrument.string(number)
        partial = int(2 ** ((A4_MIDI - string.midi) // 12))
        label = string_label(self._instrument, number)
        which = "It" if partial == 1 else f"Its {_ordinal(partial)} partial"
        return self._step(
            own=Touch(number, 0, partial),
            other=Touch(None, 0, 1),
            title=f"{label} from the fork",
            instruction=(
                f"Sound the fork and the open {label} together. {which} meets the fork."
                f" Turn the peg of {label} until the beats stop."
            ),
        )

    def upward(self, lower: int, upper: int) -> Step:
        fret = self._fret(lower, upper)
        low, high = (string_label(self._instrument, number) for number in (lower, upper))
        return self._step(
            own=Touch(upper, 0, 1),
            other=Touch(lower, fret, 1),
            title=f"{capital(high)} from {low}’s fret {fret}",
            instruction=(
                f"Press {low} just behind fret {fret} and sound it with the open {high}."
                f" Turn the peg of {high} until the beats stop."
            ),
        )

    def downward(self, upper: int, lower: int) -> Step:
        fret = self._fret(lower, upper)
        low, high = (string_label(self._instrument, number) for number in (lower, upper))
        return self._step(
            own=Touch(lower, fret, 1),
            other=Touch(upper, 0, 1),
            title=f"{capital(low)} at its fret {fret}, with {high}",
            instruction=(
                f"Press {low} just behind fret {fret} and sound it with the open {high}."
                f" Turn the peg of {low} until the beats stop."
            ),
        )

    def outer_octaves(self, lowest: int, highest: int) -> tuple[Check, ...]:
        """Return the check of the outer strings where they lie whole octaves apart."""
        low, high = (self._instrument.string(number) for number in (lowest, highest))
        octaves, rest = divmod(high.midi - low.midi, 12)
        if rest or not octaves:
            return ()
        own, other = Touch(lowest, 0, int(2**octaves)), Touch(highest, 0, 1)
        meeting_hz = self._hz(other)
        labels = (string_label(self._instrument, lowest), string_label(self._instrument, highest))
        apart = {1: "an octave", 2: "two octaves", 3: "three octaves"}[octaves]
        return (
            Check(
                own=own,
                other=other,
                cents=1200.0 * octaves,
                meeting_hz=meeting_hz,
                beats_hz=abs(self._hz(own) - meeting_hz),
                title=f"Check: {labels[0]} with {labels[1]}",
                instruction=(
                    f"Sound the open {labels[0]} and {labels[1]}, {apart} apart."
                    " A very slow beat may stay, since thick strings are a little stiff."
                    " If it is quicker, go back to the string you trust least."
                ),
            ),
        )

    def targets_hz(self) -> tuple[float, ...]:
        return tuple(self._hz(Touch(string.number, 0, 1)) for string in self._instrument.strings)

    def _step(self, *, own: Touch, other: Touch, title: str, instruction: str) -> Step:
        assert own.string is not None
        meeting_hz = self._hz(other)
        self._strains[own.string] = strain_sounding(
            self._instrument.string(own.string),
            frequency_hz=meeting_hz,
            fret=own.fret,
            number=own.partial,
        )
        per_cent = beats_per_cent(meeting_hz)
        return Step(
            own=own,
            other=other,
            meeting_hz=meeting_hz,
            beats_hz_per_cent=per_cent,
            seconds_to_hear=seconds_to_hear(LISTENING_CENTS * per_cent),
            title=title,
            instruction=instruction,
            caution=TURN_ASIDE,
        )

    def _hz(self, touch: Touch) -> float:
        if touch.string is None:
            return self._a4_hz
        return sounding_hz(
            self._instrument.string(touch.string),
            strain=self._strains[touch.string],
            fret=touch.fret,
            number=touch.partial,
        )

    def _fret(self, lower: int, upper: int) -> int:
        fret = self._instrument.string(upper).midi - self._instrument.string(lower).midi
        if fret > self._instrument.frets:
            raise MeldrinError(
                "method",
                f"The next string would live at fret {fret}, past the end of the fingerboard.",
            )
        return fret


def _ordinal(number: int) -> str:
    return {2: "2nd", 4: "4th", 8: "8th", 16: "16th"}[number]
