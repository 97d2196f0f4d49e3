"""An instrument to be looked at and heard before anything is practised."""

from typing import Annotated

from pydantic import Field

from meldrin.core.sound.demonstrations import Wobble
from meldrin.core.sound.events import SoundEvent
from meldrin.server.attempts.schemas import BenchString
from meldrin.wire import Wire

AnySound = Annotated[SoundEvent, Field(discriminator="kind")]


class OpenString(Wire):
    """What an open string in tune sounds like, by its number."""

    number: int
    sounds: list[AnySound]


class PlayedInstrument(Wire):
    """An instrument as it is drawn, and each of its open strings."""

    id: str
    name: str
    frets: int
    strings: list[BenchString]
    sounds: list[OpenString]


class WobbleSound(Wire):
    """A string and the fork together: how they sound, the voices and the places (from 1) of the
    partials that meet, and their beat.
    """

    id: Wobble
    sounds: list[AnySound]
    own_voice: int
    own_partial: int
    other_voice: int
    other_partial: int
    beats_hz: float
