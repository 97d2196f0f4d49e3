"""The schools by name, and which of them can serve."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

from meldrin.core.errors import MeldrinError
from meldrin.core.methods.drone import drone
from meldrin.core.methods.each import each
from meldrin.core.methods.fifths import fifths
from meldrin.core.methods.harmonics import harmonics
from meldrin.core.methods.mixed import mixed
from meldrin.core.methods.plan import Plan
from meldrin.core.methods.tuner import tuner
from meldrin.core.methods.unison import unison
from meldrin.core.methods.wanted import Wanted


@dataclass(frozen=True, slots=True)
class School:
    """A way of tuning: its name in commands, its name in words, how it goes in a sentence."""

    id: str
    name: str
    about: str
    plan: Callable[[Wanted], Plan]


SCHOOLS: Final = {
    school.id: school
    for school in (
        School(
            "each",
            "Every string to its own note",
            "A pipe, a piano or a tone gives each string its note.",
            each,
        ),
        School(
            "unison",
            "Unison by stopped strings",
            "Stop one string where the next one lives, and match the two.",
            unison,
        ),
        School(
            "fifths",
            "Fifths outward",
            "Two open strings together, a fifth apart, until they lock.",
            fifths,
        ),
        School(
            "harmonics",
            "Natural harmonics",
            "Touch two strings where their partials coincide.",
            harmonics,
        ),
        School(
            "drone",
            "Drone and scale degrees",
            "Every string heard over one lasting note.",
            drone,
        ),
        School("tuner", "Tuner", "String by string, far ones first, then all again.", tuner),
        School(
            "mixed",
            "Mixed, with cross-checks",
            "One trusted string, a tuner for the rest, the ear as the judge.",
            mixed,
        ),
    )
}


INSTEAD: Final = ("fifths", "harmonics", "unison", "drone", "each", "tuner", "mixed")


def plan_by(method: str, wanted: Wanted) -> Plan:
    """Return the plan of a school for what is wanted.

    Raises:
        MeldrinError: code ``no_such_method``; ``method`` where the school cannot serve, with the
            reason and one that can.
    """
    if method not in SCHOOLS:
        raise MeldrinError(
            "no_such_method", f"There is no school “{method}”; there is {', '.join(SCHOOLS)}."
        )
    try:
        return SCHOOLS[method].plan(wanted)
    except MeldrinError as error:
        if error.code != "method":
            raise
        instead = next(name for name in INSTEAD if name != method and serves(name, wanted))
        message = f"{error.message} What can serve: {instead}."
        raise MeldrinError("method", message, instead=instead) from error


def serves(method: str, wanted: Wanted) -> bool:
    """Whether a school can serve for what is wanted."""
    try:
        SCHOOLS[method].plan(wanted)
    except MeldrinError:
        return False
    return True
