"""What an attempt starts from: instrument, plan, and how far out each string is, by seed."""

import random
from dataclasses import dataclass
from functools import lru_cache
from typing import Final, Literal, get_args

from meldrin.core.bench.state import State, StringState
from meldrin.core.catalogue import Instrument, instrument
from meldrin.core.errors import MeldrinError, within
from meldrin.core.methods import Plan, Wanted, plan_by
from meldrin.core.pitch import checked_a4_hz, shifted_by_cents
from meldrin.core.strings import strain_sounding, unstretched_at_strain

StartKind = Literal["hair", "month", "one"]
START_KINDS: Final = get_args(StartKind)
MOST_SEED: Final = 2**31 - 1


@dataclass(frozen=True, slots=True)
class Setup:
    """The fixed part of an attempt. `start`: a hair out; after a month untouched; one string out.

    Raises:
        MeldrinError: for an instrument, method or start there is none of, or a number out of range.
    """

    instrument_id: str
    method: str
    start: StartKind
    seed: int
    a4_hz: float = 440.0

    def __post_init__(self) -> None:
        checked_a4_hz(self.a4_hz)
        within(self.seed, name="seed", low=0, high=MOST_SEED)
        if self.start not in START_KINDS:
            raise MeldrinError("start", f"An attempt can start: {', '.join(START_KINDS)}.")
        if self.method != "unison":
            raise MeldrinError("method", f"There is no school “{self.method}”; there is unison.")
        _plan(self.instrument_id, self.a4_hz)  # refuses an instrument the school cannot serve

    @property
    def instrument(self) -> Instrument:
        """The instrument on the bench."""
        return instrument(self.instrument_id)

    @property
    def plan(self) -> Plan:
        """The plan by the school that is practised."""
        return _plan(self.instrument_id, self.a4_hz)


@lru_cache(maxsize=64)
def _plan(instrument_id: str, a4_hz: float) -> Plan:
    made = instrument(instrument_id)
    return plan_by("unison", Wanted(made, made.tuning(), a4_hz))


def opening(setup: Setup) -> State:
    """Return the state an attempt opens with: silent, the first stage's finger in place."""
    plan = setup.plan
    offsets = _offsets_cents(setup)
    strings = tuple(
        StringState(
            unstretched_m=unstretched_at_strain(
                string,
                strain_sounding(
                    string,
                    frequency_hz=shifted_by_cents(target_hz, cents=offset),
                    fret=0,
                    number=1,
                ),
            )
        )
        for string, target_hz, offset in zip(
            setup.instrument.strings, plan.targets_hz, offsets, strict=True
        )
    )
    return State(setup=setup, strings=strings).at_stage(0)


def _offsets_cents(setup: Setup) -> list[float]:
    """Draw how far each string is from its target, in cents, string 1 first.

    random.Random is used because its random() is promised to stay the same between versions, which
    a stored attempt relies on. The string that is matched to the fork is always clearly out, so
    that the first thing a newcomer hears beats.
    """
    draw = random.Random(setup.seed)

    def between(low: float, high: float) -> float:
        return low + (high - low) * draw.random()

    count = len(setup.instrument.strings)
    first = setup.plan.steps[0].string
    match setup.start:
        case "hair":
            offsets = [
                between(4.0, 12.0) * (1 if draw.random() < 0.4 else -1) for _ in range(count)
            ]
            offsets[first - 1] = -between(7.0, 12.0)
        case "month":
            offsets = [
                between(3.0, 12.0) if draw.random() < 0.2 else -between(10.0, 40.0)
                for _ in range(count)
            ]
            offsets[first - 1] = -between(14.0, 30.0)
        case "one":
            offsets = [between(-0.8, 0.8) for _ in range(count)]
            lot = int(draw.random() * count)
            offsets[lot] = between(12.0, 35.0) * (1 if draw.random() < 0.4 else -1)
    return offsets
