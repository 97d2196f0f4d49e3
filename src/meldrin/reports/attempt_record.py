"""An attempt as a file of open JSON: its exercise and every action with its time, and back."""

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Annotated, Any, Final

from pydantic import Field, TypeAdapter, ValidationError

from meldrin.core.bench import (
    ACTIONS,
    EXERCISES,
    Action,
    Exercise,
    TimedAction,
)
from meldrin.core.errors import Code, MeldrinError, OutOfRange, within

FORMAT = "meldrin attempt"
VERSION = 3
READ_VERSIONS = (1, 2, 3)  # 1: played on the bench before 2026-11-26; 2: under older names
# What an action may hold, checked the same way wherever it comes from.
ACTION: Final = TypeAdapter[Action](Annotated[Action, Field(discriminator="kind")])
EXERCISE: Final = TypeAdapter(Exercise)
MOST_ACTIONS = 20_000
LONGEST_S = 24 * 3600.0


def attempt_text(exercise: Exercise, log: Sequence[TimedAction], *, made: datetime) -> str:
    """Return the file: what it is, when it was played, the exercise, and the list of actions."""
    record = {
        "format": FORMAT,
        "version": VERSION,
        "made": made.isoformat(),
        "exercise": EXERCISES.record(exercise),
        "actions": [{"at_s": entry.at_s, **ACTIONS.record(entry.action)} for entry in log],
    }
    return json.dumps(record, indent=1) + "\n"


@dataclass(frozen=True, slots=True)
class ReadAttempt:
    """What a file holds: the exercise, its actions, when it was begun (None where the file does not
    say), and whether it was played on an earlier version of the bench.
    """

    exercise: Exercise
    log: list[TimedAction]
    made: datetime | None
    earlier: bool


def read_attempt(text: str) -> ReadAttempt:
    """Return what a file holds; the inverse of `attempt_text`.

    Raises:
        MeldrinError: code ``attempt_file``, with what is wrong and where.
    """
    try:
        record = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise _wrong("it is not JSON") from error
    if not isinstance(record, dict) or record.get("format") != FORMAT:
        raise _wrong(f"it does not say “format”: “{FORMAT}”")
    if record.get("version") not in READ_VERSIONS:
        raise _wrong(f"its version is {record.get('version')!r}; this program reads 1 to 3")
    actions = record.get("actions")
    if not isinstance(actions, list) or not isinstance(record.get("exercise"), dict):
        raise _wrong("it needs an exercise and a list of actions")
    if len(actions) > MOST_ACTIONS:
        raise _wrong(f"it holds {len(actions)} actions; the most is {MOST_ACTIONS}")
    try:
        exercise = _exercise(record["exercise"])
    except (MeldrinError, TypeError, ValueError) as error:
        raise _wrong(f"exercise: {_said(error)}") from error
    log: list[TimedAction] = []
    for number, one in enumerate(actions, start=1):
        try:
            log.append(_entry(one, after_s=log[-1].at_s if log else 0.0))
        except (MeldrinError, TypeError, ValueError, KeyError) as error:
            raise _wrong(f"action {number}: {_said(error)}") from error
    return ReadAttempt(exercise, log, _made(record.get("made")), record["version"] == 1)


def _exercise(record: Mapping[str, Any]) -> Exercise:
    """Return the exercise, every value of the kind it should be."""
    exercise = EXERCISES.value(dict(record))
    values = {key: value for key, value in EXERCISES.record(exercise).items() if key != "v"}
    return EXERCISE.validate_json(json.dumps(values), strict=True)


def _made(said: object) -> datetime | None:
    """Return when an attempt was begun; a time that nobody can have played at is not taken."""
    try:
        made = datetime.fromisoformat(str(said))
    except ValueError:
        return None
    if made.tzinfo is None or not 2020 <= made.year <= 2100:
        return None
    return made.astimezone(UTC)


def _entry(one: Any, *, after_s: float) -> TimedAction:
    if not isinstance(one, dict):
        raise MeldrinError(Code.ACTION, "an action is a record.")
    fields = dict(one)
    at_s = within(_number(fields.pop("at_s")), name="at_s", low=after_s, high=LONGEST_S, unit="s")
    action = ACTION.validate_json(json.dumps(ACTIONS.upgraded(fields)), strict=True)
    return TimedAction(at_s, action)


def _number(value: object) -> float:
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise MeldrinError(Code.ACTION, "at_s is a number of seconds.")
    return float(value)


def _said(error: Exception) -> str:
    if isinstance(error, MeldrinError | OutOfRange):
        return error.message.rstrip(".")
    if isinstance(error, ValidationError):
        first = error.errors()[0]
        return f"{'.'.join(str(part) for part in first['loc'][-1:])}: {first['msg']}"
    if isinstance(error, KeyError):
        return f"{error.args[0]} is missing"
    return "a value is of the wrong kind"


def _wrong(what: str) -> MeldrinError:
    return MeldrinError(Code.ATTEMPT_FILE, f"This file cannot be read as an attempt: {what}.")
