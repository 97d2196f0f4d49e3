"""An adjustment as a plain record, and in sentences."""

from collections.abc import Sequence
from typing import Final

from meldrin.core.adjust import Adjustment, Deciding, Observation
from meldrin.core.pitch import note_name
from meldrin.core.session import Record
from meldrin.reports.shape import number

MOST_CHOICES: Final = 4  # printed of the directions that fit


def adjustment_record(found: Adjustment) -> Record:
    """Return an adjustment as a record; suspects are numbered from 1, as rows are."""
    deciding = found.deciding
    return {
        "held": note_name(found.held),
        "strings": [
            {
                "note": note_name(one.midi),
                "offset_cents": number(one.offset_cents),
                "standard_error_cents": number(one.error_cents),
            }
            for one in found.strings
        ],
        "observations": [
            {
                "lower": note_name(one.observation.lower),
                "upper": note_name(one.observation.upper),
                "observed_cents": number(one.observed_cents),
                "adjusted_cents": number(one.adjusted_cents),
                "residual_cents": number(one.residual_cents),
                "doubt": None if one.doubt is None else number(one.doubt),
            }
            for one in found.residuals
        ],
        "redundancy": found.redundancy,
        "chi_squared": number(found.chi_squared),
        "wrong": found.wrong,
        "scatter": number(found.scatter),
        "suspects": [at + 1 for at in found.suspects],
        "deciding_check": None
        if deciding is None
        else {
            "lower": note_name(deciding.lower),
            "upper": note_name(deciding.upper),
            "interval": deciding.interval,
            "leaves_groups": [[at + 1 for at in group] for group in deciding.groups],
        },
        "stands_out": None if found.stands_out is None else note_name(found.stands_out),
        "directions_that_fit": [
            ["wide" if side > 0 else "narrow" for side in choice] for choice in found.choices
        ],
    }


def adjustment_sentences(found: Adjustment) -> list[str]:
    """Return what an adjustment says, in sentences."""
    said = []
    rows = [one.observation for one in found.residuals]
    if found.redundancy == 0:
        said.append("Nothing closes a loop yet, so no comparison is checked; add one more.")
    elif len(found.choices) > 1:
        said += _directions(found, rows)
    elif found.wrong == 0:
        said.append("All comparisons agree within their errors.")
    elif not found.suspects:
        said.append(_scattered(found))
    else:
        said.append(_accused([_pair(rows[at]) for at in found.suspects]))
    if found.deciding is not None:
        said.append(_decides(found.deciding, rows))
    if found.stands_out is not None:
        said.append(f"The string that stands out is {note_name(found.stands_out)}.")
    return said


def _accused(pairs: Sequence[str]) -> str:
    named = ", ".join(pairs)
    if len(pairs) == 1:
        return f"{named} is likely wrong: measure it again."
    return f"One of these is wrong, and they cannot be told apart: {named}."


def _scattered(found: Adjustment) -> str:
    """Say that comparisons disagree, and by how much more than was said."""
    times = "twice" if 1.75 <= found.scatter < 2.25 else f"{found.scatter:.1f} times"
    return (
        f"They do not agree: your comparisons scatter {times} as much as you said. None stands out;"
        " measure them again."
    )


def _directions(found: Adjustment, rows: Sequence[Observation]) -> list[str]:
    """Say which directions of the beats fit; until one is chosen, nothing is accused."""
    unsigned = [one for one in rows if one.beats_hz and one.side == 0]
    said = [
        f"Beats do not tell which way: {len(found.choices)} choices of direction fit. Write +"
        " (wide) or - (narrow) where you know."
    ]
    for choice in found.choices[:MOST_CHOICES]:
        words = ", ".join(
            f"{_pair(one)} {'wide' if side > 0 else 'narrow'}"
            for one, side in zip(unsigned, choice, strict=True)
        )
        said.append(f"Possible: {words}.")
    return said


def _decides(check: Deciding, rows: Sequence[Observation]) -> str:
    pair = f"{note_name(check.lower)} with {note_name(check.upper)} ({check.interval})"
    if not check.groups:
        return f"A check of {pair} would decide it."
    groups = " from ".join("; ".join(_pair(rows[at]) for at in group) for group in check.groups)
    return f"A further check of {pair} would tell {groups}."


def _pair(one: Observation) -> str:
    return f"{note_name(one.lower)}-{note_name(one.upper)}"
