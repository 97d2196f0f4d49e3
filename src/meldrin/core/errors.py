"""The one root of every refusal, and the check that every number passes at the edge."""

import math


class MeldrinError(Exception):
    """A request that cannot be carried out, with a code for programs and a sentence for people."""

    def __init__(self, code: str, message: str, **facts: object) -> None:
        super().__init__(message)
        self.code = code
        self.message = message
        self.facts = facts


class OutOfRange(MeldrinError):
    """A number outside the limits it makes sense in."""


def within(value: float, *, name: str, low: float, high: float, unit: str = "") -> float:
    """Return `value` as a float if it is finite and lies in [low, high].

    Raises:
        OutOfRange: for NaN, infinity, and anything outside; the message names value and limits.
    """
    number = float(value)
    if not math.isfinite(number) or not low <= number <= high:
        suffix = f" {unit}" if unit else ""
        raise OutOfRange(
            "out_of_range",
            f"{name} is {number:g}{suffix}; it must lie between {low:g} and {high:g}{suffix}.",
            name=name,
            value=repr(number),
            low=low,
            high=high,
        )
    return number
