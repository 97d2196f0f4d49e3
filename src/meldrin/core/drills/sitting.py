"""A sitting at a drill: examples first, then trials, each placed by what the answers have told."""

import random
from collections.abc import Sequence
from dataclasses import dataclass, fields, replace
from functools import lru_cache
from typing import Annotated, Final, Literal, get_args

from annotated_types import Ge, Le, MaxLen

from meldrin.core.catalogue import (
    Instrument,
    instrument,
    instrument_of,
    instrument_text,
    tuning_said,
)
from meldrin.core.drills.belief import KEPT, Belief, from_kept, nothing_known
from meldrin.core.drills.drill import (
    EASIEST,
    HARDEST,
    Amount,
    Example,
    Interval,
    MeasuredDrill,
    Playback,
    Question,
    QuestionDrill,
    ThresholdDrill,
    TrialSettings,
    Truth,
    Turned,
)
from meldrin.core.drills.notes import FADE_S, FADES
from meldrin.core.drills.registry import AnyDrill, drill_of
from meldrin.core.errors import Code, MeldrinError, known, one_of, within
from meldrin.core.pitch import Naming, equal_tempered_hz
from meldrin.core.session import Practice, Record, Shape, Timed, played
from meldrin.core.sound.events import Release, Retune, SoundEvent, Start

FEWEST, USUAL, MOST = 8, 12, 20
MOST_SEED: Final = 2**31 - 1
MOST_STRINGS: Final = 40
MOST_TURN: Final = 100  # steps at once
MOST_SAID: Final = 1000.0
GLIDE_S: Final = 0.12  # of a turn
MOST_DRAWS: Final = 40  # for a question that has not come yet
VOICES: Final = 8  # at most, of one play
Sure = Literal["guess", "fairly", "sure"]
# How likely the answer is right, as said; a guess is right as often as chance has it.
EVERYWHERE: Final = "all"  # what is known of a drill without a register
SAID: Final[dict[Sure, float | None]] = {"guess": None, "fairly": 0.75, "sure": 0.95}
Stage = Literal["examples", "asked", "told", "over"]


@dataclass(frozen=True, slots=True)
class DrillExercise:
    """What a sitting begins with; everything else follows from this and its list of actions.

    drill: its id.
    string: of the instrument, on which it is played.
    interval, truth: where the drill has them.
    trials: how many, 8 to 20.
    known: how likely each threshold of the grid is, from earlier sittings; empty for nothing known.
    level: how hard it is, 1 to 3, where the drill has no threshold.
    naming: what notes are called in its questions.

    Raises:
        MeldrinError: for an unknown drill, instrument, tuning, string or interval; OutOfRange for a
            number.
    """

    drill: str
    instrument_id: str
    seed: int
    string: Annotated[int, Ge(1), Le(MOST_STRINGS)] = 1
    tuning: Annotated[str, MaxLen(200)] = "standard"
    interval: Interval = "unison"
    truth: Truth = "pure"
    trials: Annotated[int, Ge(FEWEST), Le(MOST)] = USUAL
    known: tuple[float, ...] = ()
    instrument_text: str = ""
    level: Annotated[int, Ge(EASIEST), Le(HARDEST)] = EASIEST
    naming: Naming = "letters"

    def __post_init__(self) -> None:
        within(self.level, name="level", low=EASIEST, high=HARDEST)
        within(self.seed, name="seed", low=0, high=MOST_SEED)
        within(self.trials, name="number of trials", low=FEWEST, high=MOST)
        one_of(Truth, self.truth, name="a kind of true interval", code=Code.DRILL)
        self.instrument.string(self.string)
        one_of(Naming, self.naming, name="a way of naming notes", code=Code.DRILL)
        chosen = drill_of(self.drill)
        intervals = chosen.intervals if isinstance(chosen, MeasuredDrill) else ()
        if self.interval not in (intervals or ("unison",)):
            raise MeldrinError(
                Code.DRILL,
                f"“{self.interval}” is not of this drill; take {', '.join(intervals)}."
                if intervals
                else "This drill has no interval to choose.",
            )
        tuning_said(self.instrument, self.tuning)
        if self.known and (len(self.known) not in KEPT or min(self.known) < 0.0):
            raise MeldrinError(Code.DRILL, "What is known of earlier sittings is damaged.")

    @property
    def instrument(self) -> Instrument:
        """The instrument it is played on."""
        if self.instrument_text:
            return instrument_of(self.instrument_text)
        return instrument(self.instrument_id)

    @property
    def hz(self) -> float:
        """The pitch of its string."""
        return _open_hz(self.instrument, self.tuning, self.string)

    @property
    def known_by(self) -> str:
        """What its evidence is kept under."""
        drill = drill_of(self.drill)
        if isinstance(drill, MeasuredDrill):
            return drill.known_by(self.hz, self.interval, self.truth)
        return EVERYWHERE


