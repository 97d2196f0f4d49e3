"""A plan and a retuning as plain records, the same for JSON files and for the web."""

from typing import Any

from meldrin.core.budget import Expected
from meldrin.core.catalogue import Instrument, Tuning
from meldrin.core.methods import Check, Plan, Step, Touch
from meldrin.core.methods.leaves import intervals, left
from meldrin.core.pitch import note_name
from meldrin.core.retune import Retuning
from meldrin.core.temperament import Temperament
from meldrin.core.words import cents_said

Record = dict[str, Any]
DIGITS = 6
MARKED = (
    "A score marks against what the method’s ideal gives on these very strings: still means right."
)


def plan_record(plan: Plan, expect: Expected) -> Record:
    """Return a plan as a record of numbers, texts, lists and records only."""
    return {
        "instrument": plan.instrument.id,
        "instrument_name": plan.instrument.name,
        "tuning": plan.tuning.id,
        "tuning_name": plan.tuning.name,
        "method": plan.method,
        "a4_hz": plan.a4_hz,
        "temperament": temperament_words(plan),
        "chosen": plan.temperament.kind == "custom",
        "reference": {
            "kind": plan.reference.kind,
            "note": note_name(plan.reference.midi),
            "hz": number(plan.reference.hz),
        },
        "strings": _strings(plan),
        "steps": [step_record(plan, step, index) for index, step in enumerate(plan.steps, 1)],
        "closes": [check_record(plan, check, index) for index, check in enumerate(plan.checks, 1)],
        "intervals": [
            {
                "lower": one.lower,
                "upper": one.upper,
                "name": one.name,
                "cents": number(one.cents),
                "against_equal_cents": number(one.against_equal),
                "against_pure_cents": number(one.against_pure),
                "sour": one.sour,
            }
            for one in intervals(plan)
        ],
        "expected": expected_record(expect),
        "marked_against": "stiff_cents",
        "marked_words": MARKED,
    }


def temperament_words(plan: Plan) -> str:
    """Return the temperament in a few words."""
    own = plan.temperament
    if plan.method == "harmonics" and own.kind == "fifths" and not own.fifth_cents:
        return "pure intervals"
    return _temperament(own)


def _temperament(own: Temperament) -> str:
    match own.kind:
        case "equal":
            return "equal temperament"
        case "fifths" if own.fifth_cents == 0.0:
            return "pure fifths"
        case "fifths":
            way = "wider" if own.fifth_cents > 0.0 else "narrower"
            return f"fifths {cents_said(abs(own.fifth_cents))} {way} than pure"
        case "just":
            return "just over the tonic"
        case "custom":
            return f"chosen offsets: {own.reason}"


def _strings(plan: Plan) -> list[Record]:
    return [
        {
            "number": one.number,
            "course": string.course,
            "label": one.label,
            "written": string.label or str(one.number),
            "role": string.role,
            "note": note_name(plan.tuning.midi(one.number)),
            "frequency_hz": number(one.frequency_hz),
            "sounding_hz": number(one.sounding_hz),
            "equal_cents": number(one.equal_cents),
            "stiff_cents": number(one.stiff_cents),
            "tension_n": number(one.tension_n),
            "breaking_share": number(one.breaking_share),
        }
        for one, string in zip(left(plan), plan.instrument.strings, strict=True)
    ]


def step_record(plan: Plan, step: Step, index: int) -> Record:
    """Return a step; the first of `sound` is the string that is turned."""
    return {
        "index": index,
        "string": step.string,
        "sound": [_touch(plan, step.own), _touch(plan, step.other)],
        "target_cents": number(step.target_cents),
        "interval": step.interval,
        "meeting_hz": number(step.meeting_hz),
        "beats_hz": number(step.beats_hz),
        "beats_hz_per_cent": number(step.beats_hz_per_cent),
        "seconds_to_hear": number(step.seconds_to_hear),
        "title": step.title,
        "instruction": step.instruction,
        "caution": step.caution,
    }


