"""Learners, how they come back, and what of the shared means each is using."""

from datetime import datetime
from typing import Final

from sqlalchemy import BigInteger, ForeignKey, LargeBinary, String
from sqlalchemy.dialects.mysql import BINARY
from sqlalchemy.orm import Mapped, mapped_column

from meldrin.store.tables.base import OPTIONS, Table, UtcTime


class LearnerRow(Table):
    """A learner: a guest, known only by the browser it came with, or somebody with an account.

    version: raised by every transaction that counts what the learner has before adding to it.
        Over a cluster a lock guards nothing, a row that changes does.
    seen_at: when it was last here, to the day.
    """

    __tablename__ = "learners"
    __table_args__ = OPTIONS

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    created_at: Mapped[datetime] = mapped_column(UtcTime)
    seen_at: Mapped[datetime] = mapped_column(UtcTime, index=True)
    version: Mapped[int] = mapped_column(default=0, server_default="0")


DIGEST: Final = LargeBinary(32).with_variant(BINARY(32), "mysql", "mariadb")


class SignInRow(Table):
    """A browser that a learner comes with: its cookie is a secret of which only the digest is kept.

    device: a phone, a tablet or a computer.
    seen_at: when it was last here, to the day.
    ends_at: when it ends by itself, or None where it does not; one on a shared device does.
    """

    __tablename__ = "sign_ins"
    __table_args__ = OPTIONS

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    public_id: Mapped[str] = mapped_column(String(32, "utf8mb4_bin"), unique=True)
    learner_id: Mapped[int] = mapped_column(ForeignKey("learners.id", ondelete="CASCADE"))
    secret_sha256: Mapped[bytes] = mapped_column(DIGEST, unique=True)
    device: Mapped[str] = mapped_column(String(20))
    created_at: Mapped[datetime] = mapped_column(UtcTime)
    seen_at: Mapped[datetime] = mapped_column(UtcTime)
    ends_at: Mapped[datetime | None] = mapped_column(UtcTime)


class AccountRow(Table):
    """The name of a learner, and what brings them back: a passphrase of pictures, or a slip's code.

    name_key: what names that look alike have in common.
    passphrase: hashed by Argon2. slip_sha256: of a code too long to guess; None where no slip was
        made.
    tries, tried_at: wrong passphrases, and when the first of them was.
    """

    __tablename__ = "accounts"
    __table_args__ = OPTIONS

    learner_id: Mapped[int] = mapped_column(
        ForeignKey("learners.id", ondelete="CASCADE"), primary_key=True, autoincrement=False
    )
    name: Mapped[str] = mapped_column(String(60))
    name_key: Mapped[str] = mapped_column(String(60, "utf8mb4_bin"), unique=True)
    passphrase: Mapped[str] = mapped_column(String(200))
    slip_sha256: Mapped[bytes | None] = mapped_column(DIGEST, unique=True)
    tries: Mapped[int] = mapped_column(default=0, server_default="0")
    tried_at: Mapped[datetime | None] = mapped_column(UtcTime)
    created_at: Mapped[datetime] = mapped_column(UtcTime)


class UseRow(Table):
    """How often a learner has done what is limited, in the stretch of time that began then."""

    __tablename__ = "uses"
    __table_args__ = OPTIONS

    learner_id: Mapped[int] = mapped_column(
        ForeignKey("learners.id", ondelete="CASCADE"), primary_key=True
    )
    kind: Mapped[str] = mapped_column(String(20), primary_key=True)
    began_at: Mapped[datetime] = mapped_column(UtcTime, primary_key=True)
    count: Mapped[int]


class OpenLineRow(Table):
    """A line that a learner has open: one of a limited number of places, held by a process until a
    moment that the process puts off for as long as it runs.
    """

    __tablename__ = "open_lines"
    __table_args__ = OPTIONS

    learner_id: Mapped[int] = mapped_column(
        ForeignKey("learners.id", ondelete="CASCADE"), primary_key=True
    )
    place: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    process: Mapped[str] = mapped_column(String(32, "utf8mb4_bin"), index=True)
    until: Mapped[datetime] = mapped_column(UtcTime)


class PulseRow(Table):
    """When a process last found that it can write."""

    __tablename__ = "pulses"
    __table_args__ = OPTIONS

    process: Mapped[str] = mapped_column(String(32, "utf8mb4_bin"), primary_key=True)
    at: Mapped[datetime] = mapped_column(UtcTime)
