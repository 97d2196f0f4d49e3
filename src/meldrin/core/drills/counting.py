"""Count the beats: how many a second, tapped along or by number."""

import math
import random
from collections.abc import Sequence
from typing import Final

from meldrin.core.drills.beating import pair
from meldrin.core.drills.belief import Scale
from meldrin.core.drills.drill import (
    Amount,
    Answer,
    EarModel,
    Example,
    Interval,
    MatchDrill,
    Playback,
    Question,
    Stretch,
    TrialSettings,
)
from meldrin.core.drills.notes import roved, sounding
from meldrin.core.words import beats_said

LASTS_S: Final = 6.0
FEWEST_HZ, MOST_HZ = 0.7, 6.0  # counted one by one below about 5 a second (Zwicker and Fastl)
RIGHT_WITHIN: Final = 25.0  # percent
SAYS_SOMETHING, LEANS_FROM = 4, 0.75  # answers, and the share of them on one side
CHOICES: Final = (0.5, 0.75, 1.0, 1.25, 1.5, 2.0, 2.5, 3.0, 4.0, 5.0, 6.0, 8.0)
TELLS: Final = "Tap with every swell. Count four of them, and look how long they took."


def error_percent(said_hz: float, beats_hz: float) -> float:
    """Return how far off a rate is, in hundredths of the natural log, so that twice and half as
    fast are equally far.
    """
    return 100.0 * math.log(said_hz / beats_hz)


def _heard(asked: TrialSettings, beats_hz: float, draw: random.Random) -> Playback:
    side, hz = draw.choice((-1.0, 1.0)), roved(asked.hz, draw)
    both = pair(asked, side * beats_hz, hz=hz, lasts_s=LASTS_S)
    part = Stretch("both", 0.0, LASTS_S + 0.1, beats_hz=beats_hz)
    return Playback(sounding(*((one, 0.0, LASTS_S) for one in both)), (part,))


def _posed(asked: TrialSettings, draw: random.Random) -> Question:
    beats_hz = FEWEST_HZ * (MOST_HZ / FEWEST_HZ) ** draw.random()
    return Question(
        question="How many beats a second?",
        answers=tuple(Answer(f"{rate:g}", f"{rate:g}") for rate in CHOICES),
        right=0,
        says=f"It made {beats_said(beats_hz)}.",
        tells=TELLS,
        heard=_heard(asked, beats_hz, draw),
        how_sure="How sure are you? A quarter off still counts.",
        amount=Amount(
            of=beats_hz,
            error=lambda said_hz: error_percent(said_hz, beats_hz),
            within=RIGHT_WITHIN,
            says=lambda _: f"It made {beats_said(beats_hz)}.",
            said=lambda said_hz: f"{said_hz:.2g} a second",
        ),
    )


def _examples(asked: TrialSettings) -> tuple[Example, ...]:
    listen = {
        1.0: "One in a second: a slow step.",
        2.0: "Two in a second: a brisk step.",
        4.0: "Four in a second: too fast to count, slow enough to tap.",
    }
    return tuple(
        Example(f"{rate:g} a second", words, _heard(asked, rate, random.Random(f"count {rate}")))
        for rate, words in listen.items()
    )


def _remarks(trials: Sequence[tuple[float, float, int]]) -> list[str]:
    """Whether fast and slow beats are taken for slower or faster ones."""
    far = [error for _, error, _ in trials if abs(error) > RIGHT_WITHIN]
    fast = sum(error > 0.0 for error in far)
    if len(far) >= SAYS_SOMETHING and fast >= LEANS_FROM * len(far):
        return ["When you were far off, you mostly counted too many."]
    if len(far) >= SAYS_SOMETHING and len(far) - fast >= LEANS_FROM * len(far):
        return ["When you were far off, you mostly counted too few."]
    return []


def _heard_by(ear: EarModel, _: float, __: Interval) -> float:
    # an even error: half of what is counted lies within half its width
    return 100.0 * 0.5 * ear.spread


COUNTING: Final = MatchDrill(
    id="count",
    name="Count the beats",
    about="A string and a fork; tap along",
    scale=Scale("amount", low=2.0, high=60.0),
    unit="percent",
    goals=(30.0, 20.0, 12.0),
    heard_by=_heard_by,
    drawn="waves",
    does="count within",
    posed=_posed,
    examples=_examples,
    remarks=_remarks,
    # always “2 a second”: the rates lie evenly in log within 107 percent of it, which reads as 30
    # to 40
    deaf_from=30.0,
)