def check_record(plan: Plan, check: Check, index: int) -> Record:
    """Return a closing check."""
    return {
        "index": index,
        "sound": [_touch(plan, check.own), _touch(plan, check.other)],
        "target_cents": number(check.target_cents),
        "interval": check.interval,
        "meeting_hz": number(check.meeting_hz),
        "beats_hz": number(check.beats_hz),
        "beats_hz_per_cent": number(check.beats_hz_per_cent),
        "title": check.title,
        "instruction": check.instruction,
    }


def _touch(plan: Plan, touch: Touch) -> Record:
    fretted = plan.instrument.frets > 0
    node = touch.node_fret if fretted else touch.node_share
    return {
        "string": touch.string,
        "fret": None if touch.string is None or touch.node_fret is not None else touch.fret,
        "partial": touch.partial,
        "node": None if node is None else round(node, 2 if fretted else 4),
        "hz": None if touch.hz is None else number(touch.hz),
    }


def expected_record(expect: Expected) -> Record:
    """Return what to expect of a plan."""
    extra = expect.extra_check
    return {
        "ear": expect.ear.id,
        "comparison_sd_cents": expect.ear.beats_sd_cents,
        "strings": [
            {
                "number": one.number,
                "sd_cents": number(one.sd_cents),
                "bias_cents": number(one.bias_cents),
            }
            for one in expect.strings
        ],
        "order_sd_cents": number(expect.order_sd_cents),
        "chain_sd_cents": number(expect.chain_sd_cents),
        "star_sd_cents": number(expect.star_sd_cents),
        "harmonics_sd_cents": None
        if expect.harmonics_sd_cents is None
        else number(expect.harmonics_sd_cents),
        "end_to_end_sd_cents": number(expect.end_to_end_sd_cents),
        "end_to_end_bias_cents": number(expect.end_to_end_bias_cents),
        "extra_check": None
        if extra is None
        else {
            "lower": extra.lower,
            "upper": extra.upper,
            "partials": list(extra.partials),
            "fret": extra.fret,
            "interval": extra.interval,
            "sd_cents": number(extra.sd_cents),
        },
    }


def retuning_record(change: Retuning) -> Record:
    """Return a retuning as a record."""
    return {
        "strings": [
            {
                "number": row.number,
                "label": row.label,
                "from": note_name(row.midi_from),
                "to": note_name(row.midi_to),
                "semitones": row.semitones,
                "tension_before_n": number(row.tension_before_n),
                "tension_after_n": number(row.tension_after_n),
                "breaking_share": number(row.breaking_share),
                "aim_cents": number(row.aim_cents),
                "drift_cents": number(row.drift_cents),
            }
            for row in change.strings
        ],
        "load_before_n": number(change.load_before_n),
        "load_after_n": number(change.load_after_n),
        "load_change_n": number(change.load_change_n),
        "order": list(change.order),
        "cautions": list(change.cautions),
    }


def instrument_record(made: Instrument) -> Record:
    """Return an instrument with its strings and tunings."""
    return {
        "id": made.id,
        "name": made.name,
        "kind": made.kind,
        "fretting": made.fretting,
        "frets": made.frets,
        "strings": [
            {
                "number": string.number,
                "written": string.label or str(string.number),
                "course": string.course,
                "note": note_name(string.midi),
                "role": string.role,
                "scale_mm": number(string.scale_m * 1000.0),
                "material": string.material,
                "peg": string.peg.kind,
                "fine_tuner": None if string.fine is None else string.fine.kind,
            }
            for string in made.strings
        ],
        "tunings": [tuning_record(tuning) for tuning in made.tunings],
    }


def tuning_record(tuning: Tuning) -> Record:
    """Return a tuning; its notes are read from the last string to the first."""
    return {
        "id": tuning.id,
        "name": tuning.name,
        "notes": tuning.notes,
        "about": tuning.about,
    }


def number(value: float) -> float:
    """Return the number to six decimals, without a negative zero."""
    return round(value, DIGITS) + 0.0
