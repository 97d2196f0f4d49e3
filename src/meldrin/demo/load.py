"""Twelve weeks of a pupil of the Skerrow Boathouse string school, on the school's instruments.

The pupil is simulated: an ear that gets better and habits that are lost, one after the other, play
the real engine with a seed. Every figure on screen is computed from what they did.
"""

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Final

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from meldrin.core.bench import Aid, Behaviour, Exercise, StartKind, TimedAction, Tolerance
from meldrin.core.drills import DrillExercise, Interval, drill_of
from meldrin.core.learner import Ear, Habit, Learner, practise, sit
from meldrin.demo.playing import HOLDER, append
from meldrin.demo.school import load_school
from meldrin.services.actor import NEWCOMER, Actor
from meldrin.services.attempts import start_attempt, take_over
from meldrin.services.drills import begin_sitting
from meldrin.services.identity import actor_of, welcome_guest

WEEKS: Final = 12
UNFINISHED_SEED: Final = 90


@dataclass(frozen=True, slots=True)
class _Lesson:
    """One evening: what was practised, and how much the picture helped."""

    instrument: str
    method: str
    start: StartKind
    aid: Aid = "ripple"
    tolerance: Tolerance = "settled"
    behaviours: frozenset[Behaviour] = frozenset()


def _with(*behaviours: Behaviour) -> frozenset[Behaviour]:
    return frozenset(behaviours)


LESSONS: Final = (
    _Lesson("viola", "each", "hair", "level", "first"),
    _Lesson("guitar", "unison", "hair", "ripple", "first"),
    _Lesson("viola", "fifths", "hair", "ripple", "first"),
    _Lesson("tenor-guitar", "fifths", "month", "ripple", "first", _with("ringing")),
    _Lesson("mandola", "unison", "month", "ripple", "settled", _with("ringing")),
    _Lesson("viola", "fifths", "month", "ear", "settled", _with("ringing", "pegs")),
    _Lesson("double-bass", "harmonics", "month", "ripple", "settled", _with("nut")),
    _Lesson("cello", "fifths", "damp", "ear", "settled", _with("coupling", "pegs", "sticking")),
    _Lesson("guitar", "unison", "reference", "ear", "settled", _with("stroke", "nut")),
    _Lesson("viola", "fifths", "one", "ear", "together"),
    _Lesson("mandolin", "fifths", "month", "ear", "settled", _with("coupling", "nut", "ringing")),
    _Lesson(
        "viola", "fifths", "damp", "ear", "together", _with("coupling", "pegs", "sticking", "nut")
    ),
)
# What is listened to, by turns of a week: drill, string, interval.
DRILLS: Final[tuple[tuple[tuple[str, int, Interval], ...], ...]] = (
    (("higher", 3, "unison"), ("width", 3, "fifth"), ("which", 1, "unison")),
    (
        ("beating", 3, "unison"),
        ("higher", 1, "unison"),
        ("names", 1, "unison"),
        ("hold", 2, "unison"),
    ),
    (
        ("width", 3, "fifth"),
        ("faster", 3, "unison"),
        ("readings", 1, "unison"),
        ("way", 3, "unison"),
    ),
    (("higher", 3, "unison"), ("width", 2, "fifth"), ("whole", 1, "unison")),
)
HABITS: Final[tuple[tuple[Habit, int], ...]] = (  # until which week
    ("one_pass", 3),
    ("rushed", 4),
    ("overshoots", 5),
    ("from_above", 6),
    ("no_check", 2),
    ("trusts_reference", 8),
    ("hurried", 9),
)


def load_whole_demo(engine: Engine, *, secret: str, teacher: str, now: datetime) -> None:
    """Load the school with the pupil and the teacher who are known by these secrets, once: all of
    it or, where that fails, nothing.
    """
    with engine.begin() as connection:
        # what commits inside is a part of the one transaction
        session = Session(connection, join_transaction_mode="create_savepoint")
        with session:
            load_demo(session, secret=secret, teacher=teacher, now=now)


def load_demo(session: Session, *, secret: str, teacher: str, now: datetime) -> None:
    """Load pupil and teacher, who are known by these secrets; a second call changes nothing."""
    pupil = actor_of(session, secret, now=now)
    if pupil == NEWCOMER:
        pupil = _load_pupil(session, secret=secret, now=now)
    if actor_of(session, teacher, now=now) == NEWCOMER:
        load_school(session, pupil, secret=teacher, now=now)


def _load_pupil(session: Session, *, secret: str, now: datetime) -> Actor:
    pupil = welcome_guest(session, secret=secret, now=now)
    for week, lesson in enumerate(LESSONS):
        done = now - timedelta(weeks=WEEKS - 1 - week, days=1, hours=week % 3)
        _listen(session, pupil, week, now=done - timedelta(minutes=20))
        exercise = _exercise(lesson, seed=1000 + week)
        log = practise(exercise, _pupil(week), seed=week, aid=lesson.aid)
        _keep(session, pupil, exercise, log, now=done)
    exercise = _exercise(LESSONS[-1], seed=UNFINISHED_SEED)
    log = practise(exercise, _pupil(WEEKS), seed=UNFINISHED_SEED, aid="ripple")
    _keep(session, pupil, exercise, log[: len(log) // 3], now=now - timedelta(hours=2))
    return pupil


def _listen(session: Session, pupil: Actor, week: int, *, now: datetime) -> None:
    """The drills of a week, each as far as the ear is by then."""
    ear = _pupil(week).ear
    for place, (drill, string, interval) in enumerate(DRILLS[week % len(DRILLS)]):
        at, seed = now + timedelta(minutes=4 * place), 100 * week + place
        wanted = DrillExercise(
            drill, "viola", seed, string=string, interval=interval, trials=drill_of(drill).trials
        )
        begun = begin_sitting(session, pupil, wanted, now=at, seed=seed)
        record = take_over(session, pupil, begun.id, holder=HOLDER)
        log = sit(record.exercise, ear, seed=seed, knows=0.3 + 0.6 * week / WEEKS)
        ended = at + timedelta(seconds=log[-1].at_s)
        append(session, record.key, log, ended=ended, practice="drills")


def _exercise(lesson: _Lesson, *, seed: int) -> Exercise:
    return Exercise(
        lesson.instrument,
        lesson.method,
        lesson.start,
        seed,
        behaviours=lesson.behaviours,
        tolerance=lesson.tolerance,
        aid=lesson.aid,
        fresh=True,
    )


def _pupil(week: int) -> Learner:
    """From beats of nearly two a second called still down to a seventh, and smaller turns."""
    grown = week / WEEKS
    return Learner(
        Ear(
            threshold_cents=40.0 - 32.0 * grown,
            slowest_hz=1.8 - 1.65 * grown,
            spread=0.35 - 0.2 * grown,
            fades_cents_per_s=1.5 - grown,
        ),
        hand=0.35 - 0.2 * grown,
        smallest_cents=5.0 - 4.0 * grown,
        habits=frozenset(habit for habit, until in HABITS if week < until),
    )


def _keep(
    session: Session, pupil: Actor, exercise: Exercise, log: list[TimedAction], *, now: datetime
) -> None:
    begun = start_attempt(session, pupil, exercise, now=now)
    record = take_over(session, pupil, begun.id, holder=HOLDER)
    append(session, record.key, log, ended=now + timedelta(seconds=log[-1].at_s))
