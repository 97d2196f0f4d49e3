"""What is known of a threshold, and which trial would tell most: a Bayesian adaptive procedure.

A grid of thresholds, slopes, lapses and widths holds how likely each is. Every answer multiplies it
by what each would have made of that trial; the next trial is the one whose answer says most of the
threshold (Kontsevich and Tyler, Vision Research 39, 1999; Watson, Journal of Vision 17(3), 2017).
The rest of the grid is summed over first, so that no trial is spent on slopes or lapses.

The listener: a difference s is felt as ln 3 (|s|/t)^slope on its side, plus noise of a logistic
distribution. So t is the difference whose side is told right 3 times in 4 by who has to name one.
Who may say “the same” does it where less is felt than a width of it; who tells whether there is
anything says so where more than that is felt. In a share of trials, lapses, it is any answer.

Where an amount is answered, nothing is placed: the errors are normal, half of them within the
threshold, and lapses lie anywhere.
"""

import itertools
import math
import random
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Final, Literal

import numpy as np
from numpy.typing import NDArray

from meldrin.core.errors import Code, MeldrinError, within

Floats = NDArray[np.float64]
Judged = Literal["side_or_same", "side", "whether", "amount"]
ANSWERS: Final[dict[Judged, int]] = {"side_or_same": 3, "side": 2, "whether": 2}

THRESHOLDS: Final = 80
SIZES: Final = 20
# Values of the rest, each with how likely it is before the first trial; judgements.
# A difference of pitch is felt in proportion to it. Two partials that begin together drift apart as
# the cosine, so that a slow beat is felt rather with the square of its rate.
SLOPES: Final[dict[Judged, dict[float, float]]] = {
    "side_or_same": {0.8: 0.25, 1.0: 0.5, 1.25: 0.25},
    "side": {0.8: 0.25, 1.0: 0.5, 1.25: 0.25},
    "whether": {1.2: 0.25, 1.5: 0.5, 2.0: 0.25},
}
# Who is tired, or a child who presses anything, guesses one answer in four.
LAPSES: Final = (0.02, 0.05, 0.1, 0.25)
# Where a side has to be named nothing is easy for everybody, so that many lapses are hardly seen.
LAPSING: Final[dict[Judged, tuple[float, ...]]] = {
    "side_or_same": (0.4, 0.48, 0.06, 0.06),
    "side": (0.3, 0.49, 0.14, 0.07),
    "whether": (0.3, 0.48, 0.1, 0.12),
    "amount": (0.25, 0.4, 0.2, 0.15),
}
MANY_LAPSES: Final = 0.2  # the share of lapses from which answers are mixed
# So sure it must be before it is said: an amount tells of a lapse at once, a side hardly.
MIXED_FROM: Final[dict[Judged, float]] = {
    "side_or_same": 0.27,
    "side": 0.17,
    "whether": 0.35,
    "amount": 0.6,
}
# So likely it must be that all is called beating, before a sitting tells nothing.
ONE_SIDED_FROM: Final = 0.5
LEAST_OF_A_WIDTH: Final = 0.02
LEAST_KEPT: Final = 1e-9
LAPSES_LAST_DAYS: Final = 3.0  # who was tired need not be so next week
# Who says yes whatever there is to hear has a width far below none.
WIDTHS: Final[dict[Judged, dict[float, float]]] = {
    "side_or_same": {0.5: 1 / 3, 1.0: 1 / 3, 2.0: 1 / 3},
    "side": {0.0: 1.0},
    "whether": {-3.0: 0.1, -1.0: 0.1, 0.0: 0.2, 1.0: 0.3, 2.0: 0.3},
}
NOTHING: Final[dict[Judged, float]] = {"side_or_same": 0.15, "side": 0.0, "whether": 0.3}
HALF_WITHIN: Final = 0.6745  # standard deviations
ANYWHERE: Final = 2.0  # times the largest threshold, either way: so far lapses of an amount lie
FAR_LAPSES: Final = 0.02  # of lapses of an amount lie farther off still
DRIFT: Final = 0.01  # of the log of a threshold from trial to trial, since ears learn
DRIFT_A_WEEK: Final = 0.2
MOST_DRIFT: Final = 0.8
# How many numbers are kept: of each threshold with each share of lapses, and of widths. Records
# of before 2026-12-03 have thresholds alone, then lapses, then widths beside them.
TOGETHER: Final = THRESHOLDS * len(LAPSES)
KEPT: Final = (
    THRESHOLDS,
    THRESHOLDS + len(LAPSES),
    THRESHOLDS + len(LAPSES) + len(WIDTHS["whether"]),
    TOGETHER,
    TOGETHER + len(WIDTHS["whether"]),
)
# Some trials are so easy that only who guesses misses them: else lapses are never seen. Few while
# the threshold is still sought; then the more, the likelier it is that answers are guessed.
# Where it is told whether there is anything, half of all guesses are right, so they are more.
EASY_LEAST: Final[dict[Judged, float]] = {"side_or_same": 0.2, "side": 0.2, "whether": 0.3}
EASY_MOST, EASY_TIMES = 0.75, 16.0
EASY_FROM: Final = 3.0  # times the threshold, a side is missed 1 time in 28
SOUGHT_TIMES: Final = 2.9  # an interval as wide as this is still sought
LEFT_OUT: Final = 0.05  # of what is likely, on each side of an interval


