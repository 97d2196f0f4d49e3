"""A device that the pupils of a studio share: each signs in by four pictures and hands it on, and
nothing of one is left for the next.
"""

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Final

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from meldrin.core.errors import Code, MeldrinError
from meldrin.core.people import title_said
from meldrin.services import accounts
from meldrin.services.actor import Actor
from meldrin.services.audit import note
from meldrin.services.identity import digest
from meldrin.services.studios import room_for, taught
from meldrin.store.tables import AccountRow, MemberRow, SignInRow, StudioRow, TabletRow

MOST_TABLETS: Final = 60
SIGNED_IN_FOR: Final = timedelta(hours=2)  # on a device that somebody forgets to hand on


@dataclass(frozen=True, slots=True)
class Named:
    """A pupil whom a shared device offers: the member's id, and what they are called."""

    id: str
    name: str


def shared_devices(session: Session, studio: StudioRow) -> list[TabletRow]:
    """Return the shared devices of a studio, the newest first."""
    query = select(TabletRow).where(TabletRow.studio_id == studio.id)
    return list(session.scalars(query.order_by(TabletRow.id.desc())))


def share_device(
    session: Session,
    actor: Actor,
    studio_id: str,
    *,
    name: str,
    secret: str,
    own: str | None,
    now: datetime,
) -> None:
    """Let the pupils of a studio share the device that holds this secret; whoever asks is signed
    out there.

    Args:
        own: the secret of the one who asks.
    """
    studio = taught(session, actor, studio_id)
    room_for(session, studio, 0)
    there = session.scalar(select(func.count()).where(TabletRow.studio_id == studio.id)) or 0
    if there >= MOST_TABLETS:
        session.rollback()
        raise MeldrinError(
            Code.TOO_MANY, f"A studio has at most {MOST_TABLETS} shared devices. End one first."
        )
    session.add(
        TabletRow(
            public_id=uuid.uuid4().hex,
            studio_id=studio.id,
            secret_sha256=digest(secret),
            name=title_said(name),
            created_at=now,
        )
    )
    session.execute(
        delete(SignInRow).where(
            SignInRow.learner_id == actor.learner, SignInRow.secret_sha256 == digest(own or "")
        )
    )
    note(session, actor, studio.id, "tablet", now=now)
    session.commit()


def end_sharing(
    session: Session, actor: Actor, studio_id: str, tablet_id: str, *, now: datetime
) -> None:
    """Share a device no longer.

    Raises:
        MeldrinError: code ``no_such_tablet``.
    """
    studio = taught(session, actor, studio_id)
    row = session.scalar(
        select(TabletRow).where(TabletRow.public_id == tablet_id, TabletRow.studio_id == studio.id)
    )
    if row is None:
        raise MeldrinError(Code.NO_SUCH_TABLET, "There is no such shared device in this studio.")
    session.delete(row)
    note(session, actor, studio.id, "tablet", now=now)
    session.commit()


def studio_of_device(session: Session, secret: str | None) -> StudioRow | None:
    """Return the studio whose pupils share the device that holds this secret, or None."""
    if not secret:
        return None
    return session.scalar(
        select(StudioRow)
        .join(TabletRow, TabletRow.studio_id == StudioRow.id)
        .where(TabletRow.secret_sha256 == digest(secret))
    )


def names_there(session: Session, studio: StudioRow) -> list[Named]:
    """Return the pupils who can sign in on a shared device, by name."""
    query = (
        select(MemberRow.public_id, MemberRow.name)
        .join(AccountRow, AccountRow.learner_id == MemberRow.learner_id)
        .where(MemberRow.studio_id == studio.id, MemberRow.role == "pupil")
        .order_by(MemberRow.name, MemberRow.id)
    )
    return [Named(*row) for row in session.execute(query)]


def sign_in_there(
    session: Session,
    device: str | None,
    member_id: str,
    pictures: Sequence[str],
    *,
    secret: str,
    now: datetime,
) -> Actor:
    """Let a pupil in on a shared device, for two hours at most.

    Raises:
        MeldrinError: code ``no_such_tablet`` or ``no_such_member``, else as
            `accounts.sign_in`.
    """
    studio = studio_of_device(session, device)
    if studio is None:
        raise MeldrinError(Code.NO_SUCH_TABLET, "This device is not shared any more.")
    name = session.scalar(
        select(AccountRow.name)
        .join(MemberRow, MemberRow.learner_id == AccountRow.learner_id)
        .where(
            MemberRow.public_id == member_id,
            MemberRow.studio_id == studio.id,
            MemberRow.role == "pupil",
        )
    )
    if name is None:
        raise MeldrinError(Code.NO_SUCH_MEMBER, "There is no such pupil in this studio.")
    return accounts.sign_in(
        session,
        name,
        pictures,
        secret=secret,
        device="tablet",
        now=now,
        ends_at=now + SIGNED_IN_FOR,
    )


def hand_on(session: Session, *, secret: str | None) -> None:
    """Sign out whoever is signed in on a shared device with this secret."""
    session.execute(
        delete(SignInRow).where(
            SignInRow.secret_sha256 == digest(secret or ""), SignInRow.ends_at.is_not(None)
        )
    )
    session.commit()
