"""What comes of a plan: every string against equal temperament, and the intervals it makes sour."""

from dataclasses import dataclass
from typing import Final

from meldrin.core.beats import interval_name
from meldrin.core.methods.pairs import leaders
from meldrin.core.methods.plan import Plan
from meldrin.core.pitch import cents_between, equal_tempered_hz
from meldrin.core.strings import (
    breaking_share,
    strain_at_frequency,
    tension_at_strain,
)
from meldrin.core.temperament import cents_of, just_ratio

SOUR_CENTS: Final = 5.0  # what playing with others hears, both against equal and against pure
CONSONANT: Final = frozenset({0, 3, 4, 5, 7, 8, 9})


@dataclass(frozen=True, slots=True)
class StringOutcome:
    """One string at the end of a plan.

    frequency_hz, equal_cents: the method's ideal on flexible strings, and how far it lies from
        equal temperament.
    sounding_hz: the first partial on these strings.
    stiff_cents: how far that lies from equal temperament, with the first string of the plan at its
        ideal, since stiffness moves all strings together against a fork.
    tension_n, breaking_share: what the string then carries.
    """

    number: int
    label: str
    frequency_hz: float
    sounding_hz: float
    equal_cents: float
    stiff_cents: float
    tension_n: float
    breaking_share: float


@dataclass(frozen=True, slots=True)
class IntervalOutcome:
    """Two strings at the end of a plan.

    cents: the size of their interval.
    against_equal_cents, against_pure_cents: how much wider it is than equal and than pure.
    sour: whether it is a consonance more than 5 cents from both.
    """

    lower: int
    upper: int
    name: str
    cents: float
    against_equal_cents: float
    against_pure_cents: float
    sour: bool


def outcome(plan: Plan) -> tuple[StringOutcome, ...]:
    """Return every string as the plan leaves it, string 1 first."""
    equal_hz = [equal_tempered_hz(midi, a4_hz=plan.a4_hz) for midi in plan.tuning.midis]
    begun = plan.begun - 1
    shift = cents_between(plan.ideal_hz[begun], reference_hz=plan.targets_hz[begun])
    rows = []
    for string, ideal, target, equal in zip(
        plan.instrument.strings, plan.ideal_hz, plan.targets_hz, equal_hz, strict=True
    ):
        tension_n = tension_at_strain(string, strain_at_frequency(string, ideal))
        rows.append(
            StringOutcome(
                number=string.number,
                label=plan.label(string.number),
                frequency_hz=ideal,
                sounding_hz=target,
                equal_cents=cents_between(ideal, reference_hz=equal),
                stiff_cents=cents_between(target, reference_hz=equal) + shift,
                tension_n=tension_n,
                breaking_share=breaking_share(string, tension_n=tension_n),
            )
        )
    return tuple(rows)


def intervals(plan: Plan) -> tuple[IntervalOutcome, ...]:
    """Return every consonance between two open strings as the plan leaves it, low ones first.

    One string of each course; sympathetic strings are left out.
    """
    numbers = [
        number
        for number in leaders(plan.instrument)
        if plan.instrument.string(number).role != "sympathetic"
    ]
    numbers.sort(key=lambda number: (plan.tuning.midi(number), -number))
    found = []
    for at, lower in enumerate(numbers):
        for upper in numbers[at + 1 :]:
            semitones = plan.tuning.midi(upper) - plan.tuning.midi(lower)
            if semitones % 12 not in CONSONANT:
                continue
            cents = cents_between(plan.ideal_hz[upper - 1], reference_hz=plan.ideal_hz[lower - 1])
            equal = cents - 100.0 * semitones
            pure = cents - cents_of(just_ratio(semitones))
            found.append(
                IntervalOutcome(
                    lower=lower,
                    upper=upper,
                    name=interval_name(semitones),
                    cents=cents,
                    against_equal_cents=equal,
                    against_pure_cents=pure,
                    sour=min(abs(equal), abs(pure)) > SOUR_CENTS,
                )
            )
    return tuple(found)
