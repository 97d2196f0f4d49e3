"""The steps of what one can do, in four stages: hear it, stop it, tune it, keep it."""

import tomllib
import zlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from functools import cache
from importlib import resources
from typing import Any, Final, Literal

from meldrin.core.bench import Aid
from meldrin.core.bench.exercise import Behaviour, StartKind
from meldrin.core.bench.listening import AIDS
from meldrin.core.errors import Code, known
from meldrin.core.practice.figures import IN_A_ROW, Row, Sat, Tuned

FEWEST_ANSWERS: Final = 8  # a shorter sitting proves nothing that has no threshold
NEXT: Final = 2  # steps are shown at once
Stage = Literal["hear", "stop", "tune", "keep"]


@dataclass(frozen=True, slots=True)
class Listening:
    """Sittings at a drill, one after the other: its threshold known to be this small, or a share
    right at a level.
    """

    drill: str
    threshold: float | None = None
    level: int = 1
    right: float = 0.8
    times: int = 2

    def counts(self, one: Sat) -> bool:
        """Whether a sitting is looked at. One with a class is not, since all answer the same
        questions, nor one from a file.
        """
        return one.drill == self.drill and not (one.in_class or one.from_file)

    def shown(self, one: Sat) -> bool:
        """Whether a sitting shows it; one alone may be luck."""
        if self.threshold is not None:
            return one.threshold is not None and one.threshold.high <= self.threshold
        return one.trials >= FEWEST_ANSWERS and one.level >= self.level and one.share >= self.right


@dataclass(frozen=True, slots=True)
class Sides:
    """Low or high named before the first turn: how often rightly, of how often."""

    right: int
    of: int


@dataclass(frozen=True, slots=True)
class Tuning:
    """Strings brought to their notes on a start that nobody knew.

    strings: “guided” with a teacher's words; “one”, four in a row; “whole”.
    within_cents: the widest tolerance it may be tried with.
    help: the strongest help.
    starts, behaviours: one of these starts, all of these behaviours; empty for any.
    methods: by how many methods.
    holds: the least share of what a minute of playing left standing, or None.
    """

    strings: Literal["guided", "one", "whole"]
    within_cents: float
    help: Aid
    starts: tuple[StartKind, ...] = ()
    behaviours: tuple[Behaviour, ...] = ()
    methods: int = 1
    holds: float | None = None

    def allows(self, one: Tuned) -> bool:
        """Whether an attempt was made as it is asked for, well or not."""
        allowed = AIDS[: AIDS.index(self.help) + 1]
        return (
            not one.guided
            and one.aid in allowed
            and all(string.basis in allowed for string in one.strings if string.well)
            and one.tolerance_cents <= self.within_cents
            and (not self.starts or one.start in self.starts)
            and set(self.behaviours) <= set(one.behaviours)
        )

    def shown(self, one: Tuned) -> bool:
        """Whether a whole instrument was tuned as it is asked for."""
        held = self.holds is None or (one.held is not None and one.held >= self.holds)
        by_ear = self.help != "ear" or one.won_by_ear
        return self.allows(one) and not one.practice and one.well and by_ear and held


@dataclass(frozen=True, slots=True)
class Finding:
    """What was wrong with an instrument found, for at least these points, `times` in a row: one of
    six kinds is guessed now and then.
    """

    points: float
    times: int


@dataclass(frozen=True, slots=True)
class PathStep:
    """Something one can do, what shows it in a sentence, and one of four kinds of proof.

    implied_by: steps that nobody shows who cannot do this one.
    """

    id: str
    stage: Stage
    can: str
    shown_by: str
    listening: Listening | None = None
    sides: Sides | None = None
    tuning: Tuning | None = None
    finding: Finding | None = None
    implied_by: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class StageName:
    """A stage of the path, and its name."""

    id: Stage
    name: str


@dataclass(frozen=True, slots=True)
class _File:
    stages: tuple[StageName, ...]
    steps: tuple[PathStep, ...]


@dataclass(frozen=True, slots=True)
class Evidence:
    """What a learner has done, the oldest first. faults: when something wrong was looked for, and
    the points. gone, sittings_gone: when attempts, and sittings, were left half way or erased.
    """

    sat: Sequence[Sat] = ()
    tuned: Sequence[Tuned] = ()
    faults: Sequence[tuple[datetime, float]] = ()
    gone: Sequence[datetime] = ()
    sittings_gone: Sequence[datetime] = ()


@dataclass(frozen=True, slots=True)
class Standing:
    """A step, and when it was proven, or None."""

    step: PathStep
    proven: datetime | None


