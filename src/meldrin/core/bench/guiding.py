"""What a teacher beside a beginner asks and says at a guided string, and the answer at once.

After the first turn the learner is asked whether the wobble got slower or faster, and is told. Who
turns the wrong way for a while is told that too. Where answers come at once, what was said of a
string is followed by how it is. All of that is help, and is kept as help.
"""

import math
from dataclasses import dataclass, replace
from typing import Final, Literal

from meldrin.core.bench.actions import Pace, Turn, Verdict
from meldrin.core.bench.exercise import Exercise
from meldrin.core.bench.limits import limits
from meldrin.core.bench.listening import shown
from meldrin.core.bench.observe import judged_cents
from meldrin.core.bench.state import Judgement, State, Taught
from meldrin.core.changed import changed
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.methods import Step
from meldrin.core.sound.references import SOURCE_NAMES
from meldrin.core.words import capital

SAME_SHARE: Final = 0.02  # a wobble that changed by less is as fast as before, to any ear
WRONG_TURNS: Final = 4  # in a row, after which a teacher would say it
CLEARLY_TIMES: Final = 3.0  # times the tolerance: from there on it is not “a little”


def pair_words(exercise: Exercise) -> str:
    """Return what a guided string is to agree with, in a sentence a child can read."""
    step, plan = exercise.plan.steps[0], exercise.plan
    own, other = plan.label(step.string), step.other
    if other.string is None:
        name = SOURCE_NAMES[exercise.sources[0]]
        return f"The {name} and the open {own} should ring without a wobble."
    partner = plan.label(other.string)
    pressed = (partner, other.fret) if other.fret else (own, step.own.fret)
    if pressed[1]:
        opened = own if other.fret else partner
        return (
            f"The open {opened}, and {pressed[0]} pressed behind fret {pressed[1]}, should be one"
            " note."
        )
    return f"The open {own} and {partner}, played together, should ring without a wobble."


def next_string(exercise: Exercise) -> int | None:
    """Return the string that comes after a guided one, round the instrument: the next that another
    string gives, or a note of its own; None where there is none.
    """
    whole = replace(exercise, start="hair", out_string=0, out_cents=0.0, guided=False).plan
    own_notes = whole.reference.kind == "tones"
    steps = [one.string for one in whole.steps if own_notes or one.other.string is not None]
    if not steps:
        return None
    at = steps.index(exercise.string_out) if exercise.string_out in steps else -1
    found = steps[(at + 1) % len(steps)]
    return None if found == exercise.string_out else found


@dataclass(frozen=True, slots=True)
class Answer:
    """How a string is, after it was said: the truth, and a sentence."""

    verdict: Verdict
    sentence: str


def watched(before: State, action: Turn, after: State) -> State:
    """Return the state with what a turn did to the wobble noted, where the string is guided.

    From its first turn on it is not tuned by ear alone: what is said, or is not said, tells as much
    as ripples do.
    """
    if not after.exercise.guided:
        return after
    stage = after.current()
    if not isinstance(stage, Step) or action.string != stage.string:
        return after
    was, now = abs(judged_cents(before, stage)), abs(judged_cents(after, stage))
    taught = after.taught or Taught(first_cents=was)
    taught = replace(taught, wrong_turns=taught.wrong_turns + 1 if now > was else 0)
    return changed(shown(after, stage.string, "ripple"), taught=taught)


def asks_pace(state: State) -> bool:
    """Whether the learner is to say if the wobble got slower or faster."""
    taught = state.taught
    return taught is not None and taught.said is None and not state.judged(state.stage)


def told(state: State, action: Pace) -> State:
    """Return the state after it was said that the wobble got slower or faster.

    Raises:
        MeldrinError: ``not_yet`` where that was not asked.
    """
    stage, taught = state.current(), state.taught
    if not isinstance(stage, Step) or taught is None or not asks_pace(state):
        raise MeldrinError(Code.NOT_YET, "Turn the string first, and listen.")
    was, now = taught.first_cents, abs(judged_cents(state, stage))
    truth: Literal["same", "slower", "faster"] = "slower" if now < was else "faster"
    if abs(now - was) <= SAME_SHARE * was:
        truth = "same"
    turns = state.string(stage.string).turns
    return changed(state, taught=replace(taught, said=action.said, truth=truth, at_turns=turns))


def guide(state: State) -> str | None:
    """Return what a teacher would say now, or None."""
    stage, taught = state.current(), state.taught
    if taught is None or not isinstance(stage, Step) or state.judged(state.stage):
        return None
    if taught.said is not None and taught.at_turns == state.string(stage.string).turns:
        return _sentence_of_pace(taught.said, taught.truth)
    if taught.wrong_turns >= WRONG_TURNS:
        return "It beats faster and faster. Turn the other way."
    return None


def _sentence_of_pace(said: str, truth: str) -> str:
    if truth == "same":
        return "It is much the same. Turn a little more."
    begins = f"Yes, {truth}." if said == truth else f"It is {truth} now."
    ends = "You come nearer: go on." if truth == "slower" else "Turn the other way."
    return f"{begins} {ends}"


def answer(state: State) -> Answer | None:
    """Return how the string of this step is, once it was said and until it is turned again; None
    where no answers come at once.
    """
    stage = state.current()
    if not state.exercise.answers_at_once or not isinstance(stage, Step):
        return None
    said = state.judged(state.stage)
    if not said or said[-1].turns != state.string(stage.string).turns:
        return None
    truth = truth_of(state, said[-1])
    return Answer(truth, _sentence(state, stage, said[-1], truth))


def _praise(stage: Step, was_cents: float) -> str:
    """Return what was heard, and no more than that."""
    if abs(stage.beats_hz) > limits().still_hz:
        return "You heard how it should beat."
    left_hz = abs(was_cents) * stage.beats_hz_per_cent
    if left_hz <= limits().still_hz:
        return "You heard the wobble stop."
    seconds = round(1.0 / left_hz)
    return f"A wobble of {seconds} seconds is left." if seconds > 1 else "A slow wobble is left."


def truth_of(state: State, said: Judgement) -> Verdict:
    """Return how a string was when it was judged, by the tolerance of the exercise."""
    full = limits().tolerances[state.exercise.tolerance].full_cents
    if abs(said.was_cents) <= full:
        return "in_tune"
    return "low" if said.was_cents < 0.0 else "high"


def _sentence(state: State, stage: Step, said: Judgement, truth: Verdict) -> str:
    if truth == "in_tune":
        if said.verdict != truth:
            return "It was in tune. Listen once more."
        return f"In tune. {_praise(stage, said.was_cents)}"
    full = limits().tolerances[state.exercise.tolerance].full_cents
    little = math.isfinite(said.was_cents) and abs(said.was_cents) <= CLEARLY_TIMES * full
    how = capital(f"a little {truth}" if little else truth)
    if said.verdict == truth:
        return f"Yes: {how.lower()}. {'Tighten' if truth == 'low' else 'Loosen'} it."
    return f"{how}. Listen once more."
