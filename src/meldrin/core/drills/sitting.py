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
from meldrin.core.drills.belief import THRESHOLDS, Belief, from_kept, nothing_known
from meldrin.core.drills.drill import (
    EASIEST,
    HARDEST,
    Asked,
    Example,
    Heard,
    Interval,
    Posed,
    ThresholdDrill,
    Truth,
)
from meldrin.core.drills.registry import AnyDrill, drill_of
from meldrin.core.errors import Code, MeldrinError, known, one_of, within
from meldrin.core.pitch import Naming, equal_tempered_hz
from meldrin.core.session import Practice, Record, Shape, Timed, played

FEWEST, USUAL, MOST = 8, 12, 20
MOST_SEED: Final = 2**31 - 1
MOST_STRINGS: Final = 40
EASY_TIMES: Final = 4.0  # the examples lie so far above the threshold that is expected
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
        intervals = chosen.intervals if isinstance(chosen, ThresholdDrill) else ()
        if self.interval not in (intervals or ("unison",)):
            raise MeldrinError(
                Code.DRILL,
                f"“{self.interval}” is not of this drill; take {', '.join(intervals)}."
                if intervals
                else "This drill has no interval to choose.",
            )
        tuning_said(self.instrument, self.tuning)
        if self.known and (len(self.known) != THRESHOLDS or min(self.known) < 0.0):
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
        if isinstance(drill, ThresholdDrill):
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
class JudgeTrial:
    """Judge the trial: an answer by its number from 0, and how sure."""

    answer: int
    sure: Sure
    kind: Literal["judge_trial"] = "judge_trial"

    def __post_init__(self) -> None:
        one_of(Sure, self.sure, name="a way to be sure", code=Code.ANSWER)


@dataclass(frozen=True, slots=True)
class NextTrial:
    """Go on to the next trial."""

    kind: Literal["next_trial"] = "next_trial"


@dataclass(frozen=True, slots=True)
class EndSitting:
    """End it, after the last trial or before; what has been answered counts."""

    kind: Literal["end_sitting"] = "end_sitting"


DrillAction = HearExample | StartTrials | HearTrial | JudgeTrial | NextTrial | EndSitting


@dataclass(frozen=True, slots=True)
class Trial:
    """A trial that has been judged.

    difference: what it had of what is measured; 0 where nothing is.
    answer, right: what was said and what is right, from 0. sure: how sure that was.
    listens: how often it was heard before.
    answers: how many there were. says, said: the truth in a sentence, and the words of the answer.
    """

    difference: float
    answer: int
    right: int
    sure: Sure
    listens: int
    answers: int
    says: str
    said: str

    @property
    def is_right(self) -> bool:
        """Whether the answer was right."""
        return self.answer == self.right


@dataclass(frozen=True, slots=True)
class Sitting:
    """A sitting as it stands.

    belief: what is known of the threshold, or None where the drill has none.
    difference: of the trial that is asked or told.
    listens: how often it has been heard.
    """

    exercise: DrillExercise
    belief: Belief | None
    time_s: float = 0.0
    stage: Stage = "examples"
    difference: float = 0.0
    listens: int = 0
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
    def posed(self) -> Posed:
        """The trial that is asked or told."""
        return _posed(self.exercise, self.number, self.difference)

    @property
    def heard(self) -> Heard | None:
        """What is played for the trial as it stands; None where there is nothing to hear."""
        posed = self.posed
        return posed.afterwards or posed.heard if self.stage == "told" else posed.heard

    @property
    def examples(self) -> tuple[Example, ...]:
        """One of each answer, where nobody can miss it."""
        return _examples(self.exercise)


