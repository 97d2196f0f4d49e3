"""The shapes of exercises that teachers set."""

from datetime import datetime
from typing import Annotated, Literal

from annotated_types import Ge, Lt, MaxLen, MinLen
from pydantic import Field

from meldrin.core.bench import Aid
from meldrin.core.people import MOST_LETTERS, MOST_OF_A_TITLE
from meldrin.core.pitch import Naming
from meldrin.core.tasks import MOST_PARTS, MOST_TIMES, Counts, ReadPage, Starts
from meldrin.core.tasks.results import (
    Dot,
    Help,
    Rule,
)
from meldrin.core.tasks.task import MOST_OF_A_NOTE, Times
from meldrin.server.drills.schemas import SittingWanted
from meldrin.server.exercises import ExerciseSettings
from meldrin.wire import Wire, model_of

PublicId = Annotated[str, MaxLen(32)]
Number = Annotated[int, Ge(0), Lt(MOST_PARTS)]


class TuneWanted(Wire):
    """A part at the bench. `helps`: the most help the first time, the second and so on; the last
    for all times after; empty for any.
    """

    kind: Literal["tune"] = "tune"
    exercise: ExerciseSettings
    helps: Annotated[tuple[Aid, ...], MaxLen(MOST_TIMES)] = ()
    times: Times = 1


class ListenWanted(Wire):
    """A part that is a drill."""

    kind: Literal["listen"] = "listen"
    sitting: SittingWanted
    times: Times = 1


class ReadWanted(Wire):
    """A part that is read: what to know before the first turn, or a plan by a method."""

    kind: Literal["read"] = "read"
    page: ReadPage
    instrument: Annotated[str, MaxLen(40)]
    method: Annotated[str, MaxLen(20)] = ""


PartWanted = Annotated[TuneWanted | ListenWanted | ReadWanted, Field(discriminator="kind")]


class TaskSettings(Wire):
    """An exercise as a teacher makes it."""

    name: Annotated[str, MaxLen(2 * MOST_OF_A_TITLE)]
    note: Annotated[str, MaxLen(MOST_OF_A_NOTE)] = ""
    starts: Starts = "own"
    counts: Counts = "best"
    parts: Annotated[tuple[PartWanted, ...], MinLen(1), MaxLen(MOST_PARTS)]


class TaskPage(TaskSettings):
    """An exercise of a studio's collection; `part_names` says what its parts are called."""

    id: str
    changed: datetime
    part_names: list[str]


class ReadyWanted(Wire):
    """An exercise that is ready: a first lesson on one string, with ear or tuner first, or two
    minutes with everyone.
    """

    kind: Literal["first_lesson", "two_minutes"]
    instrument: Annotated[str, MaxLen(40)]
    string: Annotated[int, Ge(1), Lt(41)]
    first: Literal["ear", "tuner"] = "ear"


class GiveWanted(Wire):
    """To whom an exercise is given, and until when it is to be done; null for no date."""

    everyone: bool = False
    group: PublicId | None = None
    members: Annotated[tuple[PublicId, ...], MaxLen(1000)] = ()
    by_link: bool = False
    due: datetime | None = None


class GivenChange(Wire):
    """Another date, and whether its code opens it."""

    due: datetime | None
    by_link: bool


class GivenTask(Wire):
    """An exercise that was given, as a list shows it to its teacher.

    to: to whom, in words. code: opens it, or null. of, done: how many pupils have it to do, and how
    many have done all of it.
    """

    id: str
    name: str
    to: str
    code: str | None
    given: datetime
    due: datetime | None
    of: int
    done: int


class GivenList(Wire):
    """Some exercises that were given, the newest first. More come with `after`, null where these
    are the last.
    """

    given: list[GivenTask]
    after: str | None


class TryBegun(Wire):
    """An attempt that was begun: its practice and its id."""

    practice: Literal["bench", "drills"]
    id: str


class SetPart(Wire):
    """A part of an exercise, for the one who does it.

    times, of: how often it is finished, and how often it is to be done.
    open: whether it was begun and goes on. last: the id of what was finished last, or null.
    help: the most help that may be taken now, or null for any.
    """

    kind: Literal["tune", "listen", "read"]
    name: str
    times: int
    of: int
    done: bool
    open: bool
    last: str | None
    help: Aid | None
    page: ReadPage | None
    instrument: str
    method: str


class SetTask(Wire):
    """An exercise that is set, for the one who does it. `next`: the first part that is not done,
    from 0; null where all are.
    """

    id: str
    name: str
    note: str
    studio: str
    teachers: list[str]
    due: datetime | None
    parts: list[SetPart]
    next: int | None


class PartBegin(Wire):
    """How notes are called on screen, and what somebody who comes by a code is called."""

    naming: Naming = "letters"
    called: Annotated[str, MaxLen(2 * MOST_LETTERS)] = ""


class ClassDot(model_of(Dot)):  # type: ignore[misc]
    """Where a pupil (their place in the table, from 0) left a string, in cents."""


class ClassHelp(model_of(Help)):  # type: ignore[misc]
    """Whom to help, and with what."""


class ClassRule(model_of(Rule)):  # type: ignore[misc]
    """A part of technique, and how many pupils of how many broke it."""


class ClassString(Wire):
    """How a class left a string: how many too low, in tune, too high, and where each."""

    string: int
    label: str
    low: int
    well: int
    high: int
    dots: list[ClassDot]


class ClassPupil(Wire):
    """A line of the table: how often a pupil finished the part; of the attempt that counts, how far
    off the strings are in the middle and at worst (cents, null without one), how often low or high
    was named rightly, how many of how many were tuned by ear (of 0 in practice), the most help, its
    points, and one thing to change; of a drill the right answers. `attempt`: the newest one, or
    null.
    """

    name: str
    times: int
    middle_cents: float | None
    worst_cents: float | None
    worst: str
    sides_right: int
    sides_of: int
    by_ear: int
    by_ear_of: int
    aid: str
    points: float | None
    right: int
    trials: int
    change: str
    attempt: str | None


class AidCount(Wire):
    """How many took a help at most."""

    aid: str
    pupils: int


class ClassPage(Wire):
    """What a class made of a part: one sentence, what else, whom to help first, the picture's
    strings, and the table.
    """

    id: str
    name: str
    to: str
    given: datetime
    due: datetime | None
    code: str | None
    parts: list[str]
    kinds: list[Literal["tune", "listen", "read"]]
    part: int
    says: str
    more: list[str]
    help_first: list[ClassHelp]
    strings: list[ClassString]
    pupils: list[ClassPupil]
    tolerance_cents: float
    aids: list[AidCount]
    rules: list[ClassRule]
