"""The tests. What Hypothesis tries is the same in every run, so that a red run can be repeated."""

from typing import TypeVar

from hypothesis import settings

settings.register_profile("repeatable", derandomize=True, deadline=None)  # no test is timed
settings.load_profile("repeatable")

T = TypeVar("T", bound=type)


def slow(case: T) -> T:
    """Mark a test case in which whole attempts are played; a quick run leaves it out."""
    case.slow = True  # type: ignore[attr-defined]
    return case
