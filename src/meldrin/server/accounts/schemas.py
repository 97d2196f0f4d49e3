"""The shapes of names, passphrases and sign-ins."""

from datetime import datetime
from typing import Annotated

from annotated_types import MaxLen

from meldrin.core.people import PICTURES_OF_A_PASSPHRASE
from meldrin.wire import Wire

PictureId = Annotated[str, MaxLen(40)]


class PassphrasePicture(Wire):
    """A picture: its id, which is the name of its drawing, and its words."""

    id: str
    words: str


class PassphraseGroup(Wire):
    """Pictures of a kind."""

    name: str
    pictures: list[PassphrasePicture]


class KeepWanted(Wire):
    """The name that somebody chooses; it need not be their own."""

    name: Annotated[str, MaxLen(60)]


class KeptWork(Wire):
    """What brings somebody back, told once: pictures in their order, and the code of a slip."""

    name: str
    pictures: list[PassphrasePicture]
    code: str


class SignInWanted(Wire):
    """Who comes back: by name and pictures, or by the code of a slip. `bring`: what this browser
    has done without a name comes along.
    """

    name: Annotated[str, MaxLen(60)] = ""
    pictures: Annotated[tuple[PictureId, ...], MaxLen(PICTURES_OF_A_PASSPHRASE)] = ()
    code: Annotated[str, MaxLen(40)] = ""
    bring: bool = False


class SignedIn(Wire):
    """Whose work is open in this browser now."""

    name: str


class SignInPlace(Wire):
    """A browser that somebody is signed in with. `here`: the one that asks."""

    id: str
    device: str
    since: datetime
    seen: datetime
    here: bool
