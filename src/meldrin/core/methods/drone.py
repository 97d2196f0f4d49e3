"""Drone and scale degrees: a continuous tonic with its fifth, and every string heard over it.

The tonic strings come first, then octaves, fifths, fourths and thirds; sympathetic strings last, by
the scale of the piece. What is left are just intervals over the tonic.
"""

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise
from typing import Final

from meldrin.core.beats import overtone_name
from meldrin.core.methods.builder import HIGHEST_OF_STRING, Builder
from meldrin.core.methods.closing import check_chord, check_octaves, check_pairs
from meldrin.core.methods.frets import (
    OCTAVE_FRET,
    check_degree,
    degrees_used,
    meets_string,
    set_fret,
    string_of_degree,
    tonic_string,
    with_movable_frets,
)
from meldrin.core.methods.method import Method, not_sympathetic, reason, sympathetic
from meldrin.core.methods.pairs import leaders
from meldrin.core.methods.plan import Plan, Reference, Side
from meldrin.core.methods.reference import MIDDLE_MIDI, in_order, needs_a_source
from meldrin.core.methods.wanted import Wanted
from meldrin.core.pitch import equal_tempered_hz
from meldrin.core.sound.references import HIGHEST_OF_DRONE
from meldrin.core.temperament import Temperament, Tone, just_ratio
from meldrin.core.words import capital, with_article

DEGREES = (
    "tonic", "flat second", "second", "flat third", "third", "fourth", "raised fourth", "fifth",
    "flat sixth", "sixth", "flat seventh", "seventh",
)  # fmt: skip
FIFTH = Fraction(3, 2)
HIGHEST_BETWEEN = 8  # of the partials at which two strings meet
LOW_MIDI = 32  # a bass has a drone that lies lower, nearer its own partials


def drone(wanted: Wanted) -> Plan:
    """Return the plan that hears every string against a drone. Serves every instrument."""
    needs_a_source(wanted, "Drone", "a tonic that sounds on")
    tonic = _tonic(wanted)
    middle = MIDDLE_MIDI - (18 if min(wanted.tuning.midis) < LOW_MIDI else 0)
    midi = min(range(middle - 6, middle + 6), key=lambda one: ((one - tonic) % 12, one))
    reference = Reference("drone", midi, equal_tempered_hz(midi, a4_hz=wanted.a4_hz))
    temperament = wanted.temperament or Temperament("just", tonic=tonic)
    if wanted.frets:
        wanted = with_movable_frets(wanted, temperament, tonic=tonic)
    builder = Builder(wanted, temperament, reference)
    ranked = sorted(leaders(wanted.instrument), key=lambda one: _rank(wanted, tonic, one))
    tuned: list[int] = []
    for number in in_order(wanted, ranked):
        own, other = _closest(builder, number)
        label = builder.label(number)
        degree = DEGREES[(wanted.tuning.midi(number) - tonic) % 12]
        partner = None
        if (
            wanted.stretched and other.partial > HIGHEST_OF_DRONE
        ):  # nothing of the drone is there to meet
            partner = _partner(builder, number, tuned)
        tuned.append(number)
        if partner is not None:
            own, other = partner
            old = builder.label(other.string or 0)
            builder.step(
                own,
                other,
                title=f"{capital(label)}: the {degree}, from {old}",
                instruction=(
                    f"The {degree} meets nothing in the drone. Play the open {old} and {label}"
                    f" together. Turn {builder.peg(number)} {builder.goal(own, other)}."
                ),
            )
            continue
        where = ""
        if own.partial > 1:
            where = (
                f" It meets the drone {with_article(overtone_name(own.partial))} above its note."
            )
        builder.step(
            own,
            other,
            title=f"{capital(label)}: the {degree}",
            instruction=(
                f"Let the drone sound, {builder.note(midi)} with its fifth. Play the open {label}:"
                f" it is the {degree}.{where} Turn {builder.peg(number)}"
                f" {builder.goal(own, other)}."
            ),
            interval=_interval(builder, number, degree),
        )
    if wanted.frets:
        _set_frets(builder, tonic)
    check_octaves(builder, most=2)
    if not builder.checks:
        numbers = leaders(wanted.instrument)
        pairs = pairwise(numbers)
        check_pairs(
            builder,
            [pair for pair in pairs if builder.can_meet(*pair)][:3],
            why="Then let the drone sound again and listen to every string over it once more.",
        )
    check_chord(builder)
    return builder.plan("drone")