@lru_cache(maxsize=256)
def _open_hz(made: Instrument, tuning: str, number: int) -> float:
    return equal_tempered_hz(tuning_said(made, tuning).midi(number), a4_hz=440.0)


@dataclass(frozen=True, slots=True)
class HearExample:
    """Hear one of the examples, by the number of its answer from 0."""

    answer: int
    kind: Literal["hear_example"] = "hear_example"


@dataclass(frozen=True, slots=True)
class StartTrials:
    """The examples are over: the first trial."""

    kind: Literal["start_trials"] = "start_trials"


@dataclass(frozen=True, slots=True)
class HearTrial:
    """Hear the trial: for the first time, again, or once more when its truth is known."""

    kind: Literal["hear_trial"] = "hear_trial"


@dataclass(frozen=True, slots=True)
class TurnTrial:
    """Turn the string of the trial by some steps, up or down."""

    steps: Annotated[int, Ge(-MOST_TURN), Le(MOST_TURN)]
    kind: Literal["turn_trial"] = "turn_trial"

    def __post_init__(self) -> None:
        within(self.steps, name="steps of a turn", low=-MOST_TURN, high=MOST_TURN)


@dataclass(frozen=True, slots=True)
class PlayString:
    """Play the string that is turned once more, without what went before it."""

    kind: Literal["play_string"] = "play_string"


@dataclass(frozen=True, slots=True)
class JudgeTrial:
    """Judge the trial: an answer by its number from 0, and how sure. Where a number is asked for,
    `amount` is it; where a string is brought somewhere, that is the answer.
    """

    answer: int
    sure: Sure
    amount: Annotated[float, Ge(0.0), Le(MOST_SAID)] | None = None
    kind: Literal["judge_trial"] = "judge_trial"

    def __post_init__(self) -> None:
        one_of(Sure, self.sure, name="a way to be sure", code=Code.ANSWER)
        if self.amount is not None:
            within(self.amount, name="amount", low=0.0, high=MOST_SAID)


@dataclass(frozen=True, slots=True)
class NextTrial:
    """Go on to the next trial."""

    kind: Literal["next_trial"] = "next_trial"


@dataclass(frozen=True, slots=True)
class EndSitting:
    """End it, after the last trial or before; what has been answered counts."""

    kind: Literal["end_sitting"] = "end_sitting"


DrillAction = (
    HearExample
    | StartTrials
    | HearTrial
    | PlayString
    | TurnTrial
    | JudgeTrial
    | NextTrial
    | EndSitting
)


@dataclass(frozen=True, slots=True)
class Trial:
    """A trial that has been judged.

    difference: on the scale of its drill, or the true amount; 0 where nothing is measured.
    answer, right: what was said and what is right, from 0. sure: how sure that was. An amount is
        near enough (0) or not (1).
    listens: how often it was heard before.
    answers: how many there were. says, said: the truth in a sentence, and the words of the answer.
    error: how far off an amount was. turns: how often the string was turned.
    """

    difference: float
    answer: int
    right: int
    sure: Sure
    listens: int
    answers: int
    says: str
    said: str
    error: float | None = None
    turns: int = 0

    @property
    def is_right(self) -> bool:
        """Whether the answer was right."""
        return self.answer == self.right


