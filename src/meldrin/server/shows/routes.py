"""Comparisons for a lesson over HTTP: which there are, and what each plays."""

from typing import Annotated

from fastapi import APIRouter
from pydantic import Field

from meldrin.core.shows import SHOWS, Show, show_of
from meldrin.core.sound.events import SoundEvent
from meldrin.server.dependencies import Route
from meldrin.wire import Wire

router = APIRouter(prefix="/api", tags=["shows"], route_class=Route)


class ShowOption(Wire):
    """A comparison as it stands in a list, with what to listen for."""

    id: str
    name: str
    listen_for: str


class ShownString(Wire):
    """A string, and how far beside its note it is, in cents."""

    label: str
    cents: float


class ShowScene(Wire):
    """A side of a comparison: what it plays, for how long, what it tells, and how the strings
    stand; none where two notes are compared.
    """

    words: str
    says: str
    sounds: list[Annotated[SoundEvent, Field(discriminator="kind")]]
    lasts_s: float
    strings: list[ShownString]


class ShowPage(ShowOption):
    """A comparison with its sides, in order."""

    scenes: list[ShowScene]


@router.get("/shows")
def list_shows() -> list[ShowOption]:
    """The comparisons that a class can hear."""
    return [ShowOption(id=one.id, name=one.name, listen_for=one.listen_for) for one in SHOWS]


@router.get("/shows/{show}")
def open_show(show: str) -> ShowPage:
    """A comparison, with what it plays."""
    return _page_of(show_of(show))


def _page_of(show: Show) -> ShowPage:
    return ShowPage(
        id=show.id,
        name=show.name,
        listen_for=show.listen_for,
        scenes=[
            ShowScene(
                words=one.words,
                says=one.says,
                sounds=list(one.events),
                lasts_s=one.lasts_s,
                strings=[ShownString(label=each.label, cents=each.cents) for each in one.strings],
            )
            for one in show.scenes
        ],
    )
