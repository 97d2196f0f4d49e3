"""A line of the score: some points of a part, and why."""

from dataclasses import dataclass
from typing import Literal

Part = Literal[
    "matched",
    "placed",
    "closed",
    "judged",
    "leaning",
    "reference",
    "technique",
    "economy",
    "safety",
]


@dataclass(frozen=True, slots=True)
class Line:
    """Some points of a part, and why; `string` is None for what concerns them all, `rule` the rule
    of technique it is about, `at_s` a moment of the attempt that shows it.
    """

    part: Part
    string: int | None
    points: float
    out_of: float
    sentence: str
    rule: str = ""
    at_s: float | None = None
