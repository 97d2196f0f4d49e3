"""The one root of every refusal, and the check that every number passes at the edge."""

import math
from collections.abc import Mapping
from enum import StrEnum
from typing import Self, TypeVar, get_args

Value = TypeVar("Value")


class Code(StrEnum):
    """Every reason to refuse something: its name for programs, and a title for people.

    What is unknown begins with ``no_such_``. The sentence that comes with a code names what was
    wrong and what would do.
    """

    words: str

    def __new__(cls, name: str, words: str) -> Self:
        """Make one from its name and its title."""
        made = str.__new__(cls, name)
        made._value_ = name
        made.words = words
        return made

    ACTION = "action", "That cannot be done now"
    AID = "aid", "Unknown help"
    ANSWER = "answer", "Unknown answer"
    ATTEMPT_FILE = "attempt_file", "Not an attempt’s file"
    BEHAVIOUR = "behaviour", "Unknown behaviour"
    BACKUP = "backup", "Not a whole backup"
    BROKEN = "broken", "The string is broken"
    BUSY = "busy", "Too much to do at once"
    CATALOGUE = "catalogue", "A catalogue file is wrong"
    CLASS_LIST = "class_list", "The list cannot be read"
    DATABASE = "database", "The database does not start"
    DECIDED = "decided", "Said already"
    DEMO_ONLY = "demo_only", "Only in the demo"
    DEMO_PUPIL = "demo_pupil", "Not the demo’s pupil"
    DRILL = "drill", "Not of this drill"
    EXERCISE = "exercise", "The exercise cannot be read"
    FIGURES = "figures", "The figures cannot be read"
    FILE = "file", "The file cannot be written"
    FINE_END = "fine_end", "The fine tuner has run out"
    FINISHED = "finished", "The attempt is over"
    FOREIGN_ORIGIN = "foreign_origin", "Not from this application"
    FORK = "fork", "The fork cannot be matched so"
    FRET = "fret", "No such place to press"
    HABIT = "habit", "Unknown habit"
    HABITS = "habits", "The table of habits is wrong"
    HTTP = "http", "The request failed"
    INTERVALS = "intervals", "The intervals make no sense"
    INVALID = "invalid", "The request is not complete"
    LIMITS = "limits", "The table of limits is wrong"
    METHOD = "method", "The method cannot serve"
    NO_FINE_TUNER = "no_fine_tuner", "No fine tuner"
    NO_JUDGEMENT = "no_judgement", "Nothing to judge here"
    NO_SUCH_ATTEMPT = "no_such_attempt", "No such attempt"
    NO_SUCH_EAR = "no_such_ear", "No such ear"
    NO_SUCH_ENSEMBLE = "no_such_ensemble", "No such check"
    NO_SUCH_FRET = "no_such_fret", "No such fret"
    NO_SUCH_GROUP = "no_such_group", "No such group"
    NO_SUCH_INSTRUMENT = "no_such_instrument", "No such instrument"
    NO_SUCH_MEMBER = "no_such_member", "No such member"
    NO_SUCH_METHOD = "no_such_method", "No such method"
    NO_SUCH_PAGE = "no_such_page", "No such address"
    NO_SUCH_PLAN = "no_such_plan", "No such plan"
    NO_SUCH_PRACTICE = "no_such_practice", "No such practice"
    NO_SUCH_REMARK = "no_such_remark", "No such remark"
    NO_SUCH_ROUND = "no_such_round", "No such round"
    NO_SUCH_STAGE = "no_such_stage", "No such stage"
    NO_SUCH_STEP = "no_such_step", "No such step"
    NO_SUCH_STRING = "no_such_string", "No such string"
    NO_SUCH_STUDIO = "no_such_studio", "No such studio"
    NO_SUCH_TABLET = "no_such_tablet", "No such shared device"
    NO_SUCH_TASK = "no_such_task", "No such exercise"
    NO_SUCH_TUNING = "no_such_tuning", "No such tuning"
    NO_SUCH_SHOW = "no_such_show", "No such comparison"
    NO_SUCH_SIGN_IN = "no_such_sign_in", "No such sign-in"
    NO_SUCH_WORD = "no_such_word", "No such word"
    GLOSSARY = "glossary", "The glossary is not as it should be"
    NO_SUCH_CHORD = "no_such_chord", "No such chord"
    NOT_HEARD = "not_heard", "Not heard yet"
    NOT_HERE = "not_here", "Not here"
    NOT_KEPT = "not_kept", "It cannot be kept"
    NOT_YET = "not_yet", "Not yet"
    NAME = "name", "The name cannot be taken"
    NOTE_NAME = "note_name", "Not a note"
    OBSERVATION = "observation", "A comparison makes no sense"
    OBSERVATIONS = "observations", "The comparisons cannot be read"
    OFFSETS = "offsets", "The offsets make no sense"
    ORDER = "order", "Unknown order"
    OUT_OF_RANGE = "out_of_range", "Out of range"
    PARTIALS = "partials", "Partials that do not meet"
    PASSPHRASE = "passphrase", "Not a passphrase"
    PORT = "port", "The port cannot be used"
    PRACTICE = "practice", "The practice cannot be made so"
    REFERENCE = "reference", "The reference cannot be used so"
    REMARK = "remark", "Not a remark"
    ROUND = "round", "No such round can be made"
    ROLE = "role", "Not yours to do"
    SIDE = "side", "Unknown side"
    SLACK = "slack", "The string is slack"
    SLIP = "slip", "Not a code"
    SIGN_IN = "sign_in", "Not signed in"
    SOURCE = "source", "The reference cannot sound so"
    START = "start", "The start makes no sense"
    STUDIO = "studio", "Not in this studio"
    STORE_AWAY = "store_away", "The records cannot be reached"
    STRINGS = "strings", "The strings make no sense"
    TEMPERAMENT = "temperament", "The temperament makes no sense"
    TASK = "task", "The exercise cannot be set so"
    TIME_UP = "time_up", "The time is over"
    TOLERANCE = "tolerance", "Unknown tolerance"
    TONIC = "tonic", "Not a tonic"
    TOO_LARGE = "too_large", "Too large"
    TOO_LONG = "too_long", "The attempt is full"
    TOO_MANY = "too_many", "Too many at once"
    TOO_SLACK = "too_slack", "Too slack"
    TOO_SLOW = "too_slow", "It took too long"
    TOO_TIGHT = "too_tight", "Too tight"
    TUNING = "tuning", "The tuning makes no sense"
    UNEXPECTED = "unexpected", "Something went wrong"
    UNFINISHED = "unfinished", "Not finished"
    UNREACHABLE = "unreachable", "Out of reach"
    UNREADABLE = "unreadable", "The record is damaged"
    UNSAFE_TUNING = "unsafe_tuning", "Not a safe tuning"
    WHOLE = "whole", "Not a whole number"


