"""Who asks: a guest, or somebody who has only just come. Roles come with their first use."""

from dataclasses import dataclass
from typing import Final


@dataclass(frozen=True, slots=True)
class Actor:
    """Whoever asks for something.

    learner: the id of the learner it is, or None for a newcomer of whom nothing is kept.
    """

    learner: int | None


NEWCOMER: Final = Actor(None)
