"""The Skerrow Boathouse string school: its teacher, nine pupils of different ability, groups and
instruments. The pupils are simulated learners who play the real engine with a seed.
"""

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Final

from sqlalchemy.orm import Session

from meldrin.core.bench import Aid, Behaviour, Exercise, Turn
from meldrin.core.ensemble import Agreed
from meldrin.core.learner import Ear, Habit, Learner, practise
from meldrin.core.people import Listed
from meldrin.core.practice import Aim
from meldrin.core.tasks import Task, TunePart, first_lesson, two_minutes
from meldrin.demo.playing import HOLDER, append
from meldrin.services.accounts import account_of, keys_drawn
from meldrin.services.actor import Actor
from meldrin.services.assignments import To, begin_part, give, open_given
from meldrin.services.attempts import look_at_attempt, take_over
from meldrin.services.ensembles import make_ensemble, set_instrument, type_readings
from meldrin.services.identity import welcome_guest
from meldrin.services.pupils import call_member, make_class, people, study_groups
from meldrin.services.remarks import remark
from meldrin.services.school_instruments import SchoolInstrument, keep_instrument
from meldrin.services.studios import join, make_studio
from meldrin.services.tasks import keep_task
from meldrin.services.today import set_aim
from meldrin.store.tables import LearnerRow, StudioRow

TEACHER: Final = "Oda Brandvik"
STUDIO: Final = "Skerrow Boathouse"
SEED: Final = 19
SATURDAY, QUARTET, BEGINNERS = "Saturday group", "Harbour quartet", "Beginners"


@dataclass(frozen=True, slots=True)
class Pupil:
    """A made-up pupil.

    hears_cents, slowest_hz: the smallest difference and the slowest beat they hear.
    hand: how far their turns miss, as a share. habits: what they do wrong.
    aid: the help they take where they may choose.
    """

    name: str
    groups: tuple[str, ...]
    hears_cents: float
    slowest_hz: float
    hand: float
    habits: frozenset[Habit] = frozenset()
    aid: Aid = "ear"

    @property
    def learner(self) -> Learner:
        """The simulated learner."""
        ear = Ear(
            threshold_cents=self.hears_cents,
            slowest_hz=self.slowest_hz,
            spread=0.2,
            fades_cents_per_s=0.3,
        )
        return Learner(ear, hand=self.hand, smallest_cents=1.0, habits=self.habits)


def _habits(*habits: Habit) -> frozenset[Habit]:
    return frozenset(habits)


# Mirre is the one whose twelve weeks are loaded; she joined by the code on the wall.
MIRRE: Final = Pupil("Mirre", (SATURDAY, QUARTET), 8.0, 0.15, 0.12)
LISTED: Final = (
    Pupil("Tarek", (SATURDAY,), 14.0, 1.1, 0.25, _habits("rushed")),
    Pupil("Liv", (SATURDAY, QUARTET), 10.0, 0.4, 0.15, aid="level"),
    Pupil("Ansel", (SATURDAY,), 30.0, 1.6, 0.35, _habits("one_pass", "hurried")),
    Pupil("Jorun", (SATURDAY, QUARTET), 6.0, 0.2, 0.1),
    Pupil("Ebba", (SATURDAY,), 12.0, 0.7, 0.2, _habits("from_above")),
    Pupil("Silas", (SATURDAY, QUARTET), 9.0, 0.3, 0.2, _habits("no_check")),
    Pupil("Noor", (BEGINNERS,), 25.0, 1.3, 0.3, _habits("overshoots")),
    Pupil("Edvin", (BEGINNERS,), 35.0, 1.8, 0.4, _habits("one_pass", "rushed")),
)


def _with(*behaviours: Behaviour) -> frozenset[Behaviour]:
    return frozenset(behaviours)


SHELF: Final = (
    SchoolInstrument("V1", "viola"),
    SchoolInstrument("V3", "viola", behaviours=_with("pegs"), note="Push its pegs in."),
    SchoolInstrument("C2", "cello", behaviours=_with("coupling")),
    SchoolInstrument("M4", "mandolin", behaviours=_with("nut")),
    SchoolInstrument("M7", "mandola"),
    SchoolInstrument("B1", "double-bass", behaviours=_with("pegs"), note="The E is stubborn."),
    SchoolInstrument("G2", "guitar"),
    SchoolInstrument("T1", "tenor-guitar"),
)


FIFTHS: Final = Task(
    name="Fifths on the viola",
    parts=(TunePart(Exercise("viola", "fifths", "month", 0, tolerance="together")),),
    note="Play two strings at once, and wait for one whole slow wobble.",
    starts="own",
    counts="last",
)
COLLECTION: Final = (
    FIFTHS,
    first_lesson("viola", string=2, first="tuner"),
    two_minutes("viola", string=3),
)
DOERS: Final = (LISTED[3], LISTED[1], LISTED[0], MIRRE, LISTED[4], LISTED[2])
CONCERT: Final = "Harbour concert"
CONCERT_IN: Final = timedelta(days=19)
AGREED: Final = Agreed(441.0, -1.0)
# Two of the quartet play something else there; what the teacher has read from a tuner, by string.
PLAYS: Final[dict[str, tuple[str, dict[int, float | None]]]] = {
    LISTED[3].name: ("violin", {1: 1.5, 2: 0.5, 3: -1.0, 4: -2.0}),
    LISTED[5].name: ("cello", {1: -5.5, 2: -1.0, 3: -2.0, 4: 3.0}),
}
REMARKS: Final = {
    MIRRE.name: "Here you turned before you had listened. Wait for the beat, then turn once.",
    LISTED[1].name: "You came down to the note. Go under it, and come up.",
}
HEARD_AFTER: Final = timedelta(hours=20)
BEGUN: Final = (LISTED[6],)