def _asked_of(exercise: DrillExercise, *, difference: float, number: int = 0) -> Asked:
    return Asked(
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
def _posed(exercise: DrillExercise, number: int, difference: float) -> Posed:
    asked = _asked_of(exercise, difference=difference, number=number - 1)
    draw = random.Random(f"{exercise.seed} trial {number}")
    return drill_of(exercise.drill).posed(asked, draw)


@lru_cache(maxsize=32)
def _examples(exercise: DrillExercise) -> tuple[Example, ...]:
    drill = drill_of(exercise.drill)
    if not isinstance(drill, ThresholdDrill):
        return drill.examples(_asked_of(exercise, difference=0.0))
    scale, threshold = drill.scale, _known(drill, exercise).threshold.middle
    size = min(scale.high, max(EASY_TIMES * threshold, EASY_TIMES * scale.low))
    lowest = 0 if scale.judged == "whether" else -1
    found = []
    for at, answer in enumerate(drill.answers):
        asked = _asked_of(exercise, difference=size * (lowest + at))
        posed = drill.posed(asked, random.Random(f"{exercise.seed} example {at}"))
        found.append(Example(answer.words, answer.listen_for, posed.heard))
    return tuple(found)


def opening(exercise: DrillExercise) -> Sitting:
    """Return a sitting before anything has been done."""
    drill = drill_of(exercise.drill)
    return Sitting(exercise, _known(drill, exercise) if isinstance(drill, ThresholdDrill) else None)


def _known(drill: ThresholdDrill, exercise: DrillExercise) -> Belief:
    return from_kept(drill.scale, exercise.known) if exercise.known else nothing_known(drill.scale)


def step(state: Sitting, action: DrillAction, *, dt_s: float) -> tuple[Sitting, tuple[()]]:
    """Return the sitting after an action. What sounds is samples, not events, so that nothing else
    is told before the judgement: see `heard`.

    Raises:
        MeldrinError: code ``finished``, ``action``, ``not_heard`` or ``answer``.
    """
    within(dt_s, name="time since the last action", low=0.0, high=1e7, unit="s")
    if state.finished:
        raise MeldrinError(Code.FINISHED, "This sitting is over.")
    return replace(_after(state, action), time_s=state.time_s + dt_s), ()


def _after(state: Sitting, action: DrillAction) -> Sitting:
    match action:
        case HearExample():
            _at(state, "examples")
            _among(len(state.examples), action.answer)
            if state.examples[action.answer].heard is None:
                raise MeldrinError(Code.ACTION, "There is nothing to hear in this example.")
            return state
        case StartTrials():
            _at(state, "examples")
            return _asked(state)
        case HearTrial():
            _at(state, "asked", "told")
            if state.heard is None:
                raise MeldrinError(Code.ACTION, "There is nothing to hear in this trial.")
            return replace(state, listens=state.listens + (state.stage == "asked"))
        case JudgeTrial():
            _at(state, "asked")
            return _judged(state, action)
        case NextTrial():
            _at(state, "told")
            if state.is_last:
                raise MeldrinError(Code.ACTION, "That was the last one.")
            return _asked(state)
        case EndSitting():
            return replace(state, stage="over")


def _at(state: Sitting, *stages: Stage) -> None:
    if state.stage not in stages:
        raise MeldrinError(Code.ACTION, "That cannot be done at this moment of the sitting.")


def _among(count: int, number: int) -> None:
    if not 0 <= number < count:
        raise MeldrinError(Code.ANSWER, f"There are {count} of them, counted from 0.")


def _asked(state: Sitting) -> Sitting:
    draw = random.Random(f"{state.exercise.seed} place {len(state.trials)}")
    difference = state.belief.next(draw) if state.belief else 0.0
    return replace(state, stage="asked", difference=difference, listens=0)


def _judged(state: Sitting, action: JudgeTrial) -> Sitting:
    posed = state.posed
    _among(len(posed.answers), action.answer)
    if posed.heard and state.listens == 0:
        raise MeldrinError(Code.NOT_HEARD, "Listen to it first.")
    trial = Trial(
        difference=state.difference,
        answer=action.answer,
        right=posed.right,
        sure=action.sure,
        listens=state.listens,
        answers=len(posed.answers),
        says=posed.says,
        said=posed.answers[action.answer].words,
    )
    belief = state.belief and state.belief.after(state.difference, action.answer)
    return replace(
        state,
        stage="told",
        belief=belief,
        trials=(*state.trials, trial),
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
