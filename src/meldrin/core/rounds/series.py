"""A series of questions to a class: what sounds each time, with what help, and what is right."""

import random
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Final, Literal, TypeVar, assert_never

from meldrin.core.beats import meeting
from meldrin.core.drills import (
    DRILLS,
    DRILLS_PRACTICE,
    Answer,
    AnyDrill,
    DrillExercise,
    Example,
    Playback,
    Question,
    Sounding,
    Stretch,
    ThresholdDrill,
    drill_of,
    examples_of,
    posed_of,
    with_instrument,
)
from meldrin.core.drills.belief import Judged
from meldrin.core.drills.drill import RoundChoice, Size
from meldrin.core.drills.width import SEMITONES
from meldrin.core.errors import Code, MeldrinError, one_of, within
from meldrin.core.session import Record, Shape
from meldrin.core.shows import Show, show_of
from meldrin.core.sound.events import Start
from meldrin.core.sound.partials import PartialTable
from meldrin.core.sound.together import levels_over, mean_depth

One = TypeVar("One")
FEWEST, MOST, USUAL = 3, 12, 8
# What goes with a question: the water while it sounds, words of what to listen for, or nothing.
Help = Literal["water", "words", "ear"]
HELPS: Final[tuple[Help, ...]] = ("water", "words", "ear")
LEVELS: Final[dict[Size, int]] = {"large": 1, "middle": 2, "small": 3}
SIDES: Final[dict[Judged, tuple[float, ...]]] = {
    "side_or_same": (-1.0, 0.0, 1.0), "whether": (0.0, 1.0), "side": (-1.0, 1.0)
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Beating:
    """A stretch of what sounds in which two notes beat, and how fast; depth: how much of
    the partials that meet comes and goes, on average, 0 to 1.
    """

    begin_s: float
    end_s: float
    beats_hz: float
    depth: float


@dataclass(frozen=True, slots=True)
class Series:
    """What a class judges, one after another; everything follows from this.

    exercise: the drill whose trials they are, or None where a comparison is judged.
    show: the id of that comparison, or “”.
    count: how many questions there are, 3 to 12.
    size: how far apart things are.
    fading: whether help goes with the first ones and fades; else there is none.
    each_plays: each device plays for itself; else the teacher's plays to the room.
    seed: what the questions are drawn with.

    Raises:
        MeldrinError: code ``round`` for what no class can judge at once; OutOfRange for a number.
    """

    exercise: DrillExercise | None
    seed: int
    show: str = ""
    count: int = USUAL
    size: Size = "middle"
    fading: bool = True
    each_plays: bool = False

    def __post_init__(self) -> None:
        within(self.count, name="number of questions", low=FEWEST, high=MOST)
        one_of(Size, self.size, name="a size", code=Code.ROUND)
        if (self.exercise is None) == (not self.show):
            raise MeldrinError(Code.ROUND, "A round has a drill or a comparison, and only one.")
        if self.exercise is not None and drill_of(self.exercise.drill) not in room_drills():
            raise MeldrinError(Code.ROUND, "This drill is for one alone; choose another one.")
        if self.show:
            show_of(self.show)

    @property
    def name(self) -> str:
        """What it is called."""
        if self.exercise is not None:
            drill, interval = drill_of(self.exercise.drill), self.exercise.interval
            own = next((one.name for one in drill.in_rounds if one.interval == interval), "")
            return own or drill.name
        return show_of(self.show).name

    @property
    def examples(self) -> tuple[Example, ...]:
        """One of each answer, where nobody can miss it, to be heard before the first question."""
        if self.exercise is not None:
            return examples_of(self.exercise)
        return tuple(
            Example(one.words, one.says, _heard(show_of(self.show), at))
            for at, one in enumerate(show_of(self.show).scenes)
        )

    def posed(self, number: int) -> Question:
        """Return a question, by its number from 1."""
        if self.exercise is None:
            show = show_of(self.show)
            return _of_show(show, self._drawn(number, range(len(show.scenes))))
        return posed_of(self.exercise, number, self.difference(number) or 0.0)

    def difference(self, number: int) -> float | None:
        """Return the difference of a question on the scale of its drill; None where it has none."""
        drill = None if self.exercise is None else drill_of(self.exercise.drill)
        if not isinstance(drill, ThresholdDrill):
            return None
        first, last = drill.sizes[self.size]
        size: float = first * (last / first) ** ((number - 1) / (self.count - 1))
        return size * self._drawn(number, SIDES[drill.scale.judged])

    def _drawn(self, number: int, of: Sequence[One]) -> One:
        """Return what is right at a question: each about equally often in a series, so that who
        always says the same has no luck, and yet the last one does not follow from the others.
        """
        within(number, name="number of the question", low=1, high=self.count)
        deck = list(of) * (self.count // len(of) + 1)
        random.Random(f"{self.seed} round").shuffle(deck)
        return deck[number - 1]

    def help(self, number: int) -> Help:
        """Return what help goes with a question: with the first third the water, with the second
        words, with the last one nothing.
        """
        if not self.fading:
            return "ear"
        return HELPS[min(2, (number - 1) * 3 // self.count)]

    def water(self, number: int) -> tuple[Beating, ...]:
        """Return where two notes beat in a question, and how fast: which side it is on is not told
        by that. Empty where nothing beats that could be drawn.
        """
        if self.exercise is None:
            return ()
        drill, heard = drill_of(self.exercise.drill), self.posed(number).heard
        if heard is None or not isinstance(drill, ThresholdDrill):
            return ()
        match drill.water:
            case "":
                return ()
            case "fork":
                return (_beside_a_fork(heard),)
            case "notes":
                return (_together(heard, meeting(SEMITONES[self.exercise.interval])),)
            case _ as never:
                assert_never(never)

    def above(self, number: int) -> float | None:
        """Return how far above its line the water stands in the end, in the drill's unit: where it
        is of two notes, which have sides; else None.
        """
        drill = None if self.exercise is None else drill_of(self.exercise.drill)
        sided = isinstance(drill, ThresholdDrill) and drill.water == "notes"
        return self.difference(number) if sided else None


def _together(heard: Playback, met: tuple[int, int] | None) -> Beating:
    """Return how the two notes of the last part beat where their partials meet."""
    part = heard.parts[-1]
    low, high = _sounding_in(heard, part)
    assert met is not None  # a drill has only such intervals
    return _beating(part, (low, met[0]), (high, met[1]))


def _beside_a_fork(heard: Playback) -> Beating:
    """Return how a string beats with a fork beside one of its partials."""
    part = heard.parts[-1]
    string, fork = _sounding_in(heard, part)
    fork_hz = fork.frequencies_hz[0]
    partials_hz = string.frequencies_hz
    near = min(range(len(partials_hz)), key=lambda at: abs(partials_hz[at] - fork_hz))
    return _beating(part, (string, near + 1), (fork, 1))


def _sounding_in(heard: Playback, part: Stretch) -> list[PartialTable]:
    return [
        one.table
        for at_s, one in heard.sounding.events
        if isinstance(one, Start) and at_s >= part.begin_s - 1e-9
    ]


def _beating(
    part: Stretch, one: tuple[PartialTable, int], other: tuple[PartialTable, int]
) -> Beating:
    apart: float = one[0].frequencies_hz[one[1] - 1] - other[0].frequencies_hz[other[1] - 1]
    lasts_s = part.end_s - part.begin_s
    levels = (levels_over(table, place, listen_s=lasts_s) for table, place in (one, other))
    return Beating(part.begin_s, part.end_s, abs(apart), mean_depth(*levels))


def _of_show(show: Show, right: int) -> Question:
    """One side of a comparison, which is to be told from the others."""
    scenes = show.scenes
    return Question(
        question="Which one is this?",
        answers=tuple(Answer(f"scene-{at}", one.words) for at, one in enumerate(scenes)),
        right=right,
        says=f"{scenes[right].words}. {scenes[right].says}",
        tells="",  # its side says it
        heard=_heard(show, right),
    )


def _heard(show: Show, at: int) -> Playback:
    # all sides last equally long, so that the time tells nothing
    lasts_s = max(one.lasts_s for one in show.scenes)
    events = tuple((0.0, one) for one in show.scenes[at].events)
    return Playback(Sounding(events), (Stretch("the sound", 0.0, lasts_s + 0.1),))


def room_drills() -> Sequence[AnyDrill]:
    """Return the drills that a whole class can judge at once."""
    return [one for one in DRILLS.values() if one.in_rounds]


def in_rounds() -> list[tuple[AnyDrill, RoundChoice]]:
    """Return what a class can judge, in the order of a teacher's list."""
    found = [(drill, choice) for drill in room_drills() for choice in drill.in_rounds]
    return sorted(found, key=lambda one: one[1].place)


def of_drill(
    exercise: DrillExercise,
    *,
    seed: int,
    count: int = USUAL,
    size: Size = "middle",
    fading: bool = True,
    each_plays: bool = False,
) -> Series:
    """Return a series of a drill's trials, with the data of its instrument in it."""
    one_of(Size, size, name="a size", code=Code.ROUND)
    made = DrillExercise(
        drill=exercise.drill,
        instrument_id=exercise.instrument_id,
        instrument_text=exercise.instrument_text,
        seed=seed,
        string=exercise.string,
        tuning=exercise.tuning,
        interval=exercise.interval,
        truth=exercise.truth,
        level=LEVELS[size],
        naming=exercise.naming,
    )
    return Series(with_instrument(made), seed, "", count, size, fading, each_plays)


def of_show(
    show: str, *, seed: int, count: int = FEWEST, fading: bool = False, each_plays: bool = False
) -> Series:
    """Return a series in which the sides of a comparison are told apart."""
    return Series(None, seed, show, count, "large", fading, each_plays)


def _write(series: Series) -> Record:
    exercise = series.exercise
    return {
        "exercise": None if exercise is None else DRILLS_PRACTICE.exercises.record(exercise),
        "show": series.show,
        "seed": series.seed,
        "count": series.count,
        "size": series.size,
        "fading": series.fading,
        "each_plays": series.each_plays,
    }


def _read(values: Record) -> Series:
    found: dict[str, Any] = dict(values)
    exercise = found.pop("exercise")
    read = None if exercise is None else DRILLS_PRACTICE.exercises.value(exercise)
    return Series(read, **found)


ROUNDS: Final = Shape[Series](
    name="round", code=Code.ROUND, version=1, write=_write, read=_read, upgrades={}
)
