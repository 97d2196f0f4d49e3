"""Is the instrument fit to be tuned: questions in the order one looks, and plain advice.

Set-up and repair are a repairer's work; this only says when to go there. The limits are judgements:
a good set-up agrees at fret 12 within 2 cents, a high nut shows at frets 1 and 2 and nowhere else.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final, Literal

from meldrin.core.catalogue import Instrument
from meldrin.core.errors import Code, MeldrinError, within
from meldrin.core.words import whole_cents

Remedy = Literal["fine", "mind", "strings", "wait", "repairer"]
NEW_DAYS: Final = 7.0
FRET_12_FINE_CENTS: Final = 3.0
FRET_12_MOST_CENTS: Final = 8.0
NUT_FINE_CENTS: Final = 4.0


@dataclass(frozen=True, slots=True)
class Question:
    """One thing to look at; `options` (value, words) to choose from, or a number in `unit`."""

    id: str
    title: str
    how: str
    options: tuple[tuple[str, str], ...] = ()
    unit: str = ""
    low: float = 0.0
    high: float = 0.0


@dataclass(frozen=True, slots=True)
class Finding:
    """What an answer means."""

    question: str
    remedy: Remedy
    sentence: str


@dataclass(frozen=True, slots=True)
class Fitness:
    """The findings in order, and the advice on the whole in a sentence."""

    remedy: Remedy
    advice: str
    findings: tuple[Finding, ...]


def questions(instrument: Instrument) -> tuple[Question, ...]:
    """Return what to look at on this instrument, in the order one does it."""
    asked = [
        Question(
            "hours",
            "Hours played on these strings",
            "A guess will do.",
            unit="hours",
            low=0.0,
            high=10_000.0,
        ),
        Question(
            "days",
            "Days since they were put on",
            "0 for today.",
            unit="days",
            low=0.0,
            high=10_000.0,
        ),
        Question(
            "surface",
            "How do they look and feel?",
            "Run a fingertip along each, and look where it is stopped.",
            (
                ("smooth", "Smooth and straight"),
                ("dull", "Dull or sticky"),
                ("dented", "Dented, kinked or rusty"),
            ),
        ),
    ]
    if instrument.fretting == "fixed":
        asked += [
            Question(
                "fret12",
                "Fret 12 against the harmonic",
                "Sound the harmonic over fret 12, then press there lightly. How many cents"
                " sharp (+) or flat (-) is the pressed note on the worst string?",
                unit="cents",
                low=-100.0,
                high=100.0,
            ),
            Question(
                "fret1",
                "Frets 1 and 2",
                "Tune a string, then press frets 1 and 2 lightly. How many cents sharp (+)"
                " is the worse of them?",
                unit="cents",
                low=-100.0,
                high=100.0,
            ),
        ]
    asked.append(
        Question(
            "pegs",
            "Do the pegs hold?",
            "Turn one a little and let go.",
            (
                ("hold", "They hold"),
                ("slip", "One slips back"),
                ("stick", "One sticks and jumps"),
                ("creak", "Something creaks"),
            ),
        )
    )
    if any(string.fine is not None for string in instrument.strings):
        asked.append(
            Question(
                "fine",
                f"Where do the {_fine(instrument)}s stand?",
                f"Look at each {'bead' if _fine(instrument) == 'bead' else 'screw'}.",
                (("middle", "Somewhere in the middle"), ("end", "One is at the end of its travel")),
            )
        )
    asked += [
        Question(
            "kept",
            "Where has it been?",
            "In the last day.",
            (
                ("here", "In this room"),
                ("damp", "Somewhere damper"),
                ("dry", "Somewhere drier"),
                ("cold", "In the cold or in a car"),
            ),
        ),
        Question(
            "harm",
            "Anything that looks wrong?",
            "Look along the neck and at the bridge.",
            (
                ("no", "No"),
                ("bridge", "The bridge leans or has moved"),
                ("crack", "A crack, or something loose"),
            ),
        ),
    ]
    return tuple(asked)


def fitness(instrument: Instrument, answers: Mapping[str, str | float]) -> Fitness:
    """Return what the answers mean; questions may be left out.

    Raises:
        OutOfRange: for a number out of range.
        MeldrinError: code ``answer``, for an unknown question or answer.
    """
    asked = {question.id: question for question in questions(instrument)}
    unknown = sorted(set(answers) - set(asked))
    if unknown:
        raise MeldrinError(
            Code.ANSWER, f"“{unknown[0]}” is not asked of this instrument; {', '.join(asked)} are."
        )
    said = {name: _answer(asked[name], value) for name, value in answers.items()}
    findings = tuple(
        finding
        for question in asked.values()
        if question.id in said
        for finding in [_finding(instrument, question.id, said)]
        if finding is not None
    )
    return Fitness(*_overall(findings, answered=bool(said)), findings)


def _answer(question: Question, value: str | float) -> str | float:
    if question.options:
        if value not in [option for option, _ in question.options]:
            words = ", ".join(option for option, _ in question.options)
            raise MeldrinError(Code.ANSWER, f"{question.title} Answer with one of: {words}.")
        return value
    try:
        number = float(value)
    except ValueError:
        raise MeldrinError(Code.ANSWER, f"{question.title}: “{value}” is not a number.") from None
    return within(
        number, name=question.title, low=question.low, high=question.high, unit=question.unit
    )


def _finding(instrument: Instrument, name: str, said: Mapping[str, str | float]) -> Finding | None:
    value = said[name]
    match name:
        case "hours":
            return _hours(instrument, float(value))
        case "days":
            if float(value) >= NEW_DAYS:
                return None
            return Finding(
                name,
                "mind",
                "New strings sink for days: tune, pull each gently along its length, tune again,"
                " and expect to do it tomorrow too.",
            )
        case "surface":
            return _surface(str(value))
        case "fret12":
            return _fret12(float(value), str(said.get("surface", "smooth")))
        case "fret1":
            return _fret1(float(value), said.get("fret12"))
        case "pegs":
            return _pegs(instrument, str(value))
        case "fine":
            if value == "middle":
                return Finding(name, "fine", f"The {_fine(instrument)}s have room both ways.")
            if _fine(instrument) == "bead":
                text = "Push the bead back to the middle first, then bring the string near with its"
                return Finding(name, "mind", f"{text} peg: a bead at its end cannot help you.")
            return Finding(
                name,
                "mind",
                "Turn the fine tuner back to the middle first, then bring the string near with"
                " its peg: a screw at its end cannot help you, and may dig into the top.",
            )
        case "kept":
            return _kept(str(value))
        case _:
            return _harm(str(value))


def _hours(instrument: Instrument, hours: float) -> Finding:
    low, high = instrument.life_hours
    if hours > high:
        return Finding(
            "hours",
            "strings",
            f"Past {high:g} hours strings of a {instrument.short_name} are mostly dull or false:"
            " their partials split and beat alone. Change them, or no tuning will agree.",
        )
    if hours > low:
        return Finding(
            "hours",
            "mind",
            f"Between {low:g} and {high:g} hours they grow dull. If one string beats with itself,"
            " change it.",
        )
    return Finding("hours", "fine", "The strings are young enough to agree with themselves.")


def _surface(value: str) -> Finding:
    match value:
        case "smooth":
            return Finding("surface", "fine", "Smooth strings ring true.")
        case "dull":
            return Finding(
                "surface",
                "mind",
                "Wipe them with a dry cloth. A dirty string is a little flat and dies sooner.",
            )
        case _:
            return Finding(
                "surface",
                "strings",
                "A dented, kinked or rusty string beats with itself and may snap well below its"
                " pitch. Change it before you tune; face turned away, wire ends cut.",
            )


def _fret12(cents: float, surface: str) -> Finding:
    size = abs(cents)
    way = "sharp" if cents > 0.0 else "flat"
    if size <= FRET_12_FINE_CENTS:
        return Finding("fret12", "fine", "Octave and harmonic agree: the speaking length is right.")
    if size <= FRET_12_MOST_CENTS:
        return Finding(
            "fret12",
            "mind",
            f"{whole_cents(size)} {way} at fret 12: open strings can be right and chords still a"
            " little sour. Old strings or a heavy finger do it too; try those first.",
        )
    if surface == "dented":
        return Finding(
            "fret12",
            "strings",
            f"{whole_cents(size)} {way} at fret 12 on damaged strings: change them, then look"
            " again.",
        )
    return Finding(
        "fret12",
        "repairer",
        f"{whole_cents(size)} {way} at fret 12: the speaking length is wrong. Open strings can be"
        " perfect and chords still sour. Have a repairer look at the bridge or saddle.",
    )


def _fret1(cents: float, fret12: str | float | None) -> Finding:
    if cents <= NUT_FINE_CENTS:
        return Finding("fret1", "fine", "The first frets agree: the nut is low enough.")
    alone = fret12 is not None and abs(float(fret12)) <= FRET_12_FINE_CENTS
    where = "and right at fret 12: the sign of a high nut" if alone else "which a high nut does"
    return Finding(
        "fret1",
        "repairer",
        f"{whole_cents(cents)} sharp at frets 1 and 2, {where}. No tuning cures it; have a repairer"
        " look at the nut.",
    )


def _pegs(instrument: Instrument, value: str) -> Finding:
    friction = any(string.peg.kind == "friction peg" for string in instrument.strings)
    match value:
        case "hold":
            return Finding("pegs", "fine", "The pegs hold.")
        case "slip" if friction:
            return Finding(
                "pegs",
                "mind",
                "Push the peg in while you turn it. If it still slips back, have a repairer fit"
                " it; dry winter air does this.",
            )
        case "stick" if friction:
            return Finding(
                "pegs",
                "mind",
                "Never force it. Turn back a little, then come up in small moves; a repairer can"
                " make it run smoothly.",
            )
        case "creak":
            return Finding(
                "pegs",
                "repairer",
                "Stop turning when a peg or the neck creaks, and have a repairer look at it.",
            )
        case _:
            return Finding(
                "pegs",
                "repairer",
                "A geared machine that slips or jumps is worn or loose. Have a repairer look at"
                " it.",
            )


def _fine(instrument: Instrument) -> str:
    """Return what the fine tuners of an instrument are called, in the singular."""
    kinds = {string.fine.kind for string in instrument.strings if string.fine is not None}
    return "bead" if kinds == {"bead"} else "fine tuner"


def _kept(value: str) -> Finding:
    match value:
        case "here":
            return Finding("kept", "fine", "It has had time to settle in this room.")
        case "damp":
            return Finding(
                "kept",
                "wait",
                "It comes from damper air: as the wood dries the pitch sinks, for hours. Tune now,"
                " and again just before you play.",
            )
        case "dry":
            return Finding(
                "kept",
                "wait",
                "It comes from drier air: as the wood takes up damp the pitch rises, for hours."
                " Tune now, and again just before you play.",
            )
        case _:
            return Finding(
                "kept",
                "wait",
                "Let it warm up in its case for half an hour: the strings move first, the wood"
                " later, and a cold one cracks easily.",
            )


def _harm(value: str) -> Finding:
    match value:
        case "no":
            return Finding("harm", "fine", "Nothing looks wrong.")
        case "bridge":
            return Finding(
                "harm",
                "repairer",
                "Do not tighten anything: a bridge that leans can fall. Have a repairer, or your"
                " teacher, set it upright.",
            )
        case _:
            return Finding(
                "harm",
                "repairer",
                "Do not tighten anything over a crack or a loose part. Have a repairer look at it"
                " first.",
            )


def _overall(findings: tuple[Finding, ...], *, answered: bool) -> tuple[Remedy, str]:
    remedies = {finding.remedy for finding in findings}
    if not answered:
        return "mind", "Answer what you can; each answer is looked at on its own."
    if "repairer" in remedies:
        return "repairer", "Have a repairer look at it before you rely on its tuning."
    if "strings" in remedies:
        return "strings", "Change the strings first; old ones never agree with themselves."
    if "wait" in remedies:
        return "wait", "Fit to be tuned, but it is still moving: tune now and again later."
    if "mind" in remedies:
        return "mind", "Fit to be tuned; mind what is said below."
    return "fine", "Fit to be tuned."
