"""A line of the score: some points of a part, and why."""

from dataclasses import dataclass
from typing import Literal

ScorePart = Literal[
    "match",
    "pitch",
    "closing",
    "judgement",
    "bias",
    "reference",
    "technique",
    "economy",
    "safety",
    "holding",
    "fault",
    "remedy",
]


@dataclass(frozen=True, slots=True)
class Line:
    """Some points of a part, and why; `string` is None for what concerns them all, `rule` the rule
    of technique it is about, `at_s` a moment of the attempt that shows it, `broken` the share of
    it that was done wrong (0 to 1), whatever else its points depend on.
    """

    part: ScorePart
    string: int | None
    points: float
    out_of: float
    sentence: str
    rule: str = ""
    at_s: float | None = None
    broken: float = 0.0


@dataclass(frozen=True, slots=True)
class Tuned:
    """How many strings of how many were brought in, which some parts are earned by."""

    strings: int
    of: int

    @property
    def share(self) -> float:
        """The share of strings that were brought in."""
        return self.strings / self.of if self.of else 0.0

    def line(
        self,
        part: ScorePart,
        string: int | None,
        share: float,
        out_of: float,
        sentence: str,
        *,
        rule: str = "",
        at_s: float | None = None,
    ) -> Line:
        """Return a line that is earned in the share of strings brought in, and that says so."""
        points = share * self.share * out_of
        if self.strings < self.of and share > 0.0:
            one = "string was" if self.of == 1 else "strings were"
            sentence += (
                f" {points:.1f} of {out_of:.1f}, because {self.strings} of {self.of} {one} tuned."
            )
        return Line(part, string, points, out_of, sentence, rule, at_s, 1.0 - share)
