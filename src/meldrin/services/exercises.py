"""Drawing the start of an exercise."""

import secrets

from meldrin.core.bench import Exercise, with_start
from meldrin.core.bench.exercise import MOST_SEED


def drawn(exercise: Exercise, *, seed: int | None = None) -> Exercise:
    """Return the same exercise with a random start, or with that of a seed."""
    return with_start(exercise, seed=secrets.randbelow(MOST_SEED) if seed is None else seed)
