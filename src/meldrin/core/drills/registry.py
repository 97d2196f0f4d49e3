"""Every drill there is, in the order they are shown in."""

from typing import Final

from meldrin.core.drills.alone import ALONE
from meldrin.core.drills.beating import BEATING, FASTER
from meldrin.core.drills.counting import COUNTING
from meldrin.core.drills.drill import MatchDrill, MeasuredDrill, QuestionDrill, ThresholdDrill
from meldrin.core.drills.higher import HIGHER
from meldrin.core.drills.holding import HOLDING
from meldrin.core.drills.names import NAMES
from meldrin.core.drills.readings import READINGS
from meldrin.core.drills.way import WAY
from meldrin.core.drills.which import WHICH
from meldrin.core.drills.whole import WHOLE
from meldrin.core.drills.width import WIDTH
from meldrin.core.errors import Code, MeldrinError, known

AnyDrill = ThresholdDrill | MatchDrill | QuestionDrill
MEASURED: Final[tuple[ThresholdDrill | MatchDrill, ...]] = (
    HIGHER, BEATING, FASTER, COUNTING, WAY, WIDTH, HOLDING
)  # fmt: skip
DRILLS: Final[dict[str, AnyDrill]] = {
    one.id: one for one in (*MEASURED, WHICH, NAMES, READINGS, ALONE, WHOLE)
}


def measured(drill_id: str) -> MeasuredDrill:
    """Return the drill of this id, which has a threshold.

    Raises:
        MeldrinError: code ``drill``, for an unknown one, or one without a threshold.
    """
    found = drill_of(drill_id)
    if isinstance(found, MeasuredDrill):
        return found
    raise MeldrinError(Code.DRILL, f"“{drill_id}” measures no threshold.")


def drill_of(drill_id: str) -> AnyDrill:
    """Return the drill of this id.

    Raises:
        MeldrinError: code ``drill``, for an unknown one.
    """
    return known(DRILLS, drill_id, name="drill", code=Code.DRILL)
