"""The methods by name, and which of them can serve."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Final

from meldrin.core.errors import Code, MeldrinError
from meldrin.core.methods.drone import drone
from meldrin.core.methods.each import each
from meldrin.core.methods.fifths import fifths
from meldrin.core.methods.harmonics import harmonics
from meldrin.core.methods.mixed import mixed
from meldrin.core.methods.plan import Plan
from meldrin.core.methods.tuner import tuner
from meldrin.core.methods.unison import unison
from meldrin.core.methods.wanted import Wanted
from meldrin.core.words import listed


@dataclass(frozen=True, slots=True)
class Method:
    """A way of tuning: its name in commands, its name in words, how it goes in a sentence."""

    id: str
    name: str
    about: str
    plan: Callable[[Wanted], Plan]


METHODS: Final = {
    method.id: method
    for method in (
        Method(
            "each",
            "Note by note",
            "A pipe, a piano or a tone gives each string its note.",
            each,
        ),
        Method(
            "unison",
            "Fretted unisons (relative tuning)",
            "Press a fret of one string, and match the next open string.",
            unison,
        ),
        Method(
            "fifths",
            "Fifths",
            "Two open strings together, from A outward, until the beats stop.",
            fifths,
        ),
        Method(
            "harmonics",
            "Harmonics",
            "Touch two strings where their partials coincide.",
            harmonics,
        ),
        Method(
            "drone",
            "Drone",
            "Every string heard over one lasting note.",
            drone,
        ),
        Method("tuner", "Tuner", "String by string, those known to be far out first.", tuner),
        Method(
            "mixed",
            "Tuner, then ear",
            "One string from the reference, a tuner for the rest, the ear to check.",
            mixed,
        ),
    )
}


INSTEAD: Final = ("fifths", "harmonics", "unison", "drone", "each", "tuner", "mixed")


def plan_by(method: str, wanted: Wanted) -> Plan:
    """Return the plan of a method for what is wanted, with a second pass where that is wanted.

    Raises:
        MeldrinError: code ``no_such_method``; ``method`` where the method cannot serve, with the
            reason and one that can, if there is one.
    """
    if method not in METHODS:
        raise MeldrinError(
            Code.NO_SUCH_METHOD, f"Unknown method “{method}”. Available: {', '.join(METHODS)}."
        )
    try:
        plan = _near_first(METHODS[method].plan(wanted), wanted)
        return plan.gone_through_twice() if wanted.twice else plan
    except MeldrinError as error:
        if error.code is not Code.METHOD:
            raise
        instead = next((name for name in INSTEAD if serves(name, wanted)), None)
        if instead is not None:
            message = f"{error.message} What can serve: {instead}."
            raise MeldrinError(Code.METHOD, message, instead=instead) from error
        # a trusted string cannot lead everywhere; a reference may
        helped = next((name for name in INSTEAD if serves(name, replace(wanted, itself=False))), "")
        more = f" With a reference at hand, what can serve: {helped}." if helped else ""
        raise MeldrinError(Code.METHOD, error.message + more) from error


def _near_first(plan: Plan, wanted: Wanted) -> Plan:
    """Return the plan that says to bring far strings near first, where its order has them later."""
    far = [number for number in wanted.far if number != plan.trusted]
    order = [step.string for step in plan.steps]
    if not far or not order or order[: len(far)] == far:
        return plan
    names = listed([plan.label(number) for number in far])
    said = f"First bring {names} near: a string that is far out moves the others."
    first = replace(plan.steps[0], instruction=f"{said} {plan.steps[0].instruction}")
    return replace(plan, steps=(first, *plan.steps[1:]), near_first=tuple(far))


def serves(method: str, wanted: Wanted) -> bool:
    """Whether a method can serve for what is wanted."""
    try:
        METHODS[method].plan(wanted)
    except MeldrinError:
        return False
    return True
