"""Who asks: a guest, a learner with a name, or somebody who teaches in a studio."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Final

from meldrin.core.people import Role


@dataclass(frozen=True, slots=True)
class Actor:
    """Whoever asks for something.

    learner: the id of the learner it is, or None for a newcomer of whom nothing is kept.
    teaches: “teacher” or “owner” by the studios (their ids) where it is one.
    """

    learner: int | None
    teaches: Mapping[int, Role] = field(default_factory=dict, compare=False)


NEWCOMER: Final = Actor(None)
