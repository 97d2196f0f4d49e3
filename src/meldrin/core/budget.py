"""Errors along a plan: what every comparison adds, where it ends, and the most useful check.

Each comparison leaves the new string off the old one by an independent error of the ear (and of a
finger, where a string is stopped). So n comparisons with standard deviation s end at s sqrt(n), and
a constant bias at n times the bias. A redundant check, adjusted by least squares, takes some back
(Gauss, 1823): with covariance C, a check a^T x of variance v changes C by -C a a^T C/(v + a^T C a).
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from meldrin.core.beats import FIFTH_FAMILY, interval_name, meeting
from meldrin.core.errors import Code, MeldrinError, known, within
from meldrin.core.methods import Plan, Step, Wanted
from meldrin.core.methods.harmonics import outward_by_harmonics
from meldrin.core.methods.pairs import leaders


@dataclass(frozen=True, slots=True)
class EarErrors:
    """What one comparison leaves, in cents: by beats, by a tuner's reading, and what the finger
    adds where a string is stopped (`finger_sd_cents` by chance, `finger_bias_cents` always sharp).
    """

    id: str
    name: str
    beats_sd_cents: float
    tuner_sd_cents: float
    finger_sd_cents: float
    finger_bias_cents: float

    def __post_init__(self) -> None:
        for value in (self.beats_sd_cents, self.tuner_sd_cents):
            within(value, name="error of a comparison", low=0.05, high=50.0, unit="cents")
        within(self.finger_sd_cents, name="error of the finger", low=0.0, high=50.0, unit="cents")
        within(self.finger_bias_cents, name="finger’s bias", low=-20.0, high=50.0, unit="cents")


# Judgements: beginners by beats 4 to 8 cents, trained ears 1 to 2, tuners 1 to 2; a light hand on
# the frets 1 to 2, a heavy one 5 to 8.
EARS: Final = {
    ear.id: ear
    for ear in (
        EarErrors("beginner", "A beginner’s ear", 6.0, 2.0, 5.0, 3.0),
        EarErrors("practised", "A practised ear", 3.0, 1.5, 2.0, 1.0),
        EarErrors("trained", "A trained ear", 1.5, 1.0, 1.0, 0.0),
    )
}


def ear(ear_id: str) -> EarErrors:
    """Return the ear of this name.

    Raises:
        MeldrinError: code ``no_such_ear``.
    """
    return known(EARS, ear_id, name="ear", code=Code.NO_SUCH_EAR)


@dataclass(frozen=True, slots=True)
class Comparison:
    """String `own` brought to string `other` (None: the reference), with its error in cents."""

    own: int
    other: int | None
    sd_cents: float
    bias_cents: float


@dataclass(frozen=True, slots=True)
class StringError:
    """One string against where the plan wants it: standard deviation and bias, in cents."""

    number: int
    sd_cents: float
    bias_cents: float


@dataclass(frozen=True, slots=True)
class ExtraCheck:
    """A comparison to add: two strings, where they meet, and how far it brings the error down.

    `fret` is where the lower one is stopped (None: both open, partials `partials`); `lower` None:
    the upper one against a note of its own, where no two strings are left to compare.
    """

    lower: int | None
    upper: int
    partials: tuple[int, int]
    fret: int | None
    interval: str
    sd_cents: float


@dataclass(frozen=True, slots=True)
class Expected:
    """What to expect of a plan by an ear, all in cents.

    strings: each against its target, the comparison with the reference included.
    order_sd_cents: the worst string in this order, against the first one (against the reference
        where each string has its own).
    chain_sd_cents: the same if each string were taken from its neighbour, end to end.
    star_sd_cents: the same if each were taken from one string.
    harmonics_sd_cents: the same by natural harmonics, or None where they cannot serve.
    end_to_end_sd_cents, end_to_end_bias_cents: the lowest string against the highest.
    """

    ear: EarErrors
    strings: tuple[StringError, ...]
    order_sd_cents: float
    chain_sd_cents: float
    star_sd_cents: float
    harmonics_sd_cents: float | None
    end_to_end_sd_cents: float
    end_to_end_bias_cents: float
    extra_check: ExtraCheck | None


def comparisons(plan: Plan, by: EarErrors) -> tuple[Comparison, ...]:
    """Return the plan's comparisons with the error this ear leaves in each."""
    return tuple(_comparison(step, by) for step in plan.steps)


