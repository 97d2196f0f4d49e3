"""Studios as they are shown."""

from typing import TYPE_CHECKING

from sqlalchemy.orm import Session

from meldrin.core.people import code_said, name_said, passphrase_said, picture_words
from meldrin.server.accounts.schemas import PassphrasePicture
from meldrin.server.studios.schemas import (
    AuditEntry,
    PupilSlip,
    SharedDevice,
    ShelvedInstrument,
    SlipToPrint,
    StudioEnding,
    StudioGroup,
    StudioMember,
    StudioPage,
    StudioPlace,
)
from meldrin.services.actor import Actor
from meldrin.services.audit import Entry
from meldrin.services.permissions import may_erase_pupil, may_reset
from meldrin.services.pupils import Person, Slip, people, study_groups
from meldrin.services.school_instruments import SchoolInstrument, school_instruments
from meldrin.services.studios import Place
from meldrin.services.tablets import shared_devices
from meldrin.store.tables import StudioRow

if TYPE_CHECKING:
    from meldrin.reports.slips_pdf import PrintedSlip


def place_of(place: Place) -> StudioPlace:
    """Return where somebody is in a studio."""
    return StudioPlace(
        id=place.studio.public_id,
        name=place.studio.name,
        role=place.me.role,
        called=place.me.name,
        teachers=list(place.teachers),
    )


def page_of(session: Session, actor: Actor, studio: StudioRow) -> StudioPage:
    """Return a studio as those who teach there see it."""
    everybody = people(session, studio)
    return StudioPage(
        id=studio.public_id,
        name=studio.name,
        role=actor.teaches[studio.id],
        join_code=studio.join_code,
        members=[_member_of(actor, one) for one in everybody],
        groups=[
            StudioGroup(id=one.public_id, name=one.name) for one in study_groups(session, studio)
        ],
        instruments=[shelved_of(key, one) for key, one in school_instruments(session, studio)],
        devices=[
            SharedDevice(id=one.public_id, name=one.name, since=one.created_at)
            for one in shared_devices(session, studio)
        ],
        ending=_ending_of(actor, studio, everybody),
    )


def shelved_of(key: str, one: SchoolInstrument) -> ShelvedInstrument:
    """Return an instrument of a studio."""
    return ShelvedInstrument(
        id=key,
        shelf=one.shelf,
        instrument=one.instrument,
        tuning=one.tuning,
        behaviours=tuple(sorted(one.behaviours)),
        note=one.note,
    )


def entry_of(entry: Entry) -> AuditEntry:
    """Return something that was done."""
    return AuditEntry(at=entry.at, who=entry.who, says=entry.says)


def slip_of(slip: Slip) -> PupilSlip:
    """Return what a pupil is given."""
    words = picture_words()
    return PupilSlip(
        called=slip.called,
        name=slip.kept.name,
        pictures=[PassphrasePicture(id=one, words=words[one]) for one in slip.kept.pictures],
        code=slip.kept.code,
    )


def printed_of(slip: SlipToPrint, *, address: str) -> "PrintedSlip":
    """Return a slip as it is printed.

    Raises:
        MeldrinError: code ``name``, ``passphrase`` or ``slip``, for what no slip has.
    """
    from meldrin.reports.slips_pdf import PrintedSlip

    passphrase_said(slip.pictures)
    words = picture_words()
    code = code_said(slip.code)
    return PrintedSlip(
        name_said(slip.called),
        name_said(slip.name),
        tuple(words[one] for one in slip.pictures),
        code,
        f"{address}/account#slip={code}",
    )


def _member_of(actor: Actor, one: Person) -> StudioMember:
    return StudioMember(
        id=one.row.public_id,
        name=one.row.name,
        role=one.row.role,
        signs_in_as=one.signs_in_as,
        groups=list(one.groups),
        joined=one.row.joined_at,
        seen=one.seen,
        can_reset=may_reset(actor, one.row, teaches=one.teaches),
        can_erase=may_erase_pupil(actor, one.row, teaches=one.teaches),
    )


def _ending_of(actor: Actor, studio: StudioRow, everybody: list[Person]) -> StudioEnding | None:
    if studio.ending_at is None:
        return None
    names = {one.row.learner_id: one.row.name for one in everybody}
    return StudioEnding(
        at=studio.ending_at,
        asked_by=names.get(studio.ending_by or 0),
        asked_by_you=studio.ending_by == actor.learner,
    )
