"""An adjustment as a plain record, and in sentences."""

from meldrin.core.adjust import Adjustment, Observation
from meldrin.core.pitch import note_name
from meldrin.reports.plan_record import Record, number


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
        "directions_that_fit": found.ways,
    }


def adjustment_sentences(found: Adjustment) -> list[str]:
    """Return what an adjustment says, in sentences."""
    said = []
    rows = [one.observation for one in found.residuals]
    if found.redundancy == 0:
        said.append("Nothing closes a loop yet, so no comparison is checked; add one more.")
    elif not found.suspects:
        said.append("All comparisons agree within their errors.")
    elif len(found.suspects) == 1:
        said.append(f"The likely culprit is {_pair(rows[found.suspects[0]])}: measure it again.")
    else:
        pairs = ", ".join(_pair(rows[at]) for at in found.suspects)
        said.append(f"One of these is wrong, and they cannot be told apart: {pairs}.")
    if found.deciding is not None:
        check = found.deciding
        groups = " from ".join(
            f"{'; '.join(_pair(rows[at]) for at in group)}" for group in check.groups
        )
        said.append(
            f"A further check of {note_name(check.lower)} with {note_name(check.upper)}"
            f" ({check.interval}) would tell {groups}."
        )
    if found.stands_out is not None:
        said.append(f"The string that stands out is {note_name(found.stands_out)}.")
    if found.ways > 1:
        said.append(
            f"Beats do not tell which way: {found.ways} choices of direction fit about as well;"
            " write + (wide) or - (narrow) where you know."
        )
    return said


def _pair(one: Observation) -> str:
    return f"{note_name(one.lower)}-{note_name(one.upper)}"
