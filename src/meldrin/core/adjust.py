"""Redundant comparisons adjusted by least squares, and which of them is likely wrong.

The strings are the unknowns, each comparison an observation of one interval, as heights and
levelled sections in surveying. x = (A^T W A)^-1 A^T W l (Gauss, 1823); beats are not linear in
cents, so that is repeated from where it led. All comparisons are first tested together, by the sum
of their squared residuals; only where that fails is anything accused (Baarda, 1968). The stated
error is not believed then: who counts beats scatters more than they say. One comparison is accused
where it is far off by the scatter of all others; where several are as likely, as in a single loop,
no adjustment can tell which of them was wrong.
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
ONE_OFF: Final = 0.1  # how often one may be accused where the rest scatters more than was said
FEWEST_REDUNDANT: Final = 3  # comparisons: with fewer the scatter of the rest is not known
LEAST_SCALE: Final = 0.25  # of the stated variance: a lucky rest accuses nobody
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
    wrong: how many comparisons are likely wrong: 0 where all agree, None where they do not and
        nobody can tell which it is.
    suspects: indices of the comparisons that are accused, more than one where they cannot be told
        apart.
    scatter: how many times as much they scatter (without the one accused) as was said; 1 where that
        is by chance. The strings' standard errors are as much larger.
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
    scatter: float
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
    doubts = _doubts(residuals, spread, sds)
    said = _Found(0, (), 1.0) if len(choices) > 1 else _found(design, values, sds)
    wrong, suspects = said.wrong, said.suspects
    if len(choices) > 1:
        deciding = _deciding_direction(observations, midis, fixed, design, a4_hz, choices)
    else:
        doubted = suspects if wrong != 0 and suspects else ()
        if wrong is None:  # the check that would tell most of them apart
            doubted = tuple(at for at, one in enumerate(doubts) if one is not None)
        deciding = _deciding(observations, midis, fixed, sds, doubted)
    errors = dict.fromkeys(midis, 0.0)
    for column, midi in enumerate(others):
        errors[midi] = said.scatter * math.sqrt(float(cofactors[column, column]))
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
        scatter=said.scatter,
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


@dataclass(frozen=True, slots=True)
class _Found:
    """How many comparisons are wrong (None: they do not agree, and nobody can tell), which, and by
    how many times the rest scatters more than was said.
    """

    wrong: int | None
    suspects: tuple[int, ...]
    scatter: float


def _found(design: Matrix, values: Matrix, sds: Matrix) -> _Found:
    """Return what the comparisons say of each other.

    All are tested together first. Where they disagree, each is set aside in turn and held against
    the scatter of the rest, which may be more than was said (Pope, 1976: the stated error is not
    believed). Accused is one that is farther off than chance allows, both by the scatter of the
    rest and by the stated error; and with it those that cannot be told apart from it. Under three
    redundant comparisons nobody is named: too little is left to know the scatter.
    """
    freedom = len(values) - design.shape[1]
    chi = _chi_squared(design, values, sds)
    if freedom <= 0 or _chance(chi, freedom) >= ACCUSED:
        return _Found(0, (), 1.0)
    none = _Found(None, (), math.sqrt(chi / freedom))
    if freedom < FEWEST_REDUNDANT:
        return none
    left = {
        at: _chi_squared(design[kept], values[kept], sds[kept])
        for at in range(len(values))
        for kept in [[other for other in range(len(values)) if other != at]]
        if np.linalg.matrix_rank(design[kept]) == design.shape[1]
    }
    best = min(left, key=lambda at: left[at])
    rest, gone = left[best], chi - left[best]
    scale = max(rest / (freedom - 1), LEAST_SCALE)
    by_rest = len(left) * _student(math.sqrt(gone / scale), freedom - 1)
    by_said = len(left) * _chance(gone, 1)
    if by_rest > ONE_OFF or by_said > ACCUSED:
        return none
    alike = tuple(at for at in sorted(left) if left[at] - rest < ALSO_FITS * max(1.0, scale))
    if len(alike) > MOST_NAMED:
        return none
    more = _chance(rest, freedom - 1) < ACCUSED
    return _Found(1, alike, math.sqrt(rest / (freedom - 1)) if more else 1.0)


def _student(t: float, freedom: int) -> float:
    """Return how often chance alone makes |t| as large (Student's distribution with a whole number
    of degrees of freedom; Abramowitz and Stegun, 1964, 26.7.3 and 26.7.4).

    >>> round(_student(12.706, 1), 3), round(_student(2.776, 4), 3), round(_student(2.571, 5), 3)
    (0.05, 0.05, 0.05)
    """
    angle = math.atan(t / math.sqrt(freedom))
    cos2, term, total = math.cos(angle) ** 2, 1.0, 0.0
    if freedom % 2:
        term = math.cos(angle)
        for k in range(1, freedom - 1, 2):
            total += term
            term *= cos2 * (k + 1) / (k + 2)
        within_t = (angle + math.sin(angle) * total) * 2.0 / math.pi
    else:
        for k in range(0, freedom, 2):
            total += term
            term *= cos2 * (k + 1) / (k + 2)
        within_t = math.sin(angle) * total
    return max(0.0, 1.0 - within_t)


def _chi_squared(design: Matrix, values: Matrix, sds: Matrix) -> float:
    """Return the sum of squared residuals, each in its own deviations."""
    weights = 1.0 / sds
    rest = (np.eye(len(values)) - _hat(design, weights)) @ (values * weights)
    return float(rest @ rest)


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
