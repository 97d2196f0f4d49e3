"""Keep my work: a name, and what brings its holder back on another device. Nobody needs an address
or their own name.

A passphrase of four pictures has 32 bits, so that wrong ones are counted by name, whatever address
they come from: a school behind one address is never shut out. The code on a slip has 69 bits, which
nobody guesses; it lets in whose name is locked.
"""

import random
import threading
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any, Final

from argon2 import PasswordHasher
from argon2.exceptions import VerifyMismatchError
from sqlalchemy import delete, select, update
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from meldrin.core.errors import Code, MeldrinError
from meldrin.core.people import (
    code_drawn,
    code_said,
    key_of_name,
    name_said,
    passphrase_said,
    pictures_drawn,
)
from meldrin.services.actor import Actor
from meldrin.services.identity import Device, digest, let_in
from meldrin.store.tables import (
    AccountRow,
    AimRow,
    AssignedAttemptRow,
    AssignedGuestRow,
    AttemptRow,
    ErasedRow,
    FigureRow,
    InstrumentRow,
    LearnerRow,
    SignInRow,
    TodayRow,
)

MOST_TRIES: Final = 5
LOCKED_FOR: Final = timedelta(minutes=15)  # as the sentence says
MOST_SIGN_INS: Final = 30  # of one learner; the one that was away longest makes room
# In one process: a hash takes 19 MiB and a core, and who waits takes one of 40 threads.
AT_ONCE, MOST_HERE = 2, 24
WRONG: Final = "This name and these pictures do not belong together."
_HASHER: Final = PasswordHasher(time_cost=2, memory_cost=19 * 1024, parallelism=1)
_HERE: Final = threading.BoundedSemaphore(MOST_HERE)
_HASHING: Final = threading.BoundedSemaphore(AT_ONCE)
_DRAW: Final = random.SystemRandom()
# What somebody did before signing in can be taken along.
TAKEN_ALONG: Final = (
    AttemptRow, AssignedAttemptRow, InstrumentRow, FigureRow, ErasedRow, TodayRow,
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class ShownKeys:
    """What brings a learner back, told once: pictures, in their order, and the code of a slip."""

    name: str
    pictures: tuple[str, ...]
    code: str


@dataclass(frozen=True, slots=True)
class SignIn:
    """A browser that a learner is signed in with; `here`: the one that asks."""

    id: str
    device: str
    since: datetime
    seen: datetime
    here: bool


def name_of(session: Session, actor: Actor) -> str | None:
    """Return the name of whoever asks, or None for a guest."""
    return session.scalar(select(AccountRow.name).where(AccountRow.learner_id == actor.learner))


@dataclass(frozen=True, slots=True)
class Keys:
    """What opens an account: pictures and a code, to be told once, and what is stored of them."""

    pictures: tuple[str, ...]
    code: str
    passphrase: str

    def told(self, name: str) -> ShownKeys:
        """Return what the one of this name is told."""
        return ShownKeys(name, self.pictures, self.code)

    def columns(self) -> dict[str, Any]:
        """Return what an account keeps; wrong tries of before are forgotten."""
        return {
            "passphrase": self.passphrase,
            "slip_sha256": digest(self.code),
            "tries": 0,
            "tried_at": None,
        }


def keys_drawn() -> Keys:
    """Draw keys. It takes a turn to hash: who waits for it should hold no connection.

    Raises:
        MeldrinError: code ``busy``, where too many wait.
    """
    pictures = pictures_drawn(_DRAW)
    return Keys(pictures, code_drawn(_DRAW), _hashed(pictures))


def account_of(learner: int, name: str, keys: Keys, *, now: datetime) -> AccountRow:
    """Return the row of an account that is opened by these keys."""
    return AccountRow(
        learner_id=learner, name=name, name_key=key_of_name(name), created_at=now, **keys.columns()
    )


def keep_work(session: Session, actor: Actor, name: str, *, now: datetime) -> ShownKeys:
    """Give a guest a name; all that is kept of the guest stays.

    Raises:
        MeldrinError: code ``name``, for one that cannot be, or is taken, or where there is one.
    """
    assert actor.learner is not None
    said = name_said(name)
    if name_of(session, actor) is not None:
        raise MeldrinError(Code.NAME, "You have a name already.")
    session.rollback()  # who waits to hash holds no connection
    keys = keys_drawn()
    session.add(account_of(actor.learner, said, keys, now=now))
    try:
        session.commit()
    except IntegrityError as error:
        session.rollback()
        raise MeldrinError(
            Code.NAME, f"Somebody here is called “{said}” already. Add a letter or a number."
        ) from error
    return keys.told(said)


def new_keys(session: Session, actor: Actor) -> ShownKeys:
    """Return new pictures and a new code; the ones before no longer hold.

    Raises:
        MeldrinError: code ``sign_in``, for who has no name.
    """
    name = name_of(session, actor)
    if name is None:
        raise MeldrinError(Code.SIGN_IN, "Take a name first.")
    session.rollback()
    keys = keys_drawn()
    session.execute(
        update(AccountRow).where(AccountRow.learner_id == actor.learner).values(**keys.columns())
    )
    session.commit()
    return keys.told(name)


def sign_in(
    session: Session,
    name: str,
    pictures: Sequence[str],
    *,
    secret: str,
    device: Device,
    now: datetime,
    ends_at: datetime | None = None,
) -> Actor:
    """Let somebody in by name and pictures, who is known by this secret from now on, or until
    `ends_at`.

    Raises:
        MeldrinError: code ``passphrase`` for what can be none, ``sign_in`` for a wrong one, and
            ``too_many`` where too many were wrong.
    """
    said = passphrase_said(pictures)
    account = session.scalars(
        select(AccountRow).where(AccountRow.name_key == key_of_name(name)).with_for_update()
    ).one_or_none()
    if account is None:
        session.rollback()
        _hashed(pictures)  # it takes as long, so that nobody learns who is here
        raise MeldrinError(Code.SIGN_IN, WRONG)
    # a try is counted before it is looked at: many at once are many
    over = account.tried_at is None or account.tried_at <= now - LOCKED_FOR
    if not over and account.tries >= MOST_TRIES:
        after_s = (account.tried_at + LOCKED_FOR - now).total_seconds()  # type: ignore[operator]
        session.rollback()
        raise MeldrinError(
            Code.TOO_MANY,
            f"Wrong {MOST_TRIES} times. Wait a quarter of an hour, or take your slip.",
            after_s=max(1, round(after_s)),
        )
    account.tries = 1 if over else account.tries + 1
    account.tried_at = now if over else account.tried_at
    learner, hashed = account.learner_id, account.passphrase
    session.commit()
    with _turn():
        try:
            _HASHER.verify(hashed, said)
        except VerifyMismatchError as error:
            raise MeldrinError(Code.SIGN_IN, WRONG) from error
    return _let_in(session, learner, secret=secret, device=device, now=now, ends_at=ends_at)


def sign_in_by_slip(
    session: Session, code: str, *, secret: str, device: Device, now: datetime
) -> Actor:
    """Let somebody in by the code of a slip, also whose name is locked.

    Raises:
        MeldrinError: code ``slip`` for what can be no code, ``sign_in`` for one that holds nothing.
    """
    wanted = digest(code_said(code))
    learner = session.scalar(select(AccountRow.learner_id).where(AccountRow.slip_sha256 == wanted))
    if learner is None:
        raise MeldrinError(Code.SIGN_IN, "This code does not hold. Is it your newest slip?")
    return _let_in(session, learner, secret=secret, device=device, now=now)


def _let_in(
    session: Session,
    learner: int,
    *,
    secret: str,
    device: Device,
    now: datetime,
    ends_at: datetime | None = None,
) -> Actor:
    session.execute(
        update(AccountRow).where(AccountRow.learner_id == learner).values(tries=0, tried_at=None)
    )
    mine = SignInRow.learner_id == learner
    newest = (
        select(SignInRow.id).where(mine).order_by(SignInRow.seen_at.desc(), SignInRow.id.desc())
    )
    kept = session.scalars(newest.limit(MOST_SIGN_INS - 1)).all()
    session.execute(delete(SignInRow).where(mine, SignInRow.id.not_in(kept)))
    let_in(session, learner, secret=secret, device=device, now=now, ends_at=ends_at)
    session.execute(update(LearnerRow).where(LearnerRow.id == learner).values(seen_at=now))
    session.commit()
    return Actor(learner)


def refuse_named(session: Session, guest: Actor) -> None:
    """Refuse that what somebody with a name has done is taken along.
    To be asked before anybody is let in.

    Raises:
        MeldrinError: code ``sign_in``.
    """
    if name_of(session, guest) is not None:
        raise MeldrinError(Code.SIGN_IN, "Only what a guest has done can be taken along.")


def take_along(session: Session, guest: Actor, actor: Actor) -> None:
    """Give all that a guest has done to somebody who has just signed in; the guest is no more.

    Raises:
        MeldrinError: code ``sign_in``, where the guest has a name.
    """
    if guest.learner is None or guest == actor:
        return
    refuse_named(session, guest)
    for table in TAKEN_ALONG:
        session.execute(
            update(table).where(table.learner_id == guest.learner).values(learner_id=actor.learner)
        )
    # IGNORE: they may have come by the same code themselves
    session.execute(
        update(AssignedGuestRow)
        .prefix_with("IGNORE")
        .where(AssignedGuestRow.learner_id == guest.learner)
        .values(learner_id=actor.learner)
    )
    if session.get(AimRow, actor.learner) is None:
        session.execute(
            update(AimRow)
            .where(AimRow.learner_id == guest.learner)
            .values(learner_id=actor.learner)
        )
    session.execute(delete(LearnerRow).where(LearnerRow.id == guest.learner))
    session.commit()


def sign_ins(session: Session, actor: Actor, *, secret: str | None) -> list[SignIn]:
    """Return the browsers that somebody is signed in with, the newest first."""
    here = digest(secret) if secret else b""
    query = (
        select(SignInRow)
        .where(SignInRow.learner_id == actor.learner)
        .order_by(SignInRow.seen_at.desc(), SignInRow.id.desc())
    )
    return [
        SignIn(one.public_id, one.device, one.created_at, one.seen_at, one.secret_sha256 == here)
        for one in session.scalars(query)
    ]


def end_sign_in(session: Session, actor: Actor, sign_in_id: str) -> None:
    """Sign a browser out.

    Raises:
        MeldrinError: code ``no_such_sign_in``, also for somebody else's; ``sign_in`` for a guest,
            whose work nothing would bring back.
    """
    mine = SignInRow.learner_id == actor.learner, SignInRow.public_id == sign_in_id
    if session.scalar(select(SignInRow.id).where(*mine)) is None:
        raise MeldrinError(Code.NO_SUCH_SIGN_IN, "There is no such sign-in.")
    _not_a_guest(session, actor)
    session.execute(delete(SignInRow).where(*mine))
    session.commit()


def sign_out(session: Session, actor: Actor, *, secret: str) -> None:
    """Sign out here.

    Raises:
        MeldrinError: code ``sign_in``, for a guest, whose work nothing would bring back.
    """
    _not_a_guest(session, actor)
    session.execute(
        delete(SignInRow).where(
            SignInRow.learner_id == actor.learner, SignInRow.secret_sha256 == digest(secret)
        )
    )
    session.commit()


def _not_a_guest(session: Session, actor: Actor) -> None:
    if name_of(session, actor) is None:
        raise MeldrinError(Code.SIGN_IN, "Take a name first, else your work is lost.")


def _hashed(pictures: Sequence[str]) -> str:
    with _turn():
        return _HASHER.hash(passphrase_said(pictures))


@contextmanager
def _turn() -> Iterator[None]:
    """Wait for a turn to hash.

    Raises:
        MeldrinError: code ``busy``, where too many wait.
    """
    if not _HERE.acquire(blocking=False):
        raise MeldrinError(
            Code.BUSY, "Too many sign in at this moment; try again in a few seconds.", after_s=5
        )
    try:
        with _HASHING:
            yield
    finally:
        _HERE.release()
