"""What a step of the path is tried with."""

from collections.abc import Iterable
from dataclasses import replace
from typing import Final, get_args

from meldrin.core.bench import FAULT, Exercise
from meldrin.core.bench.limits import Tolerance, limits
from meldrin.core.catalogue import instrument_of, tuning_said
from meldrin.core.drills import DrillExercise, drill_of
from meldrin.core.errors import Code, MeldrinError
from meldrin.core.methods import Step, Wanted, plan_by
from meldrin.core.pitch import Naming
from meldrin.core.practice.path import Listening, PathStep, Tuning
from meldrin.core.practice.plan import Aim
from meldrin.core.practice.skills import skills_for

GUIDED_NEAR: Final = {"unison": 50, "each": 69}  # the pitches that are heard best: D3; A4, a fork's
BY_EAR: Final = ("fifths", "unison", "harmonics", "drone", "each")  # the first that serves
TOLERANCES: Final[tuple[Tolerance, ...]] = get_args(Tolerance)  # the widest first
NOT_BY_EAR: Final = ("tuner", "mixed")


def beginning(
    step: PathStep,
    aim: Aim,
    *,
    text: str,
    methods: Iterable[str] = (),
    naming: Naming = "letters",
) -> Exercise | DrillExercise:
    """Return what a step is tried with, on the instrument that a learner practises for. Its start
    and its questions are still to be drawn.

    Args:
        text: the instrument's data; methods: those that a whole instrument has been tuned by.

    Raises:
        MeldrinError: where no method by ear serves the instrument in its tuning.
    """
    if step.listening is not None:
        return _drill(step.listening, aim, text, naming)
    if step.finding is not None:
        return Exercise(aim.instrument_id, FAULT, "hair", 0, instrument_text=text, naming=naming)
    asked = step.tuning or Tuning("one", 15.0, "ripple")  # sides are named on any string put out
    if asked.strings == "guided":
        return guided_on(text, aim.tuning, naming=naming)
    known = set(methods) if asked.methods > 1 else set()
    ways = [aim.method, *BY_EAR] if aim.method not in NOT_BY_EAR else [*BY_EAR]
    ways = [one for one in ways if one not in known] + [one for one in ways if one in known]
    error: MeldrinError | None = None
    for method in dict.fromkeys(ways):
        try:
            made = _tuning(asked, aim, method, text, naming)
            _ = made.plan
            return made
        except MeldrinError as refused:
            error = error or refused
    assert error is not None
    raise error


def guided_on(text: str, tuning: str = "standard", *, naming: Naming = "letters") -> Exercise:
    """Return a first string with a teacher's words beside it, where both that sound lie in one
    octave: a string and its neighbour pressed behind a fret, such as the open D of a guitar and its
    A behind fret 5; else a string and a tone of its own pitch. Its start is still to be drawn.

    Raises:
        MeldrinError: where neither serves the instrument in its tuning.
    """
    made = instrument_of(text)
    usual = Exercise(
        made.id, "each", "one", 0, tuning=tuning, instrument_text=text, naming=naming,
        aid="ripple", decides=False, guided=True,
    )  # fmt: skip
    midis = tuning_said(made, tuning)
    try:
        wanted = Wanted(made, midis, naming=naming)
        steps = [one for one in plan_by("unison", wanted).steps if _in_one_octave(one)]
    except MeldrinError:  # without frets
        steps = []
    method = "unison" if steps else "each"
    steps = steps or list(replace(usual, start="hair", guided=False).plan.steps)
    steps = [one for one in steps if made.string(one.string).role == "playing"]
    near = min(steps, key=lambda one: abs(midis.midi(one.string) - GUIDED_NEAR[method]))
    return replace(usual, method=method, out_string=near.string)


def _in_one_octave(step: Step) -> bool:
    return step.other.string is not None and step.own.partial == step.other.partial == 1


def _drill(asked: Listening, aim: Aim, text: str, naming: Naming) -> DrillExercise:
    made = instrument_of(text)
    skills = skills_for(made, aim.tuning, aim.method)
    skill = next((one for one in skills if one.drill == asked.drill), None)
    return DrillExercise(
        drill=asked.drill,
        instrument_id=aim.instrument_id,
        instrument_text=text,
        seed=0,
        string=skill.string if skill else made.strings[0].number,
        tuning=aim.tuning,
        trials=drill_of(asked.drill).trials,
        naming=naming,
    )


def _tuning(asked: Tuning, aim: Aim, method: str, text: str, naming: Naming) -> Exercise:
    start = asked.starts[0] if asked.starts else "one" if asked.strings == "one" else "hair"
    return Exercise(
        aim.instrument_id,
        method,
        start,
        0,
        tuning=aim.tuning,
        came_from=_another(aim, text) if start == "retune" else "",
        instrument_text=text,
        aid=asked.help,
        behaviours=frozenset(asked.behaviours),
        tolerance=_tolerance(asked.within_cents),
        naming=naming,
    )


def _another(aim: Aim, text: str) -> str:
    """Return another tuning, to come from."""
    for tuning in instrument_of(text).tunings:
        if tuning.id != aim.tuning:
            return tuning.id
    raise MeldrinError(Code.NO_SUCH_TUNING, "This instrument has one tuning only.")


def _tolerance(within_cents: float) -> Tolerance:
    """Return the widest tolerance that is no wider than this."""
    found = limits().tolerances
    return next(one for one in TOLERANCES if found[one].full_cents <= within_cents)