@dataclass(frozen=True, slots=True)
class Sitting:
    """A sitting as it stands.

    belief: what is known of the threshold, or None where the drill has none.
    difference: of the trial that is asked or told.
    listens: how often it has been heard. plays: the same, with the string alone.
    steps, turns: how many steps up the string has been turned, and in how many turns.
    may_turn_s: when the string begins to sound, and so may be turned.
    """

    exercise: DrillExercise
    belief: Belief | None
    time_s: float = 0.0
    stage: Stage = "examples"
    difference: float = 0.0
    listens: int = 0
    plays: int = 0
    steps: int = 0
    turns: int = 0
    may_turn_s: float = 0.0
    trials: tuple[Trial, ...] = ()

    @property
    def drill(self) -> AnyDrill:
        """What is practised."""
        return drill_of(self.exercise.drill)

    @property
    def finished(self) -> bool:
        """Whether it is over."""
        return self.stage == "over"

    @property
    def number(self) -> int:
        """The number of the trial that is asked or told, from 1."""
        return len(self.trials) + (self.stage == "asked")

    @property
    def is_last(self) -> bool:
        """Whether no trial is left to be asked."""
        return len(self.trials) >= self.exercise.trials

    @property
    def posed(self) -> Question:
        """The trial that is asked or told."""
        return posed_of(self.exercise, self.number, self.difference)

    @property
    def heard(self) -> Playback | None:
        """What is rendered for the trial as it stands; None where there is nothing to hear, or a
        string is turned.
        """
        posed = self.posed
        if posed.turned:
            return posed.turned.afterwards(self.steps) if self.stage == "told" else None
        return posed.afterwards or posed.heard if self.stage == "told" else posed.heard

    @property
    def examples(self) -> tuple[Example, ...]:
        """One of each answer, where nobody can miss it."""
        return examples_of(self.exercise)


def _asked_of(exercise: DrillExercise, *, difference: float, number: int = 0) -> TrialSettings:
    return TrialSettings(
        exercise.instrument,
        exercise.string,
        exercise.hz,
        difference,
        exercise.interval,
        exercise.truth,
        tuning_said(exercise.instrument, exercise.tuning),
        exercise.naming,
        exercise.level,
        number,
    )


@lru_cache(maxsize=128)  # asked for again and again while a trial is heard and judged
def posed_of(exercise: DrillExercise, number: int, difference: float) -> Question:
    """Return the trial of this number, from 1, with this difference (on the scale of its drill)."""
    asked = _asked_of(exercise, difference=difference, number=number - 1)
    draw = random.Random(f"{exercise.seed} trial {number}")
    drill = drill_of(exercise.drill)
    posed = drill.put(asked, draw)
    if isinstance(drill, QuestionDrill) and drill.differ:
        before = {posed_of(exercise, one, difference).question for one in range(1, number)}
        for _ in range(MOST_DRAWS):
            if posed.question not in before:
                break
            posed = drill.put(asked, draw)
    seed = f"{exercise.seed} {number}"
    return replace(
        posed,
        heard=posed.heard and replace(posed.heard, seed=seed),
        afterwards=posed.afterwards and replace(posed.afterwards, seed=seed),
    )


@lru_cache(maxsize=32)
def examples_of(exercise: DrillExercise) -> tuple[Example, ...]:
    """Return one of each answer, where nobody can miss it."""
    drill, asked = drill_of(exercise.drill), _asked_of(exercise, difference=0.0)
    if isinstance(drill, ThresholdDrill):
        threshold = _known(drill, exercise).threshold.middle
        return drill.shown_first(asked, threshold, str(exercise.seed))
    return drill.examples(asked)


def opening(exercise: DrillExercise) -> Sitting:
    """Return a sitting before anything has been done."""
    drill = drill_of(exercise.drill)
    return Sitting(exercise, _known(drill, exercise) if isinstance(drill, MeasuredDrill) else None)


def _known(drill: MeasuredDrill, exercise: DrillExercise) -> Belief:
    return from_kept(drill.scale, exercise.known) if exercise.known else nothing_known(drill.scale)


def step(
    state: Sitting, action: DrillAction, *, dt_s: float
) -> tuple[Sitting, tuple[SoundEvent, ...]]:
    """Return the sitting after an action, and what sounds where a string is turned. What is only
    judged is rendered to samples (`Sitting.heard`), so that nothing else is told before.

    Raises:
        MeldrinError: code ``finished``, ``action``, ``not_heard`` or ``answer``.
    """
    within(dt_s, name="time since the last action", low=0.0, high=1e7, unit="s")
    if state.finished:
        raise MeldrinError(Code.FINISHED, "This sitting is over.")
    return _after(replace(state, time_s=state.time_s + dt_s), action)


