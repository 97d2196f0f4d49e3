"""What the list of actions shows of the hand: turns, overshoots, which way each string arrived."""

from collections.abc import Sequence
from dataclasses import dataclass

from meldrin.core.bench import (
    Setup,
    Sound,
    State,
    TimedAction,
    Turn,
    heard,
    matched_cents,
    opening,
    step,
)


@dataclass(frozen=True, slots=True)
class Watched:
    """A log seen through: each string's hand (string 1 first), whether the check at the end was
    listened to, and the state it ends in.
    """

    hands: tuple["Hand", ...]
    checked: bool
    state: State


@dataclass(frozen=True, slots=True)
class Hand:
    """How one string's peg was turned, and how far out it was at the start (cents against the
    string it is tuned to, as that stood then). `listened`: it was sounded with its partner.
    """

    began_cents: float
    listened: bool
    moves: int
    overshoots: int
    last_turn: int


def watched(setup: Setup, log: Sequence[TimedAction], *, overshoot_cents: float) -> Watched:
    """Run the log once and return what was seen.

    An overshoot is a run of upward turns that begins below the pitch and ends more than
    `overshoot_cents` above it; going below on purpose is not one.
    """
    state = opening(setup)
    plan = setup.plan
    stages = {stage.string: stage for stage in plan.steps}
    watches = {n: _Watch(matched_cents(state, stage)) for n, stage in stages.items()}
    listened: set[int] = set()
    for entry in log:
        action, before = entry.action, state
        state, _ = step(state, action, dt_s=entry.at_s - state.time_s)
        if isinstance(action, Turn) and action.degrees != 0.0:
            stage = stages[action.string]
            watches[action.string].turned(
                matched_cents(before, stage),
                matched_cents(state, stage),
                rising=action.degrees > 0.0,
            )
        elif isinstance(action, Sound) and heard(state) is not None:
            listened.add(state.stage)
    hands = {
        stage.string: watches[stage.string].hand(
            state, stage.string, overshoot_cents, listened=index in listened
        )
        for index, stage in enumerate(plan.steps)
    }
    return Watched(
        hands=tuple(hands[number] for number in sorted(hands)),
        checked=bool(listened & set(range(len(plan.steps), len(plan.stages)))),
        state=state,
    )


class _Watch:
    """Follows the runs of turns of one string."""

    def __init__(self, began_cents: float) -> None:
        self._began_cents = began_cents
        self._runs: list[tuple[bool, float, float]] = []

    def turned(self, before: float, after: float, *, rising: bool) -> None:
        if self._runs and self._runs[-1][0] == rising:
            before = self._runs.pop()[1]
        self._runs.append((rising, before, after))

    def hand(self, state: State, number: int, overshoot_cents: float, *, listened: bool) -> Hand:
        over = sum(
            rising and begin < 0.0 and end > overshoot_cents for rising, begin, end in self._runs
        )
        string = state.string(number)
        return Hand(
            began_cents=self._began_cents,
            listened=listened,
            moves=string.moves,
            overshoots=over,
            last_turn=string.last_turn,
        )
