"""Players that want the points without the ear: deaf, idle, or by what the screen gives away."""

import random
from collections.abc import Callable

from meldrin.core.bench import (
    Aid,
    CheckWithTuner,
    Exercise,
    Finish,
    GoTo,
    Judge,
    MuteAll,
    Play,
    PutOut,
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
from meldrin.core.learner import GOOD, practise
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

    def degrees(self, number: int, degrees: float) -> None:
        self.do(Turn(number, degrees), 0.3)

    def ear_only(self) -> None:
        """Hide the picture, play, and say that it is in tune."""
        self.do(SetAid("ear"), 1.0)
        self.sound()
        self.do(Judge("in_tune", 0.0), 2.5)

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

    def deal(stage: Step) -> None:
        if stage.by_tuner:
            return by_reading(cheat, stage)
        cheat.do(SetAid("ripple"))
        by_the_word(cheat, stage)
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


WORDS = ("still", "very_slow", "slow", "fast")
STEPS_CENTS = (0.0, 0.4, 1.2, 3.0)  # by how much to turn at each word


def by_the_word(cheat: Cheat, stage: Step) -> None:
    """Turns by the word beside the ripples alone: back where it gets worse, by less the slower."""
    way, before = 1.0, len(WORDS)
    for _ in range(120):
        cheat.sound()
        now = heard(cheat.state)
        at = 3 if now is None else WORDS.index(limits().ripple(now.beats_hz))
        if at == 0:
            return
        if at > before or (at == 3 and abs(cheat.state.string(stage.string).knob_deg) > 45.0):
            way = -way
        before = at
        cheat.turn(stage.string, way * STEPS_CENTS[at])


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
    cheat.do(SetAid("ear"))

    def deal(_: Step) -> None:
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


COARSE_DEG = 12.0


def by_counted_presses(made: Exercise, *, aid: Aid = "level", shaky: float = 0.0) -> Log:
    """Brings every string in with a picture, hides it, presses so often down and as often up, plays
    and judges: the string is where it was. `shaky`: how unevenly the hand presses.
    """
    draw, cheat = random.Random(made.seed), Cheat(made)

    def presses(stage: Step, way: float) -> None:
        for _ in range(4):
            cheat.degrees(stage.string, way * COARSE_DEG * (1.0 + shaky * draw.uniform(-1.0, 1.0)))

    def deal(stage: Step) -> None:
        if stage.by_tuner:
            return by_reading(cheat, stage)
        cheat.do(SetAid(aid))
        cheat.sound()
        if aid == "level":
            for _ in range(8):
                cheat.turn(stage.string, -matched_cents(cheat.state, stage))
        else:
            by_the_word(cheat, stage)
        cheat.do(SetAid("ear"), 1.0)
        presses(stage, -1.0)
        cheat.sound()
        presses(stage, 1.0)
        cheat.sound()
        cheat.do(Judge("in_tune", 0.0), 2.5)
        return None

    return cheat.through(deal)


def counted_with_ripples(made: Exercise) -> Log:
    """The same from Ripples."""
    return by_counted_presses(made, aid="ripple")


def counted_unevenly(made: Exercise) -> Log:
    """The same by a hand that presses unevenly."""
    return by_counted_presses(made, shaky=0.15)


def by_checking_first(made: Exercise) -> Log:
    """Says that everything is in tune, deaf, checks with the tuner, turns every string by the cents
    it shows, and says it again.
    """
    cheat = Cheat(made)
    for index in range(len(made.plan.steps)):
        cheat.do(GoTo(index))
        cheat.ear_only()
    cheat.do(CheckWithTuner())

    def deal(stage: Step) -> None:
        for _ in range(4):
            cheat.turn(stage.string, -pitch_cents(cheat.state, stage.string))
        cheat.ear_only()

    return cheat.through(deal)


def by_copying(made: Exercise) -> Log:
    """Does with the same start what a good player did with it."""
    return practise(made, GOOD, seed=made.seed)


def by_putting_out(made: Exercise) -> Log:
    """Brings every string in by the level, has it put out again, and turns it by a guess."""
    draw, cheat = random.Random(made.seed), Cheat(made)

    def deal(stage: Step) -> None:
        cheat.do(SetAid("level"))
        cheat.sound()
        for _ in range(6):
            cheat.turn(stage.string, -matched_cents(cheat.state, stage))
        cheat.do(PutOut(), 1.0)
        full = limits().tolerances[made.tolerance].full_cents
        cheat.turn(stage.string, draw.choice((-3.0, 3.0)) * full)
        cheat.ear_only()

    return cheat.through(deal)


Rule = Callable[[int, Exercise], float]  # from the number of a step, from 0, to cents


def by_rule(made: Exercise, rule: Rule) -> Log:
    """Turns every string by a fixed rule, deaf, and calls everything in tune."""
    cheat = Cheat(made)
    numbers = {step.string: place for place, step in enumerate(made.plan.steps)}

    def deal(stage: Step) -> None:
        cheat.do(SetAid("ear"))
        cheat.sound()
        cents = rule(numbers[stage.string], made)
        for _ in range(3):
            cheat.turn(stage.string, cents / 3.0)
        cheat.sound()
        cheat.do(Judge("in_tune", 0.0), 2.5)

    return cheat.through(deal)


def always(times: float) -> Rule:
    """Every string by a multiple of the tolerance, up or down."""
    return lambda _, made: times * limits().tolerances[made.tolerance].full_cents


def in_turn(times: float) -> Rule:
    """The first string up, the second down, and so on."""
    return lambda place, made: always(times if place % 2 == 0 else -times)(place, made)


def halves(times: float) -> Rule:
    """The first half of the strings up, the second down."""
    return lambda place, made: always(times if place < len(made.plan.steps) / 2 else -times)(
        place, made
    )


def one_touch(times: float) -> Rule:
    """The first string up, no other."""
    return lambda place, made: always(times if place == 0 else 0.0)(place, made)


RULES: dict[str, Rule] = {
    f"{name} {times:g}": made(times)
    for times in (-3.25, -2.25, 1.5, 2.25, 3.25)
    for name, made in (
        ("always", always),
        ("in turn", in_turn),
        ("halves", halves),
        ("one touch", one_touch),
    )
}
