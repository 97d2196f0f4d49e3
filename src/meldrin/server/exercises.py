"""The settings of an exercise on the wire: all fields of the core's Exercise that may be told."""

from typing import Annotated

from annotated_types import MaxLen

from meldrin.core.bench import Exercise
from meldrin.core.bench.exercise import Behaviour, StartKind
from meldrin.wire import model_of

# What is drawn or kept with an attempt and not told, and what travels in another form.
NOT_TOLD = (
    "instrument_id", "instrument_text", "seed", "out_times", "rules", "fresh", "behaviours",
)  # fmt: skip


class ExerciseSettings(model_of(Exercise, leave_out=NOT_TOLD)):  # type: ignore[misc]
    """What an exercise is set to; how far out its strings begin is drawn and not told."""

    instrument: Annotated[str, MaxLen(40)] = "guitar"
    behaviours: Annotated[tuple[Behaviour, ...], MaxLen(20)] = ()
    method: Annotated[str, MaxLen(20)] = "unison"
    start: StartKind = "hair"

    def exercise(self, instrument_text: str = "") -> Exercise:
        """Return the exercise; its start is still to be drawn.

        Raises:
            MeldrinError: for settings that do not go together.
        """
        same = {name: getattr(self, name) for name in SAME}
        return Exercise(
            instrument_id=self.instrument,
            instrument_text=instrument_text,
            behaviours=frozenset(self.behaviours),
            seed=0,
            **same,
        )


# What settings and exercise call alike.
SAME = tuple(
    name for name in ExerciseSettings.model_fields if name not in ("instrument", "behaviours")
)


def settings_of(exercise: Exercise) -> ExerciseSettings:
    """Return the settings of an exercise."""
    same = {name: getattr(exercise, name) for name in SAME}
    behaviours = tuple(sorted(exercise.behaviours))
    return ExerciseSettings(instrument=exercise.instrument_id, behaviours=behaviours, **same)
