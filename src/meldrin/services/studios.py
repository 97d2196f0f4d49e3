"""Studios: made, joined by pupils and teachers, left, and erased.

A studio is erased when a second person who teaches there agrees, or after a week.
"""

import random
import uuid
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Final

from sqlalchemy import delete, func, select, update
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from meldrin.core.errors import Code, MeldrinError
from meldrin.core.people import (
    Role,
    code_drawn,
    code_said,
    is_join_code,
    join_code_drawn,
    join_code_said,
    key_of_name,
    name_said,
    title_said,
)
from meldrin.services.accounts import name_of
from meldrin.services.actor import Actor
from meldrin.services.audit import note
from meldrin.services.identity import digest, keep_an_owner
from meldrin.services.limits import use
from meldrin.services.permissions import may_own, may_teach
from meldrin.store.tables import (
    InvitationRow,
    LearnerRow,
    MemberRow,
    StudioRow,
)

MOST_STUDIOS: Final = 10  # that somebody is in
MOST_MEMBERS: Final = 1000
INVITED_FOR: Final = timedelta(days=7)
ENDS_AFTER: Final = timedelta(days=7)
_DRAW: Final = random.SystemRandom()


@dataclass(frozen=True, slots=True)
class Place:
    """Where somebody is in a studio. teachers: the names of those who teach there."""

    studio: StudioRow
    me: MemberRow
    teachers: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Door:
    """What a code lets somebody into."""

    studio: StudioRow
    role: Role
    teachers: tuple[str, ...]


def taught(session: Session, actor: Actor, studio_id: str) -> StudioRow:
    """Return a studio in which somebody teaches.

    Raises:
        MeldrinError: code ``no_such_studio``, also where they do not.
    """
    row = session.scalar(select(StudioRow).where(StudioRow.public_id == studio_id))
    if row is None or not may_teach(actor, row.id):
        raise MeldrinError(Code.NO_SUCH_STUDIO, "There is no such studio among yours.")
    return row


def owned(session: Session, actor: Actor, studio_id: str) -> StudioRow:
    """Return a studio that somebody owns.

    Raises:
        MeldrinError: code ``no_such_studio``, or ``role`` for a teacher who does not own it.
    """
    row = taught(session, actor, studio_id)
    if not may_own(actor, row.id):
        raise MeldrinError(Code.ROLE, "Only an owner of the studio can do this.")
    return row


def member_in(session: Session, studio: StudioRow, member_id: str) -> MemberRow:
    """Return a member of a studio.

    Raises:
        MeldrinError: code ``no_such_member``.
    """
    row = session.scalar(
        select(MemberRow).where(MemberRow.public_id == member_id, MemberRow.studio_id == studio.id)
    )
    if row is None:
        raise MeldrinError(Code.NO_SUCH_MEMBER, "There is no such member in this studio.")
    return row


def places(session: Session, actor: Actor) -> list[Place]:
    """Return the studios somebody is in, by their names."""
    if actor.learner is None:
        return []
    query = (
        select(StudioRow, MemberRow)
        .join(MemberRow, MemberRow.studio_id == StudioRow.id)
        .where(MemberRow.learner_id == actor.learner)
        .order_by(StudioRow.name, StudioRow.id)
    )
    return [Place(one, me, _teachers(session, one.id)) for one, me in session.execute(query)]


def make_studio(session: Session, actor: Actor, name: str, *, now: datetime) -> StudioRow:
    """Make a studio; whoever makes it owns it.

    Raises:
        MeldrinError: code ``sign_in`` for who has no name, ``name`` for one that cannot be,
            ``too_many`` for more than ten.
    """
    me = _teacher_name(session, actor)
    said = title_said(name)
    _not_in_too_many(session, actor)
    row = StudioRow(
        public_id=uuid.uuid4().hex, name=said, join_code=join_code_drawn(_DRAW), created_at=now
    )
    session.add(row)
    session.flush()
    session.add(_member(row, actor, "owner", me, now=now))
    note(session, actor, row.id, "made", now=now)
    session.commit()
    return row


def rename_studio(
    session: Session, actor: Actor, studio_id: str, name: str, *, now: datetime
) -> None:
    """Give a studio another name."""
    row = owned(session, actor, studio_id)
    row.name = title_said(name)
    note(session, actor, row.id, "renamed", now=now)
    session.commit()


