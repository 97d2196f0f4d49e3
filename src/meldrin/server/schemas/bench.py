"""The messages of the bench socket, both ways: two discriminated unions."""

from typing import Annotated, Literal

from pydantic import Field, TypeAdapter

from meldrin.core.bench import Action, State, heard
from meldrin.core.bench.actions import Aid, Mode, Pickup, Verdict
from meldrin.core.bench.caution import caution
from meldrin.core.bench.feel import hint
from meldrin.core.bench.limits import Ripple, limits
from meldrin.core.bench.observe import level
from meldrin.core.errors import Code
from meldrin.core.hearing import Reading
from meldrin.core.methods import Step
from meldrin.core.sound.events import Release, Retune, Start
from meldrin.server.schemas.wire import Wire

MOST_NUMBER = 2**31 - 1
LONGEST_S = 24 * 3600.0

BenchAction = Annotated[Action, Field(discriminator="kind")]
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


class Listen(Wire):
    """What does the tuner read at this moment? It answers only while its aid is on."""

    kind: Literal["listen"]
    at_s: Annotated[float, Field(ge=0.0, le=LONGEST_S)]
    flats: bool = False


class SceneString(Wire):
    """What a player sees of a string: the finger, whether it rings, how often its peg was turned,
    where its fine tuner stands (-1 to 1), whether its peg is twisted and sticks, whether it is
    broken.
    """

    number: int
    fret: float
    touched: bool
    hard: bool
    ringing: bool
    along: bool
    moves: int
    last_turn: int
    fine: float
    stuck: bool
    broken: bool
    off: bool


class ScenePair(Wire):
    """The stage's pair while both sides sound: the voices and their partials (from 1) that meet.
    `ripple`: how fast they beat, in a word, with the aids ripple and level; `beats_hz` only with
    level, or where the exercise shows numbers. `wanted_hz`: what it should be.
    """

    own_voice: int
    own_partial: int
    other_voice: int
    other_partial: int
    ripple: Ripple | None
    beats_hz: float | None
    wanted_hz: float


class SceneTuner(Wire):
    """How the tuner is set, and what it listens with."""

    a4_hz: float
    mode: Mode
    pickup: Pickup


class Scene(Wire):
    """What a player may see of the state, by the aid that is on.

    `offset_cents`: how the string that is looked at (`offset_string`, sounding with `offset_voice`)
    stands, only with level; `away_s`: how much longer the instrument has been waiting than the
    attempt has lasted. `may_decide`: it can still be said whether this step's string is low or
    high before its first turn. `may_check`: all strings have been judged, so the tuner may show
    them; `checked`: it has. `minute`: by how much each string moved in the last minute of playing
    (cents, by its number), once all strings are judged and none has been turned since. `felt`:
    what the last action made the hand feel, or what helps who is lost or stuck.
    """

    stage: int
    visited: list[int]
    judged: list[int]
    may_judge: bool
    may_decide: bool
    may_check: bool
    checked: bool
    minute: list[float] | None
    aid: Aid
    finished: bool
    strings: list[SceneString]
    muted: bool
    reference_ringing: bool
    doubted: Verdict | None
    tuner: SceneTuner
    pair: ScenePair | None
    offset_string: int | None
    offset_voice: int | None
    offset_cents: float | None
    away_s: float
    caution: str | None
    felt: str | None


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
    code: Code
    message: str


class Shown(Wire):
    """What the tuner shows; null while it hears no one pitch."""

    kind: Literal["shown"] = "shown"
    at_s: float
    name: str | None
    cents: float | None


class CheckedString(Wire):
    """What the tuner shows of one string: the name of its note and how far off it is (cents), null
    where it is too slack.
    """

    number: int
    name: str | None
    cents: float | None


class Checked(Wire):
    """All strings as the tuner shows them, once they have been judged."""

    kind: Literal["checked"] = "checked"
    strings: list[CheckedString]


class Trouble(Wire):
    """Actions are taken but cannot be saved for the moment; they are kept and tried again."""

    kind: Literal["trouble"] = "trouble"
    message: str


class Moved(Wire):
    """Another tab has taken the attempt over; this one is no longer heard."""

    kind: Literal["moved"] = "moved"
    message: str


FromBrowser = TypeAdapter[Hello | Act | Listen](
    Annotated[Hello | Act | Listen, Field(discriminator="kind")]
)
Reply = Welcome | Now | Saved | Refused | Shown | Checked | Trouble | Moved
ToBrowser = TypeAdapter[Reply](Annotated[Reply, Field(discriminator="kind")])


