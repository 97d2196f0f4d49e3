"""Choosing a method: all of them ranked by a few plain answers, with a reason each.

The points are judgements of what teachers advise; they only order the list. The choice is the
person's.
"""

from dataclasses import dataclass

from meldrin.core.errors import MeldrinError
from meldrin.core.methods import METHODS, Situation, Wanted, plan_by


@dataclass(frozen=True, slots=True)
class Ranked:
    """A method with its reasons, the weightiest first; `serves` False where it cannot, and why."""

    method: str
    name: str
    about: str
    serves: bool
    points: float
    reasons: tuple[str, ...]


def rank(situation: Situation, wanted: Wanted) -> tuple[Ranked, ...]:
    """Return all methods, the fittest first; those that cannot serve come last, with why not."""
    ranked = []
    for place, method in enumerate(METHODS.values()):
        try:
            plan_by(method.id, wanted)
        except MeldrinError as error:
            row = Ranked(method.id, method.name, method.about, False, 0.0, (error.message,))
            ranked.append((1, 0.0, place, row))
            continue
        met = [
            (reason.points, reason.sentence)
            for reason in method.reasons
            if reason.applies(situation, wanted)
        ]
        total = sum(points for points, _ in met)
        met.sort(key=lambda one: (one[0] < 0.0) if total >= 0.0 else (one[0] > 0.0))
        reasons = tuple(sentence for _, sentence in met) or ("Nothing speaks for or against it.",)
        row = Ranked(method.id, method.name, method.about, True, total, reasons)
        ranked.append((0, -total, place, row))
    ranked.sort(key=lambda one: one[:3])
    return tuple(row for _, _, _, row in ranked)