def new_join_code(session: Session, actor: Actor, studio_id: str, *, now: datetime) -> str:
    """Return a new code for pupils; the one before lets nobody in any more."""
    row = taught(session, actor, studio_id)
    row.join_code = code = join_code_drawn(_DRAW)
    note(session, actor, row.id, "code", now=now)
    session.commit()
    return code


def close_door(session: Session, actor: Actor, studio_id: str, *, now: datetime) -> None:
    """Let nobody in by a code any more, until there is a new one."""
    row = taught(session, actor, studio_id)
    row.join_code = None
    note(session, actor, row.id, "code", now=now)
    session.commit()


def invite_teacher(session: Session, actor: Actor, studio_id: str, *, now: datetime) -> str:
    """Return a code that lets one teacher in, once, within a week."""
    row = owned(session, actor, studio_id)
    code = code_drawn(_DRAW)
    session.execute(
        delete(InvitationRow).where(InvitationRow.studio_id == row.id, InvitationRow.until < now)
    )
    session.add(InvitationRow(studio_id=row.id, code_sha256=digest(code), until=now + INVITED_FOR))
    note(session, actor, row.id, "invited", now=now)
    session.commit()
    return code


def door(session: Session, actor: Actor, code: str, *, now: datetime) -> Door:
    """Return what a code lets somebody into. It is counted how often somebody asks.

    Raises:
        MeldrinError: code ``slip`` for what can be no code, ``no_such_studio`` for one that lets
            nobody in, ``too_many`` for asking too often.
    """
    use(session, actor, "joins", now=now)
    query = select(StudioRow)
    role: Role = "pupil"
    if is_join_code(code):
        query = query.where(StudioRow.join_code == join_code_said(code))
    else:
        role = "teacher"
        query = query.join(InvitationRow).where(
            InvitationRow.code_sha256 == digest(code_said(code)), InvitationRow.until >= now
        )
    row = session.scalar(query)
    if row is None:
        raise MeldrinError(Code.NO_SUCH_STUDIO, "This code lets nobody in. Ask for a new one.")
    return Door(row, role, _teachers(session, row.id))


def join(
    session: Session, actor: Actor, code: str, *, name: str, lets_reset: bool, now: datetime
) -> StudioRow:
    """Become a pupil of a studio, or by an invitation one of its teachers.

    Args:
        name: what a pupil is called there; a teacher is called by the name of their account.
        lets_reset: the studio's teachers may make a new slip for this pupil.

    Raises:
        MeldrinError: as `door`; code ``studio`` for who is in it already, ``sign_in`` for a teacher
            without a name, ``name`` for one that cannot be or is taken there.
    """
    found = door(session, actor, code, now=now)
    studio = found.studio
    mine = MemberRow.learner_id == actor.learner, MemberRow.studio_id == studio.id
    if session.scalar(select(MemberRow.id).where(*mine)) is not None:
        raise MeldrinError(Code.STUDIO, f"You are in {studio.name} already.")
    _not_in_too_many(session, actor)
    called = _teacher_name(session, actor) if found.role == "teacher" else name_said(name)
    if found.role == "teacher":
        used = session.execute(
            delete(InvitationRow).where(InvitationRow.code_sha256 == digest(code_said(code)))
        )
        if not used.rowcount:  # type: ignore[attr-defined]  # somebody else has just come by it
            raise MeldrinError(Code.NO_SUCH_STUDIO, "This code lets nobody in. Ask for a new one.")
    room_for(session, studio, 1)
    row = _member(studio, actor, found.role, called, now=now)
    row.lets_reset = lets_reset and found.role == "pupil"
    session.add(row)
    _flush_name(session, called)
    note(session, actor, studio.id, "joined", now=now, about=row)
    session.commit()
    return studio


def leave(session: Session, actor: Actor, studio_id: str, *, now: datetime) -> None:
    """Leave a studio; one's work stays one's own.

    Raises:
        MeldrinError: code ``no_such_studio``, also for one that somebody is not in; ``studio`` for
            its only owner.
    """
    row = session.scalar(
        select(MemberRow)
        .join(StudioRow, StudioRow.id == MemberRow.studio_id)
        .where(StudioRow.public_id == studio_id, MemberRow.learner_id == actor.learner)
    )
    if row is None:
        raise MeldrinError(Code.NO_SUCH_STUDIO, "There is no such studio among yours.")
    if row.role == "owner":
        keep_an_owner(session, row.studio_id, without=actor.learner)
    note(session, actor, row.studio_id, "left", now=now)
    session.delete(row)
    session.commit()


