"""What an attempt made of one string."""

from dataclasses import dataclass

from meldrin.core.bench import Judgement
from meldrin.core.scoring.findings import Basis


@dataclass(frozen=True, slots=True)
class StringResult:
    """One string at the end; offsets in cents.

    heard: whether it has been heard since its last turn.
    brought: whether it was, and lies within tolerance.
    basis: what the last word on it rested on.
    began_cents: how far it was from its target at the start.
    pitch_cents: how far it is from its target.
    matched_cents: how far it is from what it is tuned to.
    judgement: what was said of it last, or None.
    """

    number: int
    label: str
    heard: bool
    brought: bool
    basis: Basis
    began_cents: float
    pitch_cents: float
    matched_cents: float
    judgement: Judgement | None
    moves: int
    overshoots: int
    from_below: bool
