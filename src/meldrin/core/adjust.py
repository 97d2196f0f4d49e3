"""Redundant comparisons adjusted by least squares, and which of them is likely wrong.

The strings are the unknowns, each comparison an observation of one interval, as heights and
levelled sections in surveying. x = (A^T W A)^-1 A^T W l (Gauss, 1823); beats are not linear in
cents, so that is repeated from where it led. All comparisons are first tested together, by the sum
of their squared residuals; only where that fails is anything accused (Baarda, 1968), so that clean
comparisons are accused once in twenty times however many they are. Accused is the smallest set
without which the rest agrees. Where several such sets are as good, as in a single loop, no
adjustment can tell which of them was wrong.
"""

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray

from meldrin.core.beats import FIFTH_FAMILY, beats_per_cent, interval_name, meeting
from meldrin.core.errors import Code, MeldrinError, within
from meldrin.core.pitch import A4_MIDI, checked_a4_hz, equal_tempered_hz, note_name
from meldrin.core.units import cents_of_ratio, cents_of_semitones, ratio_of_cents

DOUBTFUL: Final = 2.576  # deviations: one true string in a hundred goes beyond it by chance
ACCUSED: Final = 0.045  # how often clean comparisons may be accused: under one in twenty
MOST_WRONG: Final = 2  # looked for at once; more than these cannot be told apart
MOST_NAMED: Final = 3
MOST_ROUNDS: Final = 30  # of adjusting again where beats are bent; each leaves a thousandth
SETTLED_CENTS: Final = 1e-9
ALIKE: Final = 0.999  # correlation of residuals from which two cannot be told apart
NO_RESIDUAL: Final = 1e-6  # share of its variance below which nothing checks a comparison
MOST_UNSIGNED: Final = 12
ALSO_FITS: Final = 2.7  # growth of chi squared within which another direction fits as well

Matrix = NDArray[Any]


@dataclass(frozen=True, slots=True)
class Observation:
    """One comparison of two strings.

    lower, upper: their notes as MIDI numbers, the lower one first.
    sd: its standard deviation, in the unit of what was measured.
    partials: of the lower and of the upper string, where beats were counted.
    cents: how far the upper string lies above equal temperament as seen from the lower one; this,
        or `beats_hz`.
    beats_hz: beats a second.
    side: +1 where the interval is wider than still, -1 where it is narrower, 0 where nobody knows.
    """

    lower: int
    upper: int
    sd: float
    partials: tuple[int, int] = (1, 1)
    cents: float | None = None
    beats_hz: float | None = None
    side: int = 0

    def __post_init__(self) -> None:
        if self.lower == self.upper:
            raise MeldrinError(Code.OBSERVATION, "A comparison needs two different strings.")
        if (self.cents is None) == (self.beats_hz is None):
            raise MeldrinError(
                Code.OBSERVATION, "A comparison needs either cents or beats, not both."
            )
        within(self.sd, name="sd", low=1e-3, high=200.0)
        if self.cents is not None:
            within(self.cents, name="cents", low=-200.0, high=200.0, unit="cents")
        else:
            within(self.beats_hz or 0.0, name="beats", low=0.0, high=30.0, unit="a second")
            p, q = self.partials
            for part in (p, q):
                within(part, name="partial", low=1, high=16)
            semitones = 100.0 * (self.upper - self.lower)
            if abs(cents_of_ratio(p / q) - semitones) > 60.0:
                raise MeldrinError(
                    Code.OBSERVATION,
                    f"Partials {p}:{q} of {note_name(self.lower)} and {note_name(self.upper)} do"
                    " not meet; they are more than a quarter tone apart.",
                )


@dataclass(frozen=True, slots=True)
class Adjusted:
    """One string: its offset from equal temperament and the standard error of it, in cents, both
    against the string held.
    """

    midi: int
    offset_cents: float
    error_cents: float


@dataclass(frozen=True, slots=True)
class Residual:
    """One comparison after the adjustment, in cents: as observed, as adjusted, their difference.

    `doubt`: the difference in deviations of its own; None where nothing checks the comparison.
    """

    observation: Observation
    observed_cents: float
    adjusted_cents: float
    residual_cents: float
    doubt: float | None


