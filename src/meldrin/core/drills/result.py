"""What a sitting tells: the threshold, how many answers were right, and how sure one may be."""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Final

from meldrin.core.drills.belief import Belief, Threshold
from meldrin.core.drills.drill import (
    EASIEST,
    HARDEST,
    Interval,
    MatchDrill,
    MeasuredDrill,
    ThresholdDrill,
)
from meldrin.core.drills.sitting import (
    FEWEST,
    SAID,
    DrillAction,
    DrillExercise,
    Sure,
    Trial,
    opening,
    sat,
)
from meldrin.core.session import Timed
from meldrin.core.words import beats_said, whole_cents

MIXED: Final = "These answers were mixed. Rest, then try again. No result today."
SAYS_SOMETHING: Final = 4  # answers of one kind, before a share of them is said
LEANS_FROM: Final = 0.75  # of the wrong answers, on one side
WELL_KNOWN: Final = 6.0  # an interval as wide as this factor says where the threshold is
HARDLY_KNOWN: Final = 20.0  # and a wider one than this says nothing
NOT_HEARD: Final = 0.7  # of the largest threshold there is
HARDER_FROM, EASIER_TO = 0.8, 0.5  # the share of right answers that changes the level
TIRED_FROM: Final = 3  # slips in the second half, and two more than in the first
EASY: Final = 2.0  # times the threshold: who misses more than that was not listening any more
ABOVE_CHANCE: Final = 1.645  # deviations above guessing, which 1 of 20 guessers reaches
SURE: Final[dict[Sure, str]] = {"guess": "guessed", "fairly": "fairly sure", "sure": "sure"}


@dataclass(frozen=True, slots=True)
class Calibration:
    """Answers said with one confidence, and how many of them were right."""

    sure: Sure
    answers: int
    right: int


@dataclass(frozen=True, slots=True)
class DrillResult:
    """What a sitting tells.

    known_by: what its evidence is kept under.
    threshold: after it, or None where nothing was answered; before: where it stood, or None for
        nothing known.
    known: how likely each threshold of the grid is now; empty for a drill without one.
    level: how hard it was; next_level: how hard the next one will be.
    brier: the mean square of what was said to be likely against what was so (Brier, Monthly Weather
        Review 78, 1950): 0 at best, or None where nothing was answered.
    headline: the threshold in a sentence; remarks: what else there is to say.
    rest: whether slips towards the end ask for a rest.
    """

    drill: str
    known_by: str
    threshold: Threshold | None
    before: Threshold | None
    known: tuple[float, ...]
    trials: tuple[Trial, ...]
    right: int
    calibration: tuple[Calibration, ...]
    brier: float | None
    headline: str
    remarks: tuple[str, ...]
    level: int = EASIEST
    next_level: int = EASIEST
    rest: bool = False


def drill_result(exercise: DrillExercise, log: Sequence[Timed[DrillAction]]) -> DrillResult:
    """Return what a sitting tells, as far as it went."""
    state = sat(exercise, log)
    trials, drill = state.trials, state.drill
    if isinstance(drill, MeasuredDrill) and state.belief:
        first = opening(exercise).belief
        before = first.threshold if first and exercise.known else None
        nothing = _tells_nothing(drill, state.belief) if len(trials) >= FEWEST else ""
        threshold = state.belief.threshold if trials and not nothing else None
        headline = nothing or _headline(drill, threshold, trials)
        remarks = [] if nothing else _remarks(drill, exercise.interval, trials, threshold, before)
        known = first.without(state.belief).kept if nothing and first else state.belief.kept
    else:
        before = threshold = None
        known = ()
        headline, remarks = _share_said(trials), _share_remarks(exercise, trials)
    tired = _tired_remarks(trials, threshold)
    return DrillResult(
        drill=exercise.drill,
        known_by=exercise.known_by,
        threshold=threshold,
        before=before,
        known=known,
        trials=trials,
        right=sum(one.is_right for one in trials),
        calibration=calibration_of(trials),
        brier=mean_error(trials),
        headline=headline,
        remarks=(*remarks, *_sure_remarks(trials), *tired),
        level=exercise.level,
        next_level=_next_level(exercise.level, trials),
        rest=bool(tired),
    )