def _after(state: Sitting, action: DrillAction) -> tuple[Sitting, tuple[SoundEvent, ...]]:
    match action:
        case HearExample():
            _at(state, "examples")
            _among(len(state.examples), action.answer)
            if state.examples[action.answer].heard is None:
                raise MeldrinError(Code.ACTION, "There is nothing to hear in this example.")
        case StartTrials():
            _at(state, "examples")
            state = _asked(state)
        case HearTrial():
            _at(state, "asked", "told")
            if not (state.posed.sounds if state.stage == "asked" else state.heard):
                raise MeldrinError(Code.ACTION, "There is nothing to hear in this trial.")
            if state.stage == "asked":
                return _heard(state)
        case PlayString():
            return _played(state, _may_turn(state), begins_s=0.0)
        case TurnTrial():
            return _turned(state, _may_turn(state), action.steps)
        case JudgeTrial():
            _at(state, "asked")
            hushed = _hushed(state) if state.posed.turned else ()
            return _judged(state, action), hushed
        case NextTrial():
            _at(state, "told")
            if state.is_last:
                raise MeldrinError(Code.ACTION, "That was the last one.")
            state = _asked(state)
        case EndSitting():
            hushed = _hushed(state) if state.stage == "asked" and state.posed.turned else ()
            return replace(state, stage="over"), hushed
    return state, ()


def _heard(state: Sitting) -> tuple[Sitting, tuple[SoundEvent, ...]]:
    state = replace(state, listens=state.listens + 1)
    turned = state.posed.turned
    if turned is None:
        return state, ()
    state = replace(state, may_turn_s=state.time_s + turned.begins_s)
    return _played(state, turned, begins_s=turned.begins_s)


def _may_turn(state: Sitting) -> Turned:
    """Return the string that is turned in this trial, once it sounds."""
    _at(state, "asked")
    turned = state.posed.turned
    if turned is None:
        raise MeldrinError(Code.ACTION, "There is no string to turn in this drill.")
    if state.listens == 0 or state.time_s < state.may_turn_s:
        raise MeldrinError(Code.NOT_HEARD, "Your string does not sound yet.")
    return turned


def _played(
    state: Sitting, turned: Turned, *, begins_s: float
) -> tuple[Sitting, tuple[SoundEvent, ...]]:
    """Return what starts: the string with what sounds along, after what comes before it. Each play
    has voices of its own, so that the one before can fade.
    """
    hushed = _hushed(state)
    state = replace(state, plays=state.plays + 1)
    first = _voice(state)
    events: list[SoundEvent] = [Start(first, turned.at(state.steps), begins_s)]
    events += [Start(first + n, one, begins_s) for n, one in enumerate(turned.along, start=1)]
    if begins_s > 0.0:
        for n, (one, at_s, end_s) in enumerate(turned.before, start=len(events)):
            let_go_s = end_s - FADES * FADE_S
            events += [Start(first + n, one, at_s), Release(first + n, FADE_S, let_go_s)]
    return state, (*hushed, *events)


def _turned(state: Sitting, turned: Turned, steps: int) -> tuple[Sitting, tuple[SoundEvent, ...]]:
    """Return the string turned, as far as it goes, and how it glides if it sounds."""
    now = max(-turned.most, min(turned.most, state.steps + steps))
    if now == state.steps:
        return state, ()
    state = replace(state, steps=now, turns=state.turns + 1)
    table = turned.at(now)
    return state, (Retune(_voice(state), table.fundamental_hz, table.stiffness, GLIDE_S),)


def _voice(state: Sitting) -> int:
    """Return the first voice of the last play."""
    return VOICES * (state.plays % 1000)


def _hushed(state: Sitting) -> tuple[SoundEvent, ...]:
    """Return how what still sounds is let go."""
    if state.plays == 0:
        return ()
    first = _voice(state)
    return tuple(Release(first + n, FADE_S) for n in range(VOICES))


def _at(state: Sitting, *stages: Stage) -> None:
    if state.stage not in stages:
        raise MeldrinError(Code.ACTION, "That cannot be done at this moment of the sitting.")


