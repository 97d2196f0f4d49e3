"""What an attempt starts from: all else about it follows from this and its list of actions."""

from dataclasses import dataclass, fields
from functools import lru_cache
from typing import Any, Final, Literal, get_args

from meldrin.core.catalogue import Instrument, Tuning, instrument, tuning_said
from meldrin.core.errors import MeldrinError, within
from meldrin.core.methods import SCHOOLS, Plan, Wanted, plan_by
from meldrin.core.pitch import checked_a4_hz
from meldrin.core.temperament import Temperament

StartKind = Literal["hair", "month", "one", "slack", "damp", "octave", "reference", "retune"]
START_KINDS: Final = get_args(StartKind)
Behaviour = Literal[
    "pegs",
    "sticking",
    "nut",
    "coupling",
    "creep",
    "false",
    "stroke",
    "ringing",
    "fretting",
    "setup",
    "room",
    "noise",
    "breaking",
    "reference",
]
BEHAVIOURS: Final = get_args(Behaviour)
Tolerance = Literal["first", "settled", "together", "fine"]
TOLERANCES: Final = get_args(Tolerance)
FREE: Final = "free"
MOST_SEED: Final = 2**31 - 1
MOST_OUT_CENTS: Final = 60.0


@dataclass(frozen=True, slots=True)
class Setup:
    """The fixed part of an attempt.

    `method`: a school, or “free” for play with no plan. `tuning` and `came_from` (where a retuning
    starts): an id of the catalogue or a line of notes. `voice`: what sounds the reference, empty
    for the usual one. `fifth_cents`: how much wider than pure the fifths are made, None for the
    school's own temperament. `behaviours`: what the instrument does as a real one would.
    `out_string` and `out_cents`: which string was put out on purpose and by how much, 0 by lot.

    Raises:
        MeldrinError: for an instrument, method, tuning, start, voice or behaviour there is none of,
            or that do not go together; OutOfRange for a number.
    """

    instrument_id: str
    method: str
    start: StartKind
    seed: int
    a4_hz: float = 440.0
    tuning: str = "standard"
    came_from: str = ""
    voice: str = ""
    fifth_cents: float | None = None
    behaviours: frozenset[Behaviour] = frozenset()
    tolerance: Tolerance = "settled"
    out_string: int = 0
    out_cents: float = 0.0

    def __post_init__(self) -> None:
        checked_a4_hz(self.a4_hz)
        within(self.seed, name="seed", low=0, high=MOST_SEED)
        most = MOST_OUT_CENTS
        within(self.out_cents, name="offset put in", low=-most, high=most, unit="cents")
        if self.start not in START_KINDS:
            raise MeldrinError("start", f"An attempt can start: {', '.join(START_KINDS)}.")
        if (self.start == "retune") != bool(self.came_from):
            raise MeldrinError("start", "A retuning starts from a tuning; name it in came_from.")
        if self.tolerance not in TOLERANCES:
            raise MeldrinError("tolerance", f"Tolerances are {', '.join(TOLERANCES)}.")
        strange = self.behaviours - set(BEHAVIOURS)
        if strange:
            raise MeldrinError(
                "behaviour",
                f"An instrument does not behave “{sorted(strange)[0]}”; there is"
                f" {', '.join(BEHAVIOURS)}.",
            )
        if self.out_string:
            instrument(self.instrument_id).string(self.out_string)
        voices = voices_of(_plan(*self._plan_key()))
        if self.voice and self.voice not in voices:
            raise MeldrinError(
                "voice", f"“{self.voice}” cannot give this reference; choose {', '.join(voices)}."
            )
        if self.came_from:
            Wanted(self.instrument, tuning_said(self.instrument, self.came_from), self.a4_hz)

    @property
    def instrument(self) -> Instrument:
        """The instrument on the bench."""
        return instrument(self.instrument_id)

    @property
    def plan(self) -> Plan:
        """The plan by the school that is practised; without stages in free play."""
        return _plan(*self._plan_key())

    @property
    def tuning_in(self) -> Tuning:
        """The tuning it is brought to."""
        return self.plan.tuning

    @property
    def tests_reference(self) -> bool:
        """Whether the reference may be wrong and is to be checked."""
        return "reference" in self.behaviours or self.start == "reference"

    def _plan_key(self) -> tuple[str, str, str, float, float | None, bool]:
        sounded = self.voice not in ("", "fork")
        return (
            self.instrument_id,
            self.method,
            self.tuning,
            self.a4_hz,
            self.fifth_cents,
            sounded,
        )


def setup_record(setup: Setup) -> dict[str, Any]:
    """Return the stored form of a setup: plain values, those that are usual left out."""
    record: dict[str, Any] = {"v": 2}
    for column in fields(setup):
        value = getattr(setup, column.name)
        if value != column.default:
            record[column.name] = sorted(value) if isinstance(value, frozenset) else value
    return record


def setup_from_record(record: dict[str, Any]) -> Setup:
    """Return the setup that a stored record holds.

    Raises:
        MeldrinError: code ``setup``, for a record that no version could have written.
    """
    values = dict(record)
    if values.pop("v", None) != 2:
        raise MeldrinError("setup", "This exercise was written by another version.")
    if "behaviours" in values:
        values["behaviours"] = frozenset(values["behaviours"])
    try:
        return Setup(**values)
    except TypeError as error:
        raise MeldrinError("setup", "This exercise has other parts than these.") from error


def voices_of(plan: Plan) -> tuple[str, ...]:
    """Return what can sound a plan's reference, the usual one first."""
    sounded = ("piano", "pipe", "oboe", "player", "tone")
    match plan.reference.kind:
        case "drone":
            return ("drone",)
        case "tones":
            return sounded
        case "tuner":
            return ("fork", *sounded)
        case _:
            return ("fork", *sounded) if plan.reference.kind == "fork" else (*sounded, "fork")


@lru_cache(maxsize=256)
def _plan(
    instrument_id: str,
    method: str,
    tuning: str,
    a4_hz: float,
    fifth_cents: float | None,
    sounded: bool,
) -> Plan:
    made = instrument(instrument_id)
    wanted = Wanted(
        made,
        tuning_said(made, tuning),
        a4_hz,
        temperament=None if fifth_cents is None else Temperament("fifths", fifth_cents=fifth_cents),
        sounded=sounded,
    )
    if method == FREE:
        return plan_by("each", wanted).without_stages(FREE)
    if method not in SCHOOLS:
        raise MeldrinError(
            "method", f"There is no school “{method}”; there is {', '.join(SCHOOLS)} and {FREE}."
        )
    return plan_by(method, wanted)
