"""The shapes of remarks."""

from typing import Annotated

from annotated_types import Ge, Le, MaxLen

from meldrin.server.realtime.messages import LONGEST_S
from meldrin.services.remarks import MOST_OF_A_REMARK, Remark
from meldrin.wire import Wire, model_of

Text = Annotated[str, MaxLen(2 * MOST_OF_A_REMARK)]


class RemarkPage(model_of(Remark)):  # type: ignore[misc]
    """A remark on a moment of an attempt, and how it was answered."""


class RemarkWanted(Wire):
    """A remark to pin: `at_s` since the attempt began."""

    at_s: Annotated[float, Ge(0.0), Le(LONGEST_S)]
    text: Text


class RemarkChange(Wire):
    """Other words for a remark."""

    text: Text


class AgainBegun(Wire):
    """The attempt in which a spot is done again."""

    id: str
