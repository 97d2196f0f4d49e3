"""A studio of 500 pupils with two years of work, and how long the pages take that look at it.

Fifty histories are played by simulated learners on the real engine, and scored; the years of all
pupils are copied from them. Of a copy everything is there but its single actions, which no list
reads.
"""

import random
import secrets
import tempfile
import time
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any, Final

import httpx2
from sqlalchemy import (
    BigInteger,
    Column,
    Connection,
    Engine,
    MetaData,
    String,
    Table,
    delete,
    insert,
    select,
)
from sqlalchemy.orm import Session, sessionmaker

from meldrin.core.bench import Exercise
from meldrin.core.drills import DrillExercise
from meldrin.core.ensemble import Agreed
from meldrin.core.learner import Ear, Learner, practise, sit
from meldrin.core.people import Listed
from meldrin.core.tasks import Task, TunePart
from meldrin.demo.playing import HOLDER, append
from meldrin.server.browser import COOKIE
from meldrin.services.accounts import account_of, keys_drawn
from meldrin.services.actor import Actor
from meldrin.services.assignments import To, begin_part, give
from meldrin.services.attempts import take_over
from meldrin.services.drills import begin_sitting
from meldrin.services.ensembles import make_ensemble
from meldrin.services.identity import let_in, welcome_guest
from meldrin.services.pupils import make_class, study_groups
from meldrin.services.results import Results
from meldrin.services.studios import make_studio
from meldrin.services.tasks import keep_task
from meldrin.store.tables import (
    AssignedAttemptRow,
    AssignmentRow,
    AttemptRow,
    FigureRow,
    MemberRow,
    ResultRow,
    StudioRow,
)
from meldrin.store.tables.base import UtcTime
from tools.figures import Figure
from tools.load import run_players
from tools.server import Server
from tools.year import answers_s, engine_of

