"""The methods there are, and which of them can serve."""

from dataclasses import replace
from typing import Final

from meldrin.core.errors import Code, MeldrinError, known
from meldrin.core.methods import drone, each, fifths, harmonics, mixed, tuner, unison
from meldrin.core.methods.method import Method
from meldrin.core.methods.plan import Plan
from meldrin.core.methods.wanted import Wanted
from meldrin.core.words import listed

METHODS: Final[dict[str, Method]] = {
    module.METHOD.id: module.METHOD
    for module in (each, unison, fifths, harmonics, drone, tuner, mixed)
}


def plan_by(method: str, wanted: Wanted) -> Plan:
    """Return the plan of a method for what is wanted, with a second pass where that is wanted.

    Raises:
        MeldrinError: code ``no_such_method``; ``method`` where the method cannot serve, with the
            reason and one that can, if there is one.
    """
    used = known(METHODS, method, name="method", code=Code.NO_SUCH_METHOD)
    if wanted.frets and not used.sets_frets:
        raise MeldrinError(Code.FRET, "Frets are set over a drone: choose that method.")
    try:
        plan = _near_first(used.plan(wanted), wanted)
        return plan.gone_through_twice() if wanted.second_pass else plan
    except MeldrinError as error:
        if error.code is not Code.METHOD:
            raise
        instead = _that_serves(wanted)
        if instead is not None:
            message = f"{error.message} What can serve: {instead}."
            raise MeldrinError(Code.METHOD, message, instead=instead) from error
        # a trusted string cannot lead everywhere; a reference may
        helped = _that_serves(replace(wanted, itself=False))
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


def _that_serves(wanted: Wanted) -> str | None:
    """Return the method to take instead of one that cannot serve, or None if none can."""
    ranked = sorted(METHODS.values(), key=lambda method: method.instead)
    return next((method.id for method in ranked if serves(method.id, wanted)), None)
