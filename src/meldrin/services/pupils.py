"""The pupils of a studio: made from a list, put into groups, given a new slip, removed, erased."""

import uuid
from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Final

from sqlalchemy import delete, exists, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session, aliased

from meldrin.core.errors import Code, MeldrinError
from meldrin.core.people import Listed, key_of_name, name_said, title_said
from meldrin.services.accounts import Keys, ShownKeys, account_of, keys_drawn
from meldrin.services.actor import Actor
from meldrin.services.audit import note
from meldrin.services.identity import TEACHING
from meldrin.services.permissions import may_call, may_erase_pupil, may_reset
from meldrin.services.studios import member_in, room_for, taught
from meldrin.store.tables import (
    AccountRow,
    GroupMemberRow,
    GroupRow,
    LearnerRow,
    MemberRow,
    SignInRow,
    StudioRow,
)

MOST_GROUPS: Final = 60
MOST_TRIES: Final = 3
NOT_THEIRS: Final = "The pupil keeps their own sign-in, and has not let you renew it."


@dataclass(frozen=True, slots=True)
class Slip:
    """What a pupil of a list is given: their name in the studio, and what opens their account."""

    called: str
    kept: ShownKeys


@dataclass(frozen=True, slots=True)
class Person:
    """A member as teachers see them. groups: the ids of those they are in.
    signs_in_as: the name of their account, or None for a guest.
    teaches: whether they teach in some studio.
    """

    row: MemberRow
    groups: tuple[str, ...]
    signs_in_as: str | None
    seen: datetime
    teaches: bool


def people(session: Session, studio: StudioRow) -> list[Person]:
    """Return the members of a studio, by name."""
    groups: dict[int, list[str]] = {}
    in_groups = (
        select(GroupMemberRow.member_id, GroupRow.public_id)
        .join(GroupRow, GroupRow.id == GroupMemberRow.group_id)
        .where(GroupRow.studio_id == studio.id)
        .order_by(GroupRow.name)
    )
    for member, group in session.execute(in_groups):
        groups.setdefault(member, []).append(group)
    elsewhere = aliased(MemberRow)
    teaches = exists().where(
        elsewhere.learner_id == MemberRow.learner_id, elsewhere.role.in_(TEACHING)
    )
    query = (
        select(MemberRow, AccountRow.name, LearnerRow.seen_at, teaches)
        .join(LearnerRow, LearnerRow.id == MemberRow.learner_id)
        .outerjoin(AccountRow, AccountRow.learner_id == MemberRow.learner_id)
        .where(MemberRow.studio_id == studio.id)
        .order_by(MemberRow.name, MemberRow.id)
    )
    return [
        Person(row, tuple(groups.get(row.id, ())), account, seen, teaching)
        for row, account, seen, teaching in session.execute(query)
    ]


def study_groups(session: Session, studio: StudioRow) -> list[GroupRow]:
    """Return the groups of a studio, by name."""
    query = select(GroupRow).where(GroupRow.studio_id == studio.id).order_by(GroupRow.name)
    return list(session.scalars(query))


def names_taken(session: Session, studio: StudioRow, listed: Iterable[Listed]) -> list[str]:
    """Return the names of a list that members of the studio have already."""
    keys = {key_of_name(one.name): one.name for one in listed}
    query = select(MemberRow.name_key).where(
        MemberRow.studio_id == studio.id, MemberRow.name_key.in_(keys)
    )
    return [keys[one] for one in session.scalars(query)]


def make_class(
    session: Session, actor: Actor, studio_id: str, listed: Sequence[Listed], *, now: datetime
) -> list[Slip]:
    """Make a pupil of each line of a list, with the groups it names; all of them or none.

    Returns:
        A slip each, in their order. It is told once: only digests are kept.

    Raises:
        MeldrinError: code ``name``, where members of the studio have some of these names already.
    """
    taught(session, actor, studio_id)
    session.rollback()  # drawing the keys takes a while, and no connection is held meanwhile
    keys = [keys_drawn() for _ in listed]
    for tried in range(MOST_TRIES):
        try:
            return _made(session, actor, studio_id, listed, keys, now=now)
        except IntegrityError:
            session.rollback()  # somebody has just taken one of the names
            if tried == MOST_TRIES - 1:
                raise
    raise AssertionError("it is made or raises")


