"""What there is to learn for an instrument and a method: which drills, on which notes, how well."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Final

from meldrin.core.catalogue import Instrument, tuning_said
from meldrin.core.drills import MEASURED, Interval, MeasuredDrill, Truth, drill_of
from meldrin.core.drills.sitting import EVERYWHERE
from meldrin.core.errors import Code, known
from meldrin.core.pitch import equal_tempered_hz

# Which drills serve a method, with the interval where a drill has them; the first matters most.
# What is compared one after the other needs pitch; what sounds together needs beats, and intervals
# need their own width. Which way to turn and how long a pitch is kept in mind come after them.
Wanted = tuple[tuple[str, Interval | None], ...]
SERVES: Final[dict[str, Wanted]] = {
    "each": (("higher", None), ("beating", None), ("hold", None)),
    "unison": (("beating", None), ("faster", None), ("higher", None), ("way", None)),
    "fifths": (("width", "fifth"), ("faster", None), ("higher", None), ("way", None)),
    "harmonics": (("beating", None), ("faster", None), ("higher", None), ("count", None)),
    "drone": (("width", "fifth"), ("width", "fourth"), ("higher", None), ("hold", None)),
    "tuner": (("higher", None), ("beating", None), ("hold", None)),
    "mixed": (("beating", None), ("width", "octave"), ("higher", None), ("way", None)),
}
# And those without a threshold, which every player needs.
KNOWING: Final[dict[str, tuple[str, ...]]] = {
    "unison": ("which", "names", "whole"),
    "tuner": ("which", "names", "readings"),
    "mixed": ("which", "readings", "whole"),
}
USUALLY: Final = ("which", "whole", "alone")
# What is aimed at, step by step, in the drill's unit: first what the widest tolerance of the bench
# asks of the ear, on low notes as on high ones, in the end what trained listeners hear (2 to 4
# cents: Micheyl and others, Hearing Research 219, 2006). Beats slower than half a beat a second do
# not show within a plucked note. Judgements.
STEPS: Final[dict[str, tuple[float, ...]]] = {
    "higher": (15.0, 8.0, 4.0),
    "beating": (1.0, 0.6, 0.35),
    "faster": (50.0, 25.0, 15.0),
    "count": (30.0, 20.0, 12.0),
    "way": (50.0, 25.0, 15.0),
    "hold": (25.0, 15.0, 8.0),
    "width": (15.0, 8.0, 4.0),
}


@dataclass(frozen=True, slots=True)
class Skill:
    """A drill in one register and interval, and a string to practise it on."""

    drill: str
    known_by: str
    string: int = 1
    interval: Interval = "unison"
    truth: Truth = "pure"

    @property
    def key(self) -> tuple[str, str]:
        """What its evidence is kept under."""
        return self.drill, self.known_by

    @property
    def is_measured(self) -> bool:
        """Whether it has a threshold."""
        return self.known_by != EVERYWHERE

    def goal(self, at: int) -> float:
        """Return the threshold that is aimed at in a step, from 0."""
        steps = STEPS[self.drill]
        return steps[min(at, len(steps) - 1)]


LAST_STEP: Final = 2


@lru_cache(maxsize=128)
def skills_for(made: Instrument, tuning: str, method: str) -> tuple[Skill, ...]:
    """Return what there is to learn for a method on an instrument, the most useful first.

    Raises:
        MeldrinError: code ``no_such_method`` or ``no_such_tuning``.
    """
    wanted = known(SERVES, method, name="method", code=Code.NO_SUCH_METHOD)
    midis = tuning_said(made, tuning).midis
    found: dict[tuple[str, str], Skill] = {}
    for drill_id, interval in wanted:
        drill = next(one for one in MEASURED if one.id == drill_id)
        for string in made.strings:
            # over the highest string there is none that an interval could be tuned with
            over = interval is not None and midis[string.number - 1] == max(midis)
            if string.role == "sympathetic" or over:
                continue
            hz = equal_tempered_hz(midis[string.number - 1], a4_hz=440.0)
            skill = _measured(drill, string.number, hz, interval or "unison")
            found.setdefault(skill.key, skill)
    for drill_id in KNOWING.get(method, USUALLY):
        skill = Skill(drill_of(drill_id).id, EVERYWHERE)
        found[skill.key] = skill
    return tuple(found.values())


def _measured(drill: MeasuredDrill, string: int, hz: float, interval: Interval) -> Skill:
    return Skill(drill.id, drill.known_by(hz, interval, "pure"), string, interval, "pure")
