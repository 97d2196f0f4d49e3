"""What there is to learn for an instrument and a method: which drills, on which notes, how well."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Final

from meldrin.core.catalogue import Instrument, tuning_said
from meldrin.core.drills import Interval, MeasuredDrill, Truth, drill_of, measured
from meldrin.core.drills.sitting import EVERYWHERE
from meldrin.core.errors import Code, known
from meldrin.core.methods import METHODS
from meldrin.core.pitch import equal_tempered_hz


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
        return measured(self.drill).goal(at)


LAST_STEP: Final = 2


@lru_cache(maxsize=128)
def skills_for(made: Instrument, tuning: str, method: str) -> tuple[Skill, ...]:
    """Return what there is to learn for a method on an instrument, the most useful first.

    Raises:
        MeldrinError: code ``no_such_method`` or ``no_such_tuning``.
    """
    wanted = known(METHODS, method, name="method", code=Code.NO_SUCH_METHOD)
    midis = tuning_said(made, tuning).midis
    found: dict[tuple[str, str], Skill] = {}
    for drill_id, interval in wanted.drills:
        drill = measured(drill_id)
        for string in made.strings:
            # over the highest string there is none that an interval could be tuned with
            over = interval is not None and midis[string.number - 1] == max(midis)
            if string.role == "sympathetic" or over:
                continue
            hz = equal_tempered_hz(midis[string.number - 1], a4_hz=440.0)
            skill = _measured(drill, string.number, hz, interval or "unison")
            found.setdefault(skill.key, skill)
    for drill_id in wanted.questions:
        skill = Skill(drill_of(drill_id).id, EVERYWHERE)
        found[skill.key] = skill
    return tuple(found.values())


def _measured(drill: MeasuredDrill, string: int, hz: float, interval: Interval) -> Skill:
    return Skill(drill.id, drill.known_by(hz, interval, "pure"), string, interval, "pure")