@dataclass(frozen=True, slots=True)
class Deciding:
    """A further comparison, and the groups of suspects it would leave."""

    lower: int
    upper: int
    interval: str
    groups: tuple[tuple[int, ...], ...]


@dataclass(frozen=True, slots=True)
class Adjustment:
    """What measured comparisons say of the strings, and of each other.

    held: the note of the string that is taken as right.
    wrong: how many comparisons are likely wrong: 0 where all agree, None where more than one is and
        they cannot be told apart.
    suspects: indices of the comparisons that are accused: as many as are wrong, or more where they
        cannot be told apart.
    deciding: the check that would narrow them down, or decide between directions, or None.
    stands_out: the note of the string that lies furthest from the others, in its own deviations.
    choices: the directions of all beats without a sign (-1 narrow, +1 wide, in the order of the
        comparisons) that fit about as well, the best first. While there are several, nothing is
        accused.
    """

    held: int
    strings: tuple[Adjusted, ...]
    residuals: tuple[Residual, ...]
    redundancy: int
    chi_squared: float
    wrong: int | None
    suspects: tuple[int, ...]
    deciding: Deciding | None
    stands_out: int | None
    choices: tuple[tuple[int, ...], ...]


def adjust(
    observations: Sequence[Observation], *, a4_hz: float = 440.0, held: int | None = None
) -> Adjustment:
    """Return the strings' offsets from equal temperament by least squares, and the suspects.

    `held`: the string taken as right, at its pitch of equal temperament; None for an A where there
    is one, else the first named. Exact for beats as for cents, whatever string is held.

    Raises:
        OutOfRange: for a calibration outside 390 to 470 Hz.
        MeldrinError: code ``observation``: none given, strings that nothing connects, more than
            12 unsigned beats; ``side``: unsigned beats that no loop decides.
    """
    checked_a4_hz(a4_hz)
    if not observations:
        raise MeldrinError(Code.OBSERVATION, "There is no comparison to adjust; give at least one.")
    midis = sorted({midi for one in observations for midi in (one.lower, one.upper)})
    fixed = _held(midis, held)
    _connected(observations, midis)
    design = _design([(one.lower, one.upper) for one in observations], midis, fixed)
    sides, choices = _directions(observations, design, a4_hz)
    others = [midi for midi in midis if midi != fixed]
    offsets = dict.fromkeys(midis, 0.0)
    for _ in range(MOST_ROUNDS):
        values = _values(observations, sides, a4_hz, offsets)
        sds = np.array([_sd_cents(one, a4_hz, offsets) for one in observations])
        solution, cofactors, residuals, spread = _solve(design, values, sds)
        found = dict(zip(others, (float(x) for x in solution), strict=True))
        moved = max((abs(found[midi] - offsets[midi]) for midi in others), default=0.0)
        offsets.update(found)
        if moved < SETTLED_CENTS:
            break
    errors = dict.fromkeys(midis, 0.0)
    for column, midi in enumerate(others):
        errors[midi] = math.sqrt(float(cofactors[column, column]))
    doubts = _doubts(residuals, spread, sds)
    wrong, suspects = (0, ()) if len(choices) > 1 else _wrong(design, values, sds)
    if len(choices) > 1:
        deciding = _deciding_direction(observations, midis, fixed, design, a4_hz, choices)
    else:
        deciding = _deciding(observations, midis, fixed, sds, suspects if wrong == 1 else ())
    told = len(choices) == 1 and wrong is not None
    stands_out = _stands_out(offsets, errors, fixed) if told else None
    return Adjustment(
        held=fixed,
        strings=tuple(Adjusted(midi, offsets[midi], errors[midi]) for midi in midis),
        residuals=tuple(
            Residual(one, float(value), float(value - rest), float(rest), doubt)
            for one, value, rest, doubt in zip(observations, values, residuals, doubts, strict=True)
        ),
        redundancy=len(observations) - design.shape[1],
        chi_squared=float(np.sum((residuals / sds) ** 2)),
        wrong=wrong,
        suspects=suspects,
        deciding=deciding,
        stands_out=stands_out,
        choices=choices,
    )


