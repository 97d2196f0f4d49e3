"""The messages of the bench, both ways: two discriminated unions."""

from typing import Annotated, Literal

from pydantic import Field, TypeAdapter

from meldrin.core.bench import Action
from meldrin.core.bench.actions import Aid, Mode, Pickup, TunerStep, Verdict
from meldrin.core.bench.limits import Ripple
from meldrin.core.sound.events import SoundEvent
from meldrin.server.realtime import messages as line
from meldrin.server.realtime.messages import Hello, Moved, Refused, Saved, Seconds, Trouble
from meldrin.wire import Wire, changes_of

BenchAction = Annotated[Action, Field(discriminator="kind")]
BenchSound = Annotated[SoundEvent, Field(discriminator="kind")]


class Act(line.Act):
    """An action; `number` rises by any step, `at_s` is the time since the attempt began."""

    action: BenchAction


class Listen(Wire):
    """What does the tuner read at this moment? It answers only while its aid is on."""

    kind: Literal["listen"]
    at_s: Seconds
    flats: bool = False


class SceneString(Wire):
    """What a player sees of a string: the finger (`light`: it presses with care), whether it
    rings, how often its peg was turned and how far its knob (degrees, up less down), where its fine
    tuner stands (-1 to 1), whether its peg is twisted and sticks, whether it hangs slack or is
    broken.
    """

    number: int
    fret: float
    touched: bool
    hard: bool
    light: bool
    ringing: bool
    along: bool
    moves: int
    last_turn: int
    knob_deg: float
    fine: float
    stuck: bool
    slack: bool
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
    """How the tuner is set, what it listens with, and how coarse it is (0: to a tenth)."""

    a4_hz: float
    mode: Mode
    pickup: Pickup
    step_cents: TunerStep


class SceneAnswer(Wire):
    """How a string is, after it was said: the truth, and a sentence."""

    verdict: Verdict
    sentence: str


class Scene(Wire):
    """What a player may see of the state, by the aid that is on.

    may_decide: it can still be said whether this step's string is low or high before its first
        turn.
    may_put_out: help has shown this step's string, which can be put out again to do it by ear.
    may_check: all strings have been judged, so the tuner may show them; `checked`: it has.
    minute: by how much each string moved in the last minute of playing (cents, by its number),
        once all are judged and none has been turned since.
    lying: whether the instrument lies; null where it is held all the time.
    reference_verdict: what was said of the reference.
    may_name: a chord has been played, and it can be said which of its strings is out.
    named: what comes of having said it: in free play the truth, else that it comes at the end.
    offset_cents: how the string that is looked at (`offset_string`, sounding with `offset_voice`)
        stands; only with level.
    away_s: how much longer the instrument has been waiting than the attempt has lasted.
    caution: what a teacher would warn of now.
    felt: what the last action made the hand feel, or what helps who is lost or stuck.
    guide: what a teacher beside a guided string would say now.
    asks_pace: it is asked whether the wobble got slower or faster by the first turn.
    answer: how the string of this step is, where that is told at once.
    """

    stage: int
    visited: list[int]
    judged: list[int]
    may_judge: bool
    may_decide: bool
    may_put_out: bool
    may_check: bool
    checked: bool
    minute: list[float] | None
    aid: Aid
    finished: bool
    strings: list[SceneString]
    muted: bool
    lying: bool | None
    reference_ringing: bool
    reference_verdict: Verdict | None
    may_name: bool
    named: str | None
    tuner: SceneTuner
    pair: ScenePair | None
    offset_string: int | None
    offset_voice: int | None
    offset_cents: float | None
    away_s: float
    caution: str | None
    felt: str | None
    guide: str | None
    asks_pace: bool
    answer: SceneAnswer | None


class SceneChanges(changes_of(Scene)):  # type: ignore[misc]
    """What is another in the scene than it was; of the strings only those that have changed."""


class Welcome(Wire):
    """The answer to Hello: the last number that is kept, and the scene as it stands, silent."""

    kind: Literal["welcome"] = "welcome"
    number: int
    at_s: float
    scene: Scene


class Now(Wire):
    """The answer to Act: what it has changed in the scene, and what sounds from now on."""

    kind: Literal["now"] = "now"
    number: int
    changes: SceneChanges
    sounds: list[BenchSound]


class Shown(Wire):
    """What the tuner shows; null while it hears no one pitch. `should_cents`: what it should show
    by the plan, where the string of this step is the one it reads; else null.
    """

    kind: Literal["shown"] = "shown"
    at_s: float
    name: str | None
    cents: float | None
    should_cents: float | None


class CheckedString(Wire):
    """What the tuner shows of one string: the name of its note and how far off it is (cents), null
    where it is too slack; what it should show by the plan, and how far from that it is.
    """

    number: int
    name: str | None
    cents: float | None
    should_name: str
    should_cents: float
    off_cents: float | None


class Checked(Wire):
    """All strings as the tuner shows them, once they have been judged."""

    kind: Literal["checked"] = "checked"
    strings: list[CheckedString]


FromBrowser = TypeAdapter[Hello | Act | Listen](
    Annotated[Hello | Act | Listen, Field(discriminator="kind")]
)
Reply = Welcome | Now | Saved | Refused | Shown | Checked | Trouble | Moved
ToBrowser = TypeAdapter[Reply](Annotated[Reply, Field(discriminator="kind")])