@dataclass(frozen=True, slots=True)
class Scale:
    """What is measured: how it is judged, and from where to where thresholds and differences may
    lie, in a unit of their own. An amount has errors in place of differences.
    """

    judged: Judged
    low: float
    high: float

    def __post_init__(self) -> None:
        within(self.low, name="lowest threshold", low=1e-4, high=1e4)
        within(self.high, name="highest threshold", low=2.0 * self.low, high=1e5)

    @property
    def answers(self) -> int:
        """How many answers there are, from the low side to the high one, or from no to yes.

        Raises:
            KeyError: where an amount is answered.
        """
        return ANSWERS[self.judged]


@dataclass(frozen=True, slots=True)
class Threshold:
    """A threshold as far as it is known: as likely above as below `middle`, and in 9 of 10 cases
    from `low` to `high`.
    """

    low: float
    middle: float
    high: float


@dataclass(frozen=True, eq=False)
class _Grid:
    """thresholds: shape (t,). differences: (d,), signed where sides are judged.
    likelihoods: of each answer, by difference, answer, threshold and all the rest (d, a, t, r).
    lapses, widths: of all the rest, how often it lapses, and what is still nothing (r,).
    """

    thresholds: Floats
    differences: Floats
    likelihoods: Floats
    prior: Floats
    lapses: Floats
    widths: Floats


@lru_cache(maxsize=32)
def _grid(scale: Scale) -> _Grid:
    thresholds = np.geomspace(scale.low, scale.high, THRESHOLDS)
    if scale.judged == "amount":
        lapsing = np.array(LAPSING["amount"]) / THRESHOLDS
        nothing = np.empty(0)
        prior = np.tile(lapsing, (THRESHOLDS, 1))
        return _Grid(thresholds, nothing, nothing, prior, np.array(LAPSES), np.zeros(len(LAPSES)))
    sizes = np.geomspace(scale.low, scale.high, SIZES)
    signed = sizes if scale.judged == "whether" else np.concatenate([-sizes[::-1], sizes])
    differences = np.sort(np.append(signed, 0.0))
    rest = list(
        itertools.product(
            SLOPES[scale.judged].items(),
            zip(LAPSES, LAPSING[scale.judged], strict=True),
            WIDTHS[scale.judged].items(),
        )
    )
    slopes, lapses, widths = (np.array([one[part][0] for one in rest]) for part in range(3))
    weights = np.array([math.prod(share for _, share in one) for one in rest])
    likelihoods = _likelihoods(
        scale.judged,
        differences[:, None, None],
        threshold=thresholds[None, :, None],
        slope=slopes[None, None, :],
        lapse=lapses[None, None, :],
        width=widths[None, None, :],
    )
    prior = np.tile(weights / THRESHOLDS, (THRESHOLDS, 1))
    by_difference = np.moveaxis(likelihoods, 0, 1).copy()
    return _Grid(thresholds, differences, by_difference, prior, lapses, widths)


