"""By tuner: string by string, those known to be far out first."""

from itertools import pairwise
from typing import Final

from meldrin.core.methods.builder import Builder
from meldrin.core.methods.closing import check_chord, check_octaves, check_pairs
from meldrin.core.methods.method import Method, reason
from meldrin.core.methods.pairs import leaders
from meldrin.core.methods.plan import Plan, Reference
from meldrin.core.methods.reference import in_order, needs_a_source
from meldrin.core.methods.wanted import Wanted
from meldrin.core.pitch import A4_MIDI, cents_between, equal_tempered_hz
from meldrin.core.temperament import EQUAL
from meldrin.core.words import capital


def tuner(wanted: Wanted) -> Plan:
    """Return the plan that reads every string on a tuner. Serves every instrument."""
    needs_a_source(wanted, "Tuner", "a tuner")
    builder = Builder(
        wanted, wanted.temperament or EQUAL, Reference("tuner", A4_MIDI, wanted.a4_hz)
    )
    for number in in_order(wanted, leaders(wanted.instrument)):
        read_on_tuner(builder, number)
    why = "One pass is not enough: each string you turned has moved the others. Read them all again"
    check_octaves(builder)
    if not builder.checks:
        numbers = leaders(wanted.instrument)
        pairs = [pair for pair in pairwise(numbers) if builder.can_meet(*pair)]
        check_pairs(builder, pairs, why=f"{why}, and then by ear.")
    check_chord(builder)
    return builder.plan("tuner")


def read_on_tuner(builder: Builder, number: int) -> None:
    """Add the step that brings one string to its reading."""
    wanted = builder.wanted
    label, midi = builder.label(number), wanted.tuning.midi(number)
    hz = builder.tone(number).hz(builder.reference.hz)
    cents = cents_between(hz, reference_hz=equal_tempered_hz(midi, a4_hz=wanted.a4_hz))
    reading = "0" if abs(cents) < 0.05 else f"{cents:+.1f}"
    builder.step(
        builder.open(number),
        builder.sounded(hz=hz),
        title=f"{capital(label)} to {builder.note(midi)}, {reading} cents",
        instruction=(
            f"Check that the tuner stands at {wanted.a4_hz:g} Hz. Mute the other strings and play"
            f" the open {label}. Read the note’s name first, then the offset, once the first moment"
            f" has passed and the reading rests. Turn until it says {builder.note(midi)} and"
            f" {reading} cents."
        ),
        interval="tuner reading",
        by_tuner=True,
    )


METHOD: Final = Method(
    id="tuner",
    name="Tuner",
    about="String by string, then all again",
    how="by tuner",
    plan=tuner,
    drills=(("higher", None), ("beating", None), ("hold", None)),
    questions=("which", "names", "readings"),
    instead=6,
    orders=("usual", "up", "down"),
    reasons=(
        reason(
            4.5,
            "In noise a tuner clipped on hears only your instrument.",
            noise="noisy",
            at_hand="tuner",
        ),
        reason(2.0, "A tuner is quickest for slack strings.", how_far="slack", at_hand="tuner"),
        reason(1.5, "On a stage it is quick, and silent.", purpose="stage", at_hand="tuner"),
        reason(0.5, "A tuner is at hand.", at_hand="tuner"),
        reason(-4.0, "You have no tuner at hand.", at_hand="nothing fork notes drone"),
        reason(-1.5, "With the tuner alone your ear gets no practice.", purpose="learn"),
    ),
)
