"""An exercise: what an attempt is started with."""

from typing import Annotated, Literal

from pydantic import Field

from meldrin.core.bench import Aid, Setup
from meldrin.core.bench.setup import MOST_OUT_CENTS, Behaviour, StartKind, Tolerance
from meldrin.core.methods.wanted import ForkAt, Order
from meldrin.core.pitch import HIGHEST_A4_HZ, LOWEST_A4_HZ
from meldrin.core.temperament import MOST_CUSTOM_CENTS, MOST_FIFTH_CENTS
from meldrin.server.schemas.wire import Wire
from meldrin.services.attempts import at_random

MethodOrFree = Literal["each", "unison", "fifths", "harmonics", "drone", "tuner", "mixed", "free"]
Offset = Annotated[float, Field(ge=-MOST_CUSTOM_CENTS, le=MOST_CUSTOM_CENTS)]
VoiceName = Literal["", "fork", "pipe", "piano", "oboe", "player", "drone", "tone"]


class Exercise(Wire):
    """An instrument and a tuning (an id or a line of notes), a method or free play, how far out it
    starts, and what it does as a real one would. `came_from`: the tuning a retuning starts from;
    `voice`: what sounds the reference, empty for the usual one; `out_string`: which string is out,
    0 at random; `out_cents`: by how much, 0 at random; `first_string`: which one to begin with, 0
    for the usual one; `itself`: that one is trusted as it is, with nothing else at hand; `order` of
    the strings; `fork_at`: whether a fork is matched with the open string or with its harmonic;
    `offsets_cents`: where the strings are wanted against equal temperament, string 1 first, empty
    for the method's own; `aid`: the help to begin with, null for the usual one; `numbers`: beats
    are shown as numbers too; `decides`: the learner says low, high or cannot tell before a first
    turn.
    """

    instrument: Annotated[str, Field(max_length=40)] = "guitar"
    method: MethodOrFree = "unison"
    start: StartKind = "hair"
    a4_hz: Annotated[float, Field(ge=LOWEST_A4_HZ, le=HIGHEST_A4_HZ)] = 440.0
    tuning: Annotated[str, Field(max_length=200)] = "standard"
    came_from: Annotated[str, Field(max_length=200)] = ""
    voice: VoiceName = ""
    fifth_cents: Annotated[float, Field(ge=-MOST_FIFTH_CENTS, le=MOST_FIFTH_CENTS)] | None = None
    behaviours: Annotated[tuple[Behaviour, ...], Field(max_length=20)] = ()
    tolerance: Tolerance = "settled"
    out_string: Annotated[int, Field(ge=0, le=40)] = 0
    out_cents: Annotated[float, Field(ge=-MOST_OUT_CENTS, le=MOST_OUT_CENTS)] = 0.0
    first_string: Annotated[int, Field(ge=0, le=40)] = 0
    itself: bool = False
    order: Order = "usual"
    fork_at: ForkAt = "open"
    offsets_cents: Annotated[tuple[Offset, ...], Field(max_length=40)] = ()
    aid: Aid | None = None
    numbers: bool = False
    decides: bool = True

    def setup(self) -> Setup:
        """Return it with a random start."""
        same = {name: getattr(self, name) for name in SAME}
        behaviours = frozenset(self.behaviours)
        return at_random(
            Setup(instrument_id=self.instrument, behaviours=behaviours, seed=0, **same)
        )


# What an exercise and a setup call alike.
SAME = tuple(name for name in Exercise.model_fields if name not in ("instrument", "behaviours"))


def exercise_of(setup: Setup) -> Exercise:
    """Return the wire form of a setup; it does not tell how far out it begins."""
    same = {name: getattr(setup, name) for name in SAME}
    behaviours = tuple(sorted(setup.behaviours))
    return Exercise(instrument=setup.instrument_id, behaviours=behaviours, **same)
