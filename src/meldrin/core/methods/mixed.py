"""Mixed: one string from the reference, the others by tuner, then cross-checks by ear.

The compromise is a decision: equal by default, or sweetened for a key. What the ear then hears in
octaves, fifths and fourths is told for each pair, so that the tuner has a judge.
"""

from meldrin.core.beats import FIFTH_FAMILY
from meldrin.core.methods.builder import Builder
from meldrin.core.methods.closing import check_octaves, check_pairs
from meldrin.core.methods.pairs import apart, leaders
from meldrin.core.methods.plan import Plan
from meldrin.core.methods.reference import (
    from_reference,
    in_order,
    needs_a_source,
    reference_for,
    starting_string,
)
from meldrin.core.methods.tuner import read_on_tuner
from meldrin.core.methods.wanted import Wanted
from meldrin.core.temperament import EQUAL

MOST_CHECKS = 6


def mixed(wanted: Wanted) -> Plan:
    """Return the plan of a trusted string, a tuner and cross-checks. Serves every instrument."""
    needs_a_source(wanted, "Tuner, then ear", "a tuner")
    start = starting_string(wanted)
    builder = Builder(wanted, wanted.temperament or EQUAL, reference_for(wanted, start))
    from_reference(builder, start)
    for number in in_order(wanted, leaders(wanted.instrument)):
        if number != start:
            read_on_tuner(builder, number)
    check_octaves(builder, most=2)
    firsts = leaders(wanted.instrument)
    pairs = [
        (one, two)
        for at, one in enumerate(firsts)
        for two in firsts[at + 1 :]
        if _open_interval(wanted, one, two)
    ]
    pairs.sort(key=lambda pair: apart(wanted.instrument, *pair))
    check_pairs(
        builder,
        pairs[: MOST_CHECKS - len(builder.checks)],
        why="Then play the chords of the piece; write down what you chose.",
    )
    return builder.plan("mixed")


def _open_interval(wanted: Wanted, one: int, two: int) -> bool:
    semitones = abs(wanted.tuning.midi(one) - wanted.tuning.midi(two))
    playing = all(wanted.instrument.string(n).role != "sympathetic" for n in (one, two))
    return playing and semitones in FIFTH_FAMILY and semitones % 12 != 0
