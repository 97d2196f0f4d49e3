"""Rounds with a class: everybody hears the same and judges it, and then the truth sounds."""

from meldrin.core.rounds.series import (
    FEWEST,
    MOST,
    ROUNDS,
    Beating,
    Help,
    Series,
    Size,
    in_rounds,
    of_drill,
    of_show,
    room_drills,
)
from meldrin.core.rounds.told import Judged, ended_said, figure_of, right_of, told_said
