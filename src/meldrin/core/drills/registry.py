"""Every drill there is, in the order they are shown in."""

from typing import Final

from meldrin.core.drills.beating import BEATING, FASTER
from meldrin.core.drills.drill import Drill
from meldrin.core.drills.higher import HIGHER
from meldrin.core.drills.width import WIDTH
from meldrin.core.errors import Code, known

DRILLS: Final[tuple[Drill, ...]] = (HIGHER, BEATING, FASTER, WIDTH)
BY_ID: Final = {one.id: one for one in DRILLS}


def drill_of(drill_id: str) -> Drill:
    """Return the drill of this id.

    Raises:
        MeldrinError: code ``drill``, for an unknown one.
    """
    return known(BY_ID, drill_id, name="drill", code=Code.DRILL)
