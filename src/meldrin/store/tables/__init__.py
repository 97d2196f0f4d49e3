"""The tables, one aggregate a file. Every row belongs, directly or not, to one learner."""

from meldrin.store.tables.attempts import ActionRow, AttemptRow, ResultRow
from meldrin.store.tables.base import Table
from meldrin.store.tables.instruments import InstrumentRow
from meldrin.store.tables.learners import (
    AccountRow,
    LearnerRow,
    OpenLineRow,
    PulseRow,
    SignInRow,
    UseRow,
)
from meldrin.store.tables.practice import AimRow, FigureRow, TodayRow
