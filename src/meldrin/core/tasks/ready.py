"""Exercises that are ready to be set: a first lesson, and two minutes with everyone."""

from typing import Final, Literal

from meldrin.core.bench import Exercise
from meldrin.core.catalogue import instrument
from meldrin.core.tasks.task import ReadPart, Task, TunePart

First = Literal["ear", "tuner"]
OUT_CENTS: Final = 20.0
FAR_CENTS: Final = 40.0
TWO_MINUTES_S: Final = 120.0


def first_lesson(instrument_id: str, *, string: int, first: First) -> Task:
    """Return a first lesson: what to know before the first turn, then three short exercises on one
    string, from much help to none.

    Args:
        string: the one that is turned.
        first: whether it begins with the tuner and goes on by ear, or the other way round.

    Raises:
        MeldrinError: for an unknown instrument, or a string that it does not have.
    """
    made = instrument(instrument_id)
    made.string(string)

    def one(method: str, cents: float) -> Exercise:
        return Exercise(
            instrument_id,
            method,
            "one",
            0,
            out_string=string,
            out_cents=-cents,
            tolerance="first",
        )

    by_ear = TunePart(one("each", FAR_CENTS), helps=("ripple",))
    by_tuner = TunePart(one("tuner", FAR_CENTS))
    alone = TunePart(one("each", OUT_CENTS), helps=("ear",))
    middle = (by_tuner, by_ear) if first == "tuner" else (by_ear, by_tuner)
    return Task(
        name="First lesson",
        parts=(ReadPart("before", instrument_id), *middle, alone),
        note="One string is too low. Bring it up, a little at a time.",
        starts="same",
    )


def two_minutes(instrument_id: str, *, string: int) -> Task:
    """Return an exercise for everyone in the room: one string, the same for all, in two minutes.

    Raises:
        MeldrinError: for an unknown instrument, or a string that it does not have.
    """
    instrument(instrument_id).string(string)
    exercise = Exercise(
        instrument_id,
        "each",
        "one",
        0,
        out_string=string,
        tolerance="first",
        limit_s=TWO_MINUTES_S,
        aid="ear",
    )
    return Task(
        name="Two minutes with everyone",
        parts=(TunePart(exercise, helps=("ear",)),),
        note="You have two minutes. Play the reference, then your string, and bring it up.",
        starts="same",
        counts="first",
    )