def covariance(parts: Sequence[Comparison], count: int) -> list[list[float]]:
    """Return the covariance of all strings against their targets, in cents^2, string 1 first.

    Exact for any order in which a string is compared with the reference or an earlier string.
    """
    table = [[0.0] * count for _ in range(count)]
    for part in parts:
        row = [0.0] * count if part.other is None else list(table[part.other - 1])
        variance = part.sd_cents**2
        if part.other is not None:
            variance += table[part.other - 1][part.other - 1]
        own = part.own - 1
        for other in range(count):
            table[own][other] = table[other][own] = row[other]
        table[own][own] = variance
    return table


def with_check(
    table: list[list[float]], one: int | None, two: int, *, sd_cents: float
) -> list[list[float]]:
    """Return the covariance after a check has been adjusted in, by least squares.

    The check is of two strings, or (`one` None) of string `two` against the reference.
    """
    pull = [row[two - 1] - (0.0 if one is None else row[one - 1]) for row in table]
    total = sd_cents**2 + pull[two - 1] - (0.0 if one is None else pull[one - 1])
    return [
        [value - pull[i] * pull[j] / total for j, value in enumerate(row)]
        for i, row in enumerate(table)
    ]


def expected(plan: Plan, by: EarErrors) -> Expected:
    """Return what to expect of a plan carried out by this ear."""
    count = len(plan.instrument.strings)
    parts = comparisons(plan, by)
    table = covariance(parts, count)
    biases = _biases(parts, count)
    firsts = leaders(plan.instrument)
    lowest = min(firsts, key=lambda n: (plan.tuning.midi(n), -n))
    highest = max(firsts, key=lambda n: (plan.tuning.midi(n), -n))
    pair_sds = [part.sd_cents for part in parts if part.other in firsts and part.own in firsts]
    own_reference = not pair_sds
    common = pair_sds or [part.sd_cents for part in parts if part.own in firsts]
    typical = max(common)
    start = None if own_reference else plan.begun
    return Expected(
        ear=by,
        strings=tuple(
            StringError(number, math.sqrt(table[number - 1][number - 1]), biases[number - 1])
            for number in range(1, count + 1)
        ),
        order_sd_cents=max(_sd(table, start, number) for number in firsts),
        chain_sd_cents=typical * math.sqrt(max(len(firsts) - 1, 1)),
        star_sd_cents=typical,
        harmonics_sd_cents=_harmonics_sd(plan, by),
        end_to_end_sd_cents=_sd(table, lowest, highest),
        end_to_end_bias_cents=biases[highest - 1] - biases[lowest - 1],
        extra_check=_extra_check(plan, table, by, firsts, start),
    )


def _comparison(step: Step, by: EarErrors) -> Comparison:
    stopped = [touch for touch in (step.own, step.other) if touch.fret]
    if step.by_tuner:
        sd = by.tuner_sd_cents
    else:
        finger = by.finger_sd_cents if stopped else 0.0
        # no ear is better than what sounds lets it hear
        sd = math.hypot(max(by.beats_sd_cents, step.hears_cents), finger)
    bias = 0.0
    if step.other.fret:
        bias = by.finger_bias_cents  # the known string, pressed, is sharp: so is what follows it
    elif step.own.fret:
        bias = -by.finger_bias_cents  # the new string is right while pressed, and flat when open
    return Comparison(step.string, step.other.string, sd, bias)


