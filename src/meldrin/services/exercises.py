"""Drawing the start of an exercise."""

import secrets

from meldrin.core.bench import Exercise, with_start
from meldrin.core.bench.exercise import MOST_SEED


def drawn(exercise: Exercise) -> Exercise:
    """Return the same exercise with a random start."""
    return with_start(exercise, seed=secrets.randbelow(MOST_SEED))
