"""Movable frets, set by the tonic string over a drone; then each string's degree found on it."""

from dataclasses import replace
from typing import Final

from meldrin.core.beats import meeting
from meldrin.core.catalogue import Instrument
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.methods.builder import Builder
from meldrin.core.methods.pairs import leaders
from meldrin.core.methods.plan import Side
from meldrin.core.methods.wanted import Wanted
from meldrin.core.pitch import equal_tempered_hz
from meldrin.core.temperament import Temperament
from meldrin.core.units import cents_of_ratio

OCTAVE_FRET: Final = 12


def with_movable_frets(wanted: Wanted, temperament: Temperament, *, tonic: int) -> Wanted:
    """Return what is wanted on an instrument whose frets lie where the degrees of this temperament
    are, over the tonic (a pitch class).

    Raises:
        MeldrinError: code ``fret``, for an instrument whose frets stand firm, or that has none, and
            where no string over the frets is a tonic.
    """
    number = tonic_string(wanted, tonic=tonic)
    midi = wanted.tuning.midi(number)
    hz = equal_tempered_hz(midi, a4_hz=wanted.a4_hz)

    def degree_hz(fret: int) -> float:
        tone = temperament.tone(midi + fret, reference_midi=midi, number=number)
        return tone.hz(hz)

    off = tuple(
        cents_of_ratio(degree_hz(fret) / degree_hz(0)) - 100.0 * fret
        for fret in range(1, OCTAVE_FRET + 1)
    )
    return replace(wanted, instrument=_with_frets(wanted.instrument, off))


def _with_frets(instrument: Instrument, off_cents: tuple[float, ...]) -> Instrument:
    strings = tuple(replace(string, fret_cents=off_cents) for string in instrument.strings)
    return replace(instrument, strings=strings)


def tonic_string(wanted: Wanted, *, tonic: int) -> int:
    """Return the number of the string by which movable frets are set: one that runs over them and
    sounds the tonic.

    Raises:
        MeldrinError: code ``fret``; see `with_movable_frets`.
    """
    instrument = wanted.instrument
    if instrument.fretting != "movable":
        raise MeldrinError(
            Code.FRET, f"The {instrument.short_name} has no frets that move, so none are to be set."
        )
    for number in leaders(instrument):
        over_frets = instrument.string(number).role == "playing"
        if over_frets and (wanted.tuning.midi(number) - tonic) % 12 == 0:
            return number
    raise MeldrinError(
        Code.FRET, "Frets are set by a string that sounds the tonic, and none does in this tuning."
    )


def degrees_used(wanted: Wanted, *, tonic: int) -> list[int]:
    """Return the frets of the scale that the strings are tuned to, the octave last."""
    used = {(midi - tonic) % 12 for midi in wanted.tuning.midis}
    return [*sorted(used - {0}), OCTAVE_FRET]


def string_of_degree(builder: Builder, fret: int, *, tonic: int) -> int | None:
    """Return a sympathetic string that sounds this fret's degree, the first of them, or None."""
    for number in leaders(builder.instrument):
        if builder.instrument.string(number).role != "sympathetic":
            continue
        if (builder.tuning.midi(number) - tonic - fret) % 12 == 0:
            return number
    return None


def set_fret(builder: Builder, own: Side, other: Side, *, degree: str) -> None:
    """Add the stage in which a fret is slid until its degree agrees with the drone, or with a
    string of that degree.
    """
    label = builder.label(own.string or 0)
    beside = "over the drone"
    if other.string is not None:
        beside = f"and play it with {builder.label(other.string)}, as the drone has nothing there"
    builder.check(
        own,
        other,
        title=f"Fret {own.fret}: the {degree}",
        instruction=(
            f"Press {label} behind fret {own.fret} {beside}: the {degree}. Slide the fret"
            f" {builder.goal(own, other)}."
        ),
        sets_fret=True,
    )


def meets_string(builder: Builder, own: Side, number: int) -> tuple[Side, Side]:
    """Return the fretted side and an open string of its degree, with the partials that meet."""
    fretted = builder.tuning.midi(own.string or 0) + own.fret
    apart = builder.tuning.midi(number) - fretted
    met = meeting(abs(apart))
    assert met is not None
    of_lower, of_upper = met
    if apart >= 0:
        return replace(own, partial=of_lower), builder.open(number, of_upper)
    return replace(own, partial=of_upper), builder.open(number, of_lower)


def check_degree(builder: Builder, own: Side, number: int, *, degree: str) -> None:
    """Add the check of a string against the fret of its degree."""
    pressed, opened = meets_string(builder, own, number)
    fretted, label = builder.label(own.string or 0), builder.label(number)
    octaves = (builder.tuning.midi(number) - builder.tuning.midi(own.string or 0) - own.fret) // 12
    said = {0: "", 1: ", an octave apart"}.get(abs(octaves), f", {abs(octaves)} octaves apart")
    builder.check(
        opened,
        pressed,
        title=f"Check: {label} at fret {own.fret}",
        instruction=(
            f"Play {label} with {fretted} at fret {own.fret}{said}: the {degree}. They should be"
            " almost still."
        ),
    )
