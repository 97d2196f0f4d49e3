"""Fifths, outward from the reference: two open strings together, until the fifth locks.

Pure by default, as bowed strings are tuned; equal-tempered, narrowed or widened on request, with
the beats that then remain. Fourths and octaves of cross tunings go the same way.
"""

from itertools import pairwise
from typing import Final

from meldrin.core.beats import FIFTH_FAMILY
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.methods.builder import Builder
from meldrin.core.methods.closing import check_again, check_chord, check_octaves
from meldrin.core.methods.method import Method, bowed, reason
from meldrin.core.methods.pairs import apart, leaders, outward
from meldrin.core.methods.plan import Plan
from meldrin.core.methods.reference import from_reference, reference_for, starting_string
from meldrin.core.methods.wanted import Wanted
from meldrin.core.temperament import PURE_FIFTHS

STOP = " Come up from below, and no further than still."


def fifths(wanted: Wanted) -> Plan:
    """Return the plan that goes outward in open fifths.

    Raises:
        MeldrinError: code ``method``, where neighbouring strings are not fifths, fourths or octaves
            apart, or no two of them make a fifth.
    """
    start = starting_string(wanted)
    builder = Builder(wanted, wanted.temperament or PURE_FIFTHS, reference_for(wanted, start))
    if any(string.role == "sympathetic" for string in wanted.instrument.strings):
        raise MeldrinError(
            Code.METHOD,
            f"The strings of the {wanted.instrument.short_name} follow a scale, not fifths.",
        )
    firsts = leaders(wanted.instrument)
    spans = [
        abs(wanted.tuning.midi(one) - wanted.tuning.midi(two)) for one, two in pairwise(firsts)
    ]
    if 7 not in spans:
        raise MeldrinError(
            Code.METHOD,
            f"No two neighbouring strings of the {wanted.instrument.short_name} are a fifth apart"
            " in this tuning.",
        )
    from_reference(builder, start)
    pairs, lost = outward(
        wanted.tuning, firsts, start=start, cost=lambda new, old: _cost(wanted, new, old)
    )
    if lost:
        raise MeldrinError(
            Code.METHOD,
            f"The {builder.label(lost[0])} string makes no fifth, fourth or octave with a"
            " neighbour.",
        )
    for new, old in pairs:
        fifth = abs(wanted.tuning.midi(new) - wanted.tuning.midi(old)) == 7
        listen = STOP if fifth and wanted.temperament is None else ""
        builder.open_pair(new, old, listen=f"{listen}{_ways(builder, new, old)}")
    check_octaves(builder)
    check_again(builder)
    check_chord(builder)
    return builder.plan("fifths")


def _ways(builder: Builder, new: int, old: int) -> str:
    """Return in two sentences what each way of the peg does to the interval, and which side of
    still turns sour: who comes up from below ends on that side by going too far.
    """
    rises = builder.tuning.midi(new) > builder.tuning.midi(old)
    tighter, looser = ("widens", "narrows") if rises else ("narrows", "widens")
    label, side = builder.label(new), "wide" if rises else "narrow"
    return (
        f" Tightening {label} {tighter} it, loosening {label} {looser} it: tightened too far, it"
        f" is too {side} and sour."
    )


def _cost(wanted: Wanted, new: int, old: int) -> float | None:
    """Neighbours first, since they can be sounded together; None where no low partials meet."""
    semitones = abs(wanted.tuning.midi(new) - wanted.tuning.midi(old))
    between = apart(wanted.instrument, new, old)
    if semitones not in FIFTH_FAMILY or between > 2:
        return None
    return 10.0 * (between - 1) + (0.0 if semitones == 7 else 1.0)


METHOD: Final = Method(
    id="fifths",
    name="Fifths",
    about="Two open strings together, from A outward",
    how="by fifths",
    plan=fifths,
    drills=(("width", "fifth"), ("faster", None), ("higher", None), ("way", None)),
    instead=1,
    from_trusted=True,
    from_fork=True,
    reasons=(
        reason(3.0, "Two strings under one bow: you hear the beats between them stop.", bowed),
        reason(1.0, "From the common A outward you match the others.", company="others"),
        reason(1.0, "Fifths are what your instrument is heard by.", bowed, purpose="learn"),
        reason(-1.5, "In noise the slowest beats are hard to hear.", noise="noisy"),
        reason(-1.5, "Bring slack strings near first; a tuner is quicker.", how_far="slack"),
    ),
)
