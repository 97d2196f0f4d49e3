"""Everything a learner can do at the bench: a closed union, and its stored form."""

from dataclasses import dataclass
from typing import Final, Literal, get_args

from meldrin.core.bench.fault import FaultKind, Remedy
from meldrin.core.errors import Code, MeldrinError, known, one_of, within
from meldrin.core.pitch import checked_a4_hz
from meldrin.core.session import Record, Shape, Timed

MOST_DEGREES: Final = 90.0  # more than a hand turns in one go
MOST_CENTS: Final = 100.0
MOST_FRET: Final = 36.0
MOST_SLIDE_MM: Final = 20.0
MOST_DAYS: Final = 14.0
DAY_S: Final = 86_400.0

Verdict = Literal["low", "in_tune", "high"]
Aid = Literal["ear", "ripple", "level", "tuner"]
Way = Literal["usual", "pluck", "bow"]
Mode = Literal["chromatic", "instrument", "lowered"]
Pickup = Literal["microphone", "contact"]
TunerStep = Literal[0, 2, 5]  # cents between two readings; 0: a fine tuner's tenth
Decision = Literal["low", "high", "unsure"]
Slower = Literal["slower", "faster"]


@dataclass(frozen=True, slots=True)
class Play:
    """Play strings as they are fingered, and the reference with them.

    strings: their numbers, in the order they are struck.
    reference: whether the reference sounds too.
    strength: of the stroke, 0.1 to 1.
    place: where it is plucked, 0.03 to 0.5 of the open length from the bridge.
    way: plucked or bowed, or as the instrument usually is.
    by_prongs: the fork is held by its prongs, which is wrong.
    """

    strings: tuple[int, ...]
    reference: bool = False
    strength: float = 0.7
    place: float = 0.14
    way: Way = "usual"
    by_prongs: bool = False
    kind: Literal["play"] = "play"

    def __post_init__(self) -> None:
        within(self.strength, name="strength", low=0.1, high=1.0)
        within(self.place, name="place of the pluck", low=0.03, high=0.5)
        one_of(Way, self.way, name="a way to play", code=Code.ACTION)
        if len(set(self.strings)) != len(self.strings):
            raise MeldrinError(Code.ACTION, "A string can be played only once at a time.")
        if not self.strings and not self.reference:
            raise MeldrinError(Code.ACTION, "Name a string to play, or the fork.")


@dataclass(frozen=True, slots=True)
class Stop:
    """Lay the finger just behind a fret of a string, or only touch it there; 0 lifts it.

    A touch may lie between frets, and without frets where they would be. `hard`: pressed harder
    than the note needs, which pulls the string sharp. `light`: with care, as lightly as the note
    needs; where a fault is looked for, the usual finger may be the fault.
    """

    string: int
    fret: float
    touch: bool = False
    hard: bool = False
    light: bool = False
    kind: Literal["stop"] = "stop"

    def __post_init__(self) -> None:
        within(self.fret, name="fret", low=0.0, high=MOST_FRET)
        if not self.touch and self.fret != int(self.fret):
            raise MeldrinError(
                Code.FRET, "A finger presses behind a fret; between two it may touch."
            )


@dataclass(frozen=True, slots=True)
class Turn:
    """Turn the knob of a string's peg, in degrees; positive tightens.

    `pushed`: pushed in while it is turned, as a friction peg wants; `fine`: the screw of the fine
    tuner (or the bead) instead.
    """

    string: int
    degrees: float
    pushed: bool = True
    fine: bool = False
    kind: Literal["turn"] = "turn"

    def __post_init__(self) -> None:
        within(self.degrees, name="turn", low=-MOST_DEGREES, high=MOST_DEGREES, unit="degrees")


@dataclass(frozen=True, slots=True)
class SlideFret:
    """Slide a movable fret along the neck, in millimetres; positive towards the bridge, which makes
    its notes higher.
    """

    fret: int
    mm: float
    kind: Literal["slide_fret"] = "slide_fret"

    def __post_init__(self) -> None:
        within(self.mm, name="slide", low=-MOST_SLIDE_MM, high=MOST_SLIDE_MM, unit="mm")