def checked(readings: dict[int, Reading | None]) -> Checked:
    """Return the wire form of a check of all strings with the tuner."""
    return Checked(
        strings=[
            CheckedString(
                number=number,
                name=None if one is None else one.name,
                cents=None if one is None else one.cents,
            )
            for number, one in readings.items()
        ]
    )


def shown(at_s: float, reading: Reading | None) -> Shown:
    """Return the wire form of a tuner's reading."""
    if reading is None:
        return Shown(at_s=at_s, name=None, cents=None)
    return Shown(at_s=at_s, name=reading.name, cents=reading.cents)


def scene_of(state: State, *, felt: str | None = None) -> Scene:
    """Return what a player may see of a state, with what the last action made the hand feel."""
    pair, stands = heard(state), level(state) if state.aid == "level" else None
    rippling = state.aid in ("ripple", "level")
    judged = {said.stage for said in state.judgements}
    return Scene(
        stage=state.stage,
        visited=sorted(state.visited),
        judged=sorted(judged),
        may_judge=_may_judge(state),
        may_decide=_may_decide(state),
        may_check=_may_check(state),
        checked=state.checked_s is not None,
        minute=_minute(state),
        aid=state.aid,
        finished=state.finished,
        strings=_strings(state),
        muted=state.muted,
        reference_ringing=any(voice.string is None for voice in state.ringing),
        doubted=state.doubted,
        tuner=SceneTuner(a4_hz=state.tuner_a4_hz, mode=state.tuner_mode, pickup=state.tuner_pickup),
        pair=None
        if pair is None
        else ScenePair(
            own_voice=pair.own_voice,
            own_partial=pair.own_partial,
            other_voice=pair.other_voice,
            other_partial=pair.other_partial,
            ripple=limits().ripple(pair.beats_hz) if rippling else None,
            beats_hz=pair.beats_hz if rippling and _numbers(state) else None,
            wanted_hz=pair.wanted_hz,
        ),
        offset_string=stands.string if stands else None,
        offset_voice=stands.voice if stands else None,
        offset_cents=stands.cents if stands else None,
        away_s=max(0.0, state.world_s + state.owed_s - state.time_s),
        caution=caution(state),
        felt=felt or hint(state),
    )


def _numbers(state: State) -> bool:
    return state.aid == "level" or state.setup.numbers


def _may_judge(state: State) -> bool:
    """Whether there is something new to say: the string was turned since, or can be heard."""
    stage = state.current()
    if not isinstance(stage, Step):
        return False
    said, now = state.judged(state.stage), state.string(stage.string)
    if now.turns != (said[-1].turns if said else 0):
        return True
    sounds = any(voice.string == stage.string and not voice.along for voice in state.ringing)
    return sounds or now.heard_s > (said[-1].at_s if said else now.turned_s)


def _may_decide(state: State) -> bool:
    stage = state.current()
    if not isinstance(stage, Step) or not state.setup.decides:
        return False
    decided = any(one.stage == state.stage for one in state.decisions)
    return not decided and not state.string(stage.string).turns and not state.judged(state.stage)


def _may_check(state: State) -> bool:
    """Whether every string has been judged (or left off), so that a tuner takes nothing away."""
    steps = state.rig.plan.steps
    said = {judgement.stage for judgement in state.judgements}
    return bool(steps) and all(
        index in said or state.string(step.string).off for index, step in enumerate(steps)
    )


def _minute(state: State) -> list[float] | None:
    turns = sum(string.turns for string in state.strings)
    if not state.minutes or state.minutes[-1].turns != turns or not _may_check(state):
        return None
    return [round(cents, 1) for cents in state.minutes[-1].moved_cents]


def _strings(state: State) -> list[SceneString]:
    ringing = {voice.string for voice in state.ringing if not voice.along}
    along = {voice.string for voice in state.ringing if voice.along}
    found = []
    for number, (string, now) in enumerate(
        zip(state.rig.strings, state.strings, strict=True), start=1
    ):
        half_m = string.fine.take_up_m / 2.0 if string.fine else 1.0
        found.append(
            SceneString(
                number=number,
                fret=now.fret,
                touched=now.touched,
                hard=now.hard,
                ringing=number in ringing,
                along=number in along,
                moves=now.moves,
                last_turn=now.last_turn,
                fine=now.fine_m / half_m,
                stuck=now.twist_deg != 0.0,
                broken=now.broken,
                off=now.off,
            )
        )
    return found
