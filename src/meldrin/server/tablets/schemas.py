"""The shapes of shared devices."""

from typing import Annotated

from annotated_types import MaxLen

from meldrin.core.people import PICTURES_OF_A_PASSPHRASE
from meldrin.server.accounts.schemas import PictureId
from meldrin.wire import Wire


class SharedPupil(Wire):
    """A pupil who can sign in here."""

    id: str
    name: str


class SharedPage(Wire):
    """A shared device: whose it is, and who can sign in. Null where this device is not shared."""

    studio: str | None
    pupils: list[SharedPupil]


class SharedSignIn(Wire):
    """A pupil and their four pictures."""

    pupil: Annotated[str, MaxLen(32)]
    pictures: Annotated[tuple[PictureId, ...], MaxLen(PICTURES_OF_A_PASSPHRASE)]