def _biases(parts: Sequence[Comparison], count: int) -> list[float]:
    biases = [0.0] * count
    for part in parts:
        known = 0.0 if part.other is None else biases[part.other - 1]
        biases[part.own - 1] = known + part.bias_cents
    return biases


def _sd(table: list[list[float]], one: int | None, two: int) -> float:
    """Return the standard deviation between two strings, or against the reference (None)."""
    own = table[two - 1][two - 1]
    if one is None:
        return math.sqrt(own)
    between = own + table[one - 1][one - 1] - 2.0 * table[one - 1][two - 1]
    return math.sqrt(max(between, 0.0))


def _harmonics_sd(plan: Plan, by: EarErrors) -> float | None:
    try:
        start, pairs = outward_by_harmonics(Wanted(plan.instrument, plan.tuning, plan.a4_hz))
    except MeldrinError:
        return None
    depth = {start: 0}
    for new, old in pairs:
        depth[new] = depth[old] + 1
    return by.beats_sd_cents * math.sqrt(max(depth.values()))


def _extra_check(
    plan: Plan, table: list[list[float]], by: EarErrors, firsts: list[int], start: int | None
) -> ExtraCheck | None:
    """Return the comparison, not yet made, that takes most off the sum of all variances."""
    done = {frozenset((step.string, step.other.string or 0)) for step in plan.steps}
    best: tuple[float, ExtraCheck] | None = None
    order = sorted(firsts, key=lambda n: (plan.tuning.midi(n), -n))
    for at, lower in enumerate(order):
        for upper in order[at + 1 :]:
            if frozenset((lower, upper)) in done:
                continue
            check, sd = _hearable(plan, lower, upper, by)
            if check is None:
                continue
            after = with_check(table, lower, upper, sd_cents=sd)
            sds = [_sd(after, start, number) for number in firsts]
            left = sum(value**2 for value in sds)
            if best is None or left < best[0] - 1e-9:
                semitones = plan.tuning.midi(upper) - plan.tuning.midi(lower)
                if check[1] is not None:  # between the stopped note and the open string
                    semitones = 12 * (check[0][0].bit_length() - 1)
                interval = interval_name(semitones)
                best = left, ExtraCheck(lower, upper, check[0], check[1], interval, max(sds))
    return _own_note(table, by, firsts, start) if best is None else best[1]


def _own_note(
    table: list[list[float]], by: EarErrors, firsts: list[int], start: int | None
) -> ExtraCheck | None:
    """Return the check of the string that ends up worst against a note or a reading of its own."""
    if start is None:
        return None
    worst = max(firsts, key=lambda number: _sd(table, start, number))
    after = with_check(table, None, worst, sd_cents=by.tuner_sd_cents)
    most = max(_sd(after, start, number) for number in firsts)
    return ExtraCheck(None, worst, (1, 1), None, "its own note", most)


def _hearable(
    plan: Plan, lower: int, upper: int, by: EarErrors
) -> tuple[tuple[tuple[int, int], int | None] | None, float]:
    """Return how two strings can be compared, partials and fret, and the error of that."""
    strings = plan.instrument
    if "sympathetic" in (strings.string(lower).role, strings.string(upper).role):
        return None, 0.0
    semitones = plan.tuning.midi(upper) - plan.tuning.midi(lower)
    pair = meeting(semitones)
    if pair is not None and semitones in FIFTH_FAMILY:
        return (pair, None), by.beats_sd_cents
    # far up the neck nobody compares: two octaves' worth is heard as an octave low on it
    octaves = max(0, (semitones - 1) // 12)
    fret = semitones - 12 * octaves + strings.string(lower).nut_fret
    if strings.fretting == "fixed" and 0 < fret <= strings.frets:
        return ((2**octaves, 1), fret), math.hypot(by.beats_sd_cents, by.finger_sd_cents)
    return None, 0.0
