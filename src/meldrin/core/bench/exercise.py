"""What an attempt starts from: all else about it follows from this and its list of actions."""

import random
from dataclasses import dataclass, fields, replace
from typing import Annotated, Final, Literal, get_args

from annotated_types import Ge, Le, MaxLen

from meldrin.core.bench.actions import Aid
from meldrin.core.bench.limits import Tolerance
from meldrin.core.bench.planned import (
    FAULT,
    FREE,
    Planned,
    made_of,
    plan_of,
    playing_first,
    sources_of,
)
from meldrin.core.catalogue import (
    Instrument,
    Tuning,
    instrument_text,
    tuning_said,
)
from meldrin.core.errors import Code, MeldrinError, one_of, within
from meldrin.core.methods import Options, Plan, Wanted
from meldrin.core.methods.wanted import ForkAt, Order
from meldrin.core.pitch import HIGHEST_A4_HZ, LOWEST_A4_HZ, Naming, checked_a4_hz
from meldrin.core.session import Record, Shape
from meldrin.core.sound.references import Source
from meldrin.core.temperament import MOST_CUSTOM_CENTS, MOST_FIFTH_CENTS

StartKind = Literal[
    "hair", "high", "month", "one", "slack", "damp", "octave", "reference", "group", "retune"
]
FAR_STARTS: Final[tuple[StartKind, ...]] = ("slack", "octave", "retune", "damp")
Behaviour = Literal[
    "pegs",
    "hand",
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
    "lying",
]
BEHAVIOURS: Final = get_args(Behaviour)
USUAL_TOLERANCE: Final[Tolerance] = "settled"
GROUP_A4_HZ: Final = (436.0, 438.0, 442.0, 443.0, 444.0)  # what groups that leave 440 play at
NO_GROUP: Final = ("", "fork", "tone")  # what does not sound a group's note
MOST_SEED: Final = 2**31 - 1
MOST_OUT_CENTS: Final = 120.0
MOST_STRINGS: Final = 40
Offset = Annotated[float, Ge(-MOST_CUSTOM_CENTS), Le(MOST_CUSTOM_CENTS)]
MOST_OUT_TIMES: Final = 4.0
SHORTEST_LIMIT_S, LONGEST_LIMIT_S = 30.0, 3600.0


