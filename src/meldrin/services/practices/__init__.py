"""The kinds of practice there are: a new one is a folder of its own and a line here."""

from typing import Any, Final

from meldrin.core.errors import Code, known
from meldrin.services.practices.bench import BENCH
from meldrin.services.practices.drills import DRILLS
from meldrin.services.practices.kind import Columns, PracticeKind, ResultSummary

KINDS: Final[dict[str, PracticeKind[Any, Any, Any, Any]]] = {
    kind.practice.kind: kind for kind in (BENCH, DRILLS)
}


def kind_of(practice: str) -> PracticeKind[Any, Any, Any, Any]:
    """Return the kind of practice of this name.

    Raises:
        MeldrinError: code ``no_such_practice``.
    """
    return known(KINDS, practice, name="practice", code=Code.NO_SUCH_PRACTICE)