def _held(midis: Sequence[int], held: int | None) -> int:
    if held is None:
        return next((midi for midi in midis if midi % 12 == A4_MIDI % 12), midis[0])
    if held not in midis:
        raise MeldrinError(
            Code.OBSERVATION, f"{note_name(held)} is not among the strings that were compared."
        )
    return held


def _connected(observations: Sequence[Observation], midis: Sequence[int]) -> None:
    reached = {midis[0]}
    while True:
        more = {
            midi
            for one in observations
            if reached & {one.lower, one.upper}
            for midi in (one.lower, one.upper)
        }
        if more <= reached:
            break
        reached |= more
    lost = [note_name(midi) for midi in midis if midi not in reached]
    if lost:
        raise MeldrinError(
            Code.OBSERVATION,
            f"No comparison connects {', '.join(lost)} with {note_name(midis[0])}; add one.",
        )


def _design(pairs: Sequence[tuple[int, int]], midis: Sequence[int], fixed: int) -> Matrix:
    columns = {midi: at for at, midi in enumerate(midi for midi in midis if midi != fixed)}
    design = np.zeros((len(pairs), len(columns)))
    for row, (lower, upper) in enumerate(pairs):
        if lower in columns:
            design[row, columns[lower]] = -1.0
        if upper in columns:
            design[row, columns[upper]] = 1.0
    return design


def _meeting_hz(one: Observation, a4_hz: float, offsets: dict[int, float]) -> float:
    """Return the frequency of the lower string's partial, with the string as far off as it is."""
    hz = equal_tempered_hz(one.lower, a4_hz=a4_hz)
    return float(one.partials[0] * hz * ratio_of_cents(offsets.get(one.lower, 0.0)))


def _sd_cents(one: Observation, a4_hz: float, offsets: dict[int, float]) -> float:
    if one.cents is not None:
        return one.sd
    return one.sd / beats_per_cent(_meeting_hz(one, a4_hz, offsets))


def _values(
    observations: Sequence[Observation],
    sides: Sequence[int],
    a4_hz: float,
    offsets: dict[int, float],
) -> Matrix:
    return np.array(
        [_value(one, side, a4_hz, offsets) for one, side in zip(observations, sides, strict=True)]
    )


def _value(one: Observation, side: int, a4_hz: float, offsets: dict[int, float]) -> float:
    """Return what was observed, as cents of the upper string above equal temperament."""
    if one.cents is not None:
        return one.cents
    assert one.beats_hz is not None
    p, q = one.partials
    pure = cents_of_ratio(p / q) - cents_of_semitones(one.upper - one.lower)
    hz = _meeting_hz(one, a4_hz, offsets)
    return pure + cents_of_ratio((hz + side * one.beats_hz) / hz)


def _directions(
    observations: Sequence[Observation], design: Matrix, a4_hz: float
) -> tuple[list[int], tuple[tuple[int, ...], ...]]:
    """Return the side of every comparison, those that are not said as they fit best, and all
    choices of the latter that fit about as well.
    """
    unsigned = [at for at, one in enumerate(observations) if one.beats_hz and one.side == 0]
    sides = [one.side for one in observations]
    if not unsigned:
        return sides, ((),)
    if len(unsigned) > MOST_UNSIGNED:
        raise MeldrinError(
            Code.OBSERVATION,
            f"{len(unsigned)} beat rates have no side; write + (wide) or - (narrow) before all"
            f" but {MOST_UNSIGNED}.",
        )
    if len(observations) == design.shape[1]:
        raise MeldrinError(
            Code.SIDE,
            "Beats tell how far, never which way: write + (wider than still) or - (narrower)"
            " before them, or add comparisons that close a loop.",
        )
    weights = 1.0 / np.array([_sd_cents(one, a4_hz, {}) for one in observations])
    project = np.eye(len(weights)) - _hat(design, weights)
    tried = []
    for choice in itertools.product((-1, 1), repeat=len(unsigned)):
        for at, side in zip(unsigned, choice, strict=True):
            sides[at] = side
        rest = project @ (_values(observations, sides, a4_hz, {}) * weights)
        tried.append((float(rest @ rest), choice))
    tried.sort(key=lambda one: one[0])
    best = tried[0][0]
    choices = tuple(choice for chi, choice in tried if chi < best + ALSO_FITS)
    for at, side in zip(unsigned, choices[0], strict=True):
        sides[at] = side
    return sides, choices


