"""An exercise that a teacher sets: parts that are done once or several times, with help that
fades.
"""

import json
from dataclasses import dataclass, replace
from typing import Annotated, Any, Final, Literal, assert_never, get_args

from annotated_types import Ge, Le, MaxLen

from meldrin.core.bench import EXERCISES, FREE, Aid, Exercise
from meldrin.core.bench.exercise import MOST_SEED
from meldrin.core.drills import DRILLS_PRACTICE, DrillExercise
from meldrin.core.errors import Code, MeldrinError, one_of, within
from meldrin.core.people import title_said
from meldrin.core.session import Record, Shape

MOST_PARTS, MOST_TIMES = 8, 10
MOST_OF_A_NOTE: Final = 300
MOST_HELPS: Final = MOST_TIMES
Times = Annotated[int, Ge(1), Le(MOST_TIMES)]
# The same strings for all, or other ones each time.
Starts = Literal["same", "own"]
# Which of several attempts a teacher looks at.
Counts = Literal["best", "last", "first"]
ReadPage = Literal["before", "plan"]
# What help lets somebody take: itself, and what gives less away.
LESS: Final[dict[Aid, tuple[Aid, ...]]] = {
    "ear": ("ear",),
    "ripple": ("ear", "ripple"),
    "level": ("ear", "ripple", "level"),
    "tuner": ("ear", "ripple", "tuner"),
}


@dataclass(frozen=True, slots=True)
class TunePart:
    """An exercise at the bench.

    exercise: without a start, which is drawn when somebody begins.
    helps: the most help that may be taken the first time, the second time and so on; the last of
        them counts for all times after. Empty: any help, at any time.
    times: how often it is to be done.

    Raises:
        MeldrinError: code ``task`` or ``aid``, for help that its plan cannot do with, free play, or
            too many times.
    """

    exercise: Exercise
    helps: Annotated[tuple[Aid, ...], MaxLen(MOST_HELPS)] = ()
    times: Times = 1
    kind: Literal["tune"] = "tune"

    def __post_init__(self) -> None:
        within(self.times, name="times", low=1, high=MOST_TIMES)
        if self.exercise.method == FREE:
            raise MeldrinError(Code.TASK, "Free play has nothing to be done; choose a method.")
        if len(self.helps) > MOST_HELPS:
            raise MeldrinError(Code.TASK, f"Help fades in at most {MOST_HELPS} steps.")
        for time in range(len(self.helps)):
            self.begun(time, seed=0)

    def begun(self, time: int, *, seed: int) -> Exercise:
        """Return the exercise as it is begun.

        Args:
            time: how often it has been finished before.
            seed: what its start is to be drawn with.
        """
        if not self.helps:
            return replace(self.exercise, seed=seed)
        help_now = self.helps[min(time, len(self.helps) - 1)]
        one_of(Aid, help_now, name="help", code=Code.AID)
        return replace(self.exercise, seed=seed, aid=help_now, aids=LESS[help_now])


@dataclass(frozen=True, slots=True)
class ListenPart:
    """A sitting at a drill; what is known of the listener comes when it is begun."""

    exercise: DrillExercise
    times: Times = 1
    kind: Literal["listen"] = "listen"

    def __post_init__(self) -> None:
        within(self.times, name="times", low=1, high=MOST_TIMES)


@dataclass(frozen=True, slots=True)
class ReadPart:
    """A page to read on an instrument: what to know before the first turn, or a plan."""

    page: ReadPage
    instrument_id: Annotated[str, MaxLen(40)]
    method: Annotated[str, MaxLen(20)] = ""
    kind: Literal["read"] = "read"

    def __post_init__(self) -> None:
        one_of(ReadPage, self.page, name="a page", code=Code.TASK)
        if self.page == "plan" and not self.method:
            raise MeldrinError(Code.TASK, "A plan is one of a method; name it.")


TaskPart = TunePart | ListenPart | ReadPart


