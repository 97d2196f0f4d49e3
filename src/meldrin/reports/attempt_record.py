"""An attempt as a file of open JSON: its exercise and every action with its time, and back."""

import json
from collections.abc import Sequence
from datetime import datetime
from typing import Any

from meldrin.core.bench import (
    Setup,
    TimedAction,
    action_from_record,
    action_record,
    setup_from_record,
    setup_record,
)
from meldrin.core.errors import MeldrinError, OutOfRange, within

FORMAT = "meldrin attempt"
VERSION = 1
MOST_ACTIONS = 20_000
LONGEST_S = 24 * 3600.0


def attempt_text(setup: Setup, log: Sequence[TimedAction], *, made: datetime) -> str:
    """Return the file: what it is, when it was played, the exercise, and the list of actions."""
    record = {
        "format": FORMAT,
        "version": VERSION,
        "made": made.isoformat(),
        "exercise": setup_record(setup),
        "actions": [{"at_s": entry.at_s, **action_record(entry.action)} for entry in log],
    }
    return json.dumps(record, indent=1) + "\n"


def read_attempt(text: str) -> tuple[Setup, list[TimedAction]]:
    """Return the exercise and the actions of a file; the inverse of `attempt_text`.

    Raises:
        MeldrinError: code ``attempt_file``, with what is wrong and where.
    """
    try:
        record = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise _wrong("it is not JSON") from error
    if not isinstance(record, dict) or record.get("format") != FORMAT:
        raise _wrong(f"it does not say “format”: “{FORMAT}”")
    if record.get("version") != VERSION:
        raise _wrong(f"its version is {record.get('version')!r}; this program reads {VERSION}")
    actions = record.get("actions")
    if not isinstance(actions, list) or not isinstance(record.get("exercise"), dict):
        raise _wrong("it needs an exercise and a list of actions")
    if len(actions) > MOST_ACTIONS:
        raise _wrong(f"it holds {len(actions)} actions; the most is {MOST_ACTIONS}")
    try:
        setup = setup_from_record(record["exercise"])
    except (MeldrinError, TypeError, ValueError) as error:
        raise _wrong(f"exercise: {_said(error)}") from error
    log: list[TimedAction] = []
    for number, one in enumerate(actions, start=1):
        try:
            log.append(_entry(one, after_s=log[-1].at_s if log else 0.0))
        except (MeldrinError, TypeError, ValueError, KeyError) as error:
            raise _wrong(f"action {number}: {_said(error)}") from error
    return setup, log


def _entry(one: Any, *, after_s: float) -> TimedAction:
    if not isinstance(one, dict):
        raise MeldrinError("action", "an action is a record.")
    fields = dict(one)
    at_s = within(fields.pop("at_s"), name="at_s", low=after_s, high=LONGEST_S, unit="s")
    return TimedAction(at_s, action_from_record(fields))


def _said(error: Exception) -> str:
    if isinstance(error, MeldrinError | OutOfRange):
        return error.message.rstrip(".")
    if isinstance(error, KeyError):
        return f"{error.args[0]} is missing"
    return "a value is of the wrong kind"


def _wrong(what: str) -> MeldrinError:
    return MeldrinError("attempt_file", f"This file cannot be read as an attempt: {what}.")