@dataclass(frozen=True, slots=True)
class LetGo:
    """Take the hand off a string's peg; a friction peg that was not pushed in may slip."""

    string: int
    kind: Literal["let_go"] = "let_go"


@dataclass(frozen=True, slots=True)
class Settle:
    """Pull a string gently along its length, so that slack behind the nut and at the post comes
    out now and not later.
    """

    string: int
    kind: Literal["settle"] = "settle"


@dataclass(frozen=True, slots=True)
class Replace:
    """Put a new string on in place of a broken one: slack, and new."""

    string: int
    kind: Literal["replace"] = "replace"


@dataclass(frozen=True, slots=True)
class MuteAll:
    """Lay the hand on everything that rings."""

    kind: Literal["mute_all"] = "mute_all"


@dataclass(frozen=True, slots=True)
class MuteOthers:
    """Keep the hand on the strings that are not sounded, or take it off again."""

    on: bool
    kind: Literal["mute_others"] = "mute_others"


@dataclass(frozen=True, slots=True)
class Wait:
    """Leave the instrument and come back later: `seconds` go by for it."""

    seconds: float
    kind: Literal["wait"] = "wait"

    def __post_init__(self) -> None:
        within(self.seconds, name="wait", low=1.0, high=MOST_DAYS * DAY_S, unit="s")


@dataclass(frozen=True, slots=True)
class Judge:
    """Say whether the string of this step is low, in tune or high, and by how many cents."""

    verdict: Verdict
    cents: float
    kind: Literal["judge"] = "judge"

    def __post_init__(self) -> None:
        one_of(Verdict, self.verdict, name="a judgement", code=Code.ACTION)
        within(self.cents, name="judgement", low=0.0, high=MOST_CENTS, unit="cents")


@dataclass(frozen=True, slots=True)
class Decide:
    """Say, before the first turn of this step's string, whether it is low or high, or that you
    cannot tell.
    """

    verdict: Decision
    kind: Literal["decide"] = "decide"

    def __post_init__(self) -> None:
        one_of(Decision, self.verdict, name="an answer", code=Code.ACTION)


@dataclass(frozen=True, slots=True)
class Pace:
    """Say whether the wobble got slower or faster by the first turn, where that is asked."""

    said: Slower
    kind: Literal["pace"] = "pace"

    def __post_init__(self) -> None:
        one_of(Slower, self.said, name="an answer", code=Code.ACTION)


@dataclass(frozen=True, slots=True)
class PutOut:
    """Have this step's string put out again, by an amount that nobody sees, and the help hidden."""

    kind: Literal["put_out"] = "put_out"


@dataclass(frozen=True, slots=True)
class LayChord:
    """Lay the fingers of a chord, by its name in the tuning; the strings it leaves out are open."""

    name: str
    kind: Literal["lay_chord"] = "lay_chord"


@dataclass(frozen=True, slots=True)
class NameOut:
    """Say which string of the chord that was played is out, and which way; string 0, in tune: none
    is.
    """

    string: int
    verdict: Verdict
    kind: Literal["name_out"] = "name_out"

    def __post_init__(self) -> None:
        one_of(Verdict, self.verdict, name="a judgement", code=Code.ACTION)
        if (self.string == 0) != (self.verdict == "in_tune"):
            raise MeldrinError(Code.ACTION, "Name the string that is low or high, or none.")


@dataclass(frozen=True, slots=True)
class FindFault:
    """Say what is wrong with the instrument, on which string (0 where it is on all of them), and
    what is done about it; once.
    """

    fault: FaultKind
    string: int
    remedy: Remedy
    kind: Literal["find_fault"] = "find_fault"

    def __post_init__(self) -> None:
        one_of(FaultKind, self.fault, name="a fault", code=Code.ACTION)
        one_of(Remedy, self.remedy, name="something to do", code=Code.ACTION)


@dataclass(frozen=True, slots=True)
class CheckWithTuner:
    """Read every open string with the tuner, after all have been tuned; nothing is changed."""

    kind: Literal["check_with_tuner"] = "check_with_tuner"


@dataclass(frozen=True, slots=True)
class PlayAMinute:
    """Play the instrument for a minute and wait one more: what does not hold moves."""

    kind: Literal["play_a_minute"] = "play_a_minute"


