"""The steps of what one can do, on the wire."""

from datetime import datetime
from typing import Annotated, Literal

from annotated_types import MaxLen

from meldrin.core.pitch import Naming
from meldrin.server.exercises import ExerciseSettings
from meldrin.wire import Wire


class StepSeen(Wire):
    """Something one can do, what shows it in a sentence, and when it was shown, or None."""

    id: str
    can: str
    shown_by: str
    proven: datetime | None


class StageSeen(Wire):
    """A stage of the path with its steps."""

    id: str
    name: str
    steps: list[StepSeen]


class PathNow(Wire):
    """Where a learner stands: the stage of the next step, and the next two steps. `proven`: how
    many steps are.
    """

    stage: str
    proven: int
    next: list[StepSeen]


class PathPage(Wire):
    """All steps, and where the learner stands."""

    now: PathNow
    stages: list[StageSeen]


class StepWanted(Wire):
    """A step to try: how its notes are to be named."""

    naming: Naming = "letters"


class StepBegun(Wire):
    """The attempt a step is tried with, on the bench or as a sitting at a drill."""

    attempt: str
    kind: Literal["bench", "drill"]


class WayToBegin(Wire):
    """A way to begin on an instrument, and what it begins with."""

    id: str
    name: str
    about: str
    exercise: ExerciseSettings


class WaysAsked(Wire):
    """On which instrument, in which tuning."""

    instrument: Annotated[str, MaxLen(40)] = "guitar"
    tuning: Annotated[str, MaxLen(200)] = "standard"
    naming: Naming = "letters"


class PupilOnPath(Wire):
    """A pupil of a studio: the stage, and what comes next; empty where all is shown."""

    id: str
    name: str
    stage: str
    next: str


class ClassPath(Wire):
    """The pupils of a studio on the path, in the order of its stages. `unread`: of how many more
    it is not found out yet; ask again.
    """

    stages: list[str]
    pupils: list[PupilOnPath]
    unread: int
