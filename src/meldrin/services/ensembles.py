"""Checks before a concert: what a group has agreed, and how its strings stand against that."""

import json
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache
from typing import Final

from sqlalchemy import delete, func, select, update
from sqlalchemy.dialects.mysql import insert as upsert
from sqlalchemy.orm import Session

from meldrin.core.bench import EXERCISES, FAULT, FREE, Exercise, opening
from meldrin.core.catalogue import Tuning, instrument, instruments, tuning_said
from meldrin.core.ensemble import Agreed, Check, Player, Reading, check, reading_of_hz
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.people import title_said
from meldrin.core.pitch import cents_between, shifted_by_cents
from meldrin.core.practice import Tuned
from meldrin.services.actor import Actor
from meldrin.services.attempts import FINISHED
from meldrin.services.audit import note, note_strings
from meldrin.services.figures import figures_read
from meldrin.services.pupils import group_in
from meldrin.services.studios import member_in, room_for, taught
from meldrin.store.tables import (
    AttemptRow,
    EnsemblePlayerRow,
    EnsembleReadingRow,
    EnsembleRow,
    FigureRow,
    GroupMemberRow,
    GroupRow,
    MemberRow,
    StudioRow,
)

MOST_ENSEMBLES: Final = 50
USUAL: Final = "viola"  # for whom nothing is known


@dataclass(frozen=True, slots=True)
class Playing:
    """Somebody in the group: the member's id, the instrument's, and who they are for the check."""

    id: str
    instrument: str
    player: Player


@dataclass(frozen=True, slots=True)
class Checked:
    """A group's check: what was agreed, with which group (its id and name, or None for all), who
    plays, and how they stand.
    """

    row: EnsembleRow
    agreed: Agreed
    group: tuple[str, str] | None
    playing: tuple[Playing, ...]
    check: Check


def make_ensemble(
    session: Session,
    actor: Actor,
    studio_id: str,
    *,
    name: str,
    group: str | None,
    agreed: Agreed,
    now: datetime,
) -> EnsembleRow:
    """Begin a check for a group, or for all pupils of a studio.

    Raises:
        MeldrinError: code ``no_such_studio``, ``no_such_group``, ``name`` or ``too_many``.
    """
    studio = taught(session, actor, studio_id)
    room_for(session, studio, 0)
    there = session.scalar(select(func.count()).where(EnsembleRow.studio_id == studio.id)) or 0
    if there >= MOST_ENSEMBLES:
        session.rollback()
        raise MeldrinError(
            Code.TOO_MANY, f"A studio keeps at most {MOST_ENSEMBLES} checks. Erase one first."
        )
    row = EnsembleRow(
        public_id=uuid.uuid4().hex,
        studio_id=studio.id,
        name=title_said(name),
        group_id=None if group is None else group_in(session, studio, group).id,
        a4_hz=agreed.a4_hz,
        fifth_cents=agreed.fifth_cents,
        changed_at=now,
    )
    session.add(row)
    note(session, actor, studio.id, "ensemble", now=now)
    session.commit()
    return row


def ensembles_in(session: Session, studio: StudioRow) -> list[EnsembleRow]:
    """Return the checks of a studio, the one changed last first."""
    query = (
        select(EnsembleRow)
        .where(EnsembleRow.studio_id == studio.id)
        .order_by(EnsembleRow.changed_at.desc(), EnsembleRow.id.desc())
    )
    return list(session.scalars(query))


def change_ensemble(
    session: Session,
    actor: Actor,
    studio_id: str,
    ensemble_id: str,
    *,
    name: str,
    group: str | None,
    agreed: Agreed,
    now: datetime,
) -> None:
    """Agree on something else. Strings stay where they are: what was read at another A is said
    against the new one.
    """
    studio, row = _there(session, actor, studio_id, ensemble_id)
    up = cents_between(agreed.a4_hz, reference_hz=row.a4_hz)
    if up:
        session.execute(
            update(EnsembleReadingRow)
            .where(EnsembleReadingRow.ensemble_id == row.id)
            .values(cents=EnsembleReadingRow.cents - up)
        )
    row.name = title_said(name)
    row.group_id = None if group is None else group_in(session, studio, group).id
    row.a4_hz, row.fifth_cents, row.changed_at = agreed.a4_hz, agreed.fifth_cents, now
    note(session, actor, studio.id, "ensemble", now=now)
    session.commit()


def erase_ensemble(
    session: Session, actor: Actor, studio_id: str, ensemble_id: str, *, now: datetime
) -> None:
    """Erase a check with what was typed in for it."""
    studio, row = _there(session, actor, studio_id, ensemble_id)
    session.delete(row)
    note(session, actor, studio.id, "ensemble", now=now)
    session.commit()