def _hat(design: Matrix, weights: Matrix) -> Matrix:
    weighted = design * weights[:, None]
    return np.asarray(weighted @ np.linalg.pinv(weighted))


def _solve(design: Matrix, values: Matrix, sds: Matrix) -> tuple[Matrix, Matrix, Matrix, Matrix]:
    """Return offsets, their covariance, the residuals and the residuals' covariance."""
    weights = 1.0 / sds**2
    cofactors = np.linalg.inv(design.T @ (weights[:, None] * design))
    solution = cofactors @ (design.T @ (weights * values))
    residuals = values - design @ solution
    spread = np.diag(sds**2) - design @ cofactors @ design.T
    return solution, cofactors, residuals, spread


def _doubts(residuals: Matrix, spread: Matrix, sds: Matrix) -> list[float | None]:
    doubts: list[float | None] = []
    for at, rest in enumerate(residuals):
        own = float(spread[at, at])
        checked = own > NO_RESIDUAL * float(sds[at]) ** 2
        doubts.append(float(abs(rest)) / math.sqrt(own) if checked else None)
    return doubts


def _wrong(design: Matrix, values: Matrix, sds: Matrix) -> tuple[int | None, tuple[int, ...]]:
    """Return how many comparisons are wrong and which, as `Adjustment` has them.

    The smallest set without which the rest passes the test of all together; what is set aside no
    longer speaks, and the rest is tested again.
    """
    if _agree(design, values, sds):
        return 0, ()
    count = len(values)
    for size in range(1, MOST_WRONG + 1):
        fitting = [
            gone
            for gone in itertools.combinations(range(count), size)
            if _agree_without(design, values, sds, gone)
        ]
        if not fitting:
            continue
        together = tuple(sorted({at for gone in fitting for at in gone}))
        if len(together) == 1:
            # where a string has three comparisons, one that is wrong looks as the other two would
            other = {
                at
                for gone in itertools.combinations(range(count), 2)
                if together[0] not in gone and _agree_without(design, values, sds, gone)
                for at in gone
            }
            if not other:
                return 1, together
            together = tuple(sorted({*together, *other}))
            return None, together if len(together) <= MOST_NAMED else ()
        if size == 1:
            return 1, together
        if len(fitting) == 1 or len(together) <= MOST_NAMED:
            return (size if len(fitting) == 1 else None), together
        return None, ()
    return None, ()


def _agree_without(design: Matrix, values: Matrix, sds: Matrix, gone: tuple[int, ...]) -> bool:
    kept = [at for at in range(len(values)) if at not in gone]
    rest = design[kept]
    if np.linalg.matrix_rank(rest) < design.shape[1]:
        return False  # without these nothing connects the strings
    return _agree(rest, values[kept], sds[kept])


def _agree(design: Matrix, values: Matrix, sds: Matrix) -> bool:
    """Whether comparisons agree within their deviations: the test of all of them together."""
    redundancy = len(values) - design.shape[1]
    if redundancy <= 0:
        return True
    weights = 1.0 / sds
    rest = (np.eye(len(values)) - _hat(design, weights)) @ (values * weights)
    return _chance(float(rest @ rest), redundancy) >= ACCUSED


def _chance(chi_squared: float, freedom: int) -> float:
    """Return how often chance alone makes the sum of squares as large (the chi-squared
    distribution): Q(a + 1, x) = Q(a, x) + x^a e^-x/Gamma(a + 1), up from Q(1/2, x) = erfc(sqrt x)
    or Q(1, x) = e^-x.

    >>> round(_chance(3.841, 1), 3), round(_chance(9.488, 4), 3), round(_chance(11.07, 5), 3)
    (0.05, 0.05, 0.05)
    """
    x = chi_squared / 2.0
    a, chance = (0.5, math.erfc(math.sqrt(x))) if freedom % 2 else (1.0, math.exp(-x))
    while a < freedom / 2.0:
        chance += math.exp(a * math.log(x) - x - math.lgamma(a + 1.0)) if x > 0.0 else 0.0
        a += 1.0
    return chance


