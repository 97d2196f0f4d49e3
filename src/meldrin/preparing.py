"""The commands that only compute: plan, retune, beats, adjust, instruments; texts or JSON.

They import no web server and no database, so that they answer at once.
"""

import argparse
import json
import sys
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

from meldrin.core.errors import Code, MeldrinError

Run = Callable[[argparse.Namespace], int]


def add_commands(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Add the computing commands with their options."""
    plan = _command(commands, "plan", "what to do, string by string, by one method", _plan)
    plan.add_argument("instrument", help="see ./meldrin instruments")
    plan.add_argument(
        "--method", help="each, unison, fifths, harmonics, drone, tuner, mixed; else the fittest"
    )
    _tuning_options(plan)
    plan.add_argument(
        "--temperament",
        default="own",
        help="own (the method's), equal, fifths, just, sweetened, piece, custom",
    )
    plan.add_argument(
        "--fifth-cents", type=float, default=0.0, help="fifths wider (narrower: -) than pure"
    )
    plan.add_argument("--tonic", help="the tonic of a drone or of just intervals, such as D")
    plan.add_argument(
        "--share", type=float, default=0.5, help="sweetened: how far towards just, 0 to 1"
    )
    plan.add_argument("--offsets", help="custom: cents by string number, such as 6:-2,1:1.5")
    plan.add_argument("--reason", default="", help="custom: what the offsets are for")
    plan.add_argument("--start", type=int, help="the string to begin with")
    plan.add_argument("--itself", action="store_true", help="trust that string as it is")
    plan.add_argument("--sounded", action="store_true", help="a piano or a pipe, not a fork")
    plan.add_argument("--order", choices=("usual", "up", "down", "ear_first"), default="usual")
    plan.add_argument("--fork-at", choices=("open", "harmonic"), default="open")
    plan.add_argument(
        "--second-pass", action="store_true", help="strings are far out, or the frame gives"
    )
    plan.add_argument("--far", default="", help="strings known to be far out, such as 6,1")
    plan.add_argument(
        "--piece", default="", help="piece: intervals to make pure, such as 3-2,6-3:1 (string:fret)"
    )
    plan.add_argument(
        "--ear", default="practised", help="beginner, practised or trained, for the errors expected"
    )
    plan.add_argument("--pdf", type=Path, help="write the plan card to this file too")

    change = _command(
        commands, "retune", "from one tuning to another and how far to aim off", _retune
    )
    change.add_argument("instrument")
    change.add_argument("--from", dest="before", default="standard", help="a tuning, or its notes")
    change.add_argument("--to", dest="after", required=True, help="a tuning, or its notes")
    change.add_argument("--a4", type=float, default=440.0, help="390 to 470 Hz")

    beats = _command(commands, "beats", "how fast two partials of two notes beat", _beats)
    beats.add_argument("lower", help="a note such as D3")
    beats.add_argument("upper")
    beats.add_argument("--partials", help="of the lower and the upper, such as 3:2")
    beats.add_argument(
        "--cents", type=float, default=0.0, help="the upper one above equal temperament"
    )
    beats.add_argument("--a4", type=float, default=440.0, help="390 to 470 Hz")

    adjust = _command(
        commands, "adjust", "offsets and the likely culprit from measured intervals", _adjust
    )
    adjust.add_argument(
        "observations", type=Path, help="CSV: lower, upper, partials, beats_per_s or cents, sd"
    )
    adjust.add_argument("--held", help="the string taken as right, such as A2")
    adjust.add_argument("--a4", type=float, default=440.0, help="390 to 470 Hz")

    _command(commands, "instruments", "the catalogue: instruments and their tunings", _instruments)


def _command(
    commands: "argparse._SubParsersAction[argparse.ArgumentParser]", name: str, about: str, run: Run
) -> argparse.ArgumentParser:
    command = commands.add_parser(name, help=about)
    command.add_argument("--json", action="store_true", help="print JSON instead of a table")
    command.set_defaults(run=run)
    return command


def _tuning_options(command: argparse.ArgumentParser) -> None:
    command.add_argument("--tuning", default="standard", help="a tuning of the catalogue")
    command.add_argument("--notes", help="your own tuning, last string first: 'D2 A2 D3 G3 A3 D4'")
    command.add_argument("--a4", type=float, default=440.0, help="390 to 470 Hz")


def _plan(options: argparse.Namespace) -> int:
    from meldrin.reports.plan_record import plan_record
    from meldrin.services.prepare import Asked, offsets_said, plan_for, strings_said

    planned = plan_for(
        Asked(
            instrument=options.instrument,
            tuning=options.tuning,
            notes=options.notes,
            method=options.method,
            a4_hz=options.a4,
            temperament=options.temperament,
            fifth_cents=options.fifth_cents,
            tonic=options.tonic,
            share=options.share,
            offsets_cents=offsets_said(options.offsets or ""),
            reason=options.reason,
            start=options.start,
            itself=options.itself,
            sounded=options.sounded,
            order=options.order,
            fork_at=options.fork_at,
            second_pass=options.second_pass,
            far=strings_said(options.far),
            piece=options.piece,
            ear=options.ear,
        )
    )
    record = plan_record(planned.plan, planned.expected)
    if options.pdf is not None:
        from meldrin.reports.plan_pdf import plan_pdf

        _write(options.pdf, plan_pdf(record))
    if options.json:
        return _print_json(record)
    _print_plan(record)
    return 0


def _print_plan(record: Mapping[str, Any]) -> None:
    print(
        f"{record['instrument_name']}, {record['tuning_name'].lower()}, by {record['method']},"
        f" {record['temperament']}, A4 = {record['a4_hz']:g} Hz\n"
    )
    for step in record["steps"]:
        print(f"{step['index']:2}. {step['title']} ({step['interval']})")
        print(f"    {step['instruction']}")
        print(
            f"    meets at {step['meeting_hz']:.1f} Hz, {step['beats_hz']:.2f} beats/s at the"
            f" target, {step['beats_hz_per_cent']:.2f} a cent away; listen"
            f" {step['seconds_to_hear']:.1f} s"
        )
        if step["caution"]:
            print(f"    ! {step['caution']}")
    for close in record["closes"]:
        print(f"    {close['title']}: {close['instruction']}")
    print("\nWhat it leaves, in cents against equal temperament:")
    errors = {one["number"]: one["sd_cents"] for one in record["expected"]["strings"]}
    _table(
        ("string", "note", "ideal Hz", "cents", "on these strings", "+-", "tension", "of breaking"),
        [
            (
                one["written"],
                one["note"],
                f"{one['frequency_hz']:.2f}",
                f"{one['equal_cents']:+.2f}",
                f"{one['stiff_cents']:+.2f}",
                f"{errors[one['number']]:.1f}",
                f"{one['tension_n']:.0f} N",
                f"{one['breaking_share']:.0%}",
            )
            for one in record["strings"]
        ],
    )
    for one in record["intervals"]:
        if one["sour"]:
            names = {string["number"]: string["note"] for string in record["strings"]}
            print(
                f"Sour: {names[one['lower']]}-{names[one['upper']]}, {one['name']},"
                f" {one['against_equal_cents']:+.1f} cents against equal and"
                f" {one['against_pure_cents']:+.1f} against pure"
            )
    _print_expected(record)
    print(record["marked_words"])


def _print_expected(record: Mapping[str, Any]) -> None:
    expect = record["expected"]
    others = [f"chain {expect['chain_sd_cents']:.1f}", f"star {expect['star_sd_cents']:.1f}"]
    if expect["harmonics_sd_cents"] is not None:
        others.append(f"harmonics {expect['harmonics_sd_cents']:.1f}")
    print(
        f"\nExpected of a {expect['ear']} ear: worst string +-{expect['order_sd_cents']:.1f} cents"
        f" in this order ({', '.join(others)}), end to end +-{expect['end_to_end_sd_cents']:.1f}"
        f" and {expect['end_to_end_bias_cents']:+.1f} from the finger"
    )
    extra = expect["extra_check"]
    if extra is not None:
        print(f"The check that tells most: {_extra(record, extra)}.")


def _extra(record: Mapping[str, Any], extra: Mapping[str, Any]) -> str:
    names = {string["number"]: string["label"] for string in record["strings"]}
    after = f"worst string then +-{extra['sd_cents']:.1f}"
    if extra["lower"] is None:
        return f"{names[extra['upper']]} against a note or a reading of its own; {after}"
    how = (
        f"partials {extra['partials'][0]}:{extra['partials'][1]}"
        if extra["fret"] is None
        else f"{names[extra['lower']]} at fret {extra['fret']}"
    )
    pair = f"{names[extra['lower']]} with {names[extra['upper']]}"
    return f"{pair} ({extra['interval']}, {how}); {after}"


def _retune(options: argparse.Namespace) -> int:
    from meldrin.reports.plan_record import retuning_record
    from meldrin.services.prepare import retuning_for

    made, change = retuning_for(
        options.instrument, before=options.before, after=options.after, a4_hz=options.a4
    )
    record = retuning_record(change)
    if options.json:
        return _print_json(record)
    print(f"{made.name}, A4 = {options.a4:g} Hz\n")
    _table(
        ("string", "from", "to", "steps", "before", "after", "of breaking", "aim", "drift"),
        [
            (
                one["label"],
                one["from"],
                one["to"],
                f"{one['semitones']:+d}",
                f"{one['tension_before_n']:.0f} N",
                f"{one['tension_after_n']:.0f} N",
                f"{one['breaking_share']:.0%}",
                f"{one['aim_cents']:+.1f}" if one["semitones"] else "",
                f"{one['drift_cents']:+.1f}",
            )
            for one in record["strings"]
        ],
    )
    labels = {one["number"]: one["label"] for one in record["strings"]}
    order = ", ".join(labels[number] for number in record["order"]) or "nothing to turn"
    print(f"\nOrder: {order}; then all again. Total load {record['load_change_n']:+.0f} N.")
    for caution in record["cautions"]:
        print(f"! {caution}")
    return 0


def _beats(options: argparse.Namespace) -> int:
    from meldrin.core.beats import beat_rate_hz, meeting
    from meldrin.core.errors import Code, within
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
        return _print_json(record)
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


def _adjust(options: argparse.Namespace) -> int:
    from meldrin.core.adjust import adjust
    from meldrin.core.pitch import parse_note
    from meldrin.reports.adjust_record import adjustment_record, adjustment_sentences
    from meldrin.reports.observations import read_observations

    held = None if options.held is None else parse_note(options.held)
    rows = read_observations(_read(options.observations), name=options.observations.name)
    found = adjust(rows, a4_hz=options.a4, held=held)
    record = adjustment_record(found)
    if options.json:
        return _print_json({**record, "sentences": adjustment_sentences(found)})
    print(f"Offsets from equal temperament, {record['held']} held:")
    _table(
        ("string", "cents", "+-"),
        [
            (one["note"], f"{one['offset_cents']:+.2f}", f"{one['standard_error_cents']:.2f}")
            for one in record["strings"]
        ],
    )
    print()
    _table(
        ("row", "interval", "observed", "adjusted", "left", "doubt"),
        [
            (
                str(index),
                f"{one['lower']}-{one['upper']}",
                f"{one['observed_cents']:+.2f}",
                f"{one['adjusted_cents']:+.2f}",
                f"{one['residual_cents']:+.2f}",
                "unchecked" if one["doubt"] is None else f"{one['doubt']:.1f}",
            )
            for index, one in enumerate(record["observations"], 1)
        ],
    )
    print()
    for sentence in adjustment_sentences(found):
        print(sentence)
    return 0


def _instruments(options: argparse.Namespace) -> int:
    from meldrin.core.catalogue import instruments
    from meldrin.reports.plan_record import instrument_record

    records = [instrument_record(one) for one in instruments()]
    if options.json:
        return _print_json(records)
    for record in records:
        print(f"{record['id']}: {record['name']}")
        for tuning in record["tunings"]:
            print(f"    {tuning['id']:20} {tuning['notes']}")
    return 0


def _table(heads: tuple[str, ...], rows: list[tuple[str, ...]]) -> None:
    widths = [max(len(cell) for cell in column) for column in zip(heads, *rows, strict=True)]
    for row in (heads, *rows):
        print("  ".join(cell.rjust(width) for cell, width in zip(row, widths, strict=True)))


def _print_json(record: object) -> int:
    print(json.dumps(record, ensure_ascii=False, allow_nan=False, indent=2))
    return 0


def _read(path: Path) -> str:
    try:
        return sys.stdin.read() if str(path) == "-" else path.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError):
        raise MeldrinError(Code.FILE, f"{path} cannot be read as text.") from None


def _write(path: Path, data: bytes) -> None:
    try:
        path.write_bytes(data)
    except OSError as error:
        raise MeldrinError(Code.FILE, f"{path} cannot be written: {error.strerror}.") from None