def _likelihoods(
    judged: Judged,
    difference: Floats,
    *,
    threshold: Floats,
    slope: Floats,
    lapse: Floats,
    width: Floats,
) -> Floats:
    """Return how likely each answer is, in a new first axis."""
    felt = np.sign(difference) * math.log(3.0) * (np.abs(difference) / threshold) ** slope
    above = _logistic(felt - width)
    if judged == "side_or_same":
        below = _logistic(-felt - width)
        answers = np.stack([below, 1.0 - below - above, above])
    else:
        answers = np.stack([1.0 - above, above])
    return (1.0 - lapse) * answers + lapse / len(answers)


def _logistic(felt: Floats) -> Floats:
    return np.asarray(0.5 * (1.0 + np.tanh(0.5 * felt)))


@dataclass(frozen=True, eq=False)
class Belief:
    """How likely each threshold is (first axis), with each slope, lapse and width (second)."""

    scale: Scale
    likely: Floats

    @property
    def threshold(self) -> Threshold:
        """The threshold, whatever the rest may be. Where the answers speak for many lapses, its
        interval holds what it would be with them, too: who guesses now and then is finer than
        their answers.
        """
        together = self._together
        low, middle, high = self._shares(together.sum(axis=1))
        usual = np.array(LAPSING[self.scale.judged])
        speaks = (np.array(LAPSES) >= MANY_LAPSES) & (together.sum(axis=0) > usual)
        if speaks.any():
            lowest, _, highest = self._shares(together[:, speaks].sum(axis=1))
            low, high = min(low, lowest), max(high, highest)
        return Threshold(low, middle, high)

    def _shares(self, likely: Floats) -> tuple[float, float, float]:
        """Return the thresholds with 5, 50 and 95 % of what is likely below them."""
        share, at = np.cumsum(likely), np.log(_grid(self.scale).thresholds)
        # of the share in a step of the grid, half lies below its threshold
        middle = share - 0.5 * likely
        wanted = (LEFT_OUT, 0.5, 1.0 - LEFT_OUT)
        low, half, high = np.exp(np.interp(wanted, middle / share[-1], at))
        return float(low), float(half), float(high)

    def after(self, difference: float, answer: int) -> "Belief":
        """Return what is known when this answer (from 0) has been given to that difference.

        Raises:
            MeldrinError: code ``drill``, for a difference or an answer that is not asked for.
        """
        grid = _grid(self.scale)
        place = int(np.argmin(np.abs(grid.differences - difference)))
        near = math.isclose(grid.differences[place], difference, rel_tol=1e-6, abs_tol=1e-12)
        if not near or not 0 <= answer < self.scale.answers:
            raise MeldrinError(Code.DRILL, "That difference, or that answer, is not of this drill.")
        return self._having(grid.likelihoods[place, answer])

    def after_error(self, error: float) -> "Belief":
        """Return what is known when an amount was so far off.

        Raises:
            OutOfRange: for an error that is no number.
        """
        within(error, name="error", low=-1e6, high=1e6)
        sd = _grid(self.scale).thresholds[:, None] / HALF_WITHIN
        reached = ANYWHERE * self.scale.high
        lapse = np.array(LAPSES)[None, :]
        if abs(error) > reached:  # where no lapse lies: only that it is as far is known
            return self._having((1.0 - lapse) * _beyond(reached / sd) + FAR_LAPSES * lapse)
        normal = np.exp(-0.5 * (error / sd) ** 2) / (sd * math.sqrt(2.0 * math.pi))
        return self._having((1.0 - lapse) * normal + lapse / (2.0 * reached))

    def _having(self, likelihoods: Floats) -> "Belief":
        likely = self.likely * likelihoods
        return Belief(self.scale, _drifted(self.scale, likely / likely.sum(), DRIFT))

    def since(self, days: float) -> "Belief":
        """Return what is still known so long after the last trial."""
        within(days, name="days since the last trial", low=0.0, high=40_000.0, unit="days")
        sd = min(MOST_DRIFT, DRIFT_A_WEEK * math.sqrt(days / 7.0))
        later = Belief(self.scale, _drifted(self.scale, self.likely, sd))
        lasts = math.exp(-days / LAPSES_LAST_DAYS)
        # as it was, or lapses and widths are anybody's again
        usual = np.array(LAPSING[self.scale.judged])
        anybody = np.outer(later.likely.sum(axis=1), usual)
        widths = lasts * self.of_widths + (1.0 - lasts) * _usual_widths(self.scale)
        return _made_of(self.scale, lasts * later._together + (1.0 - lasts) * anybody, widths)

    @property
    def lapsing(self) -> Floats:
        """How likely each share of lapses is, shape (lapses,)."""
        return np.asarray(self._together.sum(axis=0))

    @property
    def _together(self) -> Floats:
        """How likely each threshold is with each share of lapses, shape (thresholds, lapses)."""
        lapses = _grid(self.scale).lapses
        return np.stack([self.likely[:, lapses == one].sum(axis=1) for one in LAPSES], axis=1)

    @property
    def of_widths(self) -> Floats:
        """How likely each width is, shape (widths,); empty where an amount is answered, and where
        sides are: there each sitting finds it out for itself.
        """
        if self.scale.judged != "whether":
            return np.empty(0)
        of_rest, widths = self.likely.sum(axis=0), _grid(self.scale).widths
        return np.array([of_rest[widths == one].sum() for one in WIDTHS["whether"]])

    @property
    def mixed(self) -> bool:
        """Whether the answers do not agree with each other, whatever the threshold: then it is not
        known what was heard.
        """
        return self._guessing > MIXED_FROM[self.scale.judged]

    @property
    def one_sided(self) -> bool:
        """Whether it was said that there is something, whatever there was: that tells no threshold,
        and from sitting to sitting it would look finer.
        """
        if self.scale.judged != "whether":
            return False
        says_yes = np.array(list(WIDTHS["whether"])) < 0.0
        return float(self.of_widths[says_yes].sum()) > ONE_SIDED_FROM

    @property
    def _guessing(self) -> float:
        """How likely it is that many answers are guessed."""
        return float(self.lapsing[np.array(LAPSES) >= MANY_LAPSES].sum())

    @property
    def kept(self) -> tuple[float, ...]:
        """For the next sitting, to three digits: how likely each threshold is with each share of
        lapses, since who guesses seems coarser; then each width, where it is told whether there is
        anything.
        """
        shares = (*self._together.T.ravel(), *self.of_widths)
        return tuple(float(f"{one:.3g}") if one > LEAST_KEPT else 0.0 for one in shares)

    def without(self, sitting: "Belief") -> "Belief":
        """Return what is known of the threshold here, with what a sitting has told of lapses and
        of widths.
        """
        together = np.outer(self._together.sum(axis=1), sitting.lapsing)
        return _made_of(self.scale, together, sitting.of_widths)

    def next(self, draw: random.Random) -> float:
        """Return the difference to ask for next: the one whose answer says most of the threshold,
        on either side; now and then none at all, so that nobody is right by always naming one.
        Where an amount is answered there is none to be placed: 0.
        """
        if self.scale.judged == "amount":
            return 0.0
        grid = _grid(self.scale)
        none = draw.random() < NOTHING[self.scale.judged]
        side = draw.choice((-1.0, 1.0)) if self.scale.judged != "whether" else 1.0
        if none:
            return 0.0
        asked = grid.differences > 0.0
        easy = draw.random() < self._easy_share
        # the easy one is the largest there is: who misses it was not listening
        place = -1 if easy else int(np.argmax(self._told(grid.likelihoods[asked])))
        return side * float(grid.differences[asked][place])

    @property
    def _easy_share(self) -> float:
        known, least = self.threshold, EASY_LEAST[self.scale.judged]
        if self.scale.judged == "side" and known.high > self.scale.high / EASY_FROM:
            return 0.0  # nothing is easy
        if known.high > SOUGHT_TIMES * known.low:
            return least
        return max(least, min(EASY_MOST, EASY_TIMES * self._guessing))

    def _told(self, likelihoods: Floats) -> Floats:
        """Return by difference how much its answer would say of the threshold: the entropy of the
        answers, less what is left of it where the threshold is known.
        """
        thresholds = self.likely.sum(axis=1)
        # of each answer, with each threshold: shape (differences, answers, thresholds)
        joint = np.einsum("datr,tr->dat", likelihoods, self.likely)
        given = joint / np.maximum(thresholds, 1e-300)
        left = (_entropy(given, axis=1) * thresholds).sum(axis=1)
        return np.asarray(_entropy(joint.sum(axis=2), axis=1) - left)


