"""Every string to its own note, one by one, from a pipe, a piano or a tuner's tone."""

from itertools import pairwise
from typing import Final

from meldrin.core.methods.builder import Builder
from meldrin.core.methods.closing import check_chord, check_octaves, check_pairs
from meldrin.core.methods.method import Method, reason
from meldrin.core.methods.naming import a_note
from meldrin.core.methods.pairs import leaders
from meldrin.core.methods.plan import Plan, Reference
from meldrin.core.methods.reference import in_order, needs_a_source
from meldrin.core.methods.wanted import Wanted
from meldrin.core.pitch import A4_MIDI
from meldrin.core.temperament import EQUAL
from meldrin.core.words import capital


def each(wanted: Wanted) -> Plan:
    """Return the plan that matches every string to a reference note of its own.

    The notes sound where the temperament wants them, equal by default, so every match is to still
    and no error adds to another. Serves every instrument.
    """
    needs_a_source(wanted, "Note by note", "a note for every string")
    builder = Builder(
        wanted, wanted.temperament or EQUAL, Reference("tones", A4_MIDI, wanted.a4_hz)
    )
    for number in in_order(wanted, leaders(wanted.instrument)):
        label, note = builder.label(number), builder.note(wanted.tuning.midi(number))
        builder.step(
            builder.open(number),
            builder.sounded(hz=builder.tone(number).hz(wanted.a4_hz)),
            title=f"{capital(label)} from its own {note}",
            instruction=(
                f"Have {a_note(note)} sounded and hum it. Play the open"
                f" {label} with it, decide whether it is low or high, and turn its"
                f" {wanted.instrument.string(number).peg.word} until the beats stop."
            ),
        )
    check_octaves(builder)
    if not builder.checks:
        numbers = leaders(wanted.instrument)
        pairs = pairwise(numbers)
        check_pairs(
            builder,
            [pair for pair in pairs if builder.can_meet(*pair)],
            why="If it is quicker or stiller than that, match the string you trust least again.",
        )
    check_chord(builder)
    return builder.plan("each")


METHOD: Final = Method(
    id="each",
    name="Note by note",
    about="From a piano, a pipe or a tone",
    how="note by note",
    plan=each,
    drills=(("higher", None), ("beating", None), ("hold", None)),
    instead=5,
    orders=("usual", "up", "down"),
    reasons=(
        reason(3.0, "You have a note for every string.", at_hand="notes"),
        reason(
            -3.0,
            "It needs a pipe, a piano or another player’s notes.",
            at_hand="nothing fork drone",
        ),
        reason(1.0, "A tuner that sounds can give the notes.", at_hand="tuner"),
        reason(1.5, "Far out as it is, a given note leads each string near.", how_far="slack"),
        reason(-1.5, "In noise a sounded note is hard to hold.", noise="noisy"),
    ),
)
