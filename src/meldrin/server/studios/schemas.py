"""The shapes of studios."""

from datetime import datetime
from typing import Annotated, Literal

from annotated_types import MaxLen, MinLen

from meldrin.core.bench import Behaviour
from meldrin.core.people import MOST_LETTERS, MOST_OF_A_TITLE, PICTURES_OF_A_PASSPHRASE, Role
from meldrin.server.accounts.schemas import KeptWork, PictureId
from meldrin.services.school_instruments import MOST_OF_A_LABEL, MOST_OF_A_NOTE, SchoolInstrument
from meldrin.wire import Wire

Title = Annotated[str, MaxLen(2 * MOST_OF_A_TITLE)]
PublicId = Annotated[str, MaxLen(32)]
MOST_OF_A_LIST = 40_000


class StudioWanted(Wire):
    """What a studio is called."""

    name: Title


class StudioPlace(Wire):
    """A studio that somebody is in: as what, what they are called there, and who teaches."""

    id: str
    name: str
    role: Role
    called: str
    teachers: list[str]


class StudioMember(Wire):
    """A member, as those who teach see them.

    signs_in_as: the name of their account, or null for a guest.
    groups: the ids of the groups they are in.
    seen: when they were last here, to the day.
    can_reset, can_erase: whether one may make a new slip for them, and erase them wholly.
    """

    id: str
    name: str
    role: Role
    signs_in_as: str | None
    groups: list[str]
    joined: datetime
    seen: datetime
    can_reset: bool
    can_erase: bool


class StudioGroup(Wire):
    """A group of pupils."""

    id: str
    name: str


class StudioInstrument(Wire):
    """An instrument of a studio. `behaviours`: what is peculiar to it."""

    shelf: Annotated[str, MaxLen(2 * MOST_OF_A_LABEL)]
    instrument: Annotated[str, MaxLen(40)]
    tuning: Annotated[str, MaxLen(200)] = "standard"
    behaviours: Annotated[tuple[Behaviour, ...], MaxLen(20)] = ()
    note: Annotated[str, MaxLen(2 * MOST_OF_A_NOTE)] = ""

    def value(self) -> SchoolInstrument:
        """Return the instrument.

        Raises:
            MeldrinError: for what the catalogue does not have, and what is too long.
        """
        return SchoolInstrument(
            self.shelf.strip(),
            self.instrument,
            self.tuning,
            frozenset(self.behaviours),
            " ".join(self.note.split()),
        )


class ShelvedInstrument(StudioInstrument):
    """An instrument of a studio with its id."""

    id: str


class SharedDevice(Wire):
    """A device that pupils share."""

    id: str
    name: str
    since: datetime


class StudioEnding(Wire):
    """A studio that is to be erased: when; by whom; and whether it waits for the one who asks."""

    at: datetime
    asked_by: str | None
    asked_by_you: bool


class StudioPage(Wire):
    """A studio, for those who teach there. `join_code`: null while nobody comes in by one."""

    id: str
    name: str
    role: Role
    join_code: str | None
    members: list[StudioMember]
    groups: list[StudioGroup]
    instruments: list[ShelvedInstrument]
    devices: list[SharedDevice]
    ending: StudioEnding | None


class ClassList(Wire):
    """A list of pupils as a spreadsheet saves it."""

    text: Annotated[str, MaxLen(MOST_OF_A_LIST)]


class ListedPupil(Wire):
    """A pupil of a list. `taken`: somebody in the studio has this name."""

    name: str
    groups: list[str]
    taken: bool


class PupilSlip(KeptWork):
    """What a pupil is given: what they are called in the studio, and what opens their work."""

    called: str


class SlipToPrint(Wire):
    """A slip to be printed: who it is for, what they sign in as, the ids of their pictures in their
    order, and the code.
    """

    called: Annotated[str, MaxLen(2 * MOST_LETTERS)]
    name: Annotated[str, MaxLen(2 * MOST_LETTERS)]
    pictures: Annotated[tuple[PictureId, ...], MaxLen(PICTURES_OF_A_PASSPHRASE)]
    code: Annotated[str, MaxLen(40)]


class SlipsToPrint(Wire):
    """Slips to be printed: they are told once, and come back from the page that has them."""

    slips: Annotated[list[SlipToPrint], MinLen(1), MaxLen(200)]
    heading: Title


class MemberChange(Wire):
    """What changes of a member: the name in the studio, the groups, or what they are."""

    name: Annotated[str, MaxLen(2 * MOST_LETTERS)] | None = None
    groups: Annotated[tuple[PublicId, ...], MaxLen(60)] | None = None
    role: Literal["teacher", "owner"] | None = None


class CodeMade(Wire):
    """A code, to be told."""

    code: str


class JoinCode(Wire):
    """A code that somebody was told."""

    code: Annotated[str, MaxLen(40)]


class JoinWanted(JoinCode):
    """Somebody joins: what they are to be called there, and whether the studio's teachers may make
    a new slip for them.
    """

    name: Annotated[str, MaxLen(2 * MOST_LETTERS)] = ""
    lets_reset: bool = False


class StudioDoor(Wire):
    """What a code lets somebody into."""

    name: str
    role: Role
    teachers: list[str]


class DeviceWanted(Wire):
    """What a shared device is called."""

    name: Title


class StudioEnded(Wire):
    """Whether the studio is erased now; else it waits for a second person, or a week."""

    erased: bool


class AuditEntry(Wire):
    """Something that was done: when, by whom (null where they have left), and what, in words that
    come after the name.
    """

    at: datetime
    who: str | None
    says: str
