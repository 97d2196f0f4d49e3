"""Players that want the points without the ear: deaf, idle, or by what the screen gives away."""

import random
from collections.abc import Callable

from meldrin.core.bench import (
    Exercise,
    Finish,
    GoTo,
    Judge,
    MuteAll,
    Play,
    SetAid,
    State,
    TimedAction,
    Turn,
    heard,
    judged_cents,
    matched_cents,
    opening,
    pitch_cents,
    step,
)
from meldrin.core.bench.actions import Action
from meldrin.core.bench.limits import limits
from meldrin.core.errors import MeldrinError
from meldrin.core.methods import Step
from meldrin.core.strings import cents_per_degree, tension_at_strain

Log = list[TimedAction]


class Cheat:
    """Goes through the plan; how a string is dealt with is left to a function."""

    def __init__(self, made: Exercise) -> None:
        self.state: State = opening(made)
        self.log: Log = []

    def do(self, action: Action, after_s: float = 0.5) -> bool:
        at_s = self.state.time_s + after_s
        try:
            self.state, _ = step(self.state, action, dt_s=after_s)
        except MeldrinError:
            return False
        self.log.append(TimedAction(at_s, action))
        return True

    def sound(self) -> None:
        stage = self.state.current()
        assert stage is not None
        self.do(Play(stage.strings, reference=stage.with_reference))

    def turn(self, number: int, cents: float) -> None:
        string = self.state.rig.strings[number - 1]
        tension_n = tension_at_strain(string, self.state.strain(number))
        degrees = cents / cents_per_degree(string, tension_n=tension_n)
        self.do(Turn(number, max(-80.0, min(80.0, degrees))), 0.3)

    def through(self, deal: Callable[[Step], None]) -> Log:
        for index, stage in enumerate(self.state.rig.plan.stages):
            self.do(GoTo(index))
            if isinstance(stage, Step):
                deal(stage)
            else:
                self.sound()
                self.do(SetAid(self.state.aid), 2.0)
        self.do(Finish())
        return self.log


def by_ripples(made: Exercise) -> Log:
    """Turns while the word on the screen is not “still”, tries the other way when it gets worse,
    and hides the picture before judging.
    """
    cheat = Cheat(made)

    def word() -> str:
        cheat.sound()
        now = heard(cheat.state)
        return "in_tune" if now is None else limits().ripple(now.beats_hz)

    def deal(stage: Step) -> None:
        if stage.by_tuner:
            return by_reading(cheat, stage)
        cheat.do(SetAid("ripple"))
        way = 1.0
        for n in range(60):
            if word() == "in_tune":
                break
            if n == 30:
                way = -2.0
            cheat.turn(stage.string, way)
        cheat.sound()
        cheat.do(SetAid("ear"), 1.0)
        cheat.do(Judge("in_tune", 0.0), 1.5)
        return None

    return cheat.through(deal)


def by_reading(cheat: Cheat, stage: Step) -> None:
    """Where the plan reads a tuner, there is nothing to cheat: follow it."""
    cheat.do(SetAid("tuner"))
    cheat.sound()
    for _ in range(6):
        cheat.turn(stage.string, -matched_cents(cheat.state, stage))
    cheat.sound()
    cheat.do(Judge("in_tune", 0.0), 1.0)


def by_hidden_level(made: Exercise) -> Log:
    """Brings every string in by the level, hides it, plays once more and judges."""
    cheat = Cheat(made)

    def deal(stage: Step) -> None:
        cheat.do(SetAid("level"))
        cheat.sound()
        for _ in range(6):
            cheat.turn(stage.string, -matched_cents(cheat.state, stage))
        cheat.sound()
        cheat.do(SetAid("ear"), 1.0)
        cheat.do(MuteAll())
        cheat.sound()
        cheat.do(Judge("in_tune", 0.0), 2.5)

    return cheat.through(deal)


def by_the_tuners_checks(made: Exercise) -> Log:
    """Where the tuner is for the end, goes there first; then judges every string by ear."""
    cheat = Cheat(made)
    steps = made.plan.steps
    for index in range(len(steps), len(made.plan.stages)):
        cheat.do(GoTo(index))
        cheat.do(SetAid("tuner"))
        cheat.sound()
        number = made.plan.stages[index].own.string
        assert number is not None
        for _ in range(6):
            cheat.turn(number, -pitch_cents(cheat.state, number))
        cheat.sound()
        cheat.do(SetAid("ear"), 1.0)
    return cheat.through(lambda _: _judged(cheat))


def _judged(cheat: Cheat) -> None:
    cheat.do(SetAid("ear"))
    cheat.sound()
    cheat.do(Judge("in_tune", 0.0), 2.5)


def by_repeats(made: Exercise, times: int) -> Log:
    """Loosens every string far below, and says “low” of it again and again."""
    cheat = Cheat(made)

    def deal(stage: Step) -> None:
        cheat.do(SetAid("ear"))
        cheat.sound()
        cheat.turn(stage.string, -60.0)
        for _ in range(times):
            cheat.sound()
            cheat.do(Judge("low", 50.0), 2.5)

    return cheat.through(deal)


def by_last_touch(made: Exercise) -> Log:
    """Comes down from above onto the pitch, and turns up by a hair at the very end."""
    cheat = Cheat(made)

    def deal(stage: Step) -> None:
        cheat.do(SetAid("ear"))
        cheat.sound()
        for _ in range(8):
            cheat.turn(stage.string, -0.2 - judged_cents(cheat.state, stage))
        cheat.turn(stage.string, 0.2)
        cheat.sound()
        cheat.do(Judge("in_tune", 0.0), 2.5)

    return cheat.through(deal)


def idle(made: Exercise) -> Log:
    """Turns nothing and calls everything in tune."""
    cheat = Cheat(made)

    def deal(_: Step) -> None:
        cheat.sound()
        cheat.do(Judge("in_tune", 0.0), 2.5)

    return cheat.through(deal)


def by_one_touch(made: Exercise) -> Log:
    """Turns the first string a little, deaf, and calls everything in tune."""
    cheat = Cheat(made)

    def deal(stage: Step) -> None:
        cheat.sound()
        if stage is made.plan.steps[0]:
            cheat.turn(stage.string, 3.0)
            cheat.sound()
        cheat.do(Judge("in_tune", 0.0), 2.5)

    return cheat.through(deal)


def by_touching_all(made: Exercise) -> Log:
    """Turns every string by a chance amount, deaf, and calls everything in tune."""
    draw, cheat = random.Random(made.seed), Cheat(made)

    def deal(stage: Step) -> None:
        cheat.sound()
        cheat.turn(stage.string, draw.uniform(-20.0, 20.0))
        cheat.sound()
        cheat.do(Judge("in_tune", 0.0), 2.5)

    return cheat.through(deal)


def at_random(made: Exercise, seed: int) -> Log:
    """Does four hundred things by chance."""
    draw, cheat = random.Random(seed), Cheat(made)
    numbers = [string.number for string in made.instrument.strings]
    stages = len(made.plan.stages)
    for _ in range(400):
        strings = tuple(draw.sample(numbers, draw.randint(1, 3)))
        action = draw.choice(
            (
                Play(strings, draw.random() < 0.3),
                Turn(draw.choice(numbers), draw.uniform(-20.0, 20.0)),
                GoTo(draw.randrange(stages)),
                Judge(draw.choice(("low", "in_tune", "high")), draw.uniform(0.0, 30.0)),
                MuteAll(),
                SetAid(draw.choice(("ear", "ripple"))),
            )
        )
        cheat.do(action, 2.0 * draw.random())
    return cheat.log
