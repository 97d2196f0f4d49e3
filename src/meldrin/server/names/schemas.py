"""Names of things, as screens show them."""

from typing import Annotated

from pydantic import Field

from meldrin.core.beats import Interval
from meldrin.core.glossary import Picture
from meldrin.core.methods.wanted import Order
from meldrin.core.sound.events import SoundEvent
from meldrin.wire import Wire


class Named(Wire):
    """A thing's id, its name, and a few words about it."""

    id: str
    name: str
    about: str


class NamedMethod(Named):
    """A method; `how`: its name inside a sentence. `orders`: those the strings may be taken in;
    whether it can start from one string trusted as it is, and whether it begins with a fork.
    """

    how: str
    orders: list[Order]
    from_trusted: bool
    from_fork: bool
    sets_frets: bool
    has_tonic: bool


class NamedDrill(Named):
    """An ear drill; `interval`: the one it usually begins with."""

    interval: Interval


class NamedRound(Wire):
    """What a class can judge at once: a drill, with its interval."""

    id: str
    words: str
    drill: str
    interval: Interval


class Word(Wire):
    """A word of the glossary: how it is written, what it says, and the picture of it; without one
    it can be heard.
    """

    id: str
    words: tuple[str, ...]
    says: str
    see: Picture | None


class WordSound(Wire):
    """What a word sounds like."""

    sounds: list[Annotated[SoundEvent, Field(discriminator="kind")]]


class Names(Wire):
    """Everything that has a name on screen, in the order it is offered in."""

    methods: list[NamedMethod]
    drills: list[NamedDrill]
    rounds: list[NamedRound]
    starts: list[Named]
    aids: list[Named]
    tolerances: list[Named]
    behaviours: list[Named]
    verdicts: list[Named]
    ripples: list[Named]
    bases: list[Named]
    orders: list[Named]
    fork_ats: list[Named]
    namings: list[Named]
    words: list[Word]
    faults: list[Named]
    remedies: list[Named]
    ears: list[Named]