def _tells_nothing(drill: MeasuredDrill, belief: Belief) -> str:
    """Return why a sitting tells nothing of the threshold, in a sentence, or “”."""
    if belief.mixed:
        return MIXED
    if belief.one_sided and isinstance(drill, ThresholdDrill):
        said = drill.answers[-1].words.lower()
        return f"You said “{said}” nearly every time. Some were not. No result today."
    return ""


def _next_level(level: int, trials: Sequence[Trial]) -> int:
    """Return how hard the next sitting is, after enough trials to tell."""
    if len(trials) < FEWEST:
        return level
    share = sum(one.is_right for one in trials) / len(trials)
    moved = level + (share >= HARDER_FROM) - (share <= EASIER_TO)
    return max(EASIEST, min(HARDEST, moved))


def share_said(result: DrillResult) -> str:
    """Return how many answers were right, for a list."""
    return f"right {result.right} of {len(result.trials)} times"


def _share_said(trials: Sequence[Trial]) -> str:
    if not trials:
        return "Nothing was judged."
    right = sum(one.is_right for one in trials)
    return f"You were right {right} of {len(trials)} times."


def _share_remarks(exercise: DrillExercise, trials: Sequence[Trial]) -> list[str]:
    found = []
    if len(trials) >= FEWEST and not above_chance(trials):
        found.append("Guessing gives about as many. Play the examples, and take your time.")
    following = _next_level(exercise.level, trials)
    if following != exercise.level:
        way = "harder" if following > exercise.level else "easier"
        found.append(f"The next sitting will be {way}.")
    return found


def above_chance(trials: Sequence[Trial]) -> bool:
    """Return whether more answers are right than somebody who guesses has right but 1 time in 20
    (a normal approximation to the number of hits).
    """
    chances = [1.0 / one.answers for one in trials]
    spread = math.sqrt(sum(chance * (1.0 - chance) for chance in chances))
    right = sum(one.is_right for one in trials)
    return right - 0.5 > sum(chances) + ABOVE_CHANCE * spread


def calibration_of(trials: Sequence[Trial]) -> tuple[Calibration, ...]:
    """Return the answers by how sure they were, each with how many of them were right."""
    found = []
    for sure in SAID:
        said = [one for one in trials if one.sure == sure]
        found.append(Calibration(sure, len(said), sum(one.is_right for one in said)))
    return tuple(found)


def mean_error(trials: Sequence[Trial]) -> float | None:
    """Return the mean square of what was said to be likely against what was so, or None."""
    if not trials:
        return None
    said = [SAID[one.sure] or 1.0 / one.answers for one in trials]
    errors = [(share - one.is_right) ** 2 for share, one in zip(said, trials, strict=True)]
    return sum(errors) / len(errors)


def threshold_said(drill: MeasuredDrill, threshold: Threshold) -> str:
    """Return what is heard, to two digits, or that it is not known or not heard yet."""
    if is_known(drill, threshold):
        return _said(drill, threshold.middle)
    hardly = threshold.high / threshold.low > HARDLY_KNOWN
    return "not sure yet" if hardly else "not heard yet"


WORDS: Final = {"pure": "", "equal": "in equal temperament", "third": "major third"}


def where_said(known_by: str) -> str:
    """Return in words where something was heard.

    >>> where_said("middle"), where_said("low fifth pure")
    ('middle notes', 'low notes, fifth')
    """
    register, *rest = known_by.split()
    said = [f"{register} notes", *(WORDS.get(one, one) for one in rest)]
    return ", ".join(one for one in said if one)


def is_known(drill: MeasuredDrill, threshold: Threshold) -> bool:
    """Whether something is known of it, and it is not that nothing is heard."""
    within = threshold.middle <= NOT_HEARD * drill.scale.high
    if isinstance(drill, MatchDrill) and threshold.high > drill.deaf_from:
        return False  # no nearer than who always says the same
    return within and threshold.high / threshold.low <= HARDLY_KNOWN