def _beyond(deviations: Floats) -> Floats:
    """Return how likely a normal error is to be farther off than that, on either side."""
    return np.array([[math.erfc(float(one) / math.sqrt(2.0))] for one in deviations[:, 0]])


def _entropy(shares: Floats, *, axis: int) -> Floats:
    return np.asarray(-(shares * np.log(np.maximum(shares, 1e-300))).sum(axis=axis))


def nothing_known(scale: Scale) -> Belief:
    """Return what is known before the first trial: every threshold is as likely as another."""
    return Belief(scale, _grid(scale).prior)


def _usual_widths(scale: Scale) -> Floats:
    """Return how likely each width is before the first trial; empty where none are kept."""
    return np.array(list(WIDTHS["whether"].values()) if scale.judged == "whether" else [])


def _drifted(scale: Scale, likely: Floats, sd: float) -> Floats:
    """Return what is known after the log of the threshold may have moved by an amount."""
    step = math.log(scale.high / scale.low) / (THRESHOLDS - 1)
    return _spread(round(sd / step, 4)) @ likely


@lru_cache(maxsize=256)
def _spread(steps: float) -> Floats:
    """Return how each step of the grid spreads over the others, by a deviation in steps; what
    would leave the grid stays at its end.
    """
    places = np.arange(THRESHOLDS)
    away = places[:, None] - places[None, :]
    if steps < 1.0:  # to the neighbours only, such that the variance is right
        moved = np.where(np.abs(away) == 1, 0.5 * steps**2, 0.0)
        return np.asarray(moved + np.diag(1.0 - moved.sum(axis=0)))
    moved = np.exp(-0.5 * (away / steps) ** 2)
    return np.asarray(moved / moved.sum(axis=0))