@dataclass(frozen=True, slots=True)
class Lay:
    """Lay the instrument down, or take it up as it is played."""

    down: bool
    kind: Literal["lay"] = "lay"


@dataclass(frozen=True, slots=True)
class LeaveOff:
    """Leave a broken string off, and tune the rest."""

    string: int
    kind: Literal["leave_off"] = "leave_off"


@dataclass(frozen=True, slots=True)
class JudgeReference:
    """Say of the reference that it is low, in tune or high; a wrong one is then changed."""

    verdict: Verdict
    kind: Literal["judge_reference"] = "judge_reference"

    def __post_init__(self) -> None:
        one_of(Verdict, self.verdict, name="a judgement", code=Code.ACTION)


@dataclass(frozen=True, slots=True)
class SetTuner:
    """Set the tuner's calibration, its mode, and what it listens with: a microphone hears the
    room, a contact pickup only the instrument. `step_cents`: a coarse one shows steps of 2 or 5
    cents, and follows slowly.
    """

    a4_hz: float
    mode: Mode = "chromatic"
    pickup: Pickup = "microphone"
    step_cents: TunerStep = 0
    kind: Literal["set_tuner"] = "set_tuner"

    def __post_init__(self) -> None:
        checked_a4_hz(self.a4_hz)
        one_of(Mode, self.mode, name="a mode of the tuner", code=Code.ACTION)
        one_of(Pickup, self.pickup, name="what a tuner listens with", code=Code.ACTION)
        one_of(TunerStep, self.step_cents, name="a tuner’s step in cents", code=Code.ACTION)


@dataclass(frozen=True, slots=True)
class GoTo:
    """Go to a stage of the plan (from 0); the finger is put where that stage wants it."""

    stage: int
    kind: Literal["go_to"] = "go_to"


@dataclass(frozen=True, slots=True)
class SetAid:
    """Choose how much the picture helps."""

    aid: Aid
    kind: Literal["set_aid"] = "set_aid"

    def __post_init__(self) -> None:
        one_of(Aid, self.aid, name="an aid", code=Code.ACTION)


@dataclass(frozen=True, slots=True)
class Finish:
    """End the attempt; nothing can be done after it."""

    kind: Literal["finish"] = "finish"


Action = (
    Play
    | Stop
    | Turn
    | SlideFret
    | LetGo
    | Settle
    | Replace
    | MuteAll
    | MuteOthers
    | Wait
    | Decide
    | Judge
    | Pace
    | PutOut
    | LayChord
    | NameOut
    | FindFault
    | CheckWithTuner
    | PlayAMinute
    | Lay
    | LeaveOff
    | JudgeReference
    | SetTuner
    | GoTo
    | SetAid
    | Finish
)
TimedAction = Timed[Action]
_KINDS: Final = {made.__dataclass_fields__["kind"].default: made for made in get_args(Action)}
_RENAMED: Final = {  # in version 4
    "sound": "play",
    "damp": "mute_all",
    "mute": "mute_others",
    "doubt": "judge_reference",
    "next": "go_to",
    "help": "set_aid",
}


def _write(action: Action) -> Record:
    return {name: getattr(action, name) for name in action.__dataclass_fields__}  # they are flat


def _read(fields: Record) -> Action:
    made = known(_KINDS, str(fields.pop("kind", None)), name="action", code=Code.ACTION)
    if "strings" in fields:
        fields["strings"] = tuple(fields["strings"])
    action: Action = made(**fields)
    return action


def _renamed(fields: Record) -> Record:
    """Return an action of version 3 with the names of version 4."""
    kind = str(fields.get("kind"))
    verdict = {"verdict": "in_tune"} if fields.get("verdict") == "still" else {}
    return {**fields, "kind": _RENAMED.get(kind, kind), **verdict}


ACTIONS: Final = Shape[Action](
    name="action",
    code=Code.ACTION,
    version=4,
    write=_write,
    read=_read,
    # Versions 1 and 2 knew less of some actions; what they lack had the values still usual.
    upgrades={1: dict, 2: dict, 3: _renamed},
)
