"""The tables, one aggregate a file. Every row belongs to a learner or a studio, directly or not."""

from meldrin.store.tables.attempts import ActionRow, AttemptRow, ResultRow
from meldrin.store.tables.base import Table
from meldrin.store.tables.ensembles import EnsemblePlayerRow, EnsembleReadingRow, EnsembleRow
from meldrin.store.tables.instruments import InstrumentRow
from meldrin.store.tables.learners import (
    AccountRow,
    LearnerRow,
    OpenLineRow,
    PulseRow,
    SignInRow,
    UseRow,
)
from meldrin.store.tables.practice import AimRow, ErasedRow, FigureRow, PathRow, TodayRow
from meldrin.store.tables.remarks import RemarkRow
from meldrin.store.tables.rounds import RoundAnswerRow, RoundRow, RoundSeatRow
from meldrin.store.tables.studios import (
    AuditRow,
    GroupMemberRow,
    GroupRow,
    InvitationRow,
    MemberRow,
    SchoolInstrumentRow,
    StudioRow,
    TabletRow,
)
from meldrin.store.tables.tasks import (
    AssignedAttemptRow,
    AssignedGuestRow,
    AssignedMemberRow,
    AssignmentRow,
    TaskRow,
)
