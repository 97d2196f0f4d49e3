"""Fretted unisons: press one string where it has the next open string's note, and match the two.

The chain starts at the string whose pitch the reference gives and goes outward from it. Upward the
known string is stopped and the new one rings open; downward the new string itself is stopped. Every
fretted comparison rests on true frets and a light hand.
"""

from typing import Final

from meldrin.core.catalogue import Instrument
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.methods.builder import Builder
from meldrin.core.methods.closing import check_again, check_chord, check_octaves, check_stopped
from meldrin.core.methods.method import Method, reason
from meldrin.core.methods.pairs import apart, leaders, outward
from meldrin.core.methods.plan import Plan
from meldrin.core.methods.reference import from_reference, reference_for, starting_string
from meldrin.core.methods.wanted import Wanted
from meldrin.core.temperament import EQUAL
from meldrin.core.words import capital

REACH_COST = 2.0  # a comparison across the hand is worth two more frets


def unison(wanted: Wanted) -> Plan:
    """Return the plan that tunes every string by stopped-string unisons.

    Raises:
        MeldrinError: code ``method``, when the instrument has no frets that stand firm, strings
            that pass over none, or neighbours further apart than the fingerboard is long.
    """
    instrument = wanted.instrument
    _can_serve(instrument)
    if wanted.temperament is not None and wanted.temperament.kind != "equal":
        raise MeldrinError(
            Code.METHOD,
            "Frets stand in equal temperament, and unisons by stopped strings follow them.",
        )
    start = starting_string(wanted)
    builder = Builder(wanted, EQUAL, reference_for(wanted, start))
    from_reference(builder, start)
    pairs, lost = outward(
        wanted.tuning,
        leaders(instrument),
        start=start,
        cost=lambda new, old: _cost(wanted, new, old),
    )
    if lost:
        raise MeldrinError(
            Code.METHOD,
            f"The note of {builder.label(lost[0])} lies past the end of the fingerboard of every"
            " other string.",
        )
    for new, old in pairs:
        if wanted.tuning.midi(new) >= wanted.tuning.midi(old):
            _upward(builder, new, old)
        else:
            _downward(builder, new, old)
    check_octaves(builder)
    check_stopped(builder)
    if not builder.checks:
        check_again(builder)
    check_chord(builder)
    return builder.plan("unison")


def _can_serve(instrument: Instrument) -> None:
    name = instrument.short_name
    if instrument.fretting == "none":
        raise MeldrinError(Code.METHOD, f"The {name} has no frets to place a unison by.")
    if instrument.fretting == "movable":
        raise MeldrinError(
            Code.METHOD,
            f"The frets of the {name} are movable and are set by the strings, not the other way"
            " round.",
        )


def _cost(wanted: Wanted, new: int, old: int) -> float | None:
    """Return how far up the neck the comparison lies, and how far across; None past its end."""
    lower, upper = sorted((new, old), key=wanted.tuning.midi)
    fret = _fret(wanted, lower, upper)
    if fret > wanted.instrument.frets:
        return None
    return fret + REACH_COST * (apart(wanted.instrument, new, old) - 1)


def _fret(wanted: Wanted, lower: int, upper: int) -> int:
    """Return the fret of the lower string at which the upper one's open note lies; 0: open."""
    semitones = wanted.tuning.midi(upper) - wanted.tuning.midi(lower)
    return semitones + wanted.instrument.string(lower).nut_fret if semitones else 0


def _upward(builder: Builder, upper: int, lower: int) -> None:
    fret = _fret(builder.wanted, lower, upper)
    low, high = builder.label(lower), builder.label(upper)
    how = f"Press {low} just behind fret {fret} and play it with" if fret else f"Play {low} with"
    builder.step(
        builder.open(upper),
        builder.stopped(lower, fret),
        title=f"{capital(high)} from {low}’s fret {fret}" if fret else f"{capital(high)} as {low}",
        instruction=f"{how} the open {high}. Turn {builder.peg(upper)} until the beats stop.",
    )


def _downward(builder: Builder, lower: int, upper: int) -> None:
    fret = _fret(builder.wanted, lower, upper)
    low, high = builder.label(lower), builder.label(upper)
    builder.step(
        builder.stopped(lower, fret),
        builder.open(upper),
        title=f"{capital(low)} at its fret {fret}, with {high}",
        instruction=(
            f"Press {low} just behind fret {fret} and play it with the open {high}."
            f" Turn {builder.peg(lower)} until the beats stop."
        ),
    )


METHOD: Final = Method(
    id="unison",
    name="Fretted unisons (relative tuning)",
    about="Press a fret, match the next open string",
    how="by fretted unisons",
    plan=unison,
    drills=(("beating", None), ("faster", None), ("higher", None), ("way", None)),
    questions=("which", "names", "whole"),
    instead=3,
    from_trusted=True,
    from_fork=True,
    reasons=(
        reason(
            2.0,
            "It needs nothing but a string you trust.",
            at_hand="nothing fork",
            company="alone",
        ),
        reason(1.5, "It trains the ear on the plainest sound, the unison.", purpose="learn"),
        reason(-2.0, "With slack strings the trusted one moves as you work.", how_far="slack"),
        reason(-1.0, "The errors of the chain add up, and are heard.", purpose="stage recording"),
        reason(-1.0, "In noise two unisons are hard to tell apart.", noise="noisy"),
    ),
)