def type_readings(
    session: Session,
    actor: Actor,
    studio_id: str,
    ensemble_id: str,
    member_id: str,
    *,
    cents: Mapping[int, float | None],
    now: datetime,
) -> None:
    """Keep what a tuner that is set to the group's A shows of a pupil's strings; None: nothing.

    Raises:
        MeldrinError: code ``no_such_studio``, ``no_such_ensemble``, ``no_such_member`` or
            ``no_such_string``; OutOfRange for more than 200 cents. Nothing is kept then.
    """
    studio, row = _there(session, actor, studio_id, ensemble_id)
    member = _pupil(session, studio, member_id)
    made = instrument(_instrument_of(session, row, member))
    typed = {}
    for string, shown in cents.items():
        made.string(string)
        if shown is not None:
            typed[string] = Reading(string, shown).cents
    session.execute(
        delete(EnsembleReadingRow).where(
            EnsembleReadingRow.ensemble_id == row.id,
            EnsembleReadingRow.member_id == member.id,
            EnsembleReadingRow.string.in_(set(cents) - set(typed)),
        )
    )
    for string, shown in typed.items():
        kept = upsert(EnsembleReadingRow).values(
            ensemble_id=row.id, member_id=member.id, string=string, cents=shown, at=now
        )
        session.execute(kept.on_duplicate_key_update(cents=shown, at=now))
    note(session, actor, studio.id, "ensemble", now=now)
    session.commit()


def set_instrument(
    session: Session,
    actor: Actor,
    studio_id: str,
    ensemble_id: str,
    member_id: str,
    *,
    instrument_id: str,
    now: datetime,
) -> None:
    """Say on what a pupil plays in this group; what was typed in for another instrument goes.

    Raises:
        MeldrinError: code ``no_such_studio``, ``no_such_ensemble``, ``no_such_member`` or
            ``no_such_instrument``.
    """
    studio, row = _there(session, actor, studio_id, ensemble_id)
    member = _pupil(session, studio, member_id)
    made = instrument(instrument_id)
    if _instrument_of(session, row, member) != made.id:
        session.execute(
            delete(EnsembleReadingRow).where(
                EnsembleReadingRow.ensemble_id == row.id,
                EnsembleReadingRow.member_id == member.id,
            )
        )
    kept = upsert(EnsemblePlayerRow).values(
        ensemble_id=row.id, member_id=member.id, instrument=made.id
    )
    session.execute(kept.on_duplicate_key_update(instrument=made.id))
    note(session, actor, studio.id, "ensemble", now=now)
    session.commit()


def check_ensemble(
    session: Session, actor: Actor, studio_id: str, ensemble_id: str, *, now: datetime
) -> Checked:
    """Return how the pupils of a group stand: of each string what was known last, from the bench or
    typed in.
    """
    studio, row = _there(session, actor, studio_id, ensemble_id)
    agreed = Agreed(row.a4_hz, row.fifth_cents)
    members = _members(session, row)
    told = _typed(session, row)
    chosen = _chosen(session, row)
    last = _last_tuned(session, [one.learner_id for one in members], chosen, members)
    group = None if row.group_id is None else session.get(GroupRow, row.group_id)
    note_strings(session, actor, studio.id, now=now)
    playing = tuple(
        _playing(agreed, one, chosen.get(one.id), last.get(one.learner_id), told.get(one.id, {}))
        for one in members
    )
    return Checked(
        row,
        agreed,
        None if group is None else (group.public_id, group.name),
        playing,
        check(agreed, [one.player for one in playing]),
    )


@dataclass(frozen=True, slots=True)
class _LastTuned:
    """What somebody tuned last: when, the exercise as a record, and how its strings ended."""

    at: datetime
    instrument: str
    exercise: str
    tuned: Tuned


def _playing(
    agreed: Agreed,
    member: MemberRow,
    chosen: str | None,
    last: _LastTuned | None,
    typed: Mapping[int, tuple[float, datetime]],
) -> Playing:
    known = chosen or (last.instrument if last else USUAL)
    made = instrument(known)
    tuning = made.tuning()
    readings: dict[int, Reading] = {}
    if last is not None and last.instrument == made.id:
        exercise, targets = _targets(last.exercise)
        tuning = tuning_said(made, exercise.tuning)
        readings = _from_bench(agreed, last, targets, tuning)
    for string, (cents, at) in typed.items():
        if string not in readings or last is None or at >= last.at:
            readings[string] = Reading(string, cents)
    return Playing(
        member.public_id, made.id, Player(member.name, made, tuning, tuple(readings.values()))
    )