class MeldrinError(Exception):
    """A request that cannot be carried out, with a code for programs and a sentence for people."""

    def __init__(self, code: Code, message: str, **facts: object) -> None:
        super().__init__(message)
        self.code = code
        self.message = message
        self.facts = facts


class OutOfRange(MeldrinError):
    """A number outside the limits it makes sense in."""


def known(table: Mapping[str, Value], key: str, *, name: str, code: Code) -> Value:
    """Return what `table` holds under `key`.

    Raises:
        MeldrinError: with `code`; unknown `name` (“instrument”), and the keys there are.
    """
    if key not in table:
        raise MeldrinError(code, f"Unknown {name} “{key}”. Available: {', '.join(table)}.")
    return table[key]


def one_of(kind: object, value: object, *, name: str, code: Code) -> None:
    """Refuse, with `code`, a value that the literal type `kind` does not list.

    Raises:
        MeldrinError: “x” is not `name` (“an answer”), and the words that are.
    """
    if value not in get_args(kind):
        raise MeldrinError(
            code, f"“{value}” is not {name}; take {', '.join(map(str, get_args(kind)))}."
        )


def within(value: float, *, name: str, low: float, high: float, unit: str = "") -> float:
    """Return `value` as a float if it is finite and lies in [low, high].

    Raises:
        OutOfRange: for NaN, infinity, and anything outside; the message names value and limits.
    """
    number = float(value)
    if not low <= number <= high or not math.isfinite(number):
        suffix = f" {unit}" if unit else ""
        raise OutOfRange(
            Code.OUT_OF_RANGE,
            f"{name} is {number:g}{suffix}; it must lie between {low:g} and {high:g}{suffix}.",
            name=name,
            value=repr(number),
            low=low,
            high=high,
        )
    return number
