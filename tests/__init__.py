"""The tests. What Hypothesis tries is the same in every run, so that a red run can be repeated."""

from hypothesis import settings

settings.register_profile("repeatable", derandomize=True)
settings.load_profile("repeatable")