@dataclass(frozen=True, slots=True)
class Path:
    """All steps in their order."""

    steps: tuple[Standing, ...]

    @property
    def next(self) -> tuple[PathStep, ...]:
        """The next steps that are not proven yet, two at most."""
        return tuple(one.step for one in self.steps if one.proven is None)[:NEXT]

    @property
    def stage(self) -> StageName:
        """The stage of the next step; the last one when all is proven."""
        at = self.next[0].stage if self.next else stages()[-1].id
        return next(one for one in stages() if one.id == at)


PROOFS: Final = {"listening": Listening, "sides": Sides, "tuning": Tuning, "finding": Finding}


def _text() -> str:
    return (resources.files("meldrin.core.practice") / "path.toml").read_text(encoding="utf-8")


@cache
def _read() -> _File:
    table = tomllib.loads(_text())
    return _File(
        stages=tuple(StageName(**one) for one in table["stages"]),
        steps=tuple(_step(one) for one in table["steps"]),
    )


def _step(values: dict[str, Any]) -> PathStep:
    proofs: dict[str, Any] = {
        name: kind(**{key: _value(one) for key, one in values[name].items()})
        for name, kind in PROOFS.items()
        if name in values
    }
    plain = {name: _value(one) for name, one in values.items()}
    return PathStep(**{**plain, **proofs})


def _value(value: object) -> object:
    return tuple(value) if isinstance(value, list) else value


@cache
def steps_sum() -> int:
    """Return a check sum of the file of steps: what was shown under others is looked at again."""
    return zlib.crc32(_text().encode())


def path_kept(proven: Mapping[str, datetime]) -> Path:
    """Return a path from when its steps were shown."""
    return Path(tuple(Standing(step, proven.get(step.id)) for step in path_steps()))


def stages() -> tuple[StageName, ...]:
    """Return the four stages in order."""
    return _read().stages


def path_steps() -> tuple[PathStep, ...]:
    """Return all steps in order."""
    return _read().steps


def step_of(step_id: str) -> PathStep:
    """Return the step of this id.

    Raises:
        MeldrinError: code ``no_such_step``.
    """
    steps = {one.id: one for one in path_steps()}
    return known(steps, step_id, name="step", code=Code.NO_SUCH_STEP)


def path_of(done: Evidence) -> Path:
    """Return which steps a learner has proven, and when."""
    own = {step.id: _proven(step, done) for step in path_steps()}

    def when(step: PathStep) -> datetime | None:
        found = [own[step.id], *(own[other] for other in step.implied_by)]
        return min((at for at in found if at is not None), default=None)

    return Path(tuple(Standing(step, when(step)) for step in path_steps()))


def _proven(step: PathStep, done: Evidence) -> datetime | None:
    if step.listening is not None:
        return _heard(step.listening, done)
    if step.sides is not None:
        return _sides_proven(step.sides, done)
    if step.finding is not None:
        return _faults_found(step.finding, done)
    assert step.tuning is not None
    return _tuning_proven(step.tuning, done)


def _heard(asked: Listening, done: Evidence) -> datetime | None:
    row = Row(done.sittings_gone)
    for one in done.sat:
        if asked.counts(one) and row.add(one.at, won=asked.shown(one)) >= asked.times:
            return one.at
    return None


def _faults_found(asked: Finding, done: Evidence) -> datetime | None:
    row = Row(done.gone)
    for at, points in done.faults:
        if row.add(at, won=points >= asked.points) >= asked.times:
            return at
    return None


def _sides_proven(asked: Sides, done: Evidence) -> datetime | None:
    """Return when the first block was named well enough. Blocks follow each other, so that many
    tries are not many chances, and begin again after an attempt that was left or erased: what was
    guessed wrong shows with the first turn.
    """
    right = of = 0
    row = Row(done.gone)
    for one in done.tuned:
        if not (one.proves or not one.practice):
            continue
        if row.broken(one.at):
            right = of = 0
        right, of = right + one.sides_right, of + one.sides_of
        if of >= asked.of:
            if right * asked.of >= asked.right * of:
                return one.at
            right = of = 0
    return None


def _tuning_proven(asked: Tuning, done: Evidence) -> datetime | None:
    if asked.strings == "guided":
        helped = next((one.at for one in done.tuned if one.guided and one.well), None)
        alone = _tuning_proven(replace(asked, strings="one"), done)
        return min((at for at in (helped, alone) if at is not None), default=None)
    methods: set[str] = set()
    row = Row(done.gone)
    for one in done.tuned:
        if asked.shown(one):
            methods.add(one.method)
            if asked.strings == "one" or len(methods) >= asked.methods:
                return one.at
        if asked.strings == "one" and one.proves and asked.allows(one):
            won = one.well and (asked.help != "ear" or one.won_by_ear)
            if row.add(one.at, won=won) >= IN_A_ROW:
                return one.at
    return None