def _made(
    session: Session,
    actor: Actor,
    studio_id: str,
    listed: Sequence[Listed],
    keys: Sequence[Keys],
    *,
    now: datetime,
) -> list[Slip]:
    studio = taught(session, actor, studio_id)
    room_for(session, studio, len(listed))
    taken = names_taken(session, studio, listed)
    if taken:
        session.rollback()
        raise MeldrinError(
            Code.NAME,
            f"The studio has {_and(taken)} already. Take them off the list, or add a letter.",
        )
    groups = {row.name_key: row for row in study_groups(session, studio)}
    learners = [LearnerRow(created_at=now, seen_at=now) for _ in listed]
    session.add_all(learners)
    session.flush()
    names = _free_names(session, [one.name for one in listed])
    slips, members = [], []
    for one, learner, name, key in zip(listed, learners, names, keys, strict=True):
        session.add(account_of(learner.id, name, key, now=now))
        row = MemberRow(
            public_id=uuid.uuid4().hex,
            studio_id=studio.id,
            learner_id=learner.id,
            role="pupil",
            name=one.name,
            name_key=key_of_name(one.name),
            made_here=True,
            joined_at=now,
        )
        session.add(row)
        members.append(row)
        for group in one.groups:
            if key_of_name(group) not in groups:
                groups[key_of_name(group)] = _new_group(session, studio, group, len(groups))
        slips.append(Slip(one.name, key.told(name)))
    session.flush()
    for one, row in zip(listed, members, strict=True):
        for group in one.groups:
            group_id = groups[key_of_name(group)].id
            session.add(GroupMemberRow(group_id=group_id, member_id=row.id))
    note(session, actor, studio.id, "listed", now=now)
    session.commit()
    return slips


def _free_names(session: Session, names: Sequence[str]) -> list[str]:
    """Return names for accounts: those of the list, with a number where somebody has them."""
    found: list[str] = []
    used: set[str] = set()
    for name in names:
        like = select(AccountRow.name_key).where(
            AccountRow.name_key.startswith(key_of_name(name), autoescape=True)
        )
        used.update(session.scalars(like))
        number, tried = 1, name
        while key_of_name(tried) in used:
            number += 1
            tried = f"{name} {number}"
        used.add(key_of_name(tried))
        found.append(tried)
    return found


def new_slip(
    session: Session, actor: Actor, studio_id: str, member_id: str, *, now: datetime
) -> Slip:
    """Return a new slip for a pupil; pictures and code of before no longer hold, and they are
    signed out everywhere.

    Raises:
        MeldrinError: code ``role``, for a pupil who keeps their own.
    """
    studio = taught(session, actor, studio_id)
    member = member_in(session, studio, member_id)
    if not may_reset(actor, member, teaches=teaches_somewhere(session, member.learner_id)):
        raise MeldrinError(Code.ROLE, NOT_THEIRS)
    session.rollback()
    keys = keys_drawn()
    session.execute(delete(SignInRow).where(SignInRow.learner_id == member.learner_id))
    account = session.get(AccountRow, member.learner_id)
    if account is None:
        name = _free_names(session, [member.name])[0]
        session.add(account_of(member.learner_id, name, keys, now=now))
    else:
        name = account.name
        for column, value in keys.columns().items():
            setattr(account, column, value)
    note(session, actor, studio.id, "new_slip", now=now, about=member)
    session.commit()
    return Slip(member.name, keys.told(name))


def call_member(
    session: Session,
    actor: Actor,
    studio_id: str,
    member_id: str,
    *,
    name: str | None,
    groups: Collection[str] | None,
    now: datetime,
) -> None:
    """Call a member by another name in the studio, or put them into these groups and no others.

    Raises:
        MeldrinError: code ``name`` or ``no_such_group``.
    """
    studio = taught(session, actor, studio_id)
    member = member_in(session, studio, member_id)
    if not may_call(actor, member):
        raise MeldrinError(Code.ROLE, "Only an owner changes what a teacher is called.")
    if name is not None:
        member.name = name_said(name)
        member.name_key = key_of_name(member.name)
        _flush(session, member.name)
        note(session, actor, studio.id, "named", now=now, about=member)
    if groups is not None:
        rows = {row.public_id: row for row in study_groups(session, studio)}
        unknown = set(groups) - set(rows)
        if unknown:
            session.rollback()
            raise _no_group()
        session.execute(delete(GroupMemberRow).where(GroupMemberRow.member_id == member.id))
        for one in groups:
            session.add(GroupMemberRow(group_id=rows[one].id, member_id=member.id))
        note(session, actor, studio.id, "group", now=now, about=member)
    session.commit()


