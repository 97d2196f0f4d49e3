"""The whole instrument: which string is out, and which way?"""

import random
from typing import Final

from meldrin.core.drills.drill import (
    Answer,
    Example,
    Playback,
    Question,
    QuestionDrill,
    Stretch,
    TrialSettings,
)
from meldrin.core.drills.notes import Course, courses, note, sounding
from meldrin.core.units import ratio_of_cents
from meldrin.core.words import capital, whole_cents

EACH_S, CHORD_S, STRUM_S = 0.9, 3.0, 0.06
OUT_CENTS: Final = {1: (45.0, 60.0), 2: (25.0, 35.0), 3: (14.0, 20.0)}
MOST: Final = 6  # strings that are asked about


def _asked_about(asked: TrialSettings) -> list[Course]:
    """The strings, from the lowest on, without those of one note with another."""
    by_midi = {one.midi: one for one in courses(asked)}
    return [by_midi[midi] for midi in sorted(by_midi)][:MOST]


def _played(asked: TrialSettings, out: Course, cents: float) -> Playback:
    """Each string by itself, from the lowest up, and then all together."""
    made, strings = asked.instrument, _asked_about(asked)
    offs = [cents if one == out else 0.0 for one in strings]
    tables = [
        note(made, one.string.number, hz=one.hz * ratio_of_cents(off))
        for one, off in zip(strings, offs, strict=True)
    ]
    all_s, softer = len(strings) * EACH_S, len(strings) ** -0.5
    end_s = all_s + CHORD_S
    singly = [(table, at * EACH_S, (at + 1) * EACH_S) for at, table in enumerate(tables)]
    together = [
        (table.times(softer), all_s + STRUM_S * at, end_s) for at, table in enumerate(tables)
    ]
    parts = [
        Stretch(one.label, at * EACH_S, (at + 1) * EACH_S, cents=off)
        for at, (one, off) in enumerate(zip(strings, offs, strict=True))
    ]
    return Playback(sounding(*singly, *together), (*parts, Stretch("all", all_s, end_s + 0.1)))


def _answers(strings: list[Course]) -> tuple[Answer, ...]:
    return tuple(
        Answer(f"{one.string.number}-{way}", capital(f"{one.label} is {way}"))
        for one in strings
        for way in ("low", "high")
    )


def _posed(asked: TrialSettings, draw: random.Random) -> Question:
    strings = _asked_about(asked)
    right = draw.randrange(2 * len(strings))
    chosen, way = strings[right // 2], (-1.0, 1.0)[right % 2]
    size = draw.uniform(*OUT_CENTS[asked.level])
    said = "low" if way < 0.0 else "high"
    return Question(
        question="One string is out. Which, and which way?",
        answers=_answers(strings),
        right=right,
        says=capital(f"the {chosen.label} string was {whole_cents(round(size))} {said}."),
        tells="Sing each step. The string that is out spoils the steps beside it.",
        heard=_played(asked, chosen, way * size),
    )


def _examples(asked: TrialSettings) -> tuple[Example, ...]:
    strings = _asked_about(asked)
    most = OUT_CENTS[1][1]
    middle = strings[len(strings) // 2]
    return (
        Example(
            "All in tune",
            "Every step is clean, and the chord rests.",
            heard=_played(asked, middle, 0.0),
        ),
        Example(
            capital(f"{middle.label} is low"),
            "The step up to it is too small, the next one too wide.",
            heard=_played(asked, middle, -most),
        ),
        Example(
            capital(f"{middle.label} is high"),
            "The step up to it is too wide, the next one too small.",
            heard=_played(asked, middle, most),
        ),
    )


WHOLE: Final = QuestionDrill(
    id="whole",
    name="Which string is out",
    about="All strings, one of them wrong",
    posed=_posed,
    examples=_examples,
)
