"""Everything a learner can do at the bench: a closed union, and its stored form."""

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any, Final, Literal, get_args

from meldrin.core.errors import MeldrinError, within

VERSION: Final = 1
MOST_DEGREES: Final = 90.0  # more than a hand turns in one go
MOST_CENTS: Final = 100.0

Verdict = Literal["low", "still", "high"]
Aid = Literal["ear", "ripple", "level"]


@dataclass(frozen=True, slots=True)
class Sound:
    """Pluck these strings as they are stopped, lowest first; with `reference`, strike the fork."""

    strings: tuple[int, ...]
    reference: bool = False
    strength: float = 0.7
    kind: Literal["sound"] = "sound"

    def __post_init__(self) -> None:
        within(self.strength, name="strength", low=0.1, high=1.0)
        if len(set(self.strings)) != len(self.strings):
            raise MeldrinError("action", "A string can be sounded only once at a time.")
        if not self.strings and not self.reference:
            raise MeldrinError("action", "Name a string to sound, or the fork.")


@dataclass(frozen=True, slots=True)
class Stop:
    """Lay the finger just behind a fret of a string; 0 lifts it."""

    string: int
    fret: int
    kind: Literal["stop"] = "stop"


@dataclass(frozen=True, slots=True)
class Turn:
    """Turn the knob of a string's peg, in degrees; positive tightens."""

    string: int
    degrees: float
    kind: Literal["turn"] = "turn"

    def __post_init__(self) -> None:
        within(self.degrees, name="turn", low=-MOST_DEGREES, high=MOST_DEGREES, unit="degrees")


@dataclass(frozen=True, slots=True)
class Damp:
    """Lay the hand on everything that rings."""

    kind: Literal["damp"] = "damp"


@dataclass(frozen=True, slots=True)
class Judge:
    """Say how the string of this step sits, and by how many cents, before seeing the answer."""

    verdict: Verdict
    cents: float
    kind: Literal["judge"] = "judge"

    def __post_init__(self) -> None:
        if self.verdict not in get_args(Verdict):
            raise MeldrinError("action", "Say low, still or high.")
        within(self.cents, name="judgement", low=0.0, high=MOST_CENTS, unit="cents")


@dataclass(frozen=True, slots=True)
class Go:
    """Go to a stage of the plan (from 0); the finger is put where that stage wants it."""

    stage: int
    kind: Literal["next"] = "next"


@dataclass(frozen=True, slots=True)
class Help:
    """Choose how much the picture helps."""

    aid: Aid
    kind: Literal["help"] = "help"

    def __post_init__(self) -> None:
        if self.aid not in get_args(Aid):
            raise MeldrinError("action", "The aids are ear, ripple and level.")


@dataclass(frozen=True, slots=True)
class Finish:
    """End the attempt; nothing can be done after it."""

    kind: Literal["finish"] = "finish"


Action = Sound | Stop | Turn | Damp | Judge | Go | Help | Finish
_KINDS: Final = {
    "sound": Sound,
    "stop": Stop,
    "turn": Turn,
    "damp": Damp,
    "judge": Judge,
    "next": Go,
    "help": Help,
    "finish": Finish,
}


def action_record(action: Action) -> dict[str, Any]:
    """Return the action as it is stored: plain JSON values with the version of their shape."""
    return {"v": VERSION, **asdict(action)}


def action_from_record(record: Mapping[str, Any]) -> Action:
    """Return the action that a stored record holds; the inverse of `action_record`.

    Raises:
        MeldrinError: code ``action``, for a record this version does not know.
    """
    fields = dict(record)
    version, kind = fields.pop("v", None), fields.pop("kind", None)
    made = _KINDS.get(str(kind))
    if version != VERSION or made is None:
        raise MeldrinError("action", f"There is no action “{kind}” of version {version}.")
    if "strings" in fields:
        fields["strings"] = tuple(fields["strings"])
    action: Action = made(**fields)
    return action
