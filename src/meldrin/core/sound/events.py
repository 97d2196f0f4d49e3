"""What happens to sound: voices start, are retuned while they ring, and are let go."""

from dataclasses import dataclass
from typing import Literal

from meldrin.core.sound.partials import PartialTable


@dataclass(frozen=True, slots=True)
class Start:
    """Voice number `voice` begins to sound `delay_s` after the moment of the event."""

    voice: int
    table: PartialTable
    delay_s: float = 0.0
    kind: Literal["start"] = "start"


@dataclass(frozen=True, slots=True)
class Retune:
    """The partials of a sounding voice glide in a straight line, in Hz, to where another series has
    them: its fundamental and stiffness.
    """

    voice: int
    fundamental_hz: float
    stiffness: float
    glide_s: float
    kind: Literal["retune"] = "retune"


@dataclass(frozen=True, slots=True)
class Release:
    """A voice fades by exp(-t/fade_s), `delay_s` after the moment of the event, as under a finger
    laid on the string. Of several the earliest counts.
    """

    voice: int
    fade_s: float
    delay_s: float = 0.0
    kind: Literal["release"] = "release"


SoundEvent = Start | Retune | Release
