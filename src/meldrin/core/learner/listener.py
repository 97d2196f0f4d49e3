"""How a simulated ear hears at the drills: the ear of the bench, and nothing else.

One model serves both, and each drill declares what it asks of it (`heard_by`). What the bench
takes as the smallest difference of two pitches whose side is heard is the threshold of “Higher or
lower”; the slowest beat that does not pass for still is that of “Still or beating”; and what is
held in mind is as sharp as pitch is heard, and blunter the longer it is held.
"""

import math
import random
from typing import Final

from meldrin.core.drills import (
    DrillAction,
    DrillExercise,
    EndSitting,
    HearTrial,
    JudgeTrial,
    MeasuredDrill,
    NextTrial,
    Question,
    StartTrials,
    Sure,
    TurnTrial,
    measured,
    opening,
    step,
)
from meldrin.core.drills.belief import HALF_WITHIN, Scale
from meldrin.core.learner.ear import Ear
from meldrin.core.session import Timed

LAPSES: Final = 0.03
SLOPE: Final = {"side_or_same": 1.0, "side": 1.0, "whether": 1.5}
WIDTH: Final = 1.0  # more than this is felt before it is said
SURE_FROM: Final = 2.5  # felt more than this
FAIRLY_FROM: Final = 1.2
TRIAL_S: Final = 9.0


def threshold_of(ear: Ear, exercise: DrillExercise) -> float:
    """Return what this ear hears at a drill, in the drill's unit.

    Raises:
        MeldrinError: code ``drill``, for one without a threshold.
    """
    return measured(exercise.drill).heard_by(ear, exercise.hz, exercise.interval)


def felt_of(scale: Scale, difference: float, threshold: float, draw: random.Random) -> float:
    """Return how much of a difference is felt, on which side: see `core/drills/belief`."""
    chance = min(max(draw.random(), 1e-12), 1.0 - 1e-12)
    noise = math.log(chance / (1.0 - chance))
    if difference == 0.0:
        return noise
    size = math.log(3.0) * (abs(difference) / threshold) ** SLOPE[scale.judged]
    return math.copysign(size, difference) + noise


def sit(
    exercise: DrillExercise, ear: Ear, *, seed: int, knows: float = 0.5
) -> list[Timed[DrillAction]]:
    """Return the actions of a whole sitting by this ear.

    Args:
        knows: the share of trials of a drill without a threshold that are known and not guessed.
    """
    draw, state = random.Random(f"sit {seed}"), opening(exercise)
    log: list[Timed[DrillAction]] = []

    def do(action: DrillAction, after_s: float) -> None:
        nonlocal state
        state, _ = step(state, action, dt_s=after_s)
        log.append(Timed(state.time_s, action))

    drill = state.drill
    for trial in range(exercise.trials):
        do(NextTrial() if trial else StartTrials(), 2.0)
        posed, amount = state.posed, None
        if posed.sounds:
            do(HearTrial(), 1.0)
        if posed.amount:
            sure: Sure = "fairly"
            answer, amount = 0, _amount(posed, exercise, ear, draw)
            if posed.turned:
                for steps in _turns(posed, amount):
                    do(TurnTrial(steps), max(1.0, state.may_turn_s - state.time_s))
                amount = None
        elif isinstance(drill, MeasuredDrill):
            if posed.turned:
                do(TurnTrial(draw.choice((-1, 1))), 1.0)
            felt = felt_of(drill.scale, state.difference, threshold_of(ear, exercise), draw)
            answer, sure = _said(drill.scale, felt)
            if draw.random() < LAPSES:
                answer = draw.randrange(len(posed.answers))
        else:
            is_known, count = draw.random() < knows, len(posed.answers)
            answer = posed.right if is_known else draw.randrange(count)
            sure = "guess" if not is_known else "sure" if draw.random() < knows else "fairly"
        wait_s = max(TRIAL_S - 3.0, state.may_turn_s - state.time_s)
        do(JudgeTrial(answer, sure, amount), wait_s)
    do(EndSitting(), 2.0)
    return log


def _amount(posed: Question, exercise: DrillExercise, ear: Ear, draw: random.Random) -> float:
    """Return the amount that is answered: beats a second, or the steps that a string is turned."""
    assert posed.amount is not None
    of = posed.amount.of
    if posed.turned is None:
        low, high = (of, 8.0) if draw.random() < LAPSES else (of, of)
        return draw.uniform(low, high) * (1.0 + draw.uniform(-ear.spread, ear.spread))
    held = ear.threshold_held(exercise.hz, of)
    wanted = draw.gauss(0.0, held / HALF_WITHIN)
    # one step is as far as another
    out, step_cents = posed.amount.error(0.0), posed.amount.error(1.0) - posed.amount.error(0.0)
    return float(round((wanted - out) / step_cents))


def _turns(posed: Question, steps: float) -> list[int]:
    """Return the turns that add up to a number of steps, large ones first."""
    assert posed.turned is not None
    small, large = posed.turned.sizes
    left = int(max(-posed.turned.most, min(posed.turned.most, steps)))
    side = 1 if left > 0 else -1
    return [side * large] * (abs(left) // large) + [side * small] * (abs(left) % large)


def _said(scale: Scale, felt: float) -> tuple[int, Sure]:
    if scale.judged == "whether":
        answer, size = int(felt > WIDTH), abs(felt - WIDTH)
    elif scale.judged == "side":
        answer, size = int(felt > 0.0), abs(felt)
    else:
        answer = 0 if felt < -WIDTH else 2 if felt > WIDTH else 1
        size = abs(abs(felt) - WIDTH) if answer != 1 else WIDTH - abs(felt) + FAIRLY_FROM / 2.0
    return answer, "sure" if size > SURE_FROM else "fairly" if size > FAIRLY_FROM else "guess"
