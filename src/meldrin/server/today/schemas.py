"""The plan of the day on the wire."""

from datetime import date
from typing import Annotated, Literal

from annotated_types import Ge, Le, MaxLen

from meldrin.core.pitch import Naming
from meldrin.core.practice import Aim, ItemKind, Minutes
from meldrin.server.path.schemas import PathNow
from meldrin.wire import Wire


class AimSettings(Wire):
    """What a learner practises for: an instrument, a method, minutes a day, perhaps a concert."""

    instrument: Annotated[str, MaxLen(40)] = "viola"
    tuning: Annotated[str, MaxLen(200)] = "standard"
    method: Annotated[str, MaxLen(20)] = "fifths"
    minutes: Minutes = 10
    concert: date | None = None
    concert_name: Annotated[str, MaxLen(60)] = ""

    def aim(self) -> Aim:
        """Return it as the core has it.

        Raises:
            MeldrinError: for a method that does not exist.
        """
        return Aim(
            self.method, self.instrument, self.tuning, self.minutes, self.concert, self.concert_name
        )


class TodayItem(Wire):
    """A part of the day's plan.

    where: in words, on which notes, or on which string.
    attempt: what it was begun with, or None.
    """

    kind: ItemKind
    name: str
    where: str
    reason: str
    minutes: int
    state: Literal["waiting", "begun", "done"]
    attempt: str | None


class TodayPlan(Wire):
    """The plan of the day; `next` is the number of the item that comes next, from 0. As long as it
    is not begun it has no id: it is made when its first item is.
    """

    id: str | None
    instrument_name: str
    items: list[TodayItem]
    next: int | None


class TodayPage(Wire):
    """What a learner practises for, the plan of the day, and the steps that come next; None where
    nothing is known yet. goal: when it is to be played, in a sentence, or “”.
    """

    aim: AimSettings | None
    plan: TodayPlan | None
    goal: str
    path: PathNow | None


class ItemWanted(Wire):
    """An item to begin: how its notes are to be named."""

    naming: Naming = "letters"


class ProgressAsked(Wire):
    """Which progress: in how many weeks, against as many before; on one instrument, by one method,
    or any.
    """

    weeks: Annotated[int, Ge(1), Le(12)] = 4
    instrument: Annotated[str, MaxLen(40)] = ""
    method: Annotated[str, MaxLen(20)] = ""


class FiguresBroughtIn(Wire):
    """How many figures were brought in that were not there yet."""

    new: int