def _correlation(spread: Matrix, one: int, other: int) -> float:
    both = math.sqrt(float(spread[one, one] * spread[other, other]))
    return abs(float(spread[one, other])) / both if both > 0.0 else 0.0


def _deciding(
    observations: Sequence[Observation],
    midis: Sequence[int],
    fixed: int,
    sds: Matrix,
    suspects: tuple[int, ...],
) -> Deciding | None:
    """Return the comparison that splits the suspects into the smallest groups, best kept apart.

    Comparisons the ear can make (octaves, fifths, fourths) come before others.
    """
    if len(suspects) < 2:
        return None
    pairs = [(one.lower, one.upper) for one in observations]
    sd = float(np.median(sds))
    best: tuple[tuple[object, ...], Deciding] | None = None
    for lower, upper in itertools.combinations(midis, 2):
        if (lower, upper) in pairs:
            continue
        design = _design([*pairs, (lower, upper)], midis, fixed)
        spread = _solve(design, np.zeros(len(pairs) + 1), np.append(sds, sd))[3]
        groups: list[list[int]] = []
        for at in suspects:
            home = next((g for g in groups if _correlation(spread, g[0], at) > ALIKE), None)
            groups.append([at]) if home is None else home.append(at)
        if len(groups) < 2:
            continue
        closest = max(
            _correlation(spread, one[0], two[0]) for one, two in itertools.combinations(groups, 2)
        )
        span = upper - lower
        hard = span not in FIFTH_FAMILY or meeting(span) is None
        key = (hard, max(len(group) for group in groups), round(closest, 6), lower, upper)
        if best is None or key < best[0]:
            kept = tuple(tuple(group) for group in groups)
            best = key, Deciding(lower, upper, interval_name(span), kept)
    if best is not None:
        return best[1]
    repeated = observations[suspects[0]]
    rest = suspects[1:]
    name = interval_name(abs(repeated.upper - repeated.lower))
    return Deciding(repeated.lower, repeated.upper, name, ((suspects[0],), rest))


def _deciding_direction(
    observations: Sequence[Observation],
    midis: Sequence[int],
    fixed: int,
    design: Matrix,
    a4_hz: float,
    choices: Sequence[tuple[int, ...]],
) -> Deciding | None:
    """Return the comparison whose outcome differs most between the directions that fit, one the ear
    can make before others; its groups are empty, since nothing is accused.
    """
    unsigned = [at for at, one in enumerate(observations) if one.beats_hz and one.side == 0]
    sds = np.array([_sd_cents(one, a4_hz, {}) for one in observations])
    outcomes = []
    for choice in choices:
        sides = [one.side for one in observations]
        for at, side in zip(unsigned, choice, strict=True):
            sides[at] = side
        solution = _solve(design, _values(observations, sides, a4_hz, {}), sds)[0]
        others = [midi for midi in midis if midi != fixed]
        outcomes.append({fixed: 0.0, **dict(zip(others, solution, strict=True))})
    done = {(one.lower, one.upper) for one in observations}
    best: tuple[tuple[object, ...], Deciding] | None = None
    for lower, upper in itertools.combinations(midis, 2):
        sizes = sorted(float(one[upper] - one[lower]) for one in outcomes)
        apart = min((b - a for a, b in itertools.pairwise(sizes)), default=0.0)
        span = upper - lower
        hard = span not in FIFTH_FAMILY or meeting(span) is None
        key = (apart < 1.0, (lower, upper) in done, hard, -round(apart, 6), lower, upper)
        if best is None or key < best[0]:
            best = key, Deciding(lower, upper, interval_name(span), ())
    return None if best is None else best[1]


def _stands_out(offsets: dict[int, float], errors: dict[int, float], fixed: int) -> int | None:
    """Return the string furthest from the middle of all, if clearly so."""
    if len(offsets) < 3:
        return None
    middle = float(np.median(list(offsets.values())))
    typical = float(np.median([error for midi, error in errors.items() if midi != fixed]))

    def far(midi: int) -> float:
        return abs(offsets[midi] - middle) / (errors[midi] or typical)

    worst = max(offsets, key=far)
    return worst if far(worst) > DOUBTFUL else None
