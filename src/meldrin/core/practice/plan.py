"""What to do today in 5, 10 or 20 minutes, with a reason for each item."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Annotated, Final, Literal, get_args

from annotated_types import Ge, MaxLen

from meldrin.core.bench import Aid
from meldrin.core.catalogue import Instrument
from meldrin.core.drills import drill_of, threshold_said
from meldrin.core.drills.registry import measured
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.methods import METHODS
from meldrin.core.practice.bench_core import most_missed, next_aid
from meldrin.core.practice.choosing import AGAIN_TODAY, chosen
from meldrin.core.practice.figures import Sat, Tuned
from meldrin.core.practice.path import Path, PathStep
from meldrin.core.practice.skills import Skill, skills_for
from meldrin.core.practice.standing import Standing, standings
from meldrin.core.words import beats_said, whole_cents

Minutes = Literal[5, 10, 20]
MINUTES: Final[tuple[Minutes, ...]] = get_args(Minutes)
DRILL_MIN, ONE_STRING_MIN, ATTEMPT_MIN, REST_MIN = 2, 2, 6, 2
# How many drills there are, by the minutes of a practice; one string on the bench follows them.
DRILLS_IN: Final[dict[Minutes, int]] = {5: 1, 10: 4, 20: 5}
WHOLE: Final = 3  # strings, from which on an attempt is no single string
WHOLE_EVERY: Final = timedelta(hours=36)  # in 10 minutes: the whole instrument every other day
AWAY_DAYS: Final = 7  # days without practice after which something easy comes first
SOON_DAYS: Final = 7  # so long before a concert the whole instrument comes first
NEWCOMER: Final = 4  # sittings and attempts, before a day is more than one string and one drill
ItemKind = Literal["drill", "one_string", "attempt", "rest"]


@dataclass(frozen=True, slots=True)
class Aim:
    """What a learner wants: an instrument in a tuning, by a method, and perhaps a concert's date.

    Raises:
        MeldrinError: code ``no_such_method``, ``no_such_tuning``, or ``practice`` for minutes that
            no plan is made for.
    """

    method: str
    instrument_id: Annotated[str, MaxLen(40)]
    tuning: Annotated[str, MaxLen(200)] = "standard"
    minutes: Minutes = 10
    concert: date | None = None
    concert_name: Annotated[str, MaxLen(60)] = ""

    def __post_init__(self) -> None:
        if self.minutes not in MINUTES:
            raise MeldrinError(Code.PRACTICE, "A practice takes 5, 10 or 20 minutes.")
        if self.method not in METHODS:
            raise MeldrinError(
                Code.NO_SUCH_METHOD,
                f"Unknown method “{self.method}”. Available: {', '.join(METHODS)}.",
            )


@dataclass(frozen=True, slots=True)
class Item:
    """A part of a practice.

    reason: why it is there, in a sentence.
    skill: of a drill. string, began: of one string put out, and the side that is missed; 0 and None
        for any. aid: the help to tune with.
    step: the step of the path that it tries, or “”.
    """

    kind: ItemKind
    name: str
    reason: str
    minutes: Annotated[int, Ge(1)]
    skill: Skill | None = None
    string: int = 0
    began: Literal["low", "high"] | None = None
    aid: Aid = "ripple"
    step: Annotated[str, MaxLen(40)] = ""


def items_for(
    aim: Aim,
    made: Instrument,
    *,
    sat: Sequence[Sat],
    tuned: Sequence[Tuned],
    path: Path,
    now: datetime,
) -> tuple[Item, ...]:
    """Return what to do today: drills by what was measured, one string, and the whole instrument
    as the next step asks for it. A newcomer's day is one drill and one string.

    Args:
        sat: the sittings at drills; tuned: the attempts on this instrument; the oldest first.
    """
    skills = skills_for(made, aim.tuning, aim.method)
    stand: Sequence[Standing]
    stand, at = standings(skills, sat, now=now)
    latest = max((*(one.at for one in sat), *(one.at for one in tuned)), default=None)
    days_away = (now - latest).days if latest else 0
    days_left = (aim.concert - now.date()).days if aim.concert else None
    soon = days_left is not None and 0 <= days_left <= SOON_DAYS
    count = DRILLS_IN[aim.minutes]
    step = _whole_step(path)
    rested = all(len(one.strings) < WHOLE or now - one.at >= WHOLE_EVERY for one in tuned)
    whole = aim.minutes == 20 or (aim.minutes == 10 and (soon or (step is not None and rested)))
    if whole and aim.minutes == 10:
        count = 1
    if len(sat) + len(tuned) < NEWCOMER and not soon:
        count, whole = 1, False
    picked = chosen(_one_of_each(stand, now), count, now=now, easy_first=days_away >= AWAY_DAYS)
    drills = [
        Item(
            "drill",
            drill_of(one.skill.drill).name,
            _reason(one, at, now=now, days_away=days_away if place == 0 else 0),
            DRILL_MIN,
            skill=one.skill,
        )
        for place, one in enumerate(picked)
    ]
    listening = next((one for one in path.next if one.listening), None)
    if listening is not None and days_away < AWAY_DAYS:
        drills = _with_step(drills, listening)
    aid = next_aid(tuned)
    found = [*drills, _one_string(made, aim, tuned, aid)]
    if whole and aim.minutes == 20:
        found.append(Item("rest", "Rest", "Ears tire too. Two minutes without a sound.", REST_MIN))
    if whole and step is not None and not soon:
        found.append(Item("attempt", step.can, step.shown_by, ATTEMPT_MIN, step=step.id))
    elif whole:
        found.append(
            Item("attempt", "The whole instrument", _why_whole(days_left), ATTEMPT_MIN, aid=aid)
        )
    return tuple(found)


def goal_said(aim: Aim, today: date) -> str:
    """Return when it is to be played, in a sentence, or “” without a day to come."""
    if aim.concert is None or aim.concert < today:
        return ""
    days = (aim.concert - today).days
    when = "today" if days == 0 else "tomorrow" if days == 1 else f"in {days} days"
    return f"{aim.concert_name or 'Concert'} {when}."


def _whole_step(path: Path) -> PathStep | None:
    """Return the next step, where it asks for more than one string or for a fault."""
    for step in path.next:
        if step.finding or (step.tuning and step.tuning.strings == "whole"):
            return step
    return None


def _with_step(drills: Sequence[Item], step: PathStep) -> list[Item]:
    """Return the drills with that of the next step among them; where nothing else asks for it, it
    comes first and the last one waits.
    """
    assert step.listening is not None
    drill = drill_of(step.listening.drill)
    if any(one.skill and one.skill.drill == drill.id for one in drills):
        return [*drills]
    reason = f"The next step: {step.can[:1].lower()}{step.can[1:]}."
    return [Item("drill", drill.name, reason, DRILL_MIN, step=step.id), *drills[:-1]]


def _one_of_each(stand: Sequence[Standing], now: datetime) -> list[Standing]:
    """Return each drill once, on the notes that need it most: two lines of the same would crowd
    out another.
    """
    best: dict[str, Standing] = {}
    for one in stand:
        other = best.get(one.skill.drill)
        if other is None or _need(one, now) > _need(other, now):
            best[one.skill.drill] = one
    return list(best.values())


def _need(one: Standing, now: datetime) -> tuple[float, float]:
    due = (now - one.due).total_seconds() if one.due else 0.0
    return one.away * AGAIN_TODAY**one.today, due


def _why_whole(days_left: int | None) -> str:
    if days_left is None or not 0 <= days_left <= SOON_DAYS:
        return "All strings, as before playing."
    day = "today" if days_left == 0 else "tomorrow" if days_left == 1 else f"in {days_left} days"
    return f"You play {day}: all strings, as you will tune them there."


def _one_string(made: Instrument, aim: Aim, tuned: Sequence[Tuned], aid: Aid) -> Item:
    missed = most_missed(made, aim.tuning, tuned)
    if missed is None:
        return Item(
            "one_string",
            "One string out",
            "Bring one string back by ear, then check it with the tuner.",
            ONE_STRING_MIN,
            aid=aid,
        )
    return Item(
        "one_string",
        "One string out",
        missed.reason,
        ONE_STRING_MIN,
        string=missed.string,
        began=missed.began,
        aid=aid,
    )


def _reason(one: Standing, at: int, *, now: datetime, days_away: int) -> str:
    if days_away >= AWAY_DAYS:
        return f"You were away for {days_away} days. This one is easy to begin with."
    last, skill = one.last, one.skill
    if last is None:
        return "You have not tried this yet."
    if not skill.is_measured:
        if one.away > 0.0:
            return f"Last time you were right {last.right} of {last.trials} times."
        return f"You know this. Last heard {ago(last.at, now)}."
    if one.away > 0.0 and last.threshold is not None:
        drill = measured(skill.drill)
        heard = threshold_said(drill, last.threshold)
        goal = said(skill, skill.goal(at))
        if heard.startswith("not"):
            return "One sitting does not tell yet what you hear."
        return f"You {drill.does} {heard} here. The goal is {goal}."
    return f"You reached this goal {ago(last.at, now)}. Does it stay?"


def said(skill: Skill, size: float) -> str:
    """Return a threshold in words."""
    unit = measured(skill.drill).unit
    if unit == "beats a second":
        return beats_said(size)
    return whole_cents(round(size, 1)) if unit == "cents" else f"{size:g} percent"


def ago(at: datetime, now: datetime) -> str:
    """Return how long ago something was, in days.

    >>> ago(datetime(2026, 3, 1), datetime(2026, 3, 3))
    '2 days ago'
    """
    days = max(0, (now - at) // timedelta(days=1))
    return "today" if days == 0 else "yesterday" if days == 1 else f"{days} days ago"
