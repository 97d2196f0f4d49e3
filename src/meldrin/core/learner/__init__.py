"""Simulated learners: a known ear, a known hand and known habits, playing as a person does.

They do only what a person can do at the bench, and perceive only what a person would: how fast a
pair beats as far as their ear tells, which side a pitch lies on if it is far enough off for them,
and what a tuner shows. The true offset reaches them through these limits and never as it is.
"""

from meldrin.core.learner.ear import GOOD, HABITS, Ear, Habit, Learner
from meldrin.core.learner.listener import sit, threshold_of
from meldrin.core.learner.player import practise