def load_school(session: Session, mirre: Actor, *, secret: str, now: datetime) -> StudioRow:
    """Load the school; its teacher is known by this secret.

    Args:
        mirre: the pupil who is there already.
    """
    began = now - timedelta(weeks=12)
    guest = welcome_guest(session, secret=secret, now=began)
    assert guest.learner is not None
    session.add(account_of(guest.learner, TEACHER, keys_drawn(), now=began))
    session.commit()
    studio = make_studio(session, guest, STUDIO, now=began)
    teacher = Actor(guest.learner, {studio.id: "owner"})
    listed = [Listed(one.name, one.groups) for one in LISTED]
    make_class(session, teacher, studio.public_id, listed, now=began)
    for instrument in SHELF:
        keep_instrument(session, teacher, studio.public_id, instrument, now=began)
    join(
        session,
        mirre,
        studio.join_code or "",
        name=MIRRE.name,
        lets_reset=False,  # her address opens the demo for everybody
        now=began,
    )
    groups = {row.name: row.public_id for row in study_groups(session, studio)}
    me = next(one.row for one in people(session, studio) if one.row.learner_id == mirre.learner)
    call_member(
        session,
        teacher,
        studio.public_id,
        me.public_id,
        name=None,
        groups=[groups[one] for one in MIRRE.groups],
        now=began,
    )
    _set_exercises(session, teacher, studio, now=now)
    _prepare_concert(session, teacher, studio, groups[QUARTET], now=now)
    day = (now + CONCERT_IN).date()
    set_aim(session, mirre, Aim("fifths", "viola", concert=day, concert_name=CONCERT), now=now)
    return studio


def _prepare_concert(
    session: Session, teacher: Actor, studio: StudioRow, group: str, *, now: datetime
) -> None:
    """Begin a check before the quartet's concert, with some strings typed in."""
    key = studio.public_id
    made = make_ensemble(
        session, teacher, key, name=CONCERT, group=group, agreed=AGREED, now=now
    ).public_id
    members = {one.row.name: one.row.public_id for one in people(session, studio)}
    for name, (kind, cents) in PLAYS.items():
        who = members[name]
        set_instrument(session, teacher, key, made, who, instrument_id=kind, now=now)
        type_readings(session, teacher, key, made, who, cents=cents, now=now)


def _set_exercises(session: Session, teacher: Actor, studio: StudioRow, *, now: datetime) -> None:
    """Fill the collection, and set two exercises, one of them half done."""
    key, set_at = studio.public_id, now - timedelta(days=12)
    made = [keep_task(session, teacher, key, task, now=set_at) for task in COLLECTION]
    groups = {row.name: row.public_id for row in study_groups(session, studio)}
    members = {one.row.name: one.row for one in people(session, studio)}
    for task, group, doers in ((made[0], SATURDAY, DOERS), (made[1], BEGINNERS, BEGUN)):
        to = To(group=groups[group])
        due = now + timedelta(days=4)
        given = give(session, teacher, key, task.id, to, due=due, now=set_at, seed=SEED)
        for place, one in enumerate(doers):
            pupil = Actor(members[one.name].learner_id)
            at = set_at + timedelta(days=2 + place, hours=3 * place)
            _do(session, pupil, one, given.public_id, now=at, seed=100 * place)
            if one.name in REMARKS:
                text = REMARKS[one.name]
                _remark(session, teacher, pupil, given.public_id, text, now=at + HEARD_AFTER)


def _remark(
    session: Session, teacher: Actor, pupil: Actor, given: str, text: str, *, now: datetime
) -> None:
    """Let the teacher remark on the first turn down of what a pupil did last."""
    last = next(part.last for part in open_given(session, pupil, given).parts if part.last)
    log = look_at_attempt(session, pupil, last, now=now).timed
    turned = [one.at_s for one in log if isinstance(one.action, Turn)]
    down = [one.at_s for one in log if isinstance(one.action, Turn) and one.action.degrees < 0.0]
    remark(session, teacher, last, at_s=(down or turned)[0], text=text, now=now)


def _do(
    session: Session, pupil: Actor, one: Pupil, given: str, *, now: datetime, seed: int
) -> None:
    """Do the parts at the bench, each as often as it is to be done, and one of them not quite."""
    assert pupil.learner is not None
    row = session.get_one(LearnerRow, pupil.learner)
    row.seen_at = max(row.seen_at, now)
    while True:
        found = open_given(session, pupil, given)
        number = next(
            (
                n
                for n, done in enumerate(found.parts)
                if isinstance(done.part, TunePart) and not done.is_done
            ),
            None,
        )
        if number is None:
            return
        _, attempt = begin_part(session, pupil, given, number, naming="letters", now=now)
        record = take_over(session, pupil, attempt, holder=HOLDER)
        aid = record.exercise.aid or one.aid
        log = practise(record.exercise, one.learner, seed=seed, aid=aid)
        now += timedelta(seconds=log[-1].at_s)
        append(session, record.key, log, ended=now)
        seed, now = seed + 1, now + timedelta(minutes=2)