def from_kept(scale: Scale, kept: Sequence[float]) -> Belief:
    """Return what was known of the threshold, lapses and widths, as `Belief.kept` has it, or an
    earlier version; of slopes each sitting finds out for itself.
    """
    shares = np.asarray(kept, dtype=float)
    usual = np.array(LAPSING[scale.judged])
    if len(shares) >= TOGETHER:
        together = shares[:TOGETHER].reshape(len(LAPSES), THRESHOLDS).T
        return _made_of(scale, together, shares[TOGETHER:])
    lapsing = shares[THRESHOLDS : THRESHOLDS + len(LAPSES)]
    together = np.outer(shares[:THRESHOLDS], lapsing if len(lapsing) else usual)
    return _made_of(scale, together, shares[THRESHOLDS + len(LAPSES) :])


def _made_of(scale: Scale, together: Floats, widths: Floats) -> Belief:
    """Return a belief of how likely each threshold is with each share of lapses, shape
    (thresholds, lapses), and each width; an empty one for the usual widths.
    """
    grid = _grid(scale)
    rest = grid.prior.sum(axis=0)
    of_lapses = np.array([LAPSES.index(float(one)) for one in grid.lapses])
    likely = together[:, of_lapses] * (rest / np.array(LAPSING[scale.judged])[of_lapses])
    if len(widths) and scale.judged == "whether":
        # nothing is ever ruled out: who said yes to all may begin to listen
        shares = np.maximum(widths / widths.sum(), LEAST_OF_A_WIDTH)
        of_each = list(WIDTHS[scale.judged])
        more = shares / _usual_widths(scale)
        likely = likely * np.array([more[of_each.index(float(one))] for one in grid.widths])
    return Belief(scale, likely / likely.sum())