def give_role(
    session: Session, actor: Actor, studio_id: str, member_id: str, role: Role, *, now: datetime
) -> None:
    """Make a teacher an owner, or an owner a teacher.

    Raises:
        MeldrinError: code ``role`` for a pupil, ``studio`` where no owner would be left.
    """
    studio = owned(session, actor, studio_id)
    member = member_in(session, studio, member_id)
    if member.role == "pupil" or role == "pupil":
        raise MeldrinError(Code.ROLE, "A pupil stays a pupil. Invite a teacher by a code.")
    if member.role == "owner" and role == "teacher":
        keep_an_owner(session, studio.id, without=member.learner_id)
    member.role = role
    note(session, actor, studio.id, "role", now=now, about=member)
    session.commit()


def end_studio(session: Session, actor: Actor, studio_id: str, *, now: datetime) -> bool:
    """Ask that a studio is erased, or agree when somebody else has asked. Return whether it is.

    Pupils keep their work, but for those whom the studio made and who have never come.
    """
    row = taught(session, actor, studio_id)
    if row.ending_at is None:
        owned(session, actor, studio_id)
        row.ending_at, row.ending_by = now + ENDS_AFTER, actor.learner
        note(session, actor, row.id, "ending", now=now)
        session.commit()
        return False
    if row.ending_by == actor.learner:
        return False
    erase_studio(session, row.id)
    session.commit()
    return True


def keep_studio(session: Session, actor: Actor, studio_id: str, *, now: datetime) -> None:
    """Let a studio stay that was to be erased; whoever teaches there may say so."""
    row = taught(session, actor, studio_id)
    row.ending_at = row.ending_by = None
    note(session, actor, row.id, "kept", now=now)
    session.commit()


def erase_studio(session: Session, studio: int) -> None:
    """Erase a studio, and the pupils it made who have never come; the caller commits."""
    made_here = select(MemberRow.learner_id).where(
        MemberRow.studio_id == studio, MemberRow.made_here.is_(True)
    )
    never = LearnerRow.seen_at == LearnerRow.created_at  # a sign-in moves it on
    session.execute(delete(LearnerRow).where(LearnerRow.id.in_(made_here), never))
    session.execute(delete(StudioRow).where(StudioRow.id == studio))


def room_for(session: Session, studio: StudioRow, more: int) -> None:
    """Refuse more members than a studio has room for; of two who ask at once one begins again.

    Raises:
        MeldrinError: code ``too_many``.
    """
    session.execute(
        update(StudioRow).where(StudioRow.id == studio.id).values(version=StudioRow.version + 1)
    )
    here = session.scalar(select(func.count()).where(MemberRow.studio_id == studio.id)) or 0
    if here + more > MOST_MEMBERS:
        session.rollback()
        raise MeldrinError(Code.TOO_MANY, f"A studio has at most {MOST_MEMBERS} members.")


def pupil_in(session: Session, learner: int) -> list[int]:
    """Return the studios in which a learner is a pupil."""
    query = select(MemberRow.studio_id).where(
        MemberRow.learner_id == learner, MemberRow.role == "pupil"
    )
    return list(session.scalars(query))


def _member(studio: StudioRow, actor: Actor, role: Role, name: str, *, now: datetime) -> MemberRow:
    return MemberRow(
        public_id=uuid.uuid4().hex,
        studio_id=studio.id,
        learner_id=actor.learner,
        role=role,
        name=name,
        name_key=key_of_name(name),
        joined_at=now,
    )


def _teacher_name(session: Session, actor: Actor) -> str:
    name = name_of(session, actor)
    if name is None:
        raise MeldrinError(
            Code.SIGN_IN, "Take a name under “My work” first, so that you can come back."
        )
    return name


def _flush_name(session: Session, name: str) -> None:
    try:
        session.flush()
    except IntegrityError as error:
        session.rollback()
        raise MeldrinError(
            Code.NAME, f"Somebody there is called “{name}” already. Add a letter or a number."
        ) from error


def _not_in_too_many(session: Session, actor: Actor) -> None:
    here = session.scalar(select(func.count()).where(MemberRow.learner_id == actor.learner)) or 0
    if here >= MOST_STUDIOS:
        raise MeldrinError(
            Code.TOO_MANY, f"You are in {MOST_STUDIOS} studios already. Leave one first."
        )


def _teachers(session: Session, studio: int) -> tuple[str, ...]:
    query = (
        select(MemberRow.name)
        .where(MemberRow.studio_id == studio, MemberRow.role.in_(("teacher", "owner")))
        .order_by(MemberRow.name)
    )
    return tuple(session.scalars(query))
