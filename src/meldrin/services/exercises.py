"""Drawing the start of an exercise."""

import secrets
from dataclasses import replace

from meldrin.core.bench import Exercise, with_start
from meldrin.core.bench.exercise import MOST_SEED


def drawn(exercise: Exercise, *, seed: int | None = None, fresh: bool = False) -> Exercise:
    """Return the same exercise with a random start, or with that of a seed.

    Args:
        fresh: the seed was drawn for this learner, who has not met it.
    """
    if seed is None:
        seed, fresh = secrets.randbelow(MOST_SEED), True
    return replace(with_start(exercise, seed=seed), fresh=fresh)