@dataclass(frozen=True, slots=True)
class Task:
    """What a teacher sets.

    name: what it is called. note: a sentence to the pupils, or nothing.
    starts: whether all get the same strings, or other ones each time.
    counts: which of several attempts the teacher is shown.

    Raises:
        MeldrinError: code ``name`` or ``task``.
    """

    name: str
    parts: tuple[TaskPart, ...]
    note: str = ""
    starts: Starts = "own"
    counts: Counts = "best"

    def __post_init__(self) -> None:
        if title_said(self.name) != self.name:
            raise MeldrinError(Code.NAME, "The name has spaces too many.")
        if len(self.note) > MOST_OF_A_NOTE:
            raise MeldrinError(Code.TASK, f"A note has at most {MOST_OF_A_NOTE} letters.")
        if not 1 <= len(self.parts) <= MOST_PARTS:
            raise MeldrinError(Code.TASK, f"An exercise has 1 to {MOST_PARTS} parts.")
        one_of(Starts, self.starts, name="a way to start", code=Code.TASK)
        one_of(Counts, self.counts, name="what counts", code=Code.TASK)


def seed_for(task: Task, *, seed: int, part: int, time: int, own: int) -> int:
    """Return what the start of a part is drawn with.

    Args:
        seed: of the task as it was given.
        time: how often the part has been finished before: each time has strings of its own.
        own: at random, for who gets strings of their own.
    """
    if task.starts == "own":
        return own
    return (seed + 1009 * part + 10_007 * time) % MOST_SEED


def _written(part: TaskPart) -> Record:
    match part:
        case TunePart():
            exercise = EXERCISES.record(replace(part.exercise, seed=0))
            helps = list(part.helps)
            return {"kind": "tune", "exercise": exercise, "helps": helps, "times": part.times}
        case ListenPart():
            exercise = DRILLS_PRACTICE.exercises.record(
                replace(part.exercise, seed=0, known=(), level=1)
            )
            return {"kind": "listen", "exercise": exercise, "times": part.times}
        case ReadPart():
            return {
                "kind": "read",
                "page": part.page,
                "instrument": part.instrument_id,
                "method": part.method,
            }
        case _:
            assert_never(part)


def _read_part(values: Record) -> TaskPart:
    kind = values.get("kind")
    if kind == "tune":
        return TunePart(
            EXERCISES.value(values["exercise"]),
            helps=tuple(values.get("helps", ())),
            times=_whole(values.get("times", 1)),
        )
    if kind == "listen":
        return ListenPart(
            DRILLS_PRACTICE.exercises.value(values["exercise"]),
            times=_whole(values.get("times", 1)),
        )
    if kind == "read":
        return ReadPart(values["page"], values["instrument"], str(values.get("method", "")))
    raise ValueError(kind)


def _whole(value: object) -> int:
    if not isinstance(value, int) or isinstance(value, bool):
        raise TypeError(value)
    return value


def _write(task: Task) -> Record:
    return {
        "name": task.name,
        "note": task.note,
        "starts": task.starts,
        "counts": task.counts,
        "parts": [_written(part) for part in task.parts],
    }


def _read(values: Record) -> Task:
    known = {"name", "note", "starts", "counts", "parts"}
    if set(values) - known:
        raise ValueError(set(values) - known)
    return Task(
        name=str(values["name"]),
        parts=tuple(_read_part(part) for part in values["parts"]),
        note=str(values.get("note", "")),
        starts=values.get("starts", get_args(Starts)[1]),
        counts=values.get("counts", get_args(Counts)[0]),
    )


TASKS: Final = Shape[Task](
    name="exercise to set",
    code=Code.TASK,
    version=1,
    write=_write,
    read=_read,
    upgrades={},
)
KIND: Final = "meldrin exercise to set"


def task_text(task: Task) -> str:
    """Return a task as a file of open JSON."""
    return json.dumps({"kind": KIND, **TASKS.record(task)}, ensure_ascii=False, indent=1) + "\n"


def task_of(text: str, *, name: str = "This file") -> Task:
    """Return the task that a file holds.

    Args:
        name: of the file, for the sentence.

    Raises:
        MeldrinError: code ``task``, with the file's name and the reason.
    """
    try:
        values: Any = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise MeldrinError(Code.TASK, f"{name} is not JSON: {error}.") from error
    if not isinstance(values, dict) or values.pop("kind", None) != KIND:
        raise MeldrinError(Code.TASK, f"{name} holds no exercise to set.")
    try:
        return TASKS.value(values)
    except MeldrinError as error:
        raise MeldrinError(Code.TASK, f"{name} cannot be taken. {error.message}") from error
    except AttributeError as error:
        raise MeldrinError(Code.TASK, f"{name} has other parts than it should have.") from error
