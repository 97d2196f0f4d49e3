"""Pitch from samples: what a tuner with a microphone makes of a sound, right or wrong."""

from meldrin.core.hearing.pitch_tracker import Tracked, tracked
from meldrin.core.hearing.tuner import Reading, reading, room_noise
