"""False string or out of tune: does the string beat alone, or only against another sound?"""

import math
import random
from dataclasses import replace
from typing import Final

from meldrin.core.drills.beating import fork_beside, meeting
from meldrin.core.drills.drill import (
    Answer,
    Example,
    Playback,
    Question,
    QuestionDrill,
    RoundChoice,
    Stretch,
    TrialSettings,
)
from meldrin.core.drills.notes import Course, courses, note, roved, sounding
from meldrin.core.units import cents_of_ratio

ALONE_S, REST_S, TOGETHER_S = 2.6, 0.4, 2.6
BOTH_S: Final = ALONE_S + REST_S
BEATS_HZ: Final = {1: (3.0, 4.0), 2: (2.0, 3.0), 3: (1.2, 2.0)}
# The partials of a false string are split each a little differently.
SCATTER: Final = 0.15
PARTIALS: Final = 12
ANSWERS: Final = (
    Answer("fine", "Nothing", "It is steady alone, and steady with the fork."),
    Answer("out", "It is out of tune", "Alone it is steady. With the fork it beats."),
    Answer("false", "It is false", "It beats alone, so no turning helps. It needs a new string."),
)
SAYS: Final = {
    "fine": "The string was true, and in tune.",
    "out": "The string was true, but out of tune.",
    "false": "The string was false: it beat alone.",
}


def _sounded(asked: TrialSettings, chosen: Course, what: str, draw: random.Random) -> Playback:
    low, high = BEATS_HZ[asked.level]
    beats_hz, hz = draw.uniform(low, high), roved(chosen.hz, draw)
    made, number = asked.instrument, chosen.string.number
    splits: tuple[float, ...] = ()
    if what == "false":  # the partial that meets the fork splits by a number of beats
        partial_hz = hz * meeting(hz)
        split = cents_of_ratio((partial_hz + beats_hz) / partial_hz)
        splits = tuple(split * draw.uniform(1.0 - SCATTER, 1.0 + SCATTER) for _ in range(PARTIALS))
    string = note(made, number, hz=hz, splits_cents=splits, plucked=True)
    # the two of a partial begin anywhere in their beat, or a false string would begin loudest
    phases = tuple(2.0 * math.pi * draw.random() for _ in string.amplitudes)
    string = replace(string, phases_rad=phases)
    side = draw.choice((-1.0, 1.0)) * (what == "out")
    true = note(made, number, hz=hz, plucked=True)
    beside = fork_beside(true, hz, beats_hz=side * beats_hz, lasts_s=TOGETHER_S)
    return Playback(
        sounding(
            (string, 0.0, ALONE_S),
            (string, BOTH_S, BOTH_S + TOGETHER_S),
            (beside, BOTH_S, BOTH_S + TOGETHER_S),
        ),
        (
            Stretch("alone", 0.0, ALONE_S, beats_hz=beats_hz * (what == "false")),
            Stretch(
                "with the fork",
                BOTH_S,
                BOTH_S + TOGETHER_S + 0.1,
                beats_hz=beats_hz * (what != "fine"),
            ),
        ),
    )


def _posed(asked: TrialSettings, draw: random.Random) -> Question:
    right = draw.randrange(len(ANSWERS))
    answer, chosen = ANSWERS[right], draw.choice(courses(asked))
    return Question(
        question="First the string alone, then with a fork. What is the matter with it?",
        answers=ANSWERS,
        right=right,
        says=SAYS[answer.id],
        tells=answer.listen_for,
        heard=_sounded(asked, chosen, answer.id, draw),
    )


def _examples(asked: TrialSettings) -> tuple[Example, ...]:
    draw, chosen = random.Random("examples"), courses(asked)[0]
    return tuple(
        Example(one.words, one.listen_for, heard=_sounded(asked, chosen, one.id, draw))
        for one in ANSWERS
    )


ALONE: Final = QuestionDrill(
    id="alone",
    name="False or out of tune",
    about="A string alone, then with a fork",
    in_rounds=(RoundChoice("False or out of tune"),),
    posed=_posed,
    examples=_examples,
)