@dataclass(frozen=True, slots=True)
class Exercise:
    """What an attempt begins with; everything else follows from this and its list of actions.

    instrument_id: an instrument of the catalogue, or that of `instrument_text`.
    method: the method that is practised; “free” for play with no plan; “fault” where one thing is
        wrong with the instrument and is to be found.
    start: how far out the strings begin.
    seed: what the draw of the start begins with.
    a4_hz: the calibration, 390 to 470.
    tuning: an id of the catalogue, or a line of notes.
    came_from: the tuning that a retuning starts from; empty for any other start.
    source: what sounds the reference; empty for the usual one.
    fifth_cents: how much wider than pure the fifths are made, or None for the method's own
        temperament.
    behaviours: what the instrument does as a real one would.
    tolerance: how exact a string must be to count as in tune.
    out_string, out_cents: which string is put out on purpose, and by how much; 0 for random.
    first_string: the one to begin with; 0 for the usual one.
    itself: that string is trusted as it is, and the score counts from it.
    order: of the strings: the method's own, from the lowest up, or down, or by ear first.
    naming: what notes are called on screen.
    frets: movable frets are set by the tonic string, over a drone.
    fork_at: whether the fork is matched with the open string or with its harmonic.
    offsets_cents: where the strings are wanted against equal temperament, string 1 first; empty
        for the method's own temperament.
    aid: the help to begin with, or None for the usual one.
    aids: the help that may be taken; empty for any.
    limit_s: how long it may last, or 0 for as long as one likes.
    numbers: whether beats are shown as numbers too.
    decides: whether the learner says low, high or cannot tell before a string's first turn.
    answers: whether it is told at once how a string is, when it has been judged.
    guided: one string with a teacher's words beside it, and answers at once.
    out_times: how many times as far out as usual the strings began in starts of version 1.
    rules: the version of the rules by which its start is drawn and its plan is made.
    fresh: the server has drawn the start for this learner, who had not met it.
    instrument_text: the instrument's own data, as a file of the catalogue holds it, so that it
        stays what it was; empty: the catalogue's.

    Raises:
        MeldrinError: for an unknown instrument, method, tuning, start, source or behaviour, or for
            some that do not go together; OutOfRange for a number.
    """

    instrument_id: str
    method: str
    start: StartKind
    seed: int
    a4_hz: Annotated[float, Ge(LOWEST_A4_HZ), Le(HIGHEST_A4_HZ)] = 440.0
    tuning: Annotated[str, MaxLen(200)] = "standard"
    came_from: Annotated[str, MaxLen(200)] = ""
    source: Source | Literal[""] = ""
    fifth_cents: Annotated[float, Ge(-MOST_FIFTH_CENTS), Le(MOST_FIFTH_CENTS)] | None = None
    behaviours: frozenset[Behaviour] = frozenset()
    tolerance: Tolerance = USUAL_TOLERANCE
    out_string: Annotated[int, Ge(0), Le(MOST_STRINGS)] = 0
    out_cents: Annotated[float, Ge(-MOST_OUT_CENTS), Le(MOST_OUT_CENTS)] = 0.0
    first_string: Annotated[int, Ge(0), Le(MOST_STRINGS)] = 0
    itself: bool = False
    order: Order = "usual"
    naming: Naming = "letters"
    frets: bool = False
    fork_at: ForkAt = "open"
    offsets_cents: Annotated[tuple[Offset, ...], MaxLen(MOST_STRINGS)] = ()
    aid: Aid | None = None
    aids: Annotated[tuple[Aid, ...], MaxLen(4)] = ()
    limit_s: Annotated[float, Ge(0.0), Le(LONGEST_LIMIT_S)] = 0.0
    numbers: bool = False
    decides: bool = True
    answers: bool = False
    guided: bool = False
    out_times: float = 1.0
    rules: Literal[1, 2, 3] = 2
    fresh: bool = False
    instrument_text: str = ""

    def __post_init__(self) -> None:
        checked_a4_hz(self.a4_hz)
        within(self.seed, name="seed", low=0, high=MOST_SEED)
        most = MOST_OUT_CENTS
        within(self.out_cents, name="offset put in", low=-most, high=most, unit="cents")
        within(self.out_times, name="out_times", low=1.0, high=MOST_OUT_TIMES)
        one_of(StartKind, self.start, name="a way to start", code=Code.START)
        if (self.start == "retune") != bool(self.came_from):
            raise MeldrinError(Code.START, "A retuning starts from a tuning; name it in came_from.")
        one_of(Tolerance, self.tolerance, name="a tolerance", code=Code.TOLERANCE)
        for behaviour in sorted(self.behaviours):
            one_of(Behaviour, behaviour, name="a behaviour", code=Code.BEHAVIOUR)
        if {"creep", "false"} <= self.behaviours:
            raise MeldrinError(Code.BEHAVIOUR, "Strings are new or old: choose creep or false.")
        if self.instrument.id != self.instrument_id:
            raise MeldrinError(
                Code.EXERCISE,
                f"Its instrument’s data is of “{self.instrument.id}”, not “{self.instrument_id}”.",
            )
        for number in (self.out_string, self.first_string):
            if number:
                self.instrument.string(number)
        if self.method == FAULT and (self.behaviours or self.start != "hair"):
            raise MeldrinError(
                Code.EXERCISE, "To find the fault, all else is in order: no start, no behaviours."
            )
        if self.start == "group":
            self._check_group()
        if self.itself and self.tests_reference:
            raise MeldrinError(
                Code.REFERENCE, "With a string trusted as it is there is no reference."
            )
        if self.itself and self.string_out and self.string_out == self.plan.trusted:
            raise MeldrinError(Code.START, "The string put out cannot be the one that is trusted.")
        self._check_help()
        if self.guided and (
            self.start != "one" or self.limit_s or any(one.by_tuner for one in self.plan.steps)
        ):
            raise MeldrinError(
                Code.EXERCISE,
                "A guided string is one string out, tuned by ear and without a clock.",
            )
        sources = self.sources
        if self.source not in ("", *sources):
            raise MeldrinError(
                Code.SOURCE,
                f"“{self.source}” cannot give this reference; choose {', '.join(sources)}.",
            )
        if self.came_from:
            Wanted(self.instrument, tuning_said(self.instrument, self.came_from), self.a4_hz)

    def _check_help(self) -> None:
        for aid in (*self.aids, *(() if self.aid is None else (self.aid,))):
            one_of(Aid, aid, name="an aid", code=Code.AID)
        if self.aids and self.first_aid not in self.aids:
            raise MeldrinError(
                Code.AID, "The help it begins with must be one of those that may be taken."
            )
        if (
            self.aids
            and "tuner" not in self.aids
            and any(stage.by_tuner for stage in self.plan.stages)
        ):
            raise MeldrinError(
                Code.AID, "This plan reads a tuner: let it be taken, or choose a method by ear."
            )
        if self.limit_s:
            within(
                self.limit_s,
                name="time limit",
                low=SHORTEST_LIMIT_S,
                high=LONGEST_LIMIT_S,
                unit="s",
            )

    def _check_group(self) -> None:
        if self.itself or self.tests_reference:
            raise MeldrinError(Code.REFERENCE, "To play to a group, take its note as it is.")
        checked_a4_hz(self.plays_at_hz)
        if any(stage.by_tuner for stage in self.plan.stages):
            raise MeldrinError(Code.METHOD, "To play to a group, choose a method by ear.")

    @property
    def instrument(self) -> Instrument:
        """The instrument on the bench."""
        return made_of(self.instrument_id, self.instrument_text)

    @property
    def plan(self) -> Plan:
        """The plan by the method that is practised; without stages in free play, and with one
        string out on purpose only that string and what checks it.
        """
        return plan_of(self._planned())

    @property
    def string_out(self) -> int:
        """The string put out on purpose; 0 where the start is another."""
        if self.start != "one":
            return 0
        return self.out_string or drawn_string(len(self.instrument.strings), self.seed)

    @property
    def answers_at_once(self) -> bool:
        """Whether it is told how a string is as soon as it was judged."""
        return self.answers or self.guided

    @property
    def first_aid(self) -> Aid:
        """The help an attempt opens with: the tuner where the plan begins by reading it."""
        if self.aid is not None:
            return self.aid
        steps = self.plan.steps
        usual: Aid = "tuner" if steps and steps[0].by_tuner else "ripple"
        return self.aids[0] if self.aids and usual not in self.aids else usual

    @property
    def sources(self) -> tuple[Source, ...]:
        """What can sound the reference, the usual one first."""
        sources = sources_of(self.plan, rules=self.rules)
        if self.start != "group":
            return sources
        return tuple(sorted((one for one in sources if one not in NO_GROUP), key=playing_first))

    @property
    def tuning_in(self) -> Tuning:
        """The tuning it is brought to."""
        return self.plan.tuning

    @property
    def tests_reference(self) -> bool:
        """Whether the reference may be wrong and is to be checked."""
        return "reference" in self.behaviours or self.start == "reference"

    @property
    def plays_at_hz(self) -> float:
        """The A that the strings are brought to: the group's own where one plays to a group."""
        if self.start != "group":
            return self.a4_hz
        away = random.Random(f"group {self.seed}").choice(GROUP_A4_HZ) / 440.0
        return away * self.a4_hz

    def _planned(self) -> Planned:
        frame_gives = "coupling" in self.behaviours
        far = self.start in FAR_STARTS
        return Planned(
            instrument_id=self.instrument_id,
            instrument_text=self.instrument_text,
            method=self.method,
            tuning=self.tuning,
            a4_hz=self.plays_at_hz,
            fifth_cents=self.fifth_cents,
            offsets_cents=self.offsets_cents,
            options=Options(
                start=self.first_string or None,
                itself=self.itself and self.method not in (FREE, FAULT),
                sounded=self.source not in ("", "fork") or self.start == "group",
                order=self.order,
                fork_at=self.fork_at,
                frets=self.frets and self.start != "one",
                naming=self.naming,
                second_pass=self.start != "one" and (far or frame_gives),
            ),
            only=self.string_out,
            checks=not self.guided,
            came_from=self.came_from if self.start == "retune" else "",
            frame_gives=frame_gives,
            source=self.source if self.rules > 1 else "",
            stretched=self.rules > 1,
            a_first=self.rules > 2,
        )