def _said(drill: MeasuredDrill, size: float) -> str:
    return UNITS[drill.unit](float(f"{size:.2g}"))


UNITS: Final[dict[str, Callable[[float], str]]] = {
    "cents": whole_cents,
    "beats a second": beats_said,
    "percent": lambda size: f"{size:g} percent",
}


def _headline(drill: MeasuredDrill, threshold: Threshold | None, trials: Sequence[Trial]) -> str:
    if threshold is None:
        return "Nothing was judged."
    if is_known(drill, threshold):
        untried = _only_as_tried(drill, threshold, trials)
        if untried:
            return untried
        size = _said(drill, threshold.middle)
        if threshold.high / threshold.low > WELL_KNOWN:
            return f"Perhaps you {drill.does} {size}. Another sitting will tell."
        if isinstance(drill, MatchDrill):
            return f"You {drill.does} {size}."
        return f"You {drill.does} {size}. What is smaller sounds the same to you."
    if threshold.high / threshold.low > HARDLY_KNOWN:
        return "This does not tell yet what you hear. Another sitting will."
    if isinstance(drill, MatchDrill):
        return "So far it could be anything. Play the examples, and come back tomorrow."
    return "So far you do not hear it. Play the examples, and come back tomorrow."


def _only_as_tried(
    drill: MeasuredDrill, threshold: Threshold, trials: Sequence[Trial]
) -> str | None:
    """Return how far a threshold is known where nothing so small has been tried yet, or None."""
    if not isinstance(drill, ThresholdDrill):
        return None
    tried = [abs(one.difference) for one in trials if one.difference]
    if not tried or threshold.middle >= min(tried):
        return None
    low, high = f"{threshold.low:.2g}", _said(drill, min(tried))
    return f"You {drill.does} between {low} and {high} so far. Another sitting will tell."


def _remarks(
    drill: MeasuredDrill,
    interval: Interval,
    trials: Sequence[Trial],
    threshold: Threshold | None,
    before: Threshold | None,
) -> list[str]:
    found = []
    if threshold is not None and is_known(drill, threshold):
        low, high = (_said(drill, size) for size in (threshold.low, threshold.high))
        found.append(f"Most likely it lies between {low} and {high}.")
    if before is not None and is_known(drill, before):
        found.append(f"Before this sitting: {_said(drill, before.middle)}.")
    if isinstance(drill, ThresholdDrill):
        found += _leans(drill, interval, trials)
    elif isinstance(drill, MatchDrill):
        found += [*drill.remarks([(one.difference, one.error or 0.0, one.turns) for one in trials])]
    return found


def _leans(drill: ThresholdDrill, interval: Interval, trials: Sequence[Trial]) -> list[str]:
    wrong = [one for one in trials if not one.is_right]
    found = []
    for at, answer in enumerate(drill.asks(interval)[1]):
        said = sum(one.answer == at for one in wrong)
        if len(wrong) >= SAYS_SOMETHING and said >= LEANS_FROM * len(wrong):
            found.append(f"When you were wrong, you mostly said “{answer.words.lower()}”.")
    return found


def _sure_remarks(trials: Sequence[Trial]) -> list[str]:
    sure = [one for one in trials if one.sure == "sure"]
    if len(sure) < SAYS_SOMETHING:
        return []
    right = sum(one.is_right for one in sure)
    return [f"When you were sure, you were right {right} of {len(sure)} times."]


def _tired_remarks(trials: Sequence[Trial], threshold: Threshold | None) -> list[str]:
    """Return that a rest is due, where easy trials are missed more and more."""
    least = 0.0 if threshold is None else EASY * threshold.middle
    slips = [
        not one.is_right and abs(one.difference if one.error is None else one.error) >= least
        for one in trials
    ]
    half = len(slips) // 2
    first, second = sum(slips[:half]), sum(slips[half:])
    if second < max(TIRED_FROM, first + 2):
        return []
    return ["Towards the end more went wrong. Rest your ears for a few minutes."]
