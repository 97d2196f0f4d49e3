"""Who saw and changed what in a studio. Its owners read it, and everybody what is about them."""

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Final, Literal, cast

from sqlalchemy import ColumnElement, select
from sqlalchemy.orm import Session, aliased

from meldrin.services.actor import Actor
from meldrin.store.tables import AuditRow, MemberRow

What = Literal[
    "made",
    "renamed",
    "joined",
    "left",
    "listed",
    "saw",
    "new_slip",
    "named",
    "role",
    "removed",
    "erased",
    "code",
    "invited",
    "group",
    "instrument",
    "tablet",
    "ending",
    "kept",
    "task",
    "given",
    "results",
    "steps",
    "round",
    "remarked",
    "ensemble",
    "strings",
]
# What each is in words, after the name of whoever did it.
SAYS: Final[dict[What, str]] = {
    "made": "made the studio",
    "renamed": "renamed the studio",
    "joined": "joined",
    "left": "left the studio",
    "listed": "made pupils from a list",
    "saw": "looked at the work of {about}",
    "new_slip": "made a new slip for {about}",
    "named": "changed the name of {about}",
    "role": "changed what {about} is here",
    "removed": "took somebody out of the studio",
    "erased": "erased a pupil with all their work",
    "code": "changed the code for pupils",
    "invited": "invited a teacher",
    "group": "changed the groups",
    "instrument": "changed the instruments",
    "tablet": "changed the shared devices",
    "ending": "asked to erase the studio",
    "kept": "kept the studio",
    "task": "changed the exercises",
    "given": "changed what is set",
    "results": "looked at the results of an exercise",
    "steps": "looked at what the class can do",
    "round": "began a round with the class",
    "ensemble": "changed a check before a concert",
    "strings": "looked at the strings of a group",
    "remarked": "remarked on the work of {about}",
}
MOST_ENTRIES: Final = 200
SEEN_AGAIN: Final = timedelta(hours=1)  # what is looked at again within it is one look


@dataclass(frozen=True, slots=True)
class Entry:
    """Something that was done. who, about: the names that members have now, or None where there
    is nobody, or nobody any more.
    """

    at: datetime
    who: str | None
    what: What
    about: str | None

    @property
    def says(self) -> str:
        """What was done, in words that come after the name of whoever did it."""
        return SAYS[self.what].format(about=self.about or "somebody who has left")


def note(
    session: Session,
    actor: Actor,
    studio: int,
    what: What,
    *,
    now: datetime,
    about: MemberRow | None = None,
) -> None:
    """Write down what is done, in the transaction that does it."""
    session.add(
        AuditRow(
            studio_id=studio,
            at=now,
            who_id=actor.learner,
            what=what,
            member_id=None if about is None else about.id,
        )
    )


def note_look(
    session: Session, actor: Actor, studio: int, *, now: datetime, about: MemberRow
) -> None:
    """Write down that somebody's work was looked at, once an hour, and commit."""
    _note_once(session, actor, studio, "saw", now=now, about=about)


def note_results(session: Session, actor: Actor, studio: int, *, now: datetime) -> None:
    """Write down that the results of an exercise were looked at, once an hour, and commit."""
    _note_once(session, actor, studio, "results", now=now, about=None)


def note_steps(session: Session, actor: Actor, studio: int, *, now: datetime) -> None:
    """Write down that the steps of a class were looked at, once an hour, and commit."""
    _note_once(session, actor, studio, "steps", now=now, about=None)


def note_strings(session: Session, actor: Actor, studio: int, *, now: datetime) -> None:
    """Write down that the strings of a group were looked at, once an hour, and commit."""
    _note_once(session, actor, studio, "strings", now=now, about=None)


def _note_once(
    session: Session,
    actor: Actor,
    studio: int,
    what: What,
    *,
    now: datetime,
    about: MemberRow | None,
) -> None:
    whom = AuditRow.member_id.is_(None) if about is None else AuditRow.member_id == about.id
    lately = select(AuditRow.id).where(
        AuditRow.studio_id == studio,
        AuditRow.at > now - SEEN_AGAIN,
        AuditRow.who_id == actor.learner,
        AuditRow.what == what,
        whom,
    )
    if session.scalar(lately.limit(1)) is None:
        note(session, actor, studio, what, now=now, about=about)
        session.commit()


def entries(session: Session, studio: int) -> list[Entry]:
    """Return what was done in a studio, the newest first, at most 200."""
    return _entries(session, AuditRow.studio_id == studio)


def about(session: Session, actor: Actor) -> list[Entry]:
    """Return what others did that was about somebody, the newest first, at most 200."""
    if actor.learner is None:
        return []
    me = select(MemberRow.id).where(MemberRow.learner_id == actor.learner)
    others = AuditRow.who_id.is_(None) | (AuditRow.who_id != actor.learner)
    return _entries(session, AuditRow.member_id.in_(me) & others)


def _entries(session: Session, where: ColumnElement[bool]) -> list[Entry]:
    who, whom = aliased(MemberRow), aliased(MemberRow)
    query = (
        select(AuditRow.at, who.name, AuditRow.what, whom.name.label("about"))
        .outerjoin(who, (who.learner_id == AuditRow.who_id) & (who.studio_id == AuditRow.studio_id))
        .outerjoin(whom, whom.id == AuditRow.member_id)
        .where(where)
        .order_by(AuditRow.at.desc(), AuditRow.id.desc())
        .limit(MOST_ENTRIES)
    )
    return [
        Entry(at, name, cast(What, what), about) for at, name, what, about in session.execute(query)
    ]
