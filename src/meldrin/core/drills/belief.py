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
    "side_or_same": (0.4, 0.47, 0.06, 0.07),
    "side": (0.25, 0.5, 0.23, 0.02),
    "whether": (0.3, 0.48, 0.1, 0.12),
    "amount": (0.25, 0.4, 0.2, 0.15),
}
MANY_LAPSES: Final = 0.2  # from so many on, answers are mixed
# So sure it must be before it is said: an amount tells of a lapse at once, a side hardly.
MIXED_FROM: Final[dict[Judged, float]] = {
    "side_or_same": 0.19,
    "side": 0.3,
    "whether": 0.42,
    "amount": 0.97,
}
# So likely it must be that all is called beating, before a sitting tells nothing.
ONE_SIDED_FROM: Final = 0.5
LEAST_OF_A_WIDTH: Final = 0.02
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
DRIFT: Final = 0.01  # of the log of a threshold from trial to trial, since ears learn
DRIFT_A_WEEK: Final = 0.2
MOST_DRIFT: Final = 0.8
# Numbers that are kept: of the threshold; of lapses, too; and, since 2026-12-02, of widths.
KEPT: Final = (
    THRESHOLDS,
    THRESHOLDS + len(LAPSES),
    THRESHOLDS + len(LAPSES) + len(WIDTHS["whether"]),
)
# Some trials are so easy that only who guesses misses them: else lapses are never seen. Few while
# the threshold is still sought; then the more, the likelier it is that answers are guessed.
EASY_LEAST, EASY_MOST, EASY_TIMES = 0.1, 0.75, 16.0
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
        """The threshold, whatever the rest may be."""
        share = np.cumsum(self.likely.sum(axis=1))
        at = np.log(_grid(self.scale).thresholds)
        # of the share in a step of the grid, half lies below its threshold
        middle = share - 0.5 * self.likely.sum(axis=1)
        wanted = (LEFT_OUT, 0.5, 1.0 - LEFT_OUT)
        low, half, high = np.exp(np.interp(wanted, middle / share[-1], at))
        return Threshold(float(low), float(half), float(high))

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
        far = min(abs(error), reached)
        normal = np.exp(-0.5 * (far / sd) ** 2) / (sd * math.sqrt(2.0 * math.pi))
        lapse = np.array(LAPSES)[None, :]
        return self._having((1.0 - lapse) * normal + lapse / (2.0 * reached))

    def _having(self, likelihoods: Floats) -> "Belief":
        likely = self.likely * likelihoods
        return Belief(self.scale, _drifted(self.scale, likely / likely.sum(), DRIFT))

    def since(self, days: float) -> "Belief":
        """Return what is still known so long after the last trial."""
        within(days, name="days since the last trial", low=0.0, high=40_000.0, unit="days")
        sd = min(MOST_DRIFT, DRIFT_A_WEEK * math.sqrt(days / 7.0))
        usual = np.array(LAPSING[self.scale.judged])
        lasts = math.exp(-days / LAPSES_LAST_DAYS)
        lapsing = lasts * self.lapsing + (1.0 - lasts) * usual
        widths = lasts * self.of_widths + (1.0 - lasts) * _usual_widths(self.scale)
        later = Belief(self.scale, _drifted(self.scale, self.likely, sd))
        return from_kept(self.scale, (*later.kept[:THRESHOLDS], *lapsing, *widths))

    @property
    def lapsing(self) -> Floats:
        """How likely each share of lapses is, shape (lapses,)."""
        of_rest, lapses = self.likely.sum(axis=0), _grid(self.scale).lapses
        return np.array([of_rest[lapses == one].sum() for one in LAPSES])

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
        """How likely it is that so many answers are guessed."""
        return float(self.lapsing[np.array(LAPSES) >= MANY_LAPSES].sum())

    @property
    def kept(self) -> tuple[float, ...]:
        """How likely each threshold of the grid is, then each share of lapses, and each width where
        it is told whether there is anything, for the next sitting; to six digits.
        """
        shares = (*self.likely.sum(axis=1), *self.lapsing, *self.of_widths)
        return tuple(round(float(one), 6) for one in shares)

    def without(self, sitting: "Belief") -> "Belief":
        """Return what is known of the threshold here, with what a sitting has told of lapses."""
        return from_kept(self.scale, (*self.kept[:THRESHOLDS], *sitting.kept[THRESHOLDS:]))

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
        if self.scale.judged == "side":
            return 0.0
        known = self.threshold
        if known.high > SOUGHT_TIMES * known.low:
            return EASY_LEAST
        return max(EASY_LEAST, min(EASY_MOST, EASY_TIMES * self._guessing))

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


def _entropy(shares: Floats, *, axis: int) -> Floats:
    return np.asarray(-(shares * np.log(np.maximum(shares, 1e-300))).sum(axis=axis))


def nothing_known(scale: Scale) -> Belief:
    """Return what is known before the first trial: every threshold is as likely as another."""
    return Belief(scale, _grid(scale).prior)


def _usual_widths(scale: Scale) -> Floats:
    """Return how likely each width is before the first trial; empty where none are kept."""
    return np.array(list(WIDTHS["whether"].values()) if scale.judged == "whether" else [])


def _drifted(scale: Scale, likely: Floats, sd: float) -> Floats:
    """Return what is known when the log of the threshold may have moved by so much."""
    step = math.log(scale.high / scale.low) / (THRESHOLDS - 1)
    return _spread(round(sd / step, 4)) @ likely


@lru_cache(maxsize=256)
def _spread(steps: float) -> Floats:
    """Return how each step of the grid spreads over the others, by a deviation in steps; what
    would leave the grid stays at its end.
    """
    places = np.arange(THRESHOLDS)
    away = places[:, None] - places[None, :]
    if steps < 1.0:  # to the neighbours only, so much that the variance is right
        moved = np.where(np.abs(away) == 1, 0.5 * steps**2, 0.0)
        return np.asarray(moved + np.diag(1.0 - moved.sum(axis=0)))
    moved = np.exp(-0.5 * (away / steps) ** 2)
    return np.asarray(moved / moved.sum(axis=0))


def from_kept(scale: Scale, kept: Sequence[float]) -> Belief:
    """Return what was known of the threshold and of lapses, as `Belief.kept` has it (earlier
    versions kept the threshold alone, or no widths); of slopes each sitting finds out for itself.
    """
    shares = np.asarray(kept[:THRESHOLDS], dtype=float)
    grid = _grid(scale)
    rest = grid.prior.sum(axis=0)
    lapsing = np.asarray(kept[THRESHOLDS : THRESHOLDS + len(LAPSES)], dtype=float)
    if len(lapsing):
        more = lapsing / lapsing.sum() / np.array(LAPSING[scale.judged])
        rest = rest * np.array([more[LAPSES.index(float(one))] for one in grid.lapses])
    widths = np.asarray(kept[THRESHOLDS + len(LAPSES) :], dtype=float)
    if len(widths):
        # nothing is ever ruled out: who said yes to all may begin to listen
        widths = np.maximum(widths / widths.sum(), LEAST_OF_A_WIDTH)
        more = widths / _usual_widths(scale)
        of_each = list(WIDTHS[scale.judged])
        rest = rest * np.array([more[of_each.index(float(one))] for one in grid.widths])
    return Belief(scale, np.outer(shares / shares.sum(), rest / rest.sum()))
