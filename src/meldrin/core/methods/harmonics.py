"""Natural harmonics: two strings touched at nodes where their partials coincide, until still.

The 4th partial of the lower with the 3rd of the upper for a fourth, the 3rd with the 2nd for a
fifth, and so on. What is left are pure intervals; stiff strings shift them a little. Thirds are
taken only in a tuning that stands on a tonic, where a just third is what is wanted.

No plan uses the harmonic of a pressed note: one hand presses, the other touches and plucks, and
none is left for the peg.
"""

from typing import Final

from meldrin.core.beats import FIFTH_FAMILY, meeting
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.methods.builder import Builder
from meldrin.core.methods.closing import check_again, check_chord, check_octaves
from meldrin.core.methods.method import Method, chords, low, reason
from meldrin.core.methods.naming import string_label
from meldrin.core.methods.pairs import apart, leaders, outward
from meldrin.core.methods.plan import Plan, Side
from meldrin.core.methods.reference import from_reference, reference_for, starting_string
from meldrin.core.methods.wanted import Wanted
from meldrin.core.temperament import PURE_FIFTHS, Tone
from meldrin.core.words import capital

THIRD_COST = 10.0
MOST_PARTIAL = 6


def harmonics(wanted: Wanted) -> Plan:
    """Return the plan that goes outward by harmonics that coincide.

    Raises:
        MeldrinError: code ``method``, where a string shares no low partial with the others, or
            lies where no finger reaches it.
    """
    start, pairs = outward_by_harmonics(wanted)
    builder = Builder(wanted, wanted.temperament or PURE_FIFTHS, reference_for(wanted, start))
    from_reference(builder, start)
    for new, old in pairs:
        _compare(builder, new, old, pure=wanted.temperament is None)
    check_octaves(builder)
    if not builder.checks:
        check_again(builder)
    check_chord(builder)
    return builder.plan("harmonics")


def outward_by_harmonics(wanted: Wanted) -> tuple[int, list[tuple[int, int]]]:
    """Return the string to begin with, and from which each other one is reached.

    Raises:
        MeldrinError: code ``method``, as above.
    """
    if any(string.role == "sympathetic" for string in wanted.instrument.strings):
        raise MeldrinError(
            Code.METHOD,
            "Sympathetic strings lie under the frets, where no finger can touch a node.",
        )
    start = starting_string(wanted)
    pairs, lost = outward(
        wanted.tuning,
        leaders(wanted.instrument),
        start=start,
        cost=lambda new, old: _cost(wanted, new, old),
    )
    if lost:
        label = string_label(wanted.instrument, lost[0], wanted.tuning)
        raise MeldrinError(
            Code.METHOD,
            f"The {label} string is a third or a step from the others, where no low partials meet"
            " in tune. The harmonic of a pressed note would need both hands, and none is left to"
            " turn with.",
        )
    return start, pairs


def _cost(wanted: Wanted, new: int, old: int) -> float | None:
    """Low partials first, near neighbours first, thirds last and only over a tonic."""
    semitones = abs(wanted.tuning.midi(new) - wanted.tuning.midi(old))
    pair = meeting(semitones)
    if pair is None or max(pair) > MOST_PARTIAL:
        return None
    third = semitones not in FIFTH_FAMILY
    if third and wanted.tuning.tonic is None:
        return None
    return max(pair) + apart(wanted.instrument, new, old) / 2.0 + (THIRD_COST if third else 0.0)


def _compare(builder: Builder, new: int, old: int, *, pure: bool) -> None:
    open_own, open_other = builder.meeting_touches(new, old)
    if pure:
        known = builder.tone(old)
        builder.place(new, Tone(known.ratio * open_other.partial / open_own.partial, known.cents))
    own = builder.harmonic(new, open_own.partial)
    other = builder.harmonic(old, open_other.partial)
    names = (builder.label(old), builder.label(new))
    first = _how(builder, other, names[0])
    second = _how(builder, own, names[1])
    if other.node_fret is not None and own.node_fret is not None:
        second = f"Do the same on {names[1]} {builder.where(own)}"
    builder.step(
        own,
        other,
        title=f"{capital(names[1])} from {names[0]}, by harmonics",
        instruction=(
            f"{first}. {second}, while"
            f" {names[0]} rings on. Turn {builder.peg(new)} {builder.goal(own, other)}."
        ),
    )


def _how(builder: Builder, touch: Side, label: str) -> str:
    if touch.node_fret is None:
        return f"Play the open {label}"
    return f"Touch {label} lightly {builder.where(touch)}, play it and lift the finger"


METHOD: Final = Method(
    id="harmonics",
    name="Harmonics",
    about="Touch two strings where their partials meet",
    how="by harmonics",
    plan=harmonics,
    drills=(("beating", None), ("faster", None), ("higher", None), ("count", None)),
    instead=2,
    from_trusted=True,
    from_fork=True,
    reasons=(
        reason(2.5, "Low strings speak clearest in their harmonics.", low),
        reason(1.0, "Harmonics ring on while both hands are free.", how_far="hair"),
        reason(0.5, "You need no more than one string to trust.", at_hand="nothing fork"),
        reason(-1.5, "Its pure fourths leave a wide third, sour in chords.", chords),
        reason(-1.5, "Harmonics of slack strings do not speak.", how_far="slack"),
    ),
)