def _set_frets(builder: Builder, tonic: int) -> None:
    """Set each fret that the tuning's scale has, and find there a string of its degree."""
    number = tonic_string(builder.wanted, tonic=tonic)
    for fret in degrees_used(builder.wanted, tonic=tonic):
        degree = "octave" if fret == OCTAVE_FRET else DEGREES[fret]
        over = builder.just_ratio_over_reference(number) * just_ratio(fret)
        own, other = _closest_of(builder, builder.stopped(number, fret), over)
        string = string_of_degree(builder, fret, tonic=tonic)
        if string is not None and own.partial > HIGHEST_OF_STRING:
            set_fret(builder, *meets_string(builder, own, string), degree=degree)
            continue
        set_fret(builder, own, other, degree=degree)
        if string is not None:
            check_degree(builder, own, string, degree=degree)


def _tonic(wanted: Wanted) -> int:
    if wanted.tonic is not None:
        return wanted.tonic
    if wanted.tuning.tonic is not None:
        return wanted.tuning.tonic
    return min(wanted.tuning.midis) % 12


def _rank(wanted: Wanted, tonic: int, number: int) -> tuple[object, ...]:
    """Playing strings, then drones, then sympathetic ones; in each the plainest degree first."""
    role = ("playing", "drone", "sympathetic").index(wanted.instrument.string(number).role)
    degree = (wanted.tuning.midi(number) - tonic) % 12
    plain = {0: 0, 7: 1, 5: 2, 4: 3, 3: 3, 9: 4, 8: 4, 2: 5, 11: 6, 10: 6}.get(degree, 7)
    return role, plain, number


def _closest(builder: Builder, number: int) -> tuple[Side, Side]:
    """Return the lowest partials at which the open string meets the drone's tonic or its fifth.

    With tempered degrees nothing meets exactly; the just ones then tell where to listen.
    """
    return _closest_of(builder, builder.open(number), builder.just_ratio_over_reference(number))


def _closest_of(builder: Builder, side: Side, just: Fraction) -> tuple[Side, Side]:
    """Return the same of a side whose note is `just` over the reference's."""
    options = []
    for voice, ratio in enumerate((Fraction(1), FIFTH)):
        over = just / ratio
        options.append((max(over.numerator, over.denominator), voice, over, ratio))
    _, _, over, ratio = min(options, key=lambda option: (option[0], option[1]))
    own = replace(side, partial=over.denominator)
    hz = Tone(ratio).hz(builder.reference.hz)
    return own, builder.sounded(over.numerator, hz=hz)


def _partner(builder: Builder, number: int, tuned: Sequence[int]) -> tuple[Side, Side] | None:
    """Return the lowest partials at which the string meets one that is tuned already, or None where
    none is low enough to be heard.
    """
    options = []
    for old in tuned:
        over = builder.just_ratio_over_reference(number) / builder.just_ratio_over_reference(old)
        options.append((max(over.numerator, over.denominator), over, old))
    if not options:
        return None
    highest, over, old = min(options)
    if highest > HIGHEST_BETWEEN:
        return None
    return builder.open(number, over.denominator), builder.open(old, over.numerator)


def _interval(builder: Builder, number: int, degree: str) -> str:
    tone = builder.tone(number)
    if tone.cents:
        return degree
    octaves = 0
    ratio = tone.ratio
    while ratio >= 2:
        ratio, octaves = ratio / 2, octaves + 1
    while ratio < 1:
        ratio, octaves = ratio * 2, octaves - 1
    return f"{ratio.numerator}/{ratio.denominator} over the tonic"


METHOD: Final = Method(
    id="drone",
    name="Drone",
    about="Every string over one lasting note",
    how="over a drone",
    plan=drone,
    drills=(("width", "fifth"), ("width", "fourth"), ("higher", None), ("hold", None)),
    sets_frets=True,
    has_tonic=True,
    instead=4,
    orders=("usual", "up", "down"),
    reasons=(
        reason(4.0, "Strings that follow a scale are heard over their tonic.", sympathetic),
        reason(3.0, "A drone is at hand, and every string is heard against it.", at_hand="drone"),
        reason(-2.0, "It needs a tonic that sounds on.", not_sympathetic, at_hand="nothing fork"),
        reason(-1.0, "With others its intervals fit one key only.", company="others"),
    ),
)