def with_instrument(exercise: Exercise) -> Exercise:
    """Return the exercise with its instrument's data in it, so that it no longer depends on the
    catalogue.
    """
    if exercise.instrument_text:
        return exercise
    return replace(exercise, instrument_text=instrument_text(exercise.instrument_id))


def drawn_string(count: int, seed: int) -> int:
    """Return the string that an attempt with one string out draws, 1 to `count`.

    It is drawn after the small offsets of all strings, as `opening` draws those first.
    """
    draw = random.Random(seed)
    for _ in range(count):
        draw.random()
    return 1 + int(draw.random() * count)


def with_start(exercise: Exercise, *, seed: int) -> Exercise:
    """Return the exercise with a start drawn by this seed, by the rule of today."""
    return replace(exercise, seed=seed, out_times=1.0, rules=3, fresh=False)


def _write(exercise: Exercise) -> Record:
    """Return the fields of an exercise as plain values, those that are usual left out."""
    record: Record = {}
    for column in fields(exercise):
        value = getattr(exercise, column.name)
        if value != column.default:
            if isinstance(value, frozenset):
                value = sorted(value)
            record[column.name] = list(value) if isinstance(value, tuple) else value
    return record


def _read(values: Record) -> Exercise:
    if "behaviours" in values:
        values["behaviours"] = frozenset(values["behaviours"])
    for listed in ("offsets_cents", "aids"):
        if listed in values:
            values[listed] = tuple(values[listed])
    return Exercise(**values)


def _began_with_ripples(values: Record) -> Record:
    """Return an exercise of version 2 as version 3 wrote it: what came before began with ripples,
    asked for no decision, and let new strings be false as well.
    """
    values = {"aid": "ripple", "decides": False, **values}
    if "creep" in values.get("behaviours", ()):
        values["behaviours"] = [one for one in values["behaviours"] if one != "false"]
    return values


def _renamed(values: Record) -> Record:
    """Return an exercise of version 3 with the names of version 4."""
    return {{"voice": "source"}.get(name, name): value for name, value in values.items()}


def _drawn_as_before(values: Record) -> Record:
    """Return an exercise of version 4 as version 5 has it: it begins and is planned as it was."""
    return {"rules": 1, **values}


EXERCISES: Final = Shape[Exercise](
    name="exercise",
    code=Code.EXERCISE,
    version=5,
    write=_write,
    read=_read,
    upgrades={2: _began_with_ripples, 3: _renamed, 4: _drawn_as_before},
)
