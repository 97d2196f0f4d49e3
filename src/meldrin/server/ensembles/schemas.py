"""The shapes of checks before a concert."""

from datetime import datetime
from typing import Annotated

from annotated_types import Ge, Le, MaxLen

from meldrin.core.catalogue.load import MOST_STRINGS
from meldrin.core.ensemble import MOST_TYPED_CENTS, Agreed, Source
from meldrin.core.people import MOST_OF_A_TITLE
from meldrin.core.pitch import HIGHEST_A4_HZ, LOWEST_A4_HZ
from meldrin.core.temperament import MOST_FIFTH_CENTS
from meldrin.wire import Wire

PublicId = Annotated[str, MaxLen(32)]


class EnsembleWanted(Wire):
    """What a group agrees on: its A, and how much wider than pure its fifths are."""

    name: Annotated[str, MaxLen(2 * MOST_OF_A_TITLE)]
    group: PublicId | None = None
    a4_hz: Annotated[float, Ge(LOWEST_A4_HZ), Le(HIGHEST_A4_HZ)] = 440.0
    fifth_cents: Annotated[float, Ge(-MOST_FIFTH_CENTS), Le(MOST_FIFTH_CENTS)] = 0.0

    def agreed(self) -> Agreed:
        """Return what the group has agreed."""
        return Agreed(self.a4_hz, self.fifth_cents)


class EnsembleRowPage(Wire):
    """A check in a list."""

    id: str
    name: str
    a4_hz: float
    changed: datetime


class EnsembleString(Wire):
    """How an open string stands against where the group wants it; None where nothing is known."""

    string: int
    label: str
    wanted_cents: float
    off_cents: float | None
    source: Source | None


class EnsemblePlayer(Wire):
    """How somebody's strings stand. `id` is the member's."""

    id: str
    name: str
    instrument: str
    instrument_name: str
    strings: list[EnsembleString]
    says: str


class EnsemblePage(EnsembleRowPage):
    """A check. `help_first`: the places of players, from 0, the worst first."""

    group: str | None
    group_name: str
    fifth_cents: float
    says: str
    fifths: list[str]
    help_first: list[int]
    players: list[EnsemblePlayer]


class TypedReading(Wire):
    """What a tuner at the group's A shows of a string, in cents; null for nothing."""

    string: Annotated[int, Ge(1), Le(MOST_STRINGS)]
    cents: Annotated[float, Ge(-MOST_TYPED_CENTS), Le(MOST_TYPED_CENTS)] | None


class PlaysOn(Wire):
    """The instrument that somebody plays in a group."""

    instrument: Annotated[str, MaxLen(40)]