PUPILS, HISTORIES, GROUPS = 500, 50, 20
WEEKS, ATTEMPTS, TRIALS, IN_A_SITTING = 100, 100, 2_000, 12
SITTINGS: Final = -(-TRIALS // IN_A_SITTING)
DRILLS: Final = ("higher", "beating")
AT_ONCE: Final = 25  # pupils
PLAYERS: Final = 200
YEARS: Final = timedelta(days=730)
FIFTHS: Final = Task(
    "Fifths on the viola",
    (TunePart(Exercise("viola", "fifths", "month", 0, tolerance="together")),),
    starts="own",
    counts="best",
)
COPIES: Final = Table(
    "copies",
    MetaData(),
    Column("public_id", String(32, "utf8mb4_bin"), primary_key=True),
    Column("old", BigInteger),
    Column("learner_id", BigInteger),
    Column("at", UtcTime),
    Column("assignment_id", BigInteger),
    prefixes=["TEMPORARY"],
)


@dataclass(frozen=True, slots=True)
class School:
    """The studio, as those who look at it know it.

    teacher, pupil: the secrets of their browsers. member: the pupil's id in the studio.
    """

    studio: str
    teacher: str
    pupil: str
    member: str
    assignment: str
    ensemble: str

    def teacher_s_pages(self) -> dict[str, str]:
        """Return what a teacher looks at: what for, and the address."""
        studio = f"/api/studios/{self.studio}"
        pupil = f"{studio}/members/{self.member}"
        return {
            "studios": "/api/studios",
            "studio and its pupils": studio,
            "collection": f"{studio}/tasks",
            "exercises given, the first 25": f"{studio}/given",
            "results of a class of 500": f"{studio}/given/{self.assignment}",
            "results as CSV": f"{studio}/given/{self.assignment}/results.csv",
            "a pupil's progress": f"{pupil}/progress",
            "the same as PDF": f"{pupil}/progress.pdf",
            "a pupil's attempts": f"{pupil}/attempts",
            "class on its steps": f"{studio}/path",
            "rounds": f"{studio}/rounds",
            "concerts": f"{studio}/ensembles",
            "concert of a group of 25": f"{studio}/ensembles/{self.ensemble}",
            "who looked and changed": f"{studio}/audit",
        }

    def pupil_s_pages(self) -> dict[str, str]:
        """Return what a pupil looks at."""
        return {
            "to do": "/api/set",
            "plan of the day": "/api/today",
            "Review, 12 weeks": "/api/progress?weeks=12",
            "list of attempts": "/api/attempts",
            "remarks": "/api/remarks",
        }


def school_figures() -> list[Figure]:
    """A large studio: its pages, and two hundred of its pupils who tune at once."""
    studio = f"{PUPILS} pupils, {ATTEMPTS} attempts and {TRIALS:,} trials each"
    with tempfile.TemporaryDirectory(prefix="meldrin-school-") as folder:
        server = Server(Path(folder), "--workers", "2")
        server.start()
        engine = engine_of(Path(folder))
        try:
            school = load_school(engine, datetime.now(UTC))
            first_s = _first_steps_s(server.address, school)
            pages = _pages_s(server.address, school)
            load = run_players(
                server.address,
                PLAYERS,
                per_s=2.0,
                seconds=20.0,
                instrument="viola",
                method="fifths",
            )
        finally:
            engine.dispose()
            server.stop()
    playing = f"{PLAYERS} pupils at 2 actions a second, two workers, in that studio"
    answered, saved = f"{load.answer_ms(99):.0f} ms", f"{load.save_ms(99):.0f} ms"
    return [
        *(
            Figure(f"Answer of the server: {name} ({studio})", f"{1e3 * took_s:.1f} ms", "150 ms")
            for name, took_s in pages.items()
        ),
        Figure(f"Steps of a class that was never read, whole ({studio})", f"{first_s:.1f} s", ""),
        Figure(f"From an action to its answer, p99 ({playing})", answered, "60 ms"),
        Figure(f"From an action to its being saved, p99 ({playing})", saved, ""),
        Figure(f"Refused or lost ({playing})", f"{load.refused + load.lost} of {load.sent}", "0"),
    ]


def load_school(engine: Engine, now: datetime) -> School:
    """Make the studio with all that was done in it, in the database of a server that serves."""
    sessions = sessionmaker(engine)
    began = now - YEARS
    with sessions() as session:
        secret = secrets.token_hex(16)
        guest = welcome_guest(session, secret=secret, now=began)
        assert guest.learner is not None
        session.add(account_of(guest.learner, "Teacher of five hundred", keys_drawn(), now=began))
        session.commit()
        studio = make_studio(session, guest, "The large school", now=began)
        teacher = Actor(guest.learner, {studio.id: "owner"})
        learners = _pupils(session, teacher, studio, now=began)
        given = _weeks(session, teacher, studio, began=began)
        histories = [
            _history(session, Actor(learner), number, given)
            for number, learner in enumerate(learners[:HISTORIES])
        ]
        ensemble = make_ensemble(
            session,
            teacher,
            studio.public_id,
            name="Spring",
            group=study_groups(session, studio)[0].public_id,
            agreed=Agreed(),
            now=now,
        )
        found = School(
            studio=studio.public_id,
            teacher=secret,
            pupil=secrets.token_hex(16),
            member=session.scalars(
                select(MemberRow.public_id).where(MemberRow.learner_id == learners[-1])
            ).one(),
            assignment=given[-1].public_id,
            ensemble=ensemble.public_id,
        )
        let_in(session, learners[-1], secret=found.pupil, device="computer", now=now)
        weeks = [one.id for one in given]
        session.commit()
    results = Results(sessions)
    for history in histories:
        for key in history.keys:
            results.score(key)
    with engine.connect() as database:
        _copy(database, learners, histories, weeks, began=began)
    return found


def _pages_s(address: str, school: School) -> dict[str, float]:
    """Return how long the server takes for each page, in seconds."""
    return {
        **answers_s(address, school.teacher, school.teacher_s_pages()),
        **answers_s(address, school.pupil, school.pupil_s_pages()),
    }


def _first_steps_s(address: str, school: School) -> float:
    """Return how long it takes until a class has been read that never was."""
    begun, unread = time.perf_counter(), 1
    with httpx2.Client(base_url=address, trust_env=False, timeout=30.0) as client:
        client.cookies.set(COOKIE, school.teacher)
        while unread:
            reply = client.get(f"/api/studios/{school.studio}/path").raise_for_status()
            unread = reply.json()["unread"]
    return time.perf_counter() - begun


@dataclass(frozen=True, slots=True)
class _History:
    """What one simulated pupil did: the keys of what was tuned, and of what was listened to."""

    tuned: tuple[int, ...]
    sat: tuple[int, ...]

    @property
    def keys(self) -> tuple[int, ...]:
        return (*self.tuned, *self.sat)


def _pupils(session: Session, teacher: Actor, studio: StudioRow, *, now: datetime) -> list[int]:
    listed = [Listed(f"Pupil {n + 1}", (f"Group {n % GROUPS + 1}",)) for n in range(PUPILS)]
    make_class(session, teacher, studio.public_id, listed, now=now)
    query = select(MemberRow.learner_id).where(
        MemberRow.studio_id == studio.id, MemberRow.role == "pupil"
    )
    return list(session.scalars(query.order_by(MemberRow.id)))


def _weeks(
    session: Session, teacher: Actor, studio: StudioRow, *, began: datetime
) -> list[AssignmentRow]:
    """Give all pupils an exercise in each week."""
    given = []
    for week in range(WEEKS):
        at = began + YEARS * (week / WEEKS)
        task = keep_task(session, teacher, studio.public_id, FIFTHS, now=at)
        due = at + timedelta(days=7)
        to = To(everyone=True)
        given.append(give(session, teacher, studio.public_id, task.id, to, due=due, now=at))
    return given


def _history(
    session: Session, pupil: Actor, number: int, given: Sequence[AssignmentRow]
) -> _History:
    """Let a simulated pupil do the first exercises, and sit down to listen."""
    draw = random.Random(f"history {number}")
    ear = Ear(
        threshold_cents=draw.uniform(4.0, 35.0),
        slowest_hz=draw.uniform(0.15, 1.8),
        spread=0.2,
        fades_cents_per_s=0.5,
    )
    learner = Learner(ear, hand=draw.uniform(0.1, 0.4), smallest_cents=1.0)
    tuned, sat = [], []
    for n, (week, drill) in enumerate(zip(given, DRILLS, strict=False)):
        at, seed = week.created_at, 100 * number + n
        _, attempt = begin_part(session, pupil, week.public_id, 0, naming="letters", now=at)
        record = take_over(session, pupil, attempt, holder=HOLDER)
        log = practise(record.exercise, learner, seed=seed, aid="ear")
        append(session, record.key, log, ended=at + timedelta(seconds=log[-1].at_s))
        tuned.append(record.key)
        wanted = DrillExercise(drill, "viola", seed, string=3, trials=IN_A_SITTING)
        begun = begin_sitting(session, pupil, wanted, now=at, seed=seed)
        record = take_over(session, pupil, begun.id, holder=HOLDER)
        heard = sit(record.exercise, ear, seed=seed)
        ended = at + timedelta(seconds=heard[-1].at_s)
        append(session, record.key, heard, ended=ended, practice="drills")
        sat.append(record.key)
    return _History(tuple(tuned), tuple(sat))


def _copy(
    database: Connection,
    learners: Sequence[int],
    histories: Sequence[_History],
    weeks: Sequence[int],
    *,
    began: datetime,
) -> None:
    """Copy the histories until every pupil has done something in each week."""
    COPIES.create(database)
    for place, learner in enumerate(learners):
        history = histories[place % HISTORIES]
        rows: list[dict[str, Any]] = []
        for keys, count in ((history.tuned, ATTEMPTS), (history.sat, SITTINGS)):
            rows += [
                {
                    "public_id": secrets.token_hex(16),
                    "old": keys[n % len(keys)],
                    "learner_id": learner,
                    "at": began + YEARS * ((n + 0.5) / count),
                    "assignment_id": weeks[n] if keys is history.tuned else None,
                }
                for n in range(len(keys) if place < HISTORIES else 0, count)
            ]
        database.execute(insert(COPIES), rows)
        if (place + 1) % AT_ONCE == 0:
            _copy_listed(database)
            database.execute(delete(COPIES))
            database.commit()


def _copy_listed(database: Connection) -> None:
    """Copy what the list says, with all that belongs to it."""
    copy, old, new = COPIES.c, AttemptRow.__table__.alias("old"), AttemptRow.__table__.alias("new")
    times = {"created_at": copy.at, "finished_at": copy.at}
    own: dict[str, Any] = {"public_id": copy.public_id, "learner_id": copy.learner_id, **times}
    _insert(database, AttemptRow, old, own, COPIES.join(old, old.c.id == copy.old))
    both = COPIES.join(new, new.c.public_id == copy.public_id)
    for row, own in (
        (ResultRow, {"attempt_id": new.c.id}),
        (FigureRow, {"attempt_id": new.c.id, "learner_id": copy.learner_id, "at": copy.at}),
        (
            AssignedAttemptRow,
            {"attempt_id": new.c.id, "learner_id": copy.learner_id}
            | {"assignment_id": copy.assignment_id},
        ),
    ):
        like = row.__table__.alias("of_old")
        _insert(database, row, like, own, both.join(like, like.c.attempt_id == copy.old))


def _insert(database: Connection, row: Any, like: Any, own: dict[str, Any], source: Any) -> None:
    """Copy rows of a table, with some columns of their own; their key is drawn by the database."""
    names = [one.name for one in row.__table__.columns if one.name in own or one.name != "id"]
    wanted = select(*(own.get(name, like.c[name]) for name in names)).select_from(source)
    database.execute(insert(row).from_select(names, wanted))
