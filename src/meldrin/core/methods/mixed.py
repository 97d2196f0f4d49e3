"""Mixed: one string from the reference, the others by tuner, then cross-checks by ear; or all by
ear first, and then the tuner.

The compromise is a decision: equal by default, or sweetened for a key. What the ear then hears in
octaves, fifths and fourths is told for each pair, so that the tuner has a judge.
"""

from dataclasses import replace
from typing import Final

from meldrin.core.beats import FIFTH_FAMILY, beats_per_cent
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.methods.builder import Builder
from meldrin.core.methods.closing import check_chord, check_octaves, check_pairs, check_stopped
from meldrin.core.methods.fifths import fifths
from meldrin.core.methods.harmonics import harmonics
from meldrin.core.methods.method import Method, reason
from meldrin.core.methods.pairs import apart, leaders
from meldrin.core.methods.plan import Check, Plan, Side
from meldrin.core.methods.reference import (
    from_reference,
    in_order,
    needs_a_source,
    reference_for,
    starting_string,
)
from meldrin.core.methods.tuner import read_on_tuner
from meldrin.core.methods.unison import unison
from meldrin.core.methods.wanted import Wanted
from meldrin.core.pitch import cents_between, equal_tempered_hz
from meldrin.core.temperament import EQUAL

MOST_CHECKS = 6


def mixed(wanted: Wanted) -> Plan:
    """Return the plan of a trusted string, a tuner and cross-checks. Serves every instrument."""
    needs_a_source(wanted, "Tuner, then ear", "a tuner")
    if wanted.order == "ear_first":
        return _ear_first(wanted)
    start = starting_string(wanted)
    builder = Builder(wanted, wanted.temperament or EQUAL, reference_for(wanted, start))
    from_reference(builder, start)
    for number in in_order(wanted, leaders(wanted.instrument)):
        if number != start:
            read_on_tuner(builder, number)
    check_octaves(builder, most=2)
    check_stopped(builder, most=1)
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
    check_chord(builder)
    return builder.plan("mixed")


def _ear_first(wanted: Wanted) -> Plan:
    """Return the plan by ear that serves best, and the tuner as the judge of every string."""
    for by_ear in (fifths, unison, harmonics):
        try:
            plan = by_ear(wanted)
        except MeldrinError as error:
            if error.code is not Code.METHOD:
                raise
            continue
        checks = [_read_at_the_end(plan, step.string) for step in plan.steps]
        return replace(plan, method="mixed", checks=tuple(checks))
    raise MeldrinError(
        Code.METHOD,
        f"No method by ear leads from string to string on the {wanted.instrument.short_name} in"
        " this tuning, so the tuner has to come first.",
    )


def _read_at_the_end(plan: Plan, number: int) -> Check:
    """Return the check that reads one string on the tuner: its first partial, where exact work by
    ear has led it.
    """
    hz, midi = plan.targets_hz[number - 1], plan.tuning.midi(number)
    cents = cents_between(hz, reference_hz=equal_tempered_hz(midi, a4_hz=plan.a4_hz))
    reading = "0" if abs(cents) < 0.05 else f"{cents:+.1f}"
    return Check(
        own=Side(number, 0, 1),
        other=Side(None, 0, 1, hz=hz),
        target_cents=0.0,
        interval="tuner reading",
        meeting_hz=hz,
        beats_hz=0.0,
        beats_hz_per_cent=beats_per_cent(hz),
        title=f"Check: {plan.label(number)} on the tuner",
        instruction=(
            f"Mute the other strings, play {plan.label(number)} and read the tuner when it rests:"
            f" {plan.note(midi)} and {reading} cents is what your ear aimed for."
        ),
        by_tuner=True,
    )


def _open_interval(wanted: Wanted, one: int, two: int) -> bool:
    semitones = abs(wanted.tuning.midi(one) - wanted.tuning.midi(two))
    playing = all(wanted.instrument.string(n).role != "sympathetic" for n in (one, two))
    return playing and semitones in FIFTH_FAMILY and semitones % 12 != 0


METHOD: Final = Method(
    id="mixed",
    name="Tuner, then ear",
    about="A tuner, and the ear to check it",
    how="tuner, then ear",
    plan=mixed,
    drills=(("beating", None), ("width", "octave"), ("higher", None), ("way", None)),
    questions=("which", "readings", "whole"),
    instead=7,
    from_fork=True,
    orders=("usual", "up", "down", "ear_first"),
    reasons=(
        reason(
            2.0,
            "For chords and for others a chosen compromise, checked by ear, is surest.",
            purpose="stage recording",
            at_hand="tuner",
        ),
        reason(
            1.5,
            "Ear first, tuner as the judge: each checks the other.",
            at_hand="tuner",
            noise="quiet",
        ),
        reason(
            -3.5,
            "It needs a tuner for the strings in between.",
            at_hand="nothing fork notes drone",
        ),
    ),
)
