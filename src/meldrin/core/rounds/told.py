"""What the answers of a class tell: of a question, of the class, and of each who judged."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from meldrin.core.drills import (
    MeasuredDrill,
    Question,
    Sure,
    Trial,
    above_chance,
    drill_of,
)
from meldrin.core.drills.result import calibration_of, mean_error
from meldrin.core.practice import SaidSure, Sat
from meldrin.core.rounds.series import Series


@dataclass(frozen=True, slots=True)
class Judged:
    """What somebody said to a question: its number, from 1, the answer, from 0, and how sure; None
    where that was not said.
    """

    number: int
    answer: int
    sure: Sure | None = None


def told_said(posed: Question, counts: Sequence[int]) -> str:
    """Return how many of a class said what is right, in a sentence.

    Args:
        counts: how often each answer was given.
    """
    said = sum(counts)
    if said == 0:
        return "Nobody has said anything."
    words = posed.answers[posed.right].words
    return f"{counts[posed.right]} of {said} said “{words}”."


def right_of(series: Series, judged: Sequence[Judged]) -> tuple[int, int]:
    """Return how many answers were right, and how many there are."""
    trials = _trials(series, judged)
    return sum(one.is_right for one in trials), len(trials)


def ended_said(series: Series, judged: Sequence[Judged]) -> str:
    """Return what a series tells somebody who judged, in a sentence or two. Who could as well have
    guessed is not praised.
    """
    trials = _trials(series, judged)
    if not trials:
        return "You have not judged anything."
    right = sum(one.is_right for one in trials)
    said = f"You were right {right} of {len(trials)} times."
    if right == len(trials) and above_chance(trials):
        return f"{said} You heard every one."
    if not above_chance(trials):
        return f"{said} Guessing gives about as many: listen to the examples once more."
    return said


def figure_of(series: Series, judged: Sequence[Judged], *, at: datetime) -> Sat | None:
    """Return what goes into the record of somebody who judged, or None: only what was judged
    without the water counts, and comparisons are shown rather than practised.
    """
    exercise = series.exercise
    alone = [one for one in judged if series.help(one.number) != "water"]
    if exercise is None or not alone:
        return None
    trials = _trials(series, alone)
    sure = [
        trial for one, trial in zip(alone, trials, strict=True) if one.sure is not None
    ]  # how sure somebody was is known of those alone who said it
    wrong = [one for one in trials if not one.is_right]
    sides = isinstance(drill_of(exercise.drill), MeasuredDrill)
    return Sat(
        drill=exercise.drill,
        known_by=exercise.known_by,
        at=at,
        right=len(trials) - len(wrong),
        trials=len(trials),
        level=exercise.level,
        next_level=exercise.level,
        instrument=exercise.instrument_id,
        brier=mean_error(sure),
        sure=tuple(SaidSure(one.sure, one.answers, one.right) for one in calibration_of(sure)),
        below=sum(one.answer < one.right for one in wrong) if sides else 0,
        above=sum(one.answer > one.right for one in wrong) if sides else 0,
        in_class=True,
    )


def _trials(series: Series, judged: Sequence[Judged]) -> list[Trial]:
    found = []
    for one in judged:
        posed = series.posed(one.number)
        found.append(
            Trial(
                difference=series.difference(one.number) or 0.0,
                answer=one.answer,
                right=posed.right,
                sure=one.sure or "guess",
                listens=1,
                answers=len(posed.answers),
                says=posed.says,
                said=posed.answers[one.answer].words,
            )
        )
    return found