def _among(count: int, number: int) -> None:
    if not 0 <= number < count:
        raise MeldrinError(Code.ANSWER, f"There are {count} of them, counted from 0.")


def _asked(state: Sitting) -> Sitting:
    draw = random.Random(f"{state.exercise.seed} place {len(state.trials)}")
    difference = state.belief.next(draw) if state.belief else 0.0
    return replace(state, stage="asked", difference=difference, listens=0, steps=0, turns=0)


def _judged(state: Sitting, action: JudgeTrial) -> Sitting:
    posed = state.posed
    if posed.sounds and (state.listens == 0 or state.time_s < state.may_turn_s):
        raise MeldrinError(Code.NOT_HEARD, "Listen to it first.")
    if posed.amount is None:
        _among(len(posed.answers), action.answer)
        trial = Trial(
            difference=state.difference,
            answer=action.answer,
            right=posed.right,
            sure=action.sure,
            listens=state.listens,
            answers=len(posed.answers),
            says=posed.says,
            said=posed.answers[action.answer].words,
            turns=state.turns,
        )
    else:
        trial = _measured(state, posed.amount, action)
    belief = state.belief
    if belief is not None and trial.error is not None:
        belief = belief.after_error(trial.error)
    elif belief is not None:
        belief = belief.after(state.difference, action.answer)
    return replace(state, stage="told", belief=belief, trials=(*state.trials, trial))


def _measured(state: Sitting, amount: Amount, action: JudgeTrial) -> Trial:
    """Return a trial that was answered by an amount."""
    value = float(state.steps) if state.posed.turned else action.amount
    if value is None or (not state.posed.turned and value <= 0.0):
        raise MeldrinError(Code.ANSWER, "Say how many a second: a number above 0.")
    error = amount.error(value)
    return Trial(
        difference=amount.of,
        answer=0 if abs(error) <= amount.within else 1,
        right=0,
        sure=action.sure,
        listens=state.listens,
        answers=2,
        says=amount.says(value),
        said=amount.said(value),
        error=error,
        turns=state.turns,
    )


def with_instrument(exercise: DrillExercise) -> DrillExercise:
    """Return the exercise with its instrument's data in it."""
    if exercise.instrument_text:
        return exercise
    return replace(exercise, instrument_text=instrument_text(exercise.instrument_id))


def _write_exercise(exercise: DrillExercise) -> Record:
    record: Record = {}
    for column in fields(exercise):
        value = getattr(exercise, column.name)
        if value != column.default:
            record[column.name] = list(value) if isinstance(value, tuple) else value
    return record


def _read_exercise(values: Record) -> DrillExercise:
    if "known" in values:
        values["known"] = tuple(float(one) for one in values["known"])
    return DrillExercise(**values)


_KINDS: Final = {made.__dataclass_fields__["kind"].default: made for made in get_args(DrillAction)}


def _write_action(action: DrillAction) -> Record:
    return {column.name: getattr(action, column.name) for column in fields(action)}


def _read_action(values: Record) -> DrillAction:
    made = known(_KINDS, str(values.pop("kind", None)), name="action", code=Code.ACTION)
    action: DrillAction = made(**values)
    return action


EXERCISES: Final = Shape[DrillExercise](
    name="drill",
    code=Code.EXERCISE,
    version=1,
    write=_write_exercise,
    read=_read_exercise,
    upgrades={},
)
ACTIONS: Final = Shape[DrillAction](
    name="action",
    code=Code.ACTION,
    version=1,
    write=_write_action,
    read=_read_action,
    upgrades={},
)
DRILLS_PRACTICE: Final = Practice[DrillExercise, Sitting, DrillAction](
    kind="drills",
    opening=opening,
    step=step,
    ends=lambda action: isinstance(action, EndSitting),
    exercises=EXERCISES,
    actions=ACTIONS,
)


def sat(exercise: DrillExercise, log: Sequence[Timed[DrillAction]]) -> Sitting:
    """Return how a sitting stands after its actions; what it refuses is passed over."""
    state = opening(exercise)
    for one in played(DRILLS_PRACTICE, exercise, log, begin=state):
        state = one.after
    return state