def remove_member(
    session: Session, actor: Actor, studio_id: str, member_id: str, *, now: datetime
) -> None:
    """Take somebody out of a studio; their work stays their own.

    Raises:
        MeldrinError: code ``role``: a teacher is removed by an owner, and an owner by nobody.
    """
    studio = taught(session, actor, studio_id)
    member = member_in(session, studio, member_id)
    if member.role == "owner":
        raise MeldrinError(Code.ROLE, "An owner leaves by themselves, or becomes a teacher first.")
    if member.role == "teacher" and actor.teaches.get(studio.id) != "owner":
        raise MeldrinError(Code.ROLE, "Only an owner of the studio can do this.")
    session.delete(member)
    note(session, actor, studio.id, "removed", now=now)
    session.commit()


def erase_pupil(
    session: Session, actor: Actor, studio_id: str, member_id: str, *, now: datetime
) -> None:
    """Erase a pupil with everything that is kept of them.

    Raises:
        MeldrinError: code ``role``, for one that the studio did not make.
    """
    studio = taught(session, actor, studio_id)
    member = member_in(session, studio, member_id)
    if not may_erase_pupil(actor, member, teaches=teaches_somewhere(session, member.learner_id)):
        raise MeldrinError(
            Code.ROLE, "This pupil came with their own work. Remove them; they can erase it."
        )
    session.execute(delete(LearnerRow).where(LearnerRow.id == member.learner_id))
    note(session, actor, studio.id, "erased", now=now)
    session.commit()


def make_group(
    session: Session, actor: Actor, studio_id: str, name: str, *, now: datetime
) -> GroupRow:
    """Make a group of a studio.

    Raises:
        MeldrinError: code ``name`` for one that cannot be or is there, ``too_many`` past sixty.
    """
    studio = taught(session, actor, studio_id)
    room_for(session, studio, 0)
    row = _new_group(session, studio, title_said(name), len(study_groups(session, studio)))
    _flush(session, row.name)
    note(session, actor, studio.id, "group", now=now)
    session.commit()
    return row


def rename_group(
    session: Session, actor: Actor, studio_id: str, group_id: str, name: str, *, now: datetime
) -> None:
    """Give a group another name."""
    studio = taught(session, actor, studio_id)
    row = group_in(session, studio, group_id)
    row.name = title_said(name)
    row.name_key = key_of_name(row.name)
    _flush(session, row.name)
    note(session, actor, studio.id, "group", now=now)
    session.commit()


def erase_group(
    session: Session, actor: Actor, studio_id: str, group_id: str, *, now: datetime
) -> None:
    """Erase a group; its pupils stay."""
    studio = taught(session, actor, studio_id)
    session.delete(group_in(session, studio, group_id))
    note(session, actor, studio.id, "group", now=now)
    session.commit()


def group_in(session: Session, studio: StudioRow, group_id: str) -> GroupRow:
    """Return a group of a studio.

    Raises:
        MeldrinError: code ``no_such_group``.
    """
    row = session.scalar(
        select(GroupRow).where(GroupRow.public_id == group_id, GroupRow.studio_id == studio.id)
    )
    if row is None:
        raise _no_group()
    return row


def pupil_of(
    session: Session, actor: Actor, studio_id: str, member_id: str
) -> tuple[StudioRow, MemberRow]:
    """Return a studio and one of its pupils.

    Raises:
        MeldrinError: code ``no_such_studio`` or ``no_such_member``.
    """
    studio = taught(session, actor, studio_id)
    member = member_in(session, studio, member_id)
    if member.role != "pupil":
        raise MeldrinError(Code.NO_SUCH_MEMBER, "There is no such pupil in this studio.")
    return studio, member


def teaches_somewhere(session: Session, learner: int) -> bool:
    """Return whether a learner teaches in some studio."""
    query = select(MemberRow.id).where(
        MemberRow.learner_id == learner, MemberRow.role.in_(TEACHING)
    )
    return session.scalar(query.limit(1)) is not None


def _new_group(session: Session, studio: StudioRow, name: str, there: int) -> GroupRow:
    if there >= MOST_GROUPS:
        session.rollback()
        raise MeldrinError(Code.TOO_MANY, f"A studio has at most {MOST_GROUPS} groups.")
    row = GroupRow(
        public_id=uuid.uuid4().hex, studio_id=studio.id, name=name, name_key=key_of_name(name)
    )
    session.add(row)
    return row


def _flush(session: Session, name: str) -> None:
    try:
        session.flush()
    except IntegrityError as error:
        session.rollback()
        raise MeldrinError(
            Code.NAME, f"There is one called “{name}” already. Add a letter or a number."
        ) from error


def _no_group() -> MeldrinError:
    return MeldrinError(Code.NO_SUCH_GROUP, "There is no such group in this studio.")


def _and(names: Sequence[str]) -> str:
    quoted = [f"“{one}”" for one in names]
    return quoted[0] if len(quoted) == 1 else f"{', '.join(quoted[:-1])} and {quoted[-1]}"
