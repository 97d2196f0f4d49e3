"""`./meldrin beats`: how fast two partials of two notes beat."""

import argparse

from meldrin.commands.output import add_json, print_json
from meldrin.core.errors import Code, MeldrinError


def add_options(parser: argparse.ArgumentParser) -> None:
    """Add what can be asked for."""
    add_json(parser)
    parser.add_argument("lower", help="a note such as D3")
    parser.add_argument("upper")
    parser.add_argument("--partials", help="of the lower and the upper, such as 3:2")
    parser.add_argument(
        "--cents", type=float, default=0.0, help="the upper one above equal temperament"
    )
    parser.add_argument("--a4", type=float, default=440.0, help="390 to 470 Hz")


def run(options: argparse.Namespace) -> int:
    """Print the beat."""
    from meldrin.core.beats import beat_rate_hz, meeting
    from meldrin.core.errors import within
    from meldrin.core.pitch import (
        cents_between,
        equal_tempered_hz,
        parse_note,
        shifted_by_cents,
    )

    lower, upper = parse_note(options.lower), parse_note(options.upper)
    partials = _partials(options.partials) if options.partials else meeting(upper - lower)
    if partials is None:
        raise MeldrinError(
            Code.PARTIALS, "No low partials of these meet; say which beat, such as --partials 3:2."
        )
    cents = within(options.cents, name="cents", low=-1200.0, high=1200.0)
    low_hz = equal_tempered_hz(lower, a4_hz=options.a4)
    high_hz = shifted_by_cents(equal_tempered_hz(upper, a4_hz=options.a4), cents=cents)
    record = {
        "lower": options.lower,
        "upper": options.upper,
        "partials": list(partials),
        "a4_hz": options.a4,
        "meeting_hz": round(partials[0] * low_hz, 6),
        "beats_hz": round(beat_rate_hz(low_hz, high_hz, partials=partials), 6),
        "interval_cents": round(cents_between(high_hz, reference_hz=low_hz), 6),
    }
    if options.json:
        return print_json(record)
    print(
        f"{options.lower} and {options.upper}, {record['interval_cents']:.3f} cents apart: partials"
        f" {partials[0]} and {partials[1]} meet at {record['meeting_hz']:.2f} Hz and beat"
        f" {record['beats_hz']:.3f} times a second."
    )
    return 0


def _partials(text: str) -> tuple[int, int]:
    first, colon, second = text.partition(":")
    if colon and first.isdecimal() and second.isdecimal():
        pair = int(first), int(second)
        if all(1 <= one <= 32 for one in pair):
            return pair
    raise MeldrinError(
        Code.PARTIALS, f"“{text}” are no partials; write two numbers from 1 to 32, such as 3:2."
    )
