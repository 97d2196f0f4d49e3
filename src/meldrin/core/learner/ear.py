"""What a simulated learner hears and does badly: an ear, a hand, and habits."""

from dataclasses import dataclass, field
from typing import Final, Literal, get_args

from meldrin.core.errors import Code, MeldrinError, within

Habit = Literal[
    "from_above",
    "silent_turns",
    "overshoots",
    "no_mute",
    "one_pass",
    "no_settle",
    "uneven_stroke",
    "rushed",
    "hurried",
    "no_check",
    "wrong_way",
    "wrong_peg",
    "no_judgement",
    "trusts_reference",
    "slow",
    "reckless",
    "octave_deaf",
    "one_by_one",
    "wrong_note",
    "stops_early",
    "uses_level",
    "left_lying",
]
HABITS: Final = get_args(Habit)
REGISTER_HZ: Final = 180.0  # below it a pitch is harder to tell
MOST_TIMES: Final = 5.0
# A pitch that is held for ten seconds is 1.5 to 2 times as blunt (Deutsch, Science 168, 1970;
# Clement, Demany and Semal, J. Acoust. Soc. Am. 106, 1999).
BLUNTER_BY, HELD_S = 0.75, 10.0


@dataclass(frozen=True, slots=True)
class Ear:
    """What is heard.

    threshold_cents: the smallest difference of two pitches whose side is heard in the middle
        register; below 180 Hz more, as 180 Hz over the pitch, up to five times as much.
    slowest_hz: beats slower than this pass for still.
    spread: the relative error of a beat rate and of a size in cents.
    fades_cents_per_s: what a pitch kept in mind loses over a silence.
    """

    threshold_cents: float
    slowest_hz: float
    spread: float = 0.1
    fades_cents_per_s: float = 0.5

    def __post_init__(self) -> None:
        within(self.threshold_cents, name="threshold", low=0.01, high=400.0, unit="cents")
        within(self.slowest_hz, name="slowest beat heard", low=0.0, high=10.0, unit="Hz")
        within(self.spread, name="spread", low=0.0, high=1.0)
        within(self.fades_cents_per_s, name="fading", low=0.0, high=50.0, unit="cents a second")

    def threshold_at(self, hz: float) -> float:
        """Return the smallest difference of two pitches whose side is heard, in this register."""
        return self.threshold_cents * min(MOST_TIMES, max(1.0, REGISTER_HZ / hz))

    def threshold_held(self, hz: float, held_s: float) -> float:
        """Return the same for a pitch that has been kept in mind so long: the longer, the blunter,
        up to ten seconds.
        """
        return self.threshold_at(hz) * (1.0 + BLUNTER_BY * min(1.0, held_s / HELD_S))


@dataclass(frozen=True, slots=True)
class Learner:
    """An ear, a hand and habits. `hand`: the relative error of a turn; `smallest_cents`: the
    smallest turn the hand makes, as what it does to a string at pitch.
    """

    ear: Ear
    hand: float = 0.15
    smallest_cents: float = 1.0
    habits: frozenset[Habit] = field(default=frozenset())

    def __post_init__(self) -> None:
        within(self.hand, name="error of the hand", low=0.0, high=1.0)
        within(self.smallest_cents, name="smallest turn", low=0.01, high=60.0, unit="cents")
        if self.habits - set(HABITS):
            raise MeldrinError(Code.HABIT, f"Habits are {', '.join(HABITS)}.")


GOOD: Final = Learner(
    Ear(threshold_cents=0.05, slowest_hz=0.0, spread=0.0, fades_cents_per_s=0.0),
    hand=0.0,
    smallest_cents=0.02,
)
