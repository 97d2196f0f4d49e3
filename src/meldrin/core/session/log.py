"""Practice as a list of timed actions, and the one loop that plays such a list again."""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from typing import Generic, Protocol, TypeVar

from meldrin.core.errors import MeldrinError
from meldrin.core.session.shape import Shape
from meldrin.core.sound.events import SoundEvent


class Clocked(Protocol):
    """A state that knows when it is, in seconds since the attempt began."""

    @property
    def time_s(self) -> float: ...


X = TypeVar("X")
S = TypeVar("S", bound=Clocked)
A = TypeVar("A")
A_in = TypeVar("A_in", contravariant=True)
Sounds = tuple[SoundEvent, ...]


class Step(Protocol[S, A_in]):
    """The reducer of a practice."""

    def __call__(self, state: S, action: A_in, /, *, dt_s: float) -> tuple[S, Sounds]: ...


@dataclass(frozen=True)  # a generic with slots cannot be made through a name like TimedAction
class Timed(Generic[A]):
    """An action and when it was done, in seconds since the attempt began."""

    at_s: float
    action: A


@dataclass(frozen=True, slots=True)
class Played(Generic[S, A]):
    """One action of a list, the states before and after it, and what it made sound."""

    entry: Timed[A]
    before: S
    after: S
    sounds: Sounds


@dataclass(frozen=True)
class Practice(Generic[X, S, A]):
    """One kind of practice: how it begins, how an action changes it, and how it is stored.

    kind: its name in tables, files and addresses.
    opening: from an exercise to the first state.
    step: from a state, an action and the seconds since the last one to the next state and what
        sounds; it raises MeldrinError for what cannot be done.
    ends: whether an action ends the attempt.
    """

    kind: str
    opening: Callable[[X], S]
    step: Step[S, A]
    ends: Callable[[A], bool]
    exercises: Shape[X]
    actions: Shape[A]


def played(
    practice: Practice[X, S, A],
    exercise: X,
    log: Iterable[Timed[A]],
    *,
    strict: bool = False,
    begin: S | None = None,
) -> Iterator[Played[S, A]]:
    """Yield every action of a list as it was played, from the opening on.

    Args:
        begin: the state to go on from, in place of the opening.
        strict: raise what the practice refuses. Otherwise it is passed over: a list that an
            earlier version kept always plays.

    Raises:
        MeldrinError: where an action of a strict list is refused.
    """
    state = practice.opening(exercise) if begin is None else begin
    for entry in log:
        try:
            after, sounds = practice.step(state, entry.action, dt_s=entry.at_s - state.time_s)
        except MeldrinError:
            if strict:
                raise
            continue
        yield Played(entry, state, after, sounds)
        state = after
