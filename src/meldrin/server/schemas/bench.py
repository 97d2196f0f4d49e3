"""The messages of the bench socket, both ways: two discriminated unions."""

from typing import Annotated, Literal

from pydantic import Field, TypeAdapter

from meldrin.core.bench import (
    Damp,
    Finish,
    Go,
    Help,
    Judge,
    Sound,
    State,
    Stop,
    Turn,
    heard,
)
from meldrin.core.bench.actions import Aid
from meldrin.core.bench.caution import caution
from meldrin.core.sound.events import Release, Retune, Start
from meldrin.server.schemas.attempts import Wire

MOST_NUMBER = 2**31 - 1
LONGEST_S = 24 * 3600.0

BenchAction = Annotated[
    Sound | Stop | Turn | Damp | Judge | Go | Help | Finish, Field(discriminator="kind")
]
BenchSound = Annotated[Start | Retune | Release, Field(discriminator="kind")]


class Hello(Wire):
    """The first message of a tab: it takes the attempt over. `tab` is an id of its own making."""

    kind: Literal["hello"]
    tab: Annotated[str, Field(pattern=r"^[A-Za-z0-9-]{8,64}$")]


class Act(Wire):
    """An action; `number` rises by any step, `at_s` is the time since the attempt began."""

    kind: Literal["act"]
    number: Annotated[int, Field(ge=1, le=MOST_NUMBER)]
    at_s: Annotated[float, Field(ge=0.0, le=LONGEST_S)]
    action: BenchAction


class SceneString(Wire):
    """What a player sees of a string: finger, whether it rings, how often its peg was turned."""

    number: int
    fret: int
    ringing: bool
    moves: int
    last_turn: int


class ScenePair(Wire):
    """The stage's pair while both sides sound: the voices and their partials (from 1) that meet.
    `beats_hz` only with the aids ripple and level, `offset_cents` only with level.
    """

    own_voice: int
    own_partial: int
    other_voice: int
    other_partial: int
    beats_hz: float | None
    offset_cents: float | None


class Scene(Wire):
    """What a player may see of the state, by the aid that is on."""

    stage: int
    visited: list[int]
    judged: list[int]
    aid: Aid
    finished: bool
    strings: list[SceneString]
    fork_ringing: bool
    pair: ScenePair | None
    caution: str | None


class Welcome(Wire):
    """The answer to Hello: the last number that is kept, and the scene as it stands, silent."""

    kind: Literal["welcome"] = "welcome"
    number: int
    at_s: float
    scene: Scene


class Now(Wire):
    """The answer to Act: the new scene and what sounds from now on."""

    kind: Literal["now"] = "now"
    number: int
    scene: Scene
    sounds: list[BenchSound]


class Saved(Wire):
    """Every action up to this number is on disk."""

    kind: Literal["saved"] = "saved"
    number: int


class Refused(Wire):
    """A message could not be taken; nothing has changed. `number` is that of the action, if any."""

    kind: Literal["refused"] = "refused"
    number: int | None
    code: str
    message: str


class Trouble(Wire):
    """Actions are taken but cannot be saved for the moment; they are kept and tried again."""

    kind: Literal["trouble"] = "trouble"
    message: str


class Moved(Wire):
    """Another tab has taken the attempt over; this one is no longer heard."""

    kind: Literal["moved"] = "moved"
    message: str


FromBrowser = TypeAdapter[Hello | Act](Annotated[Hello | Act, Field(discriminator="kind")])
ToBrowser = TypeAdapter[Welcome | Now | Saved | Refused | Trouble | Moved](
    Annotated[Welcome | Now | Saved | Refused | Trouble | Moved, Field(discriminator="kind")]
)


def scene_of(state: State) -> Scene:
    """Return what a player may see of a state."""
    ringing = {voice.string for voice in state.ringing}
    pair = heard(state)
    return Scene(
        stage=state.stage,
        visited=sorted(state.visited),
        judged=sorted(said.stage for said in state.judgements),
        aid=state.aid,
        finished=state.finished,
        strings=[
            SceneString(
                number=number,
                fret=string.fret,
                ringing=number in ringing,
                moves=string.moves,
                last_turn=string.last_turn,
            )
            for number, string in enumerate(state.strings, start=1)
        ],
        fork_ringing=None in ringing,
        pair=None
        if pair is None
        else ScenePair(
            own_voice=pair.own_voice,
            own_partial=pair.own_partial,
            other_voice=pair.other_voice,
            other_partial=pair.other_partial,
            beats_hz=None if state.aid == "ear" else pair.beats_hz,
            offset_cents=pair.offset_cents if state.aid == "level" else None,
        ),
        caution=caution(state),
    )
