"""Finding what is wrong with an instrument: what was said, held against the truth and against the
checks that can show it. A lucky guess is worth little.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from meldrin.core.bench import Exercise, Play, State, TimedAction, played
from meldrin.core.bench.fault import Fault, FaultKind, remedy_of
from meldrin.core.catalogue import Instrument
from meldrin.core.scoring.advice import Advice
from meldrin.core.scoring.line import Line
from meldrin.core.words import capital

FAULT_POINTS: Final = 75.0
REMEDY_POINTS: Final = 25.0
GUESSED: Final = 0.25  # of the points, where no check was made that shows it
OTHER_STRING: Final = 0.4  # the right fault on the wrong string
LOW_FRETS: Final = range(1, 4)
HIGH_FRETS: Final = range(7, 13)
SEVERAL: Final = 3

HOW: Final[dict[FaultKind, str]] = {
    "nut": "Read frets 1 and 2, then one high up: only the low ones are sharp",
    "saddle": "Hold fret 12 against the harmonic over it, then look low down",
    "finger": "Press the same fret as usual, then lightly, and compare",
    "old": "Play several strings, each alone: all of them beat by themselves",
    "false": "Play each string alone: one beats by itself",
    "slip": "Play one string twice: it has sunk",
}


@dataclass(frozen=True, slots=True)
class Touch:
    """A string that was played, and how the finger lay on it."""

    string: int
    fret: float
    touched: bool
    light: bool
    alone: bool


def fault_lines(exercise: Exercise, log: Sequence[TimedAction], state: State) -> list[Line]:
    """Return the points for what was said, with the reasons."""
    fault, said = state.rig.fault, state.found
    assert fault is not None
    if said is None:
        text = f"You did not say what is wrong: {truth(state, fault)}."
        return [
            Line("fault", None, 0.0, FAULT_POINTS, text, broken=1.0),
            Line("remedy", None, 0.0, REMEDY_POINTS, "You did not say what to do.", broken=1.0),
        ]
    shown = shows(fault, touches(exercise, log, until_s=said.at_s), exercise.instrument)
    right = said.fault == fault.kind
    share = float(right)
    text = capital(truth(state, fault)) + "."
    if not right:
        text += f" {HOW[fault.kind]}."
    elif fault.string != said.string:
        share *= OTHER_STRING
        text += f" You named {state.rig.plan.label(said.string)}."
    if right and not shown:
        share *= GUESSED
        text += f" You made no check that shows it. {HOW[fault.kind]}."
    lines = [Line("fault", None, share * FAULT_POINTS, FAULT_POINTS, text, broken=1.0 - share)]
    wanted = remedy_of(fault, exercise.instrument)
    help_share = float(right and said.remedy == wanted) * (1.0 if shown else GUESSED)
    lines.append(
        Line(
            "remedy",
            None,
            help_share * REMEDY_POINTS,
            REMEDY_POINTS,
            DONE[wanted],
            broken=1.0 - help_share,
        )
    )
    return lines


DONE: Final = {
    "lighter": "Press lightly, straight down, close behind the fret.",
    "string": "Change that string; nothing makes it true again.",
    "strings": "Change all strings; old ones never agree with themselves.",
    "peg": "Push the peg in while you turn; if it still slips, a repairer fits it.",
    "repairer": "A repairer sees to it; no turning of pegs mends it.",
}


def truth(state: State, fault: Fault) -> str:
    """Return what is wrong, with its string."""
    if not fault.string:
        return fault.words
    return f"{fault.words}: {state.rig.plan.label(fault.string)}"


def fault_headline(state: State) -> str:
    """Return in a sentence what was wrong, and whether it was found."""
    fault, said = state.rig.fault, state.found
    assert fault is not None
    if said is None:
        return f"Not found: {truth(state, fault)}."
    if said.fault != fault.kind:
        return f"Not that: {truth(state, fault)}."
    if said.string != fault.string:
        return f"Nearly: {truth(state, fault)}."
    return f"Found: {truth(state, fault)}."


def touches(exercise: Exercise, log: Sequence[TimedAction], *, until_s: float) -> tuple[Touch, ...]:
    """Return what was played up to a moment, in order."""
    found = []
    for one in played(exercise, log):
        action = one.entry.action
        if one.after.time_s > until_s:
            break
        if not isinstance(action, Play):
            continue
        alone = len(action.strings) == 1 and not action.reference
        for number in action.strings:
            now = one.after.string(number)
            found.append(Touch(number, now.fret, now.touched, now.light, alone))
    return tuple(found)


def shows(fault: Fault, made: Sequence[Touch], instrument: Instrument) -> bool:
    """Whether what was played could show this fault to somebody who listened or read."""
    pressed = {(one.string, one.fret, one.light) for one in made if one.fret and not one.touched}
    alone = [one.string for one in made if one.alone]
    low = {string for string, fret, _ in pressed if fret in LOW_FRETS}
    high = {string for string, fret, _ in pressed if fret in HIGH_FRETS}
    match fault.kind:
        case "nut":
            return bool(low and high)
        case "saddle":
            octave = {one.string for one in made if one.fret == 12 and not one.touched}
            node = {one.string for one in made if one.touched and abs(one.fret - 12) < 0.2}
            return bool(octave & (node | {one.string for one in made if not one.fret}))
        case "finger":
            return any((string, fret, not light) in pressed for string, fret, light in pressed)
        case "old":
            return len(set(alone)) >= min(SEVERAL, len(instrument.strings))
        case "false":
            return fault.string in alone and len(set(alone)) > 1
        case "slip":
            return sum(one.string == fault.string for one in made) > 1


def next_fault(exercise: Exercise, lines: Sequence[Line]) -> Advice:
    """Return what to look for next."""
    missed = lines[0].points < FAULT_POINTS
    sentence = (
        "Go through the checks in order: each string alone and twice, fret 12, then frets 1 and 2."
        if missed
        else "Good. Another instrument, another fault."
    )
    return Advice("fault" if missed else "", sentence, exercise, "Another fault")