def _from_bench(
    agreed: Agreed, last: _LastTuned, targets_hz: Sequence[float], tuning: Tuning
) -> dict[int, Reading]:
    found = {}
    for one in last.tuned.strings:
        if not 1 <= one.string <= len(targets_hz):
            continue
        hz = shifted_by_cents(targets_hz[one.string - 1], cents=one.ended_cents)
        read = reading_of_hz(one.string, hz, midi=tuning.midi(one.string), a4_hz=agreed.a4_hz)
        if read is not None:
            found[one.string] = read
    return found


@lru_cache(maxsize=512)
def _targets(record: str) -> tuple[Exercise, tuple[float, ...]]:
    """Return an exercise, and where its plan leads each open string, in Hz."""
    exercise = EXERCISES.value(json.loads(record))
    return exercise, opening(exercise).rig.plan.targets_hz


def _last_tuned(
    session: Session,
    learners: Sequence[int],
    chosen: Mapping[int, str],
    members: Sequence[MemberRow],
) -> dict[int, _LastTuned]:
    """Return what each learner tuned last, on the instrument that is chosen for them if one is."""
    wanted = {one.learner_id: chosen.get(one.id) for one in members}
    newest = (
        select(AttemptRow.learner_id, AttemptRow.instrument, func.max(AttemptRow.id).label("id"))
        .where(AttemptRow.learner_id.in_(learners), AttemptRow.practice == "bench")
        .where(AttemptRow.state == FINISHED, AttemptRow.method.not_in((FREE, FAULT)))
        .group_by(AttemptRow.learner_id, AttemptRow.instrument)
        .subquery()
    )
    query = (
        select(
            AttemptRow.learner_id,
            AttemptRow.instrument,
            AttemptRow.finished_at,
            AttemptRow.exercise,
            FigureRow.record,
        )
        .join(newest, newest.c.id == AttemptRow.id)
        .join(FigureRow, FigureRow.attempt_id == AttemptRow.id)
        .order_by(AttemptRow.finished_at)
    )
    known = {one.id for one in instruments()}  # who plays one of their own has typed readings
    found: dict[int, _LastTuned] = {}
    for learner, kind, at, exercise, record in session.execute(query):
        tuned = figures_read("bench", [record]) if record and kind in known else []
        if at is not None and tuned and wanted[learner] in (None, kind):
            found[learner] = _LastTuned(at, kind, exercise, tuned[0])
    return found


def _members(session: Session, row: EnsembleRow) -> list[MemberRow]:
    query = (
        select(MemberRow)
        .where(MemberRow.studio_id == row.studio_id, MemberRow.role == "pupil")
        .order_by(MemberRow.name, MemberRow.id)
    )
    if row.group_id is not None:
        in_group = select(GroupMemberRow.member_id).where(GroupMemberRow.group_id == row.group_id)
        query = query.where(MemberRow.id.in_(in_group))
    return list(session.scalars(query))


def _typed(session: Session, row: EnsembleRow) -> dict[int, dict[int, tuple[float, datetime]]]:
    query = select(EnsembleReadingRow).where(EnsembleReadingRow.ensemble_id == row.id)
    found: dict[int, dict[int, tuple[float, datetime]]] = {}
    for one in session.scalars(query):
        found.setdefault(one.member_id, {})[one.string] = (one.cents, one.at)
    return found


def _chosen(session: Session, row: EnsembleRow) -> dict[int, str]:
    query = select(EnsemblePlayerRow.member_id, EnsemblePlayerRow.instrument).where(
        EnsemblePlayerRow.ensemble_id == row.id
    )
    return {one.member_id: one.instrument for one in session.execute(query)}


def _instrument_of(session: Session, row: EnsembleRow, member: MemberRow) -> str:
    chosen = _chosen(session, row)
    last = _last_tuned(session, [member.learner_id], chosen, [member]).get(member.learner_id)
    return chosen.get(member.id) or (last.instrument if last else USUAL)


def _pupil(session: Session, studio: StudioRow, member_id: str) -> MemberRow:
    member = member_in(session, studio, member_id)
    if member.role != "pupil":
        raise MeldrinError(Code.NO_SUCH_MEMBER, "There is no such pupil in this studio.")
    return member


def _there(
    session: Session, actor: Actor, studio_id: str, ensemble_id: str
) -> tuple[StudioRow, EnsembleRow]:
    studio = taught(session, actor, studio_id)
    row = session.scalar(
        select(EnsembleRow).where(
            EnsembleRow.public_id == ensemble_id, EnsembleRow.studio_id == studio.id
        )
    )
    if row is None:
        raise MeldrinError(Code.NO_SUCH_ENSEMBLE, "There is no such check in this studio.")
    return studio, row
